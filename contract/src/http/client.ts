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

  /** Asks for one operation. @throws Refusal with what the server answered when it refuses */
  async ask<E extends Endpoint>(endpoint: E, ...input: Inputs<E>): Promise<AnswerOf<E>> {
    const asked = callOf(endpoint, ...input);
    const response = await fetch(this.#base + addressOf(asked), {
      method: asked.method,
      headers: {
        'content-type': 'application/json',
        ...(this.#key
          ? { authorization: `Bearer ${this.#key}` }
          : { cookie: this.#cookie, 'x-idrel-token': this.token }),
        ...asked.headers,
      },
      ...(asked.body === undefined ? {} : { body: JSON.stringify(asked.body) }),
    });
    const cookie = response.headers.getSetCookie()[0];
    if (cookie) this.#cookie = cookie.split(';')[0] ?? '';
    const text = await response.text();
    if (!response.ok) throw refusal(`${asked.method} ${asked.url}`, response.status, text);
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
