import type { Endpoint } from '@idrel/contract/http';
import type { NextFunction, Request, Response, Router } from 'express';
import type { ObjectSchema, Schema } from 'joi';
import type { Who } from '../people/who.ts';
import { ApiProblem } from './problems.ts';

/** What an operation is called with: who asks, and input that has passed its schema. */
export interface Call {
  readonly who: Who;
  readonly params: Record<string, string>;
  readonly query: Record<string, unknown>;
  readonly body: Record<string, unknown>;
  /** Version named by If-Match, for edits. */
  readonly version: number | undefined;
  readonly request: Request;
  readonly response: Response;
  /** Aborted when the caller goes away before the answer is whole. */
  readonly left: AbortSignal;
}

export type Handler = (call: Call) => Promise<unknown>;

function validated(schema: ObjectSchema | Schema | undefined, value: unknown, where: string): Record<string, unknown> {
  if (!schema) return {};
  const { error, value: accepted } = schema.validate(value ?? {}, { abortEarly: false, convert: where !== 'body', stripUnknown: false });
  if (error) {
    const fields = error.details.map((detail) => ({ field: detail.path.join('.') || where, message: detail.message.replaceAll('"', '') }));
    throw new ApiProblem(422, 'invalid', `What was sent does not fit: ${fields.map((field) => field.message).join('; ')}.`, { fields, mend: 'Correct the named fields and send it again.' });
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

/** Ties an operation of the contract to its code: signed in unless open, input checked, answer sent as JSON. */
export function serve(router: Router, endpoint: Endpoint, handler: Handler): void {
  router[endpoint.method](endpoint.path, async (request: Request, response: Response, next: NextFunction) => {
    try {
      const who = response.locals.who as Who | undefined;
      if (!who && !endpoint.open) throw new ApiProblem(401, 'not-signed-in', 'You are not signed in, or your session has ended.', { mend: 'Sign in again: what you were typing stays on the page.' });
      const answer = await handler({
        who: who as Who,
        params: validated(endpoint.params, request.params, 'params') as Record<string, string>,
        query: validated(endpoint.query, request.query, 'query'),
        body: validated(endpoint.body, request.body, 'body'),
        version: versionOf(request),
        request,
        response,
        left: leaving(response),
      });
      if (response.headersSent) return;
      if (answer === undefined) response.status(204).end();
      else {
        const version = (answer as { version?: unknown } | null)?.version;
        if (typeof version === 'number') response.set('etag', `"v${version}"`);
        response.json(answer);
      }
    } catch (error) {
      next(error);
    }
  });
}
