import { readFile } from 'node:fs/promises';
import { text as textOf } from 'node:stream/consumers';
import { pipeline } from 'node:stream/promises';
import type { Endpoint } from '@idrel/contract/http';
import type { Inputs } from '@idrel/contract/http/address';
import { ENDPOINTS } from '@idrel/contract/operations';
import { nearest } from '@idrel/core/text';
import { asking } from './asker.ts';
import { CliProblem } from './problem.ts';

interface Options {
  server?: string;
  user?: string;
  body?: string;
  version?: string;
}

/** `idrel operations`: what can be asked of a server. */
export function operations(words: readonly string[], { json }: { json?: boolean }): void {
  const wanted = words.map((word) => word.toLowerCase());
  const found = ENDPOINTS.filter(({ id, area, summary }) =>
    wanted.every((word) => `${id} ${area} ${summary}`.toLowerCase().includes(word)),
  );
  if (json)
    process.stdout.write(
      `${JSON.stringify(
        found.map(({ id, area, method, path, summary }) => ({ id, area, method, path, summary })),
        null,
        1,
      )}\n`,
    );
  else {
    const widest = Math.max(0, ...found.map(({ id }) => id.length));
    process.stdout.write(found.map(({ id, summary }) => `${id.padEnd(widest)}  ${summary}\n`).join(''));
  }
}

/** The parts of what is asked, by their names: a parameter of the path, or one of the query. */
function partsOf(endpoint: Endpoint, given: readonly string[]) {
  const keys = (schema: Endpoint['params']) => Object.keys((schema?.describe().keys as object | undefined) ?? {});
  const known = { params: keys(endpoint.params), query: keys(endpoint.query) };
  const parts: { params: Record<string, string>; query: Record<string, string> } = { params: {}, query: {} };
  for (const one of given) {
    const [, name = '', value = ''] = /^([^=]+)=([\s\S]*)$/.exec(one) ?? [];
    if (known.params.includes(name)) parts.params[name] = value;
    else if (known.query.includes(name)) parts.query[name] = value;
    else {
      const near = nearest([...known.params, ...known.query], name || one);
      throw new CliProblem(
        `${one}: ${endpoint.id} takes nothing of this name.`,
        near
          ? `Is ${near}= meant?`
          : `It takes ${[...known.params, ...known.query].join(', ') || 'nothing but --body'}.`,
      );
    }
  }
  const missing = known.params.find((name) => !(name in parts.params));
  if (missing)
    throw new CliProblem(`${endpoint.id} is about something of which the ${missing} is missing.`, `Give ${missing}=…`);
  return parts;
}

async function bodyOf(given: string): Promise<unknown> {
  const text = given.startsWith('@')
    ? await (given === '@-' ? textOf(process.stdin) : readFile(given.slice(1), 'utf8')).catch((error: Error) => {
        throw new CliProblem(`${given.slice(1)} cannot be read: ${error.message}`, 'Check the path.');
      })
    : given;
  try {
    return JSON.parse(text) as unknown;
  } catch (error) {
    throw new CliProblem(`--body is no JSON: ${(error as Error).message}`, 'Give JSON, or @file.json.');
  }
}

/** `idrel ask`: any operation of a server, with its answer as JSON; what is no JSON, as a document or rows, as it is. */
export async function ask(id: string, given: readonly string[], options: Options): Promise<void> {
  const endpoint = ENDPOINTS.find((one) => one.id === id);
  if (!endpoint) {
    const near = nearest(
      ENDPOINTS.map((one) => one.id),
      id,
    );
    throw new CliProblem(`There is no operation “${id}”.`, near ? `Is ${near} meant?` : 'idrel operations lists them.');
  }
  if (endpoint.lines) throw new CliProblem(`${id} takes lines.`, 'Use idrel send.');
  if (endpoint.stream === 'redirect') throw new CliProblem(`${id} is for browsers.`, 'Open its address in one.');
  const parts = partsOf(endpoint, given);
  if (endpoint.body && options.body === undefined)
    throw new CliProblem(`${id} takes a body.`, 'Give it with --body, as JSON or as @file.json.');
  const input = {
    ...parts,
    ...(endpoint.body ? { body: await bodyOf(options.body ?? '') } : {}),
    ...(options.version === undefined ? {} : { version: Number(options.version) }),
  };
  const inputs = [input] as unknown as Inputs<Endpoint>;
  const answer = await asking(options.server, options.user, async (asker) => {
    if (!endpoint.stream) return asker.ask(endpoint, ...inputs);
    // What is answered bit by bit goes on as it comes.
    const { body } = await asker.openFor(endpoint, ...inputs);
    if (body) await pipeline(body, process.stdout, { end: false });
    return undefined;
  });
  if (answer !== undefined) process.stdout.write(`${JSON.stringify(answer, null, 1)}\n`);
}
