import type { ObjectSchema, Schema } from 'joi';
import { id, Joi } from './joi.ts';

export { free, id, Joi } from './joi.ts';

/** One operation of the API: what it is called, where it is, what it takes. Its description in OpenAPI is made from this. */
export interface Endpoint {
  readonly id: string;
  readonly method: 'get' | 'post' | 'put' | 'patch' | 'delete';
  /** Path below /api/v1, parameters written as `:id`. */
  readonly path: string;
  readonly area: string;
  readonly summary: string;
  /** Who may call it: anybody, anybody signed in; rights in domains are checked by the operation itself and named in `rights`. */
  readonly open?: boolean;
  readonly rights?: string;
  readonly params?: ObjectSchema;
  readonly query?: ObjectSchema;
  readonly body?: Schema;
  /** The largest body it takes, in bytes; {@link BODY_BYTES} when it does not say. */
  readonly bodyBytes?: number;
  /** It works long on what is sent: read, checked and done in a thread of its own, so that nobody waits for it. */
  readonly heavy?: true;
  /** What the answer holds, in words. */
  readonly answers: string;
  /** The answer is a stream of Server-Sent Events. */
  readonly stream?: boolean;
}

/** What a form sends is far smaller. */
export const BODY_BYTES = 1 << 20;

export const endpoint = (definition: Endpoint): Endpoint => definition;

export const idParam = Joi.object({ id: id.required() });

/** An error as RFC 9457 describes it, with what Idrel adds. */
export interface Problem {
  readonly type: string;
  readonly title: string;
  readonly status: number;
  /** Stable, for programs. */
  readonly code: string;
  readonly detail: string;
  /** What to do about it. */
  readonly mend?: string;
  /** For input that does not fit: which field, and what is wrong with it. */
  readonly fields?: readonly { readonly field: string; readonly message: string }[];
  /** For edits that met another one: what differs now. */
  readonly current?: unknown;
}

export interface Page<T> {
  readonly items: readonly T[];
  readonly total: number;
  readonly next: string | null;
}
