import { beforeAll, describe, expect, it } from 'vitest';
import { Caller } from './caller.ts';

/** Every operation that the server describes, met as a stranger, a careless program and somebody without the role would meet it. */
interface Parameter {
  readonly name: string;
  readonly in: string;
  readonly schema?: { readonly type?: string; readonly format?: string };
}
interface Operation {
  readonly method: string;
  readonly path: string;
  readonly open: boolean;
  readonly parameters: readonly Parameter[];
  readonly takesBody: boolean;
}
type Described = Readonly<
  Record<
    string,
    Readonly<
      Record<
        string,
        {
          readonly security?: readonly unknown[];
          readonly parameters?: readonly Parameter[];
          readonly requestBody?: object;
        }
      >
    >
  >
>;

const NOBODY = '6e3f0b0e-0000-4000-8000-000000000000';
const { paths } = (await new Caller().call('GET', '/openapi.json')).body as { paths: Described };
const operations: Operation[] = Object.entries(paths).flatMap(([path, methods]) =>
  Object.entries(methods).map(([method, { security, parameters = [], requestBody }]) => ({
    method: method.toUpperCase(),
    path: path.replace('/api/v1', ''),
    open: Array.isArray(security) && security.length === 0,
    parameters,
    takesBody: requestBody !== undefined,
  })),
);
const named = operations.map((operation) => [`${operation.method} ${operation.path}`, operation] as const);
/** The address with something in the place of its parameters. */
const filled = ({ path }: Operation, value: string) => path.replaceAll(/\{[^}]+\}/g, value);
/** Following news, and files that are sent as they are, are no answers of a moment. */
const streams = ({ path }: Operation) => /events$|openapi/.test(path);
/** Ends the session that the test is signed in with, or begins another. */
const ofSessions = ({ path }: Operation) => path === '/session';

describe('every operation', () => {
  it('is described', () => {
    expect(operations.length).toBeGreaterThan(100);
    expect(new Set(named.map(([name]) => name)).size).toBe(operations.length);
  });

  it.each(named.filter(([, operation]) => !operation.open))(
    '%s is closed to whoever is not signed in',
    async (_name, operation) => {
      const answer = await new Caller().call(
        operation.method,
        filled(operation, NOBODY),
        operation.takesBody ? {} : undefined,
      );
      expect([401, 403]).toContain(answer.status);
      expect(answer.type).toContain('application/problem+json');
      expect(answer.body.mend ?? answer.body.detail).toBeTruthy();
    },
  );

  const changing = named.filter(([, operation]) => operation.method !== 'GET' && !ofSessions(operation));
  const reader = new Caller();
  const all = new Caller();
  beforeAll(async () => {
    await reader.as('Maud Ilkley');
    await all.as('Jorun Pell');
  });

  it.each(changing.filter(([, operation]) => !operation.open))(
    '%s is refused without the token of the session',
    async (_name, operation) => {
      const answer = await reader.call(
        operation.method,
        filled(operation, NOBODY),
        operation.takesBody ? {} : undefined,
        { 'x-idrel-token': '' },
      );
      expect(answer.status).toBe(403);
    },
  );

  it.each(changing.filter(([, operation]) => operation.takesBody))(
    '%s says what is wrong with a body that fits nothing',
    async (_name, operation) => {
      for (const body of [{}, { nothing: 'of this' }, [], 'text', 7]) {
        const answer = await all.call(operation.method, filled(operation, NOBODY), body);
        expect(answer.status, JSON.stringify(body)).toBeGreaterThanOrEqual(400);
        expect(answer.status, JSON.stringify(answer.body)).toBeLessThan(500);
        expect(answer.body.detail.length).toBeGreaterThan(10);
      }
    },
  );

  it.each(named.filter(([, operation]) => /\{/.test(operation.path) && !streams(operation)))(
    '%s does not fall over ids of nothing',
    async (_name, operation) => {
      for (const id of [NOBODY, 'nothing', "';drop table asset;--", '%00', '9'.repeat(300)]) {
        const answer = await all.call(
          operation.method,
          filled(operation, encodeURIComponent(id)),
          operation.takesBody ? {} : undefined,
          { 'if-match': '"v1"' },
        );
        expect(answer.status, `${id}: ${JSON.stringify(answer.body)}`).toBeLessThan(500);
      }
    },
  );

  it.each(
    named.filter(
      ([, operation]) =>
        operation.method === 'GET' && !operation.open && !/\{/.test(operation.path) && !streams(operation),
    ),
  )('%s answers or refuses odd questions', async (_name, operation) => {
    const queries = operation.parameters
      .filter((parameter) => parameter.in === 'query')
      .map((parameter) => parameter.name);
    for (const value of ['', 'x', '-1', '1e99', '"', '%', NOBODY]) {
      const answer = await reader.call(
        'GET',
        `${operation.path}?${queries.map((name) => `${name}=${encodeURIComponent(value)}`).join('&')}`,
      );
      expect(answer.status, `${value}: ${JSON.stringify(answer.body)}`).toBeLessThan(500);
    }
  });
});
