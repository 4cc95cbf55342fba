import type { Holding } from '@idrel/contract/people';
import type { Db } from '../platform/database.ts';
import type { Who } from './who.ts';

/** What people can hold in one area: listed and passed on when one of them leaves. Each area tells its own. */
export interface Held {
  /** In the plural, as in “assets owned”. */
  readonly what: string;
  readonly after: string;
  /** How many a person holds, and the first of them. */
  list(db: Db, personId: string): Promise<Pick<Holding, 'count' | 'first'>>;
  /** Gives all of them to another, or to nobody, with what the journal tells of each. */
  pass(tx: Db, who: Who, from: string, to: string | null): Promise<void>;
}

const FIRST = 20;
/**
 * What is held as rows of a table tell.
 * @param rows SQL of what the person $1 holds: name, address
 */
export const listedBy =
  (rows: string): Held['list'] =>
  async (db, personId) => {
    const found = await db.one<Pick<Holding, 'count' | 'first'>>(
      `
        with held as materialized (${rows})
        select
          (select count(*)::int from held) as count,
          coalesce(
            (select json_agg(f) from (select name, address from held order by name limit ${FIRST}) f), '[]'
          ) as first`,
      [personId],
    );
    return found ?? { count: 0, first: [] };
  };
