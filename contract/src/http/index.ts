import Joi from 'joi';

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
  readonly params?: Joi.ObjectSchema;
  readonly query?: Joi.ObjectSchema;
  readonly body?: Joi.Schema;
  /** What the answer holds, in words. */
  readonly answers: string;
  /** The answer is a stream of Server-Sent Events. */
  readonly stream?: boolean;
}

export const endpoint = (definition: Endpoint): Endpoint => definition;

export const id = Joi.string().uuid();
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
