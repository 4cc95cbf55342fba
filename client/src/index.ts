import type { CloudEvent, Line, LineAnswer, LinesEnd } from '@idrel/contract/exchange';
import { eventEndpoints, lineEndpoints } from '@idrel/contract/exchange';
import type { AnswerOf, Endpoint, SentQuery } from '@idrel/contract/http';
import type { Inputs } from '@idrel/contract/http/address';
import { ApiClient, Refusal } from '@idrel/contract/http/client';
import { OPERATIONS } from '@idrel/contract/operations';

export type { CloudEvent, Line, LineAnswer, LinesEnd };
export { ApiClient, Refusal };

type Groups = typeof OPERATIONS;
type Method<E> = E extends Endpoint
  ? (...input: Inputs<E>) => Promise<E extends { readonly stream: string } ? Response : AnswerOf<E>>
  : never;

/** Lines are sent with {@link Idrel.send}, events followed with {@link Idrel.follow}; another address is for browsers. What else is answered bit by bit is an answer that is read as it comes. */
type Apart = { readonly lines: unknown } | { readonly stream: 'events' | 'redirect' };
type Answered<Group> = {
  readonly [E in keyof Group as Group[E] extends Apart ? never : E]: Method<Group[E]>;
};
/** Every operation of the API as a method, in its group: `idrel.curation.edit({ params: { id }, version, body: { description } })`. */
export type Operations = { readonly [G in keyof Groups]: Answered<Groups[G]> };

/** What lines are sent with. */
export interface SendOptions {
  /** Only say what would come of them. */
  readonly preview?: boolean;
  readonly signal?: AbortSignal;
}
export interface FollowOptions {
  readonly signal?: AbortSignal;
}

export interface Idrel extends Operations {
  /**
   * Says many things, a line each; any number, as fast as they are taken.
   * @param lines of any kinds, one after the other
   * @yields what became of each, in their order
   * @returns how many of each there were
   * @throws {Refusal} when nothing was taken; {Error} when the answer broke off: send it again, what was said already is the same then
   */
  send(lines: Iterable<Line> | AsyncIterable<Line>, options?: SendOptions): AsyncGenerator<LineAnswer, LinesEnd>;
  /**
   * Follows what changes, from any point on, until the signal ends it. Where the connection breaks, it goes on behind the last event that was heard.
   * @throws {Refusal} when the key ends, or what came next is kept no more
   */
  follow(query: SentQuery<typeof eventEndpoints.stream>, options?: FollowOptions): AsyncGenerator<CloudEvent>;
}

/**
 * A client of one server, for one person's key.
 *
 *     const idrel = connect('https://idrel.example.org', { key });
 *     const found = await idrel.catalog.find({ query: { filter: 'kind:table owner:none' } });
 *
 * @param address of the server, without `/api/v1`
 */
export function connect(address: string, { key }: { readonly key: string }): Idrel {
  return clientOver(new ApiClient(address, key));
}

/** The same over a caller that is signed in in some other way. */
export function clientOver(api: ApiClient): Idrel {
  const groups = Object.fromEntries(
    Object.entries(OPERATIONS).map(([name, group]) => [
      name,
      Object.fromEntries(
        Object.entries(group as Readonly<Record<string, Endpoint>>).flatMap(([method, endpoint]) =>
          endpoint.lines || endpoint.stream === 'events' || endpoint.stream === 'redirect'
            ? []
            : [
                [
                  method,
                  (...input: Inputs<Endpoint>) =>
                    endpoint.stream ? api.openFor(endpoint, ...input) : api.ask(endpoint, ...input),
                ],
              ],
        ),
      ),
    ]),
  ) as unknown as Operations; // the same groups and names, each with its method
  return {
    ...groups,
    send: (lines, options) => send(api, lines, options),
    follow: (query, options) => follow(api, query, options),
  };
}

async function* send(
  api: ApiClient,
  lines: Iterable<Line> | AsyncIterable<Line>,
  { preview = false, signal }: SendOptions = {},
): AsyncGenerator<LineAnswer, LinesEnd> {
  const encoder = new TextEncoder();
  const iterator = Symbol.asyncIterator in lines ? lines[Symbol.asyncIterator]() : lines[Symbol.iterator]();
  // Lines are taken from whoever has them as fast as the server reads, and no faster.
  const body = new ReadableStream<Uint8Array>({
    async pull(stream) {
      let text = '';
      while (text.length < 65_536) {
        const { done, value } = await iterator.next();
        if (done) {
          if (text !== '') stream.enqueue(encoder.encode(text));
          stream.close();
          return;
        }
        text += `${JSON.stringify(value)}\n`;
      }
      stream.enqueue(encoder.encode(text));
    },
  });
  const { method, path } = lineEndpoints.take;
  const response = await api.open(`${path}?preview=${preview}`, {
    method: method.toUpperCase(),
    headers: { 'content-type': 'application/x-ndjson' },
    body,
    ...(signal ? { signal } : {}),
  });
  for await (const line of linesOf(response)) {
    const said = JSON.parse(line) as LineAnswer | LinesEnd;
    if ('end' in said) return said;
    yield said;
  }
  throw new Error('The answer broke off before its end. Send the lines again: what was said already is the same then.');
}

/** So long it is waited before a stream is opened again, in milliseconds. */
const AGAIN = 1000;

async function* follow(
  api: ApiClient,
  query: SentQuery<typeof eventEndpoints.stream>,
  { signal }: FollowOptions = {},
): AsyncGenerator<CloudEvent> {
  let last: string | undefined;
  while (!signal?.aborted) {
    try {
      const asked = new URLSearchParams(
        Object.entries(query).map(([name, value]): [string, string] => [name, String(value)]),
      );
      const response = await api.open(`${eventEndpoints.stream.path}?${asked}`, {
        headers: last === undefined ? {} : { 'last-event-id': last },
        ...(signal ? { signal } : {}),
      });
      let [data, place] = ['', last];
      for await (const line of linesOf(response)) {
        if (line.startsWith('id: ')) place = line.slice(4);
        else if (line.startsWith('data: ')) data += line.slice(6);
        else if (line === '') {
          // An event of which only the beginning came was not heard.
          last = place;
          if (data === '') continue;
          const event = JSON.parse(data) as CloudEvent;
          data = '';
          yield event;
        }
      }
    } catch (error) {
      if (error instanceof Refusal) throw error;
      if (signal?.aborted) return;
    }
    await new Promise((resolve) => setTimeout(resolve, AGAIN));
  }
}

/** An answer line by line, as it comes; what breaks off in the middle of a line is none. */
async function* linesOf(response: Response): AsyncGenerator<string> {
  const decoder = new TextDecoder();
  let rest = '';
  for await (const piece of response.body ?? []) {
    const parts = (rest + decoder.decode(piece, { stream: true })).split('\n');
    rest = parts.pop() ?? '';
    yield* parts;
  }
}
