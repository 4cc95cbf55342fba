/** A signed-in caller of Idrel's API, as any program would be: cookie, token, problem+json. */
export class Client {
  #cookie = '';
  #token = '';
  readonly #base: string;
  constructor(address: string) {
    this.#base = `${address}/api/v1`;
  }

  async call<T>(method: string, path: string, body?: unknown, headers: Record<string, string> = {}): Promise<T> {
    const response = await fetch(`${this.#base}${path}`, {
      method,
      headers: { 'content-type': 'application/json', cookie: this.#cookie, 'x-idrel-token': this.#token, ...headers },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    });
    const cookie = response.headers.getSetCookie()[0];
    if (cookie) this.#cookie = cookie.split(';')[0] ?? '';
    const text = await response.text();
    if (!response.ok) throw new Error(`${method} ${path} was answered ${response.status}: ${text}`);
    return (text ? JSON.parse(text) : undefined) as T;
  }

  get = <T>(path: string): Promise<T> => this.call<T>('GET', path);
  post = <T>(path: string, body: unknown = {}): Promise<T> => this.call<T>('POST', path, body);
  patch = <T>(path: string, version: number, body: unknown): Promise<T> =>
    this.call<T>('PATCH', path, body, { 'if-match': `"v${version}"` });

  /** Signs in as one of the people of the demo. */
  async signInAs(name: string): Promise<void> {
    const session = await this.get<{ demoPeople: { id: string; name: string }[] }>('/session');
    const person = session.demoPeople.find((entry) => entry.name === name);
    if (!person) throw new Error(`${name} is not one of the people of the demo.`);
    const opened = await this.post<{ csrf: string }>('/session', { demoPersonId: person.id });
    this.#token = opened.csrf;
  }

  /** Waits for a run to end; throws when it ends badly. */
  async runEnds(runId: string, patience = 180_000): Promise<{ state: string; counts: Record<string, number> }> {
    const until = Date.now() + patience;
    for (;;) {
      const run = await this.get<{ state: string; counts: Record<string, number>; problem: { what: string } | null }>(
        `/runs/${runId}`,
      );
      if (['done', 'partly done'].includes(run.state)) return run;
      if (['failed', 'cancelled'].includes(run.state))
        throw new Error(`The run ended as ${run.state}: ${run.problem?.what ?? ''}`);
      if (Date.now() > until) throw new Error('The run does not end.');
      await new Promise((resolve) => setTimeout(resolve, 200));
    }
  }
}
