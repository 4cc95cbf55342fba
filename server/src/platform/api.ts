import {
  type AnswerOf,
  type BodyOf,
  type Endpoint,
  isByKey,
  type May,
  type ParamsOf,
  type QueryOf,
} from '@idrel/contract/http';
import type { NextFunction, Request, Response, Router } from 'express';
import type { ObjectSchema, Schema } from 'joi';
import type { Who } from '../people/index.ts';
import { parseBody, readBody } from './body.ts';
import { type once as keptOnce, printOf } from './idempotent.ts';
import { admitKey, type KeyInUse } from './keyInUse.ts';
import { ApiProblem, forbidden, isTangled, versionMissing } from './problems.ts';

/** What an operation is called with: who asks, and input that has passed its schema. */
export interface Call<E extends Endpoint = Endpoint> {
  /** Of operations for anybody and for agents: nobody, perhaps. */
  readonly who: Who;
  readonly params: ParamsOf<E>;
  readonly query: QueryOf<E>;
  readonly body: BodyOf<E>;
  /** The version that If-Match names, of operations that change what was seen in some version. */
  readonly version: E extends { readonly versioned: true } ? number : undefined;
  /** What a program gives as its key, in the header Authorization. */
  readonly bearer: string | undefined;
  /** Not there for heavy operations: those run in a thread. */
  readonly request: Request;
  readonly response: Response;
  /** Aborted when the caller goes away before the answer is whole. */
  readonly left: AbortSignal;
}

type Answered<E> = E extends { readonly answer: Schema } ? AnswerOf<E> | Promise<AnswerOf<E>> : Promise<void>;
export type Handler<E extends Endpoint = Endpoint> = (call: Call<E>) => Answered<E>;

export function validated(schema: ObjectSchema | Schema | undefined, value: unknown, where: string): unknown {
  if (!schema) return {};
  const { error, value: accepted } = schema.validate(value ?? {}, {
    abortEarly: false,
    convert: where !== 'body',
    stripUnknown: false,
  });
  if (error) {
    const fields = error.details.map((detail) => ({
      field: detail.path.join('.') || where,
      message: detail.message.replaceAll('"', ''),
    }));
    throw new ApiProblem('invalid', `What was sent does not fit: ${fields.map((field) => field.message).join('; ')}.`, {
      fields,
      mend: 'Correct the named fields and send it again.',
    });
  }
  return accepted;
}

function versionOf(request: Request): number | undefined {
  const match = /^"?v?(\d+)"?$/.exec(request.get('if-match') ?? '');
  return match ? Number(match[1]) : undefined;
}

export function leaving(response: Response): AbortSignal {
  const controller = new AbortController();
  response.once('close', () => {
    if (!response.writableFinished) controller.abort();
  });
  return controller.signal;
}

/** Everything that was tied, by the operation's id: threads for long work find it here. */
const TIED = new Map<string, { readonly endpoint: Endpoint; readonly handler: Handler }>();
export const tied = (id: string) => TIED.get(id);

/** What is sent as JSON, and the version in its header. */
export function answered(answer: unknown): { json: string | null; etag: string | null } {
  if (answer === undefined) return { json: null, etag: null };
  const version = (answer as { version?: unknown } | null)?.version;
  return { json: JSON.stringify(answer), etag: typeof version === 'number' ? `"v${version}"` : null };
}

/** What came of a request, before it is checked. `body` is what was sent, parsed; `version` what If-Match names. */
export interface Given {
  readonly params: unknown;
  readonly query: unknown;
  readonly body: unknown;
  readonly version: number | undefined;
}

/**
 * Input that has passed the schemas of an operation.
 * @throws 422 with each field that does not fit; 428 when a change does not name the version it is a change of
 */
export function checkedCall<E extends Endpoint>(
  endpoint: E,
  given: Given,
): Pick<Call<E>, 'params' | 'query' | 'body' | 'version'> {
  const checked = {
    params: validated(endpoint.params, given.params, 'params'),
    query: validated(endpoint.query, given.query, 'query'),
    body: validated(endpoint.body, given.body, 'body'),
    version: given.version,
  };
  if (endpoint.versioned && given.version === undefined) throw versionMissing();
  return checked as Pick<Call<E>, 'params' | 'query' | 'body' | 'version'>; // by the schemas, from which the types are made
}

/**
 * Whether somebody may begin an operation at all; whether also with what it is about is for the operation itself.
 * @throws 401 for nobody where somebody is needed; 403 without the role
 */
export function admit(may: May, who: Who | undefined): void {
  if (may === 'anybody' || isByKey(may)) return;
  if (!who)
    throw new ApiProblem('not-signed-in', 'You are not signed in, or your session has ended.', {
      mend: 'Sign in again: what you were typing stays on the page.',
    });
  if (may === 'signed in' || !('roles' in may)) return;
  if (!may.roles.some((role) => who.isAnywhere(role)))
    throw forbidden(`${may.roles.join(' or ')} in ${may.in === 'any domain' ? 'at least one' : 'this'} domain`);
}

/** People of partner organisations are let into what says that it is for them, and into nothing else. @throws 403 */
export function keepOut({ may, partners }: Endpoint, who: Who | undefined): void {
  if (!who?.partner || partners || may === 'anybody' || isByKey(may)) return;
  throw new ApiProblem('forbidden', `This is not there for ${who.partner.name}.`, {
    mend: 'What is shared with you stands under “Shared with you”.',
  });
}

/** Does what was asked for; again when it met a change of somebody else's in the middle, since nothing of it was kept. */
export async function untangled<T>(work: () => Promise<T>): Promise<T> {
  for (let tries = 1; ; tries += 1) {
    try {
      return await work();
    } catch (error) {
      if (tries === 3 || !isTangled(error)) throw error;
    }
  }
}

/** Does long work elsewhere; set when there is a pool of threads. */
type Elsewhere = (
  task: Omit<Given, 'body'> & {
    readonly id: string;
    /** Null for programs, which {@link Call.bearer} tells of. */
    readonly whoId: string | null;
    /** By which key of theirs a program asks; null where they ask themselves. */
    readonly keyId: string | null;
    readonly bearer: string | undefined;
    readonly pieces: Uint8Array[];
  },
  left: AbortSignal,
) => Promise<ReturnType<typeof answered>>;
let elsewhere: Elsewhere | undefined;
export function workElsewhere(how: Elsewhere): void {
  elsewhere = how;
}

/** Whether what was sent is to be worked on in a thread. */
const isHeavy = ({ heavy, heavyFrom }: Endpoint, pieces: readonly Uint8Array[]): boolean =>
  heavy === true || (heavyFrom !== undefined && pieces.reduce((sum, piece) => sum + piece.length, 0) >= heavyFrom);

/** Who an operation is answered for: who asks, or whom they look at the catalog as. @throws 403 */
export async function whoFor({ asOther }: Endpoint, response: Response): Promise<Who | undefined> {
  const { who, seenAs } = response.locals as { who?: Who; seenAs?: () => Promise<Who> };
  if (!seenAs || asOther === undefined) return who;
  if (!asOther)
    throw new ApiProblem('forbidden', 'While you look at the catalog as somebody else, values are not shown here.', {
      mend: 'Run a query under Access → Try it as: it shows what they get.',
    });
  return seenAs();
}

/** Does something once for an idempotency key, where the server keeps them ({@link once}). */
type Once = (
  personId: string,
  key: string,
  print: Buffer,
  work: () => Promise<ReturnType<typeof answered>>,
) => ReturnType<typeof keptOnce>;

/** Ties an operation of the contract to its code: who may is let in, the body read, input checked, the answer sent as JSON. */
export function serve<E extends Endpoint>(router: Router, endpoint: E, handler: Handler<E>): void {
  TIED.set(endpoint.id, { endpoint, handler: handler as unknown as Handler }); // each is called with what its own schemas let pass
  router[endpoint.method](endpoint.path, async (request: Request, response: Response, next: NextFunction) => {
    try {
      const who = await whoFor(endpoint, response);
      keepOut(endpoint, who);
      const { key, once } = response.locals as { key?: KeyInUse; once?: Once };
      if (key) admitKey(endpoint, key);
      admit(endpoint.may, who);
      const left = leaving(response);
      const pieces = endpoint.body ? await readBody(request, endpoint) : [];
      const { params, query } = request;
      const version = versionOf(request);
      const bearer = request.get('authorization');
      const idempotent = request.get('idempotency-key');
      // What shows a key or a password is not kept to be shown again.
      const isOnce =
        idempotent !== undefined &&
        once &&
        who &&
        endpoint.method !== 'get' &&
        !endpoint.inSession &&
        !endpoint.showsSecret;
      const onlyOnce = async (work: () => Promise<ReturnType<typeof answered>>) => {
        if (!isOnce) return work();
        const print = printOf(endpoint.id, { params, query, version: version ?? null }, pieces);
        const { answer, again } = await once(who.id, idempotent, print, work);
        if (again) response.set('idempotency-replayed', 'true');
        return answer;
      };
      if (isHeavy(endpoint, pieces) && elsewhere && (who || isByKey(endpoint.may))) {
        const task = {
          id: endpoint.id,
          whoId: who?.id ?? null,
          keyId: who?.key?.id ?? null,
          bearer,
          params: { ...params },
          query: { ...query },
          pieces,
          version,
        };
        const there = elsewhere;
        send(response, await onlyOnce(() => there(task, left)));
        return;
      }
      const body = endpoint.body ? parseBody(pieces) : undefined;
      const call = checkedCall(endpoint, { params, query, body, version });
      const done = await onlyOnce(async () =>
        answered(await untangled(async () => handler({ who: who as Who, ...call, bearer, request, response, left }))),
      );
      if (!response.headersSent) send(response, done);
    } catch (error) {
      next(error);
    }
  });
}

function send(response: Response, { json, etag }: ReturnType<typeof answered>): void {
  if (etag) response.set('etag', etag);
  if (json === null) response.status(204).end();
  else response.type('application/json').send(json);
}
