import type { ObjectSchema, Schema } from 'joi';
import type { Role } from '../people/index.ts';
import { id } from './joi.ts';
import type { ProblemCode } from './problems.ts';
import { list, type Means, nullable, type Of, type Sent, shape, text, whole } from './shape.ts';

export { id, Joi } from './joi.ts';
export {
  isByKey,
  PROBLEMS,
  type Problem,
  type ProblemCode,
  problemsOf,
  QUERY_PROBLEMS,
  SOURCE_PROBLEMS,
  statusOf,
  THREAD_PROBLEMS,
} from './problems.ts';
export { SCOPE_WORDS, SCOPES, type Scope, type ScopeOf, scopeOf } from './scopes.ts';
export * from './shape.ts';

/** Who has one of the roles in some domain, or in that of what is meant; `words` tell what else it takes. */
export interface ByRole {
  readonly roles: readonly Role[];
  readonly in: 'any domain' | 'its domain';
  readonly words?: string;
}
/**
 * Who may call an operation: anybody, also without a session; an agent, a pipeline, a chat or a tracker by its key; whoever is signed in; whoever has a role; or something that only words
 * can tell, which the operation itself looks after. A role is asked for before the operation begins; whether it holds in the domain of what is meant
 * is looked at where that is known.
 */
export type May =
  | 'anybody'
  | 'an agent'
  | 'a pipeline'
  | 'a chat'
  | 'a tracker'
  | 'signed in'
  | ByRole
  | { readonly words: string };

export const role = (name: Role | readonly Role[], where: ByRole['in'], words?: string): ByRole => ({
  roles: typeof name === 'string' ? [name] : name,
  in: where,
  ...(words === undefined ? {} : { words }),
});

/** What is told of any operation. Its types, its description in OpenAPI and the tests of rights are made from this. */
export interface Endpoint {
  readonly id: string;
  readonly method: 'get' | 'post' | 'put' | 'patch' | 'delete';
  /** Path below /api/v1, parameters written as `:id`. */
  readonly path: string;
  readonly area: string;
  readonly summary: string;
  readonly may: May;
  readonly params?: ObjectSchema;
  readonly query?: ObjectSchema;
  readonly body?: Schema;
  /** What is sent are lines of JSON (NDJSON), each of this shape: taken in parts as they come, however many there are. */
  readonly lines?: Schema;
  /** It changes what was seen in some version: If-Match must name it. */
  readonly versioned?: true;
  /** The largest body it takes, in bytes; {@link BODY_BYTES} when it does not say. */
  readonly bodyBytes?: number;
  /** It works long on what is sent: read, checked and done in a thread of its own, so that nobody waits for it. */
  readonly heavy?: true;
  /** It works long on what is sent only where that is as large as this, in bytes. */
  readonly heavyFrom?: number;
  /** What the answer holds; nothing where there is none. */
  readonly answer?: Schema;
  /** What the answer tells, in words. */
  readonly answers: string;
  /** Problems that it can be answered with beside those that follow from all this. */
  readonly problems?: readonly ProblemCode[];
  /**
   * Whether it is answered as somebody else sees it, for who looks at the catalog as them (header `X-Idrel-As`): true; false: it is refused meanwhile, since it would tell
   * more than that. Others are answered as who asks.
   */
  readonly asOther?: boolean;
  /** Only somebody who is signed in may begin it, and no key of a program: it is about their own sessions and keys. */
  readonly inSession?: true;
  /** Its answer shows a secret that is shown this once: nothing of it is kept to be answered again. */
  readonly showsSecret?: true;
  /** Also people of partner organisations may begin it; all else is closed to them. */
  readonly partners?: true;
  /** Media types of what is sent as bytes; pictures where it does not say. */
  readonly media?: readonly string[];
  /** The answer is no JSON: Server-Sent Events or lines of JSON, sent bit by bit, the bytes of a picture or a document, or another address for a browser to go to. */
  readonly stream?: 'events' | 'lines' | 'bytes' | 'redirect';
}

/** What a form sends is far smaller. */
export const BODY_BYTES = 1 << 20;

/** One operation of the API, told once: with the types of all that goes over the wire. */
export const endpoint = <const E extends Endpoint>(definition: E): E => definition;

type PartOf<E, K extends string, None> = E extends { readonly [P in K]: infer S } ? Of<S> : None;
type SentOf<E, K extends string, None> = E extends { readonly [P in K]: infer S } ? Sent<S> : None;
type Nothing = Readonly<Record<never, never>>;
/** Types of what reaches the code of an operation, checked. */
export type ParamsOf<E> = PartOf<E, 'params', Nothing>;
export type QueryOf<E> = PartOf<E, 'query', Nothing>;
export type BodyOf<E> = PartOf<E, 'body', undefined>;
export type AnswerOf<E> = PartOf<E, 'answer', undefined>;
/** Types of what a caller sends. */
export type SentParams<E> = SentOf<E, 'params', Nothing>;
export type SentQuery<E> = SentOf<E, 'query', Nothing>;
export type SentBody<E> = SentOf<E, 'body', undefined>;

export const idParam = shape({ id });

export interface Page<T> {
  readonly items: readonly T[];
  readonly total: number;
  readonly next: string | null;
}
/** A page of a list that is read bit by bit. `next` is where the next one begins. */
export const page = <S extends Schema>(item: S): ObjectSchema & Means<Page<Of<S>>> =>
  shape({ items: list(item), total: whole, next: nullable(text) }) as ObjectSchema as ObjectSchema & Means<Page<Of<S>>>;
