import Joi from 'joi';
import { explainNetworkError, inWordsOf, reachSteps } from './network.ts';
import { type ConnectorInput, SourceProblem } from './types.ts';

const PATIENCE_MS = 20_000;

/** A service that is asked over HTTP with a token, and answers in JSON. */
export interface Rest {
  /** @throws SourceProblem when the answer is none, or is not shaped as it should be */
  get<T>(path: string, shape: Joi.Schema): Promise<T>;
  /** All items of a list that comes in pages: `{ items, next }`, the next one asked for with `after`. */
  all<T>(path: string, item: Joi.Schema): Promise<T[]>;
  /** What lies there, as it is. @param most bytes; with more, that is told */
  bytes(path: string, most: number): Promise<Uint8Array>;
  abort(): void;
}

class Refused extends Error {
  readonly status: number;
  constructor(status: number, message: string) {
    super(message);
    this.status = status;
  }
}

const reached = (input: ConnectorInput): ConnectorInput => {
  const { hostname, port, protocol } = new URL(String(input.address.url));
  return {
    ...input,
    address: { ...input.address, host: hostname, port: Number(port || (protocol === 'https:' ? 443 : 80)) },
  };
};

function explain(error: unknown, input: ConnectorInput): SourceProblem {
  const cause = (error as { cause?: unknown }).cause;
  const network = explainNetworkError(cause ?? error, reached(input), 'Check the address of the service and its port.');
  if (network) return network;
  if (error instanceof Refused) {
    if (error.status === 401)
      return new SourceProblem(
        'The service does not accept the token.',
        'Store a token that is valid as a credential and choose it.',
      );
    if (error.status === 403)
      return new SourceProblem(
        `The token may not do this: ${error.message}`,
        'Let the owner of the token be given the right to read.',
      );
    if (error.status === 404)
      return new SourceProblem(
        `There is nothing at ${error.message}`,
        'Check the address: the interface lies below another path.',
      );
  }
  if (error instanceof Refused)
    return new SourceProblem(`${input.address.url} refuses: ${error.message}`, 'Look into the log of the service.');
  const { name, message } = error as Error;
  if (name === 'TimeoutError')
    return new SourceProblem(
      `${input.address.url} does not answer within ${PATIENCE_MS / 1000} seconds.`,
      'Look whether the service is well, and try again.',
    );
  return new SourceProblem(message, 'Check the address of the source.');
}

/** The most that is taken of one answer. */
const ANSWER_BYTES = 64 << 20;

async function limited(response: Response, where: string, most = ANSWER_BYTES): Promise<Buffer> {
  const pieces: Uint8Array[] = [];
  let bytes = 0;
  for await (const piece of response.body ?? []) {
    bytes += piece.length;
    if (bytes > most)
      throw new SourceProblem(
        `${where} answers with more than ${most >> 20} MB.`,
        'Let the service give its lists in pages, and smaller images.',
      );
    pieces.push(piece);
  }
  return Buffer.concat(pieces);
}

/** Documents that lie at addresses, of which the first is that of the source. */
export interface Documents {
  /** @param url of the same server as the source's. @throws SourceProblem when there is no answer, or it is too large */
  get(url: string, accept: string): Promise<{ readonly text: string; readonly type: string }>;
  abort(): void;
}

/** A service whose documents anybody may read, or who has its token. */
export function openDocuments(input: ConnectorInput): Documents {
  const { origin } = new URL(String(input.address.url));
  const stopping = new AbortController();
  const inWords = inWordsOf(explain, input);
  const fetched = async (url: string, accept: string) => {
    if (new URL(url, origin).origin !== origin)
      throw new SourceProblem(
        `The catalog goes on at ${new URL(url, origin).origin}, which is another server.`,
        'Register that one as a source of its own.',
      );
    const response = await fetch(url, {
      headers: { ...(input.secret ? { authorization: `Bearer ${input.secret.password}` } : {}), accept },
      redirect: 'manual', // nobody is led to where they were not sent
      signal: AbortSignal.any([stopping.signal, AbortSignal.timeout(PATIENCE_MS)]),
    });
    if (response.status >= 300 && response.status < 400) {
      await response.body?.cancel();
      throw new SourceProblem(`${url} leads on to another address.`, 'Give the address that a browser ends up at.');
    }
    if (!response.ok) {
      await response.body?.cancel();
      if (response.status === 401 && !input.secret)
        throw new SourceProblem(
          `${url} asks who is there.`,
          'Store the token of the service as a credential, and give it to the source.',
        );
      throw new Refused(response.status, response.status === 404 ? `${url}.` : `it answers ${response.status}.`);
    }
    const bytes = await limited(response, url);
    return { text: bytes.toString('utf8'), type: response.headers.get('content-type') ?? '' };
  };
  return { get: (url, accept) => inWords(fetched(url, accept)), abort: () => stopping.abort() };
}

export function openRest(input: ConnectorInput): Rest {
  if (!input.secret)
    throw new SourceProblem(`${input.name} has no credential.`, 'Give the source a credential that holds a token.');
  const base = String(input.address.url).replace(/\/$/, '');
  const stopping = new AbortController();
  const inWords = inWordsOf(explain, input);
  const token = input.secret.password;
  const ask = async (path: string, accept: string, most?: number): Promise<Buffer> => {
    const response = await fetch(base + path, {
      headers: { authorization: `Bearer ${token}`, accept },
      redirect: 'error', // a token goes nowhere else
      signal: AbortSignal.any([stopping.signal, AbortSignal.timeout(PATIENCE_MS)]),
    });
    // What a service says beside its status is not passed on: whatever an address inside answers could be read so.
    if (!response.ok) {
      await response.body?.cancel();
      throw new Refused(
        response.status,
        response.status === 404 ? `${base}${path}.` : `it answers ${response.status}.`,
      );
    }
    return limited(response, `${base}${path}`, most);
  };
  const json = async (path: string): Promise<unknown> => {
    const text = (await ask(path, 'application/json')).toString('utf8');
    try {
      return JSON.parse(text);
    } catch {
      throw new SourceProblem(
        `${base}${path} does not answer in JSON.`,
        'Check the address: another service may listen there.',
      );
    }
  };
  const get = <T>(path: string, shape: Joi.Schema): Promise<T> =>
    inWords(
      json(path).then((answer) => {
        const { error, value } = shape.validate(answer, { allowUnknown: true });
        if (error)
          throw new SourceProblem(
            `${base}${path} answers something else than expected: ${error.message}.`,
            'Check the address: another service, or another version of it, may listen there.',
          );
        return value as T;
      }),
    );
  return {
    get,
    bytes: (path, most) => inWords(ask(path, 'image/*', most)),
    async all<T>(path: string, item: Joi.Schema) {
      const page = Joi.object({ items: Joi.array().items(item).required(), next: Joi.string().allow(null) });
      const found: T[] = [];
      let next: string | null | undefined;
      do {
        const answer: { items: T[]; next?: string | null } = await get(
          next ? `${path}${path.includes('?') ? '&' : '?'}after=${encodeURIComponent(next)}` : path,
          page,
        );
        found.push(...answer.items);
        next = answer.next;
      } while (next);
      return found;
    },
    abort: () => stopping.abort(),
  };
}

/** Resolve and connect, for a service below a URL. */
export const reachRest = (input: ConnectorInput) => reachSteps(reached(input), inWordsOf(explain, reached(input)));
