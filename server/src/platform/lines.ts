import type { Endpoint, Of, QueryOf } from '@idrel/contract/http';
import type { NextFunction, Request, Response, Router } from 'express';
import type { Schema } from 'joi';
import type { Who } from '../people/index.ts';
import { admit, checkedCall, keepOut, leaving, untangled, validated, whoFor } from './api.ts';
import { mustBe, parseBody } from './body.ts';
import type { Tx } from './database.ts';
import { admitKey, type KeyInUse } from './keyInUse.ts';
import { ApiProblem, isTangled, toApiProblem } from './problems.ts';
import { partInThread } from './threads.ts';

/** So much is worked on at once; a line is never longer than that. */
const PART = { lines: 5000, bytes: 4 << 20 } as const;
/** So much is let go by of what is not read any more. */
const UNREAD = 256 << 20;

/** An operation that takes lines. */
export type LinesEndpoint = Endpoint & { readonly lines: Schema; readonly answer: Schema };
type LineOf<E> = E extends { readonly lines: infer S } ? Of<S> : never;

/** A line that fits its schema. */
export interface GivenLine<T> {
  /** Its number, from 1. */
  readonly line: number;
  readonly value: T;
}
/** What became of a line. */
export interface LineSaid {
  readonly line: number;
  readonly outcome: 'made' | 'changed' | 'same' | 'refused';
  /** Of what the line is about. */
  readonly id?: string;
}
interface LinesCall<E extends LinesEndpoint> {
  readonly who: Who;
  /** How far the key goes by which a program asks; null where somebody asks themselves. */
  readonly key: KeyInUse | null;
  readonly query: QueryOf<E>;
  readonly lines: readonly GivenLine<LineOf<E>>[];
}
/** Does a part of what is sent: all of it in one transaction. @returns what became of each line, in any order */
export type LinesHandler<E extends LinesEndpoint> = (call: LinesCall<E>) => Promise<readonly LineSaid[]>;

const TIED = new Map<string, { readonly endpoint: LinesEndpoint; readonly handler: LinesHandler<LinesEndpoint> }>();

/** Some lines, as they came, and who sent them. */
export interface PartTask {
  readonly id: string;
  readonly whoId: string;
  readonly keyId: string | null;
  readonly key: KeyInUse | null;
  readonly query: unknown;
  /** How many lines came before these. */
  readonly before: number;
  readonly lines: readonly Uint8Array[];
}

/** A line that is refused for what is wrong with it, as an answer tells it. */
export function refusedLine(line: number, problem: ApiProblem): LineSaid {
  const fields = problem.more.fields?.map(({ field, message }) =>
    message.includes(field) ? message : `${field}: ${message}`,
  );
  return {
    line,
    outcome: 'refused',
    code: problem.code,
    why: problem.code === 'invalid' && fields && fields.length > 0 ? `${fields.join('; ')}.` : problem.message,
    ...(problem.more.mend ? { mend: problem.more.mend } : {}),
  } as LineSaid;
}

/** Does lines one by one in a transaction: one that is refused leaves nothing behind, and holds up no other. */
export async function lineByLine<T>(
  tx: Tx,
  lines: readonly GivenLine<T>[],
  work: (value: T) => Promise<Omit<LineSaid, 'line'>>,
): Promise<LineSaid[]> {
  const said: LineSaid[] = [];
  for (const { line, value } of lines) {
    await tx.run('savepoint line');
    try {
      said.push({ line, ...(await work(value)) });
      await tx.run('release savepoint line');
    } catch (error) {
      const problem = toApiProblem(error);
      // What is nobody's to mend ends the part.
      if (problem.status >= 500 || isTangled(error)) throw error;
      await tx.run('rollback to savepoint line');
      said.push(refusedLine(line, problem));
    }
  }
  return said;
}

/** Works on some lines: reads each, and does those that can be read. Called where it may take a while. */
export async function workOnPart(task: PartTask, who: Who): Promise<LineSaid[]> {
  const tied = TIED.get(task.id);
  if (!tied) throw new ApiProblem('not-found', 'There is no such operation.');
  const given: GivenLine<unknown>[] = [];
  const said: LineSaid[] = [];
  for (const [index, bytes] of task.lines.entries()) {
    const line = task.before + index + 1;
    if (bytes.every((byte) => byte === 32 || byte === 13 || byte === 9)) continue;
    try {
      const value = validated(tied.endpoint.lines, parseBody([bytes], 'line'), 'body');
      given.push({ line, value });
    } catch (error) {
      if (!(error instanceof ApiProblem)) throw error;
      said.push(refusedLine(line, error));
    }
  }
  const call = { who, key: task.key, query: task.query as never, lines: given as never }; // by the schemas of the operation
  if (given.length > 0) said.push(...(await untangled(() => tied.handler(call))));
  return said.sort((a, b) => a.line - b.line);
}

/** The lines of a request, in parts. Empty ones are counted, and nothing else. @throws where one is longer than may be */
async function* partsOf(request: Request): AsyncGenerator<{ before: number; lines: Uint8Array[] }> {
  let [rest, before, bytes]: [Buffer[], number, number] = [[], 0, 0];
  let lines: Uint8Array[] = [];
  let held = 0;
  const whole = () => {
    const line = Uint8Array.from(Buffer.concat(rest));
    [rest, held] = [[], 0];
    lines.push(line);
    bytes += line.length;
  };
  const part = () => {
    const done = { before, lines };
    before += lines.length;
    [lines, bytes] = [[], 0];
    return done;
  };
  // What is left of a request that is not read to its end must stay readable, to be let run out.
  for await (const piece of request.iterator({ destroyOnReturn: false }) as AsyncIterable<Buffer>) {
    let from = 0;
    for (let at = piece.indexOf(10); at >= 0; at = piece.indexOf(10, from)) {
      rest.push(piece.subarray(from, at));
      from = at + 1;
      whole();
      if (lines.length >= PART.lines || bytes >= PART.bytes) yield part();
    }
    const left = piece.subarray(from);
    held += left.length;
    if (held > PART.bytes) {
      if (lines.length > 0) yield part();
      throw new ApiProblem('too-large', `Line ${before + 1} is longer than ${PART.bytes >> 20} MB.`, {
        mend: 'Say it in several lines; what came before it stands.',
      });
    }
    if (left.length > 0) rest.push(left);
  }
  if (held > 0) whole();
  if (lines.length > 0) yield part();
}

/** Lets the rest of a request go by unread: who still sends hears nothing of an answer, or loses it. @returns whether it came to its end */
async function runOut(request: Request): Promise<boolean> {
  let bytes = 0;
  for await (const piece of request.iterator({ destroyOnReturn: false }) as AsyncIterable<Buffer>) {
    bytes += piece.length;
    if (bytes > UNREAD) return false;
  }
  return true;
}

const workedOn = (task: PartTask, who: Who, left: AbortSignal): Promise<LineSaid[]> =>
  partInThread('workOnLines', task, who.id, left, () => workOnPart(task, who));

/**
 * Ties an operation that takes lines: they are read as they come, worked on in parts, and answered part by part, so that any number can be sent with as much memory
 * as one part takes. What goes wrong with a part is told at each of its lines, and the next one is begun.
 */
export function serveLines<E extends LinesEndpoint>(router: Router, endpoint: E, handler: LinesHandler<E>): void {
  TIED.set(endpoint.id, { endpoint, handler: handler as unknown as LinesHandler<LinesEndpoint> }); // called with what its own schema let pass
  router[endpoint.method](endpoint.path, async (request: Request, response: Response, next: NextFunction) => {
    try {
      const who = await whoFor(endpoint, response);
      keepOut(endpoint, who);
      const { key = null } = response.locals as { key?: KeyInUse };
      if (key) admitKey(endpoint, key);
      admit(endpoint.may, who);
      if (!who) return;
      if (
        request.get('content-length') === '0' ||
        (request.get('content-length') ?? request.get('transfer-encoding')) === undefined
      )
        throw new ApiProblem('invalid', 'No line was sent.', { mend: 'Send lines of JSON, one for each thing.' });
      mustBe(request, /^application\/(x-ndjson|jsonl|x-jsonlines)$/, 'NDJSON', 'application/x-ndjson');
      const { query } = checkedCall(endpoint, {
        params: {},
        query: { ...request.query },
        body: undefined,
        version: undefined,
      });
      const left = leaving(response);
      const counts = { made: 0, changed: 0, same: 0, refused: 0 };
      let lines = 0;
      const say = async (what: readonly object[]) => {
        if (!response.headersSent) response.writeHead(200, { 'content-type': 'application/x-ndjson; charset=utf-8' });
        const text = what.map((one) => `${JSON.stringify(one)}\n`).join('');
        // Whoever reads slowly is waited for.
        if (!response.write(text) && !left.aborted)
          await new Promise<void>((resolve) => {
            response.once('drain', resolve);
            response.once('close', resolve);
          });
      };
      const end = (problem?: ApiProblem) =>
        say([
          {
            end: true,
            lines,
            ...counts,
            ...(problem ? { problem: `${problem.message} ${problem.more.mend ?? ''}`.trim() } : {}),
          },
        ]);
      try {
        for await (const part of partsOf(request)) {
          const task = { id: endpoint.id, whoId: who.id, keyId: who.key?.id ?? null, key, query, ...part };
          const said = await workedOn(task, who, left).catch((error: unknown) => {
            const problem = toApiProblem(error);
            // Who may no more is told that once.
            if (problem.status === 401 || left.aborted) throw problem;
            return part.lines.map((_, index) => refusedLine(part.before + index + 1, problem));
          });
          for (const { outcome } of said) counts[outcome] += 1;
          lines += said.length;
          await say(said);
          if (left.aborted) return;
        }
        await end();
        response.end();
      } catch (error) {
        await end(toApiProblem(error));
        if (!(await runOut(request))) request.destroy();
        response.end();
      }
    } catch (error) {
      next(error);
    }
  });
}
