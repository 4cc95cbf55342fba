import type { SearchAnswer, SearchBody } from '@idrel/contract/catalog';
import { bringBack, change, create, type Kept, remove } from '../journal/index.ts';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { forbidden, notFound } from '../platform/problems.ts';
import { SEARCH, type SearchRow } from './models.ts';
import { readFilter } from './service.ts';

/** $1: the person. */
const SELECT = `
  select
    s.id, s.name, s.filter, s.shared, s.version, case when s.person_id <> $1 then p.name end as "madeBy",
    exists (select 1 from pinned_search x where x.search_id = s.id and x.person_id = $1) as pinned
  from saved_search s
  join person p on p.id = s.person_id
  where s.removed_at is null and (s.person_id = $1 or s.shared)`;

/** Searches that a person keeps, then those that others share. */
export const listSearches = (db: Db, who: Who): Promise<SearchAnswer[]> =>
  db.rows<SearchAnswer>(`${SELECT} order by s.person_id <> $1, lower(s.name)`, [who.id]);

const SEARCHES: Kept<SearchRow, SearchAnswer> = {
  thing: 'saved search',
  model: SEARCH,
  async read(db, who, id) {
    const search = await db.one<SearchAnswer>(`${SELECT} and s.id = $2`, [who.id, id]);
    if (!search) throw notFound('The search');
    return search;
  },
  told: (_db, { name, filter, shared }) => ({ name, filter, shared }),
  may(_db, _who, { madeBy }) {
    if (madeBy !== null) throw forbidden(`of ${madeBy}, who made the search`);
  },
};

/** @throws 422 when its filter cannot be read, 409 when the person keeps another one of the name */
export async function addSearch(tx: Db, who: Who, body: SearchBody): Promise<SearchAnswer> {
  readFilter(body.filter);
  const { id } = await create(tx, who, SEARCHES, { ...body, personId: who.id });
  return pinSearch(tx, who, id, true);
}

export async function changeSearch(
  tx: Db,
  who: Who,
  id: string,
  version: number,
  body: SearchBody,
): Promise<SearchAnswer> {
  readFilter(body.filter);
  // What is shared no more stands in no other rail.
  if (!body.shared) await tx.run('delete from pinned_search where search_id = $1 and person_id <> $2', [id, who.id]);
  return (await change(tx, who, SEARCHES, id, { version, values: body })).after;
}

/** It stays, out of sight, so that it can be brought back into the rails that it stood in. */
export async function removeSearch(tx: Db, who: Who, id: string): Promise<void> {
  await remove(tx, who, SEARCHES, id, { leaving: { removedAt: new Date() } });
}

export const bringBackSearch = (tx: Db, who: Who, id: string): Promise<SearchAnswer> =>
  bringBack(tx, who, SEARCHES, id, { isGone: ({ removedAt }) => removedAt !== null, values: { removedAt: null } });

/** Puts a search into the person's rail, or takes it out: theirs alone to see, so the journal has nothing of it. */
export async function pinSearch(tx: Db, who: Who, id: string, pinned: boolean): Promise<SearchAnswer> {
  await SEARCHES.read(tx, who, id);
  await tx.run(
    pinned
      ? 'insert into pinned_search (person_id, search_id) values ($1, $2) on conflict do nothing'
      : 'delete from pinned_search where person_id = $1 and search_id = $2',
    [who.id, id],
  );
  return SEARCHES.read(tx, who, id);
}
