import type { Endpoint } from '@idrel/contract/http';
import type { NextFunction, Request, Response, Router } from 'express';
import type { ObjectSchema, Schema } from 'joi';
import type { Who } from '../people/who.ts';
import { parseBody, readBody } from './body.ts';
import { ApiProblem, isTangled } from './problems.ts';

/** What an operation is called with: who asks, and input that has passed its schema. */
export interface Call {
  readonly who: Who;
  readonly params: Record<string, string>;
  readonly query: Record<string, unknown>;
  readonly body: Record<string, unknown>;
  /** Version named by If-Match, for edits. */
  readonly version: number | undefined;
  /** Not there for heavy operations: those run in a thread. */
  readonly request: Request;
  readonly response: Response;
  /** Aborted when the caller goes away before the answer is whole. */
  readonly left: AbortSignal;
}

export type Handler = (call: Call) => Promise<unknown>;

function validated(schema: ObjectSchema | Schema | undefined, value: unknown, where: string): Record<string, unknown> {
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
    throw new ApiProblem(
      422,
      'invalid',
      `What was sent does not fit: ${fields.map((field) => field.message).join('; ')}.`,
      { fields, mend: 'Correct the named fields and send it again.' },
    );
  }
  return accepted as Record<string, unknown>;
}

function versionOf(request: Request): number | undefined {
  const match = /^"?v?(\d+)"?$/.exec(request.get('if-match') ?? '');
  return match ? Number(match[1]) : undefined;
}

function leaving(response: Response): AbortSignal {
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

/** A call with checked input. `body` is what was sent, parsed. */
export const checkedCall = (endpoint: Endpoint, given: { params: unknown; query: unknown; body: unknown }) => ({
  params: validated(endpoint.params, given.params, 'params') as Record<string, string>,
  query: validated(endpoint.query, given.query, 'query'),
  body: validated(endpoint.body, given.body, 'body'),
});

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
  task: {
    id: string;
    whoId: string;
    params: unknown;
    query: unknown;
    pieces: Uint8Array[];
    version: number | undefined;
  },
  left: AbortSignal,
) => Promise<ReturnType<typeof answered>>;
let elsewhere: Elsewhere | undefined;
export function workElsewhere(how: Elsewhere): void {
  elsewhere = how;
}

/** Ties an operation of the contract to its code: signed in unless open, then the body read, input checked, answer sent as JSON. */
export function serve(router: Router, endpoint: Endpoint, handler: Handler): void {
  TIED.set(endpoint.id, { endpoint, handler });
  router[endpoint.method](endpoint.path, async (request: Request, response: Response, next: NextFunction) => {
    try {
      const who = response.locals.who as Who | undefined;
      if (!who && !endpoint.open)
        throw new ApiProblem(401, 'not-signed-in', 'You are not signed in, or your session has ended.', {
          mend: 'Sign in again: what you were typing stays on the page.',
        });
      const left = leaving(response);
      const pieces = endpoint.body ? await readBody(request, endpoint) : [];
      const version = versionOf(request);
      if (endpoint.heavy && elsewhere && who) {
        send(
          response,
          await elsewhere(
            {
              id: endpoint.id,
              whoId: who.id,
              params: { ...request.params },
              query: { ...request.query },
              pieces,
              version,
            },
            left,
          ),
        );
        return;
      }
      const call = checkedCall(endpoint, {
        params: request.params,
        query: request.query,
        body: endpoint.body ? parseBody(pieces) : undefined,
      });
      const answer = await untangled(() => handler({ who: who as Who, ...call, version, request, response, left }));
      if (!response.headersSent) send(response, answered(answer));
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
