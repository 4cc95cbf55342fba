import type { Endpoint, SentBody, SentParams, SentQuery } from './index.ts';

type Part<E, K extends string, Name extends string, T> = E extends { readonly [P in K]: unknown }
  ? { readonly [N in Name]: T }
  : unknown;

/** What a caller of an operation says: parameters of its path, its query, its body, and the version that a change is a change of. */
export type Input<E extends Endpoint> = Part<E, 'params', 'params', SentParams<E>> &
  Part<E, 'query', 'query', SentQuery<E>> &
  Part<E, 'body', 'body', SentBody<E>> &
  Part<E, 'versioned', 'version', number>;
/** The input, or nothing where an operation takes none. */
export type Inputs<E extends Endpoint> = unknown extends Input<E> ? [] : [input: Input<E>];

/** An operation as it is asked for over HTTP. */
export interface Call {
  /** Below /api/v1. */
  readonly url: string;
  readonly method: string;
  readonly params?: Readonly<Record<string, unknown>>;
  readonly body?: unknown;
  readonly headers?: Readonly<Record<string, string>>;
}

/**
 * How to ask for an operation. Its address is named by the caller, which need not carry the contract along to run; the compiler holds it to the contract.
 *
 *     call<typeof catalogEndpoints.get>('get', '/assets/:id', { params: { id } })
 */
export function call<E extends Endpoint>(method: E['method'], path: E['path'], ...[input]: Inputs<E>): Call {
  const { params, query, body, version } = (input ?? {}) as {
    params?: Readonly<Record<string, string | number>>;
    query?: Readonly<Record<string, unknown>>;
    body?: unknown;
    version?: number;
  };
  return {
    url: path.replace(/:(\w+)/g, (_, name: string) => encodeURIComponent(String(params?.[name] ?? ''))),
    method: method.toUpperCase(),
    ...(query ? { params: said(query) } : {}),
    ...(body === undefined ? {} : { body }),
    ...(version === undefined ? {} : { headers: { 'if-match': `"v${version}"` } }),
  };
}

/** What a query says: in an address nothing stands for null, but that it is left out. */
const said = (query: Readonly<Record<string, unknown>>): Readonly<Record<string, unknown>> =>
  Object.fromEntries(Object.entries(query).filter(([, value]) => value !== null && value !== undefined));

/** How to ask for an operation whose definition is at hand. */
export const callOf = <E extends Endpoint>(endpoint: E, ...input: Inputs<E>): Call =>
  call<E>(endpoint.method, endpoint.path, ...input);

/** The address of a call with its query, below /api/v1. */
export function addressOf({ url, params = {} }: Call): string {
  const all = Object.entries(said(params));
  return all.length === 0
    ? url
    : `${url}?${new URLSearchParams(all.map(([name, value]): [string, string] => [name, String(value)]))}`;
}
