import { createHash } from 'node:crypto';
import type { BodyOf } from '@idrel/contract/http';
import { EDGES_MOST, type EdgesTaken, type SaidAnswer, type saidEndpoints } from '@idrel/contract/lineage';
import { type EdgeLine, readEdgeSheet } from '@idrel/core/lineage';
import { assetAt } from '../catalog/index.ts';
import type { Who } from '../people/index.ts';
import { asIf, type Database, type Db } from '../platform/database.ts';
import { follow } from '../platform/jobs.ts';
import { ApiProblem, conflict, invalid } from '../platform/problems.ts';
import { readSheet } from '../platform/sheets.ts';
import { settleAround } from '../recognition/index.ts';
import { sayEdges } from './said.ts';

const MEND = 'Write each end as Readable link on its page copies it.';

type Body = BodyOf<typeof saidEndpoints.sheet>;

/** What is at an address, by its id. @throws what keeps it from being read, with the address */
async function at(tx: Db, who: Who, address: string): Promise<string> {
  try {
    return (await assetAt(tx, who, address)).id;
  } catch (error) {
    if (!(error instanceof ApiProblem)) throw error;
    throw invalid(`${address.replace(/^\/at\//, '')}: ${error.message}`, error.more.mend ?? MEND);
  }
}

/** Says the edges of some lines. @returns what became of each, in their order */
async function sayLines(tx: Db, who: Who, lines: readonly EdgeLine[]): Promise<SaidAnswer[]> {
  const answers: SaidAnswer[] = [];
  for (const { from, to, kind, through, note } of lines) {
    try {
      const ends = { from: { id: await at(tx, who, from) }, to: { id: await at(tx, who, to) } };
      const flow = through === null ? null : await at(tx, who, through);
      answers.push(...(await sayEdges(tx, who, [{ ...ends, kind, flow, note }])));
    } catch (error) {
      if (!(error instanceof ApiProblem)) throw error;
      answers.push({ state: 'refused', why: error.message, mend: error.more.mend ?? MEND });
    }
  }
  return answers;
}

/**
 * Says the edges of a sheet, or tells what would become of each.
 * @throws 422 when the file cannot be read, or holds more edges than one may; 409 when something else would come of it than was seen
 */
export async function takeEdges(db: Database, who: Who, body: Body, preview: boolean): Promise<EdgesTaken> {
  const given = readEdgeSheet(await readSheet(body.name, Buffer.from(body.content, 'base64')));
  if (given.lines.length > EDGES_MOST)
    throw invalid(
      `The sheet holds ${given.lines.length} edges; one says at most ${EDGES_MOST}.`,
      'Part it into several.',
      [{ field: 'content', message: `holds ${given.lines.length} edges` }],
    );
  const would = await asIf(db, (tx) => sayLines(tx, who, given.lines));
  const seen = createHash('sha256')
    .update(JSON.stringify([given.lines, would.map(({ state }) => state)]))
    .digest('base64url');
  const told = (lines: readonly EdgeLine[], answers: readonly SaidAnswer[], written: boolean): EdgesTaken => {
    const among = (...states: SaidAnswer['state'][]) => answers.filter(({ state }) => states.includes(state)).length;
    return {
      rows: lines.map(({ at, from, to, kind }, nth) => {
        const { id: _, ...answer } = answers[nth] as SaidAnswer;
        const mend = answer.state === 'refused' ? { mend: answer.mend ?? MEND } : {};
        return { at, from, to, kind, ...answer, ...mend };
      }),
      said: among('said', 'changed'),
      same: among('as it was', 'found already'),
      refused: among('refused'),
      flaws: given.flaws.map((flaw) => ({ ...flaw })),
      notKept: given.notKept.map((entry) => ({ ...entry })),
      seen,
      written,
    };
  };
  if (preview) return told(given.lines, would, false);
  if (body.seen !== undefined && body.seen !== seen)
    throw conflict(
      'differs-now',
      'Something was changed since you looked: something else would come of the sheet now.',
      'Look at it again, then say it. Nothing was changed.',
    );
  const left = new Set(body.leave);
  const chosen = given.lines.filter(({ at }) => !left.has(at));
  const answers = await db.transaction(async (tx) => {
    const made = await sayLines(tx, who, chosen);
    // Classes travel along what is said, and levels follow them.
    await settleAround(tx, []);
    await follow(tx, 'priority', 'broken');
    return made;
  });
  return told(chosen, answers, true);
}
