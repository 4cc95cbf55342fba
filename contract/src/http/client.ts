import { addressOf, callOf, type Inputs } from './address.ts';
import type { AnswerOf, Endpoint } from './index.ts';

/** What a server answered when it refused, in its words. */
export class Refusal extends Error {
  readonly status: number;
  readonly code: string;
  readonly mend: string;
  constructor(status: number, code: string, message: string, mend: string) {
    super(message);
    this.name = 'Refusal';
    this.status = status;
    this.code = code;
    this.mend = mend;
  }
}

/** A caller of Idrel's API, as any program would be: cookie, token, problem+json. */
export class ApiClient {
  #cookie = '';
  /** What changes must carry; it comes with the session. */
  protected token = '';
  readonly #base: string;
  readonly #key: string | undefined;
  /** @param address of the server, without `/api/v1` @param key of a program; without one somebody signs in */
  constructor(address: string, key?: string) {
    this.#key = key;
    this.#base = `${address.replace(/\/+$/, '')}/api/v1`;
  }

  /**
   * Opens an answer that is read as it comes. A program that has called as often as it may in a minute waits as long as it is told, and asks again.
   * @param path below /api/v1 @throws Refusal
   */
  async open(
    path: string,
    init: Omit<RequestInit, 'headers'> & { readonly headers?: Readonly<Record<string, string>> },
  ) {
    for (;;) {
      const response = await fetch(this.#base + path, {
        ...init,
        headers: {
          ...(this.#key
            ? { authorization: `Bearer ${this.#key}` }
            : { cookie: this.#cookie, 'x-idrel-token': this.token }),
          ...init.headers,
        },
        // Who sends bit by bit does not hear the answer before: that is what a stream of lines is for.
        ...(init.body instanceof ReadableStream ? { duplex: 'half' } : {}),
      });
      if (response.ok) return response;
      const text = await response.text();
      const wait = Number(response.headers.get('retry-after'));
      if (response.status === 429 && this.#key && wait > 0 && wait <= 60 && !(init.body instanceof ReadableStream)) {
        await new Promise((resolve) => setTimeout(resolve, wait * 1000));
        continue;
      }
      throw refusal(`${init.method ?? 'GET'} ${path.split('?')[0]}`, response.status, text);
    }
  }

  /** Asks for one operation, and has its answer as it comes: of those that are answered bit by bit. @throws Refusal with what the server answered when it refuses */
  openFor<E extends Endpoint>(endpoint: E, ...input: Inputs<E>): Promise<Response> {
    const asked = callOf(endpoint, ...input);
    return this.open(addressOf(asked), {
      method: asked.method,
      headers: { 'content-type': 'application/json', ...asked.headers },
      ...(asked.body === undefined ? {} : { body: JSON.stringify(asked.body) }),
    });
  }

  /** Asks for one operation. @throws Refusal with what the server answered when it refuses */
  async ask<E extends Endpoint>(endpoint: E, ...input: Inputs<E>): Promise<AnswerOf<E>> {
    const response = await this.openFor(endpoint, ...input);
    const cookie = response.headers.getSetCookie()[0];
    if (cookie) this.#cookie = cookie.split(';')[0] ?? '';
    const text = await response.text();
    return (text ? JSON.parse(text) : undefined) as AnswerOf<E>; // the contract's word, which the server's tests hold it to
  }
}

function refusal(what: string, status: number, text: string): Refusal {
  try {
    const { code = '', detail, title, mend = '' } = JSON.parse(text) as Record<string, string | undefined>;
    return new Refusal(status, code, `${what} was answered ${status}: ${detail ?? title ?? text}`, mend);
  } catch {
    return new Refusal(status, '', `${what} was answered ${status}: ${text.slice(0, 500)}`, '');
  }
}
