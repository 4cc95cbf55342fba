import type {
  AlternativesSchema,
  AnySchema,
  ArraySchema,
  BooleanSchema,
  NumberSchema,
  ObjectSchema,
  Schema,
  StringSchema,
} from 'joi';
import { free as freeObject, Joi } from './joi.ts';

/**
 * Shapes: Joi schemas that know the type of what they accept, so that a type is never written beside its schema. A shape is still a Joi schema, with all
 * its rules; {@link Of} is the type of what has passed it, {@link Sent} of what may be sent.
 *
 *     const term = shape({ name: Joi.string().max(200), status: withDefault(oneOf(['draft', 'agreed']), 'draft'), note: optional(text) });
 *     type Term = Of<typeof term>; // { readonly name: string; readonly status: 'draft' | 'agreed'; readonly note?: string }
 */
declare const GIVEN: unique symbol;
declare const SENT: unique symbol;
declare const MAY_LACK: unique symbol;

/** What passes a schema has the type T; S may be sent. It stands in types alone. */
export interface Means<T, S = T> {
  readonly [GIVEN]: T;
  readonly [SENT]: S;
}
/** The key of an object may lack: in what is sent (`sent`), or also in what has passed (`always`). */
export interface MayLack<When extends 'sent' | 'always'> {
  readonly [MAY_LACK]: When;
}

type Plain<S> = S extends StringSchema
  ? string
  : S extends NumberSchema
    ? number
    : S extends BooleanSchema
      ? boolean
      : unknown;
/** The type of what has passed a schema. */
export type Of<S> = S extends Means<infer T, unknown> ? T : Plain<S>;
/** The type of what may be sent to be checked by a schema: what has a default may lack. */
export type Sent<S> = S extends Means<unknown, infer T> ? T : Plain<S>;

type Fields = Readonly<Record<string, Schema>>;
type Flat<T> = { readonly [K in keyof T]: T[K] };
type Given<F extends Fields> = Flat<
  { readonly [K in keyof F as F[K] extends MayLack<'always'> ? never : K]: Of<F[K]> } & {
    readonly [K in keyof F as F[K] extends MayLack<'always'> ? K : never]?: Of<F[K]>;
  }
>;
type SentFields<F extends Fields> = Flat<
  { readonly [K in keyof F as F[K] extends MayLack<'sent' | 'always'> ? never : K]: Sent<F[K]> } & {
    readonly [K in keyof F as F[K] extends MayLack<'sent' | 'always'> ? K : never]?: Sent<F[K]>;
  }
>;
/** A schema of objects with these fields. */
export type Shape<F extends Fields> = ObjectSchema & Means<Given<F>, SentFields<F>>;

/** An object with just these fields: each must be there, unless it is {@link optional} or has a default. */
export function shape<const F extends Fields>(fields: F): Shape<F> {
  const needed = Object.fromEntries(
    Object.entries(fields).map(([name, field]) => [
      name,
      field.$_getFlag('presence') === undefined ? field.required() : field,
    ]),
  );
  return Joi.object(needed) as Shape<F>;
}

/** The fields of one shape and more. */
export const extended = <A extends ObjectSchema, const F extends Fields>(
  base: A,
  fields: F,
): ObjectSchema & Means<Flat<Of<A> & Given<F>>, Flat<Sent<A> & SentFields<F>>> =>
  base.concat(shape(fields) as never) as unknown as ObjectSchema &
    Means<Flat<Of<A> & Given<F>>, Flat<Sent<A> & SentFields<F>>>;

/** Some fields of a shape. */
export const picked = <A extends ObjectSchema, const K extends keyof Of<A> & string>(
  base: A,
  names: readonly K[],
): ObjectSchema & Means<Flat<Pick<Of<A>, K>>> =>
  Joi.object(Object.fromEntries(names.map((name) => [name, base.extract(name)]))) as ObjectSchema &
    Means<Flat<Pick<Of<A>, K>>>;

/** A field that may lack. */
export const optional = <S extends Schema>(schema: S): S & MayLack<'always'> =>
  schema.optional() as S & MayLack<'always'>;

/** A field that must be there, where it may lack elsewhere. */
export const needed = <S extends Schema>(schema: S): AnySchema & Means<Of<S>, Sent<S>> =>
  schema.required() as AnySchema & Means<Of<S>, Sent<S>>;

/** A field that may lack in what is sent; it then has this value. */
export const withDefault = <S extends Schema>(
  schema: S,
  value: Of<S>,
): AnySchema & Means<Of<S>, Sent<S>> & MayLack<'sent'> =>
  schema.optional().default(value as never) as AnySchema & Means<Of<S>, Sent<S>> & MayLack<'sent'>;

/** Null too. */
export const nullable = <S extends Schema>(schema: S): AnySchema & Means<Of<S> | null, Sent<S> | null> =>
  schema.allow(null) as AnySchema & Means<Of<S> | null, Sent<S> | null>;

/** A list of values that each fit. */
export const list = <S extends Schema>(item: S): ArraySchema & Means<readonly Of<S>[], readonly Sent<S>[]> =>
  Joi.array().items(item.$_getFlag('presence') === 'required' ? item.optional() : item) as ArraySchema &
    Means<readonly Of<S>[], readonly Sent<S>[]>;

/** A list of just so many values, each of its own kind. */
export const tuple = <const S extends readonly Schema[]>(
  ...items: S
): ArraySchema & Means<{ readonly [K in keyof S]: Of<S[K]> }> =>
  Joi.array().ordered(...items.map((item) => item.required())) as ArraySchema &
    Means<{ readonly [K in keyof S]: Of<S[K]> }>;

/** One of these values. */
export const oneOf = <const T extends string | number>(values: readonly T[]): AnySchema & Means<T> =>
  (typeof values[0] === 'number' ? Joi.number() : Joi.string()).valid(...values) as unknown as AnySchema & Means<T>;

/** What fits one of the shapes. */
export const either = <const S extends readonly Schema[]>(
  ...shapes: S
): AlternativesSchema & Means<Of<S[number]>, Sent<S[number]>> =>
  Joi.alternatives(...shapes) as AlternativesSchema & Means<Of<S[number]>, Sent<S[number]>>;

const nameUpTo = (most: number) => new RegExp(`^[^\\0\\uD800-\\uDFFF]{1,${most}}$`, 'u');
/** An object whose keys are names of whatever is meant, each with such a value. */
export const record = <S extends Schema>(
  value: S,
  longestName = 1000,
): ObjectSchema & Means<Readonly<Record<string, Of<S>>>, Readonly<Record<string, Sent<S>>>> =>
  Joi.object().pattern(nameUpTo(longestName), value) as ObjectSchema &
    Means<Readonly<Record<string, Of<S>>>, Readonly<Record<string, Sent<S>>>>;

/** An object of any form, as far as it can be kept. */
export const free = (): ObjectSchema & Means<Readonly<Record<string, unknown>>> =>
  freeObject() as ObjectSchema & Means<Readonly<Record<string, unknown>>>;

/**
 * A schema for a type that stands in `core`, told again as it goes over the wire: the two are held to each other when types are checked.
 *
 *     const scope = like<Scope>()(shape({ … }));
 */
export const like =
  <T>() =>
  <S extends Schema>(
    schema: S & (Of<S> extends T ? unknown : { readonly 'differs from the type': Of<S> }),
  ): (S extends ObjectSchema ? ObjectSchema : AnySchema) & Means<T, Sent<S>> =>
    schema as never; // the same schema; its type is held to T above

/** A schema of which Joi alone cannot tell what passes it. */
export const typed = <T>(schema: Schema): AnySchema & Means<T> => schema as unknown as AnySchema & Means<T>;

// What answers are made of. A text of an answer may be empty.
export const text = Joi.string().allow('');
export const number = Joi.number().unsafe();
export const whole = Joi.number().integer();
export const flag = Joi.boolean();
/** A moment, as ISO 8601 in UTC. */
export const moment = Joi.string().isoDate();
export const anything = Joi.any() as AnySchema & Means<unknown>;
