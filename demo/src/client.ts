import type { AnswerOf, Endpoint } from '@idrel/contract/http';
import { addressOf, callOf, type Inputs } from '@idrel/contract/http/address';
import { peopleEndpoints } from '@idrel/contract/people';
import { type RunAnswer, scanEndpoints } from '@idrel/contract/scanning';

/** A signed-in caller of Idrel's API, as any program would be: cookie, token, problem+json. */
export class Client {
  #cookie = '';
  #token = '';
  readonly #base: string;
  constructor(address: string) {
    this.#base = `${address}/api/v1`;
  }

  /** Asks for one operation. @throws with what the server answered when it refuses */
  async ask<E extends Endpoint>(endpoint: E, ...input: Inputs<E>): Promise<AnswerOf<E>> {
    const asked = callOf(endpoint, ...input);
    const response = await fetch(this.#base + addressOf(asked), {
      method: asked.method,
      headers: {
        'content-type': 'application/json',
        cookie: this.#cookie,
        'x-idrel-token': this.#token,
        ...asked.headers,
      },
      ...(asked.body === undefined ? {} : { body: JSON.stringify(asked.body) }),
    });
    const cookie = response.headers.getSetCookie()[0];
    if (cookie) this.#cookie = cookie.split(';')[0] ?? '';
    const text = await response.text();
    if (!response.ok) throw new Error(`${asked.method} ${asked.url} was answered ${response.status}: ${text}`);
    return (text ? JSON.parse(text) : undefined) as AnswerOf<E>; // the contract's word, which the server's tests hold it to
  }

  /** Signs in as one of the people of the demo. */
  async signInAs(name: string): Promise<void> {
    const { demoPeople } = await this.ask(peopleEndpoints.session);
    const person = demoPeople.find((entry) => entry.name === name);
    if (!person) throw new Error(`${name} is not one of the people of the demo.`);
    const opened = await this.ask(peopleEndpoints.signIn, { body: { demoPersonId: person.id } });
    this.#token = opened.csrf ?? '';
  }

  /** Waits for a run to end; throws when it ends badly. */
  async runEnds(runId: string, patience = 180_000): Promise<RunAnswer> {
    const until = Date.now() + patience;
    for (;;) {
      const run = await this.ask(scanEndpoints.get, { params: { id: runId } });
      if (['done', 'partly done'].includes(run.state)) return run;
      if (['failed', 'cancelled'].includes(run.state))
        throw new Error(`The run ended as ${run.state}: ${run.problem?.what ?? ''}`);
      if (Date.now() > until) throw new Error('The run does not end.');
      await new Promise((resolve) => setTimeout(resolve, 200));
    }
  }
}
