import { type LookupAddress, lookup } from 'node:dns';
import { type ClientRequest, type IncomingMessage, Agent as PlainAgent, request as plainRequest } from 'node:http';
import { Agent, request } from 'node:https';
import { isIP, type LookupFunction } from 'node:net';
import type { Config } from './config.ts';
import { isOwn, isWithin } from './networks.ts';

/** So long an answer is waited for, in milliseconds; so many connections are held to one place; of an answer so much is read, in bytes. */
const [PATIENCE, CONNECTIONS, MOST] = [10_000, 16, 65_536];

/** What came of sending. */
export interface Posted {
  /** What was answered; null where nothing was. */
  readonly status: number | null;
  /** What is wrong, for people; null where it was taken (any status from 200 to 299). */
  readonly problem: string | null;
  /** After so many seconds it is to be sent again, as the answer says. */
  readonly retryAfter: number | null;
}

/** Why an address (IPv4 or IPv6) is not called; null where it may be. */
const refusalOf = ({ callNetworks }: Pick<Config, 'callNetworks'>, plain: boolean, address: string): string | null => {
  if (isWithin(callNetworks, address)) return null;
  if (isOwn(address)) return 'It lies in a network of your own that is not listed in IDREL_CALL_NETWORKS.';
  return plain ? 'Only within networks that are listed in IDREL_CALL_NETWORKS messages go by http: take https.' : null;
};

class Refused extends Error {}

/** Looks a name up, and refuses where that leads to what may not be called: what is connected to is what was looked at. */
const guarded =
  (config: Pick<Config, 'callNetworks'>, plain: boolean): LookupFunction =>
  (host, options, done) =>
    lookup(host, { ...options, all: true }, (error, found: LookupAddress[]) => {
      const refusal = found?.map(({ address }) => refusalOf(config, plain, address)).find((one) => one !== null);
      const [first] = found ?? [];
      if (error || !first) done(error ?? new Error(`${host} has no address`), '');
      else if (refusal) done(new Refused(refusal), '');
      else if (options.all) done(null, found);
      else done(null, first.address, first.family);
    });

const agents = new Map<string, { plain: PlainAgent; encrypted: Agent }>();
function agentsFor(config: Pick<Config, 'callNetworks'>) {
  const key = config.callNetworks.join();
  const known = agents.get(key);
  if (known) return known;
  const options = { keepAlive: true, maxSockets: CONNECTIONS, timeout: 2 * PATIENCE };
  const made = {
    plain: new PlainAgent({ ...options, lookup: guarded(config, true) }),
    encrypted: new Agent({ ...options, lookup: guarded(config, false) }),
  };
  agents.set(key, made);
  return made;
}

/** Why something was not sent, for people. */
function wordsOf(error: Error & { code?: string }): string {
  if (error instanceof Refused) return error.message;
  if (error.name === 'AbortError' || error.name === 'TimeoutError')
    return `It did not answer within ${PATIENCE / 1000} seconds.`;
  const known: Readonly<Record<string, string>> = {
    ECONNREFUSED: 'Nothing answers at this address.',
    ECONNRESET: 'The connection broke off.',
    ENOTFOUND: 'The name of the host is not known.',
    EAI_AGAIN: 'The name of the host could not be looked up.',
    EHOSTUNREACH: 'The host cannot be reached.',
    ENETUNREACH: 'The host cannot be reached.',
  };
  const { code = '' } = error;
  if (Object.hasOwn(known, code)) return known[code] as string;
  return /CERT|SSL|TLS|ALTNAME/.test(code)
    ? `Its certificate does not hold (${code}).`
    : `It could not be sent (${code || error.name}).`;
}

/** The header Retry-After (RFC 9110): seconds, or a moment. */
function secondsOf(header: string | undefined): number | null {
  if (header === undefined) return null;
  const seconds = /^\d{1,9}$/.test(header) ? Number(header) : (Date.parse(header) - Date.now()) / 1000;
  return Number.isFinite(seconds) && seconds > 0 ? Math.ceil(seconds) : null;
}

/**
 * Sends a text to an address that somebody gave. It goes to addresses of the world, and of networks of one's own to those that the operator listed; what it is led on
 * to is not followed, and what is answered is not told but for its status: nobody sees with it what only this machine may.
 */
export function post(
  config: Pick<Config, 'callNetworks'>,
  address: string,
  headers: Readonly<Record<string, string>>,
  text: string,
): Promise<Posted> {
  const url = new URL(address);
  const plain = url.protocol === 'http:';
  const host = url.hostname.replace(/^\[|\]$/g, '');
  const refusal = isIP(host) ? refusalOf(config, plain, host) : null;
  if (refusal) return Promise.resolve({ status: null, problem: refusal, retryAfter: null });
  return new Promise((resolve) => {
    const failed = (error: Error) => resolve({ status: null, problem: wordsOf(error), retryAfter: null });
    const options = {
      method: 'POST',
      headers: { ...headers, 'content-length': String(Buffer.byteLength(text)) },
      signal: AbortSignal.timeout(PATIENCE),
    };
    const answered = (answer: IncomingMessage) => {
      const status = answer.statusCode ?? 0;
      let bytes = 0;
      // Read to its end, so that the connection serves the next one; what has no end is broken off.
      answer.on('data', (chunk: Buffer) => {
        bytes += chunk.length;
        if (bytes > MOST) answer.destroy();
      });
      answer.on('error', () => undefined);
      answer.on('close', () =>
        resolve({
          status,
          problem:
            status >= 200 && status < 300
              ? null
              : status >= 300 && status < 400
                ? `It leads elsewhere (${status}), which is not followed.`
                : `It answers with an error (${status}).`,
          retryAfter: secondsOf(answer.headers['retry-after']),
        }),
      );
    };
    let call: ClientRequest;
    const { plain: plainAgent, encrypted } = agentsFor(config);
    if (plain) call = plainRequest(url, { ...options, agent: plainAgent }, answered);
    else call = request(url, { ...options, agent: encrypted }, answered);
    call.on('error', failed);
    call.end(text);
  });
}
