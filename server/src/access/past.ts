import { isSeen } from '../people/index.ts';
import { asOfMoment, begunAt, type Database, type Db } from '../platform/database.ts';
import { invalid } from '../platform/problems.ts';

/** So far the clock of who asks for what is now may be ahead. */
const CLOCKS = 300_000;

/** The moment that is asked for. @throws 422 when it lies before what is known, or is still to come */
export async function knownMoment(db: Db, at: string, field: string): Promise<number> {
  const [moment, begun] = [Date.parse(at), await begunAt(db)];
  if (moment < begun)
    throw invalid(
      `Who could read what is known from ${new Date(begun).toISOString()} on.`,
      'Choose a later moment: of what was before, the journal tells.',
      [{ field, message: `lies before ${new Date(begun).toISOString()}` }],
    );
  const now = Date.now();
  if (moment > now + CLOCKS)
    throw invalid('That moment is still to come.', 'Choose one that has passed.', [
      { field, message: 'is still to come' },
    ]);
  return Math.min(moment, now);
}

/** Looks as things are now, or as of a moment. @param at ISO 8601; null for now @throws 422 */
export async function lookingAt<T>(db: Database, at: string | null, work: (then: Db) => Promise<T>): Promise<T> {
  return at === null ? work(db) : asOfMoment(db, await knownMoment(db, at, 'at'), work);
}

/**
 * Of tables those that a person may see by their domains as they were then, and of those that are still there also as they are now.
 * @param domains the parameter with the ids
 * @param table what the table is called in the statement
 */
export const inDomains = (db: Db, domains: string, table = 't'): string =>
  `${isSeen(table, domains)}${
    db.moment === undefined
      ? ''
      : ` and not exists (select from public.asset n where n.id = ${table}.id and not ${isSeen('n', domains)})`
  }`;
