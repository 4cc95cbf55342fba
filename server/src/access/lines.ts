import type { Response } from 'express';
import { notesOn } from '../catalog/index.ts';
import type { Who } from '../people/index.ts';
import type { Context } from '../platform/context.ts';
import { ApiProblem, toProblem } from '../platform/problems.ts';
import { type gatewayFor, outcomeOf, tablesOf } from './asPerson.ts';
import type { Asking } from './facts.ts';
import { type TextRow, whyGone } from './runQuery.ts';
import { takeTurn } from './turns.ts';

/** A statement whose answer is sent as lines. */
interface Asked {
  readonly who: Who;
  readonly source: { readonly id: string; readonly version: number };
  readonly sql: string;
  /** So many rows at most. */
  readonly limit: number;
  readonly purpose: string | null;
  readonly reaching: ReturnType<ReturnType<typeof gatewayFor>['reachingFor']>;
  /** By which share it is read, and what that is of. */
  readonly share?: NonNullable<Asking['share']>;
  /** Where they see only some of the source: by what. */
  readonly seen?: NonNullable<Asking['seen']>;
}
export type Lines = (asked: Asked, response: Response, left: AbortSignal) => Promise<void>;

/** Runs a statement for a person and sends its rows as lines of JSON, bit by bit; an error after the first line is the last one. */
export const linesOf =
  ({ db, config }: Pick<Context, 'db' | 'config'>, { run, note, asked }: ReturnType<typeof gatewayFor>): Lines =>
  async ({ who, source, sql, limit, purpose, reaching, share, seen }, response, left) => {
    const started = performance.now();
    const turn = takeTurn(who.id);
    const write = async (text: string) => {
      if (!response.write(text) && !left.aborted)
        await new Promise<void>((resolve) => {
          response.once('drain', resolve);
          left.addEventListener('abort', () => resolve(), { once: true });
        });
      if (left.aborted) throw whyGone(left);
    };
    try {
      const { prepared, done } = await run(
        who,
        who.id,
        source,
        sql,
        { rows: limit, bytes: config.queryBytes, seconds: config.querySeconds },
        async (shown, batch) => {
          if (!response.headersSent) {
            response.writeHead(200, { 'content-type': 'application/x-ndjson', 'cache-control': 'no-store' });
            response.write(`${JSON.stringify(shown.map(({ name }) => name))}\n`);
          }
          for (const text of inPieces(batch)) {
            await write(text);
            await new Promise((resolve) => setImmediate(resolve)); // others' turn
          }
        },
        left,
        { reaching, purpose, share, seen },
      );
      // Notices are written for people of this organisation.
      const notes = [...(share ? [] : await notesOn(db, tablesOf(prepared))), ...(done.notes ?? [])];
      response.end(`${JSON.stringify(notes.length > 0 ? { ...done, notes } : done)}\n`);
      await note(who, who.id, source.id, sql, 'answered', done.rows, started, purpose, share?.id);
      asked({ sourceId: source.id, personId: who.id, sql, tables: tablesOf(prepared) });
    } catch (error) {
      await note(who, who.id, source.id, sql, outcomeOf(error), null, started, purpose, share?.id);
      if (!response.headersSent) throw error;
      response.end(
        `${JSON.stringify({ problem: error instanceof ApiProblem ? toProblem(error) : { detail: 'The query failed.' } })}\n`,
      );
    } finally {
      turn();
    }
  };

const PIECE = 1 << 18;

/** Rows as lines of JSON, in pieces of some 256 kB: each is made when the one before was taken. */
function* inPieces(rows: readonly TextRow[]): Generator<string> {
  let piece = '';
  for (const row of rows) {
    piece += `${JSON.stringify(row)}\n`;
    if (piece.length > PIECE) {
      yield piece;
      piece = '';
    }
  }
  if (piece !== '') yield piece;
}
