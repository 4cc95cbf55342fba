import { type ProblemCode, problemsOf, statusOf } from '@idrel/contract/http';
import { ENDPOINTS } from '@idrel/contract/operations';

/** The operation at an address, as the contract tells it. */
const operationAt = (method: string, path: string) => {
  const address = path.split('?')[0] ?? '';
  // What is written out in full comes before what has parameters: /assets/facets is no id.
  return ENDPOINTS.filter(
    (endpoint) =>
      endpoint.method === method.toLowerCase() &&
      new RegExp(`^${endpoint.path.replace(/:\w+/g, '[^/]+')}$`).test(address),
  ).sort((a, b) => a.path.split(':').length - b.path.split(':').length)[0];
};

/** Holds an answer to what the contract says of it: each field there, none that nobody was told of; each problem one that the operation names. @throws when it is another */
export function heldTo(method: string, path: string, status: number, answer: unknown): void {
  const operation = operationAt(method, path);
  if (!operation) return;
  if (status >= 400) {
    const { code } = answer as { code: ProblemCode };
    if (!problemsOf(operation).has(code) || statusOf(code) !== status)
      throw new Error(
        `${method} ${operation.path} was answered with ${status} ${code}, of which the contract says nothing`,
      );
    return;
  }
  if (operation.stream) return;
  const wrong = operation.answer
    ? operation.answer.validate(answer, { convert: false, abortEarly: false }).error?.message
    : answer === undefined
      ? undefined
      : 'something, where the contract says nothing';
  if (wrong) throw new Error(`The answer to ${method} ${operation.path} is not what the contract says: ${wrong}`);
}

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
    // A document is what it is.
    const isDocument = response.headers.get('content-type')?.startsWith('text/') ?? false;
    const answer = isDocument ? text : text ? JSON.parse(text) : undefined;
    heldTo(method, path, response.status, answer);
    return {
      status: response.status,
      type: response.headers.get('content-type') ?? '',
      set: set ?? '',
      body: answer,
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
