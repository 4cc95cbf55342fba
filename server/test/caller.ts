/** The running server of the test set-up, spoken to as any program would. */
export const ADDRESS = process.env.IDREL_TEST_ADDRESS ?? '';

export class Caller {
  cookie = '';
  token = '';
  async call(method: string, path: string, body?: unknown, headers: Record<string, string> = {}) {
    const response = await fetch(`${ADDRESS}/api/v1${path}`, {
      method,
      headers: { 'content-type': 'application/json', cookie: this.cookie, 'x-idrel-token': this.token, ...headers },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    });
    const set = response.headers.getSetCookie()[0];
    if (set) this.cookie = set.split(';')[0] ?? '';
    const text = await response.text();
    return {
      status: response.status,
      type: response.headers.get('content-type') ?? '',
      set: set ?? '',
      body: text ? JSON.parse(text) : undefined,
    };
  }
  async as(name: string): Promise<this> {
    const session = await this.call('GET', '/session');
    const person = session.body.demoPeople.find((entry: { name: string }) => entry.name === name);
    const opened = await this.call('POST', '/session', { demoPersonId: person.id });
    this.token = opened.body.csrf;
    return this;
  }
}
