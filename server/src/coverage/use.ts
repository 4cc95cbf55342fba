import { MEASURES, UNUSED, USED_DAYS, type UseAnswer, type UsedAsset } from '@idrel/contract/coverage';
import { both, type Sort, where } from '@idrel/core/catalog';
import { kindsThat } from '@idrel/core/things';
import { BYTES, type FinderClient, FROM, PATH, readFilter } from '../catalog/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { withinDomain } from './lines.ts';

const SHOWN = 20;
/** Among so many of those that are asked for most it is looked what would gain most. */
const LOOKED_AT = 400;
const ROWS = where('kind', ...kindsThat('holdsRows'));
const USED = `asked>=-${USED_DAYS}d`;
const LACKING = MEASURES.filter((measure) => measure.lack !== undefined);

/** What is asked for, what never is, and what would gain most by being governed. */
export async function use(db: Db, finder: FinderClient, who: Who, domain?: string): Promise<UseAnswer> {
  const base = domain === undefined ? '' : where('domain', (await withinDomain(db, domain)).name);
  const domains = who.domainsAs('reader');
  const asked = (text: string) => ({ filter: readFilter(both(base, text)), domains });
  const top = (text: string, sort: Sort, limit: number) =>
    finder.find(asked(text), { sort, descending: true, offset: 0, limit });
  const filters = {
    used: both(base, `${ROWS} ${USED}`),
    unused: both(base, UNUSED),
    untold: both(base, `${ROWS} used:untold not ${USED}`),
  };
  const popular = await top(`${ROWS} ${USED}`, 'use', LOOKED_AT);
  const columns = await top(`kind:column ${USED}`, 'use', SHOWN);
  const unused = await top(UNUSED, 'size', SHOWN);
  const untold = await top(`${ROWS} used:untold not ${USED}`, 'name', 1);
  const lacking = new Map<string, Set<string>>();
  for (const measure of LACKING)
    lacking.set(measure.key, new Set((await top(`${ROWS} ${USED} not ${measure.filter}`, 'use', LOOKED_AT)).ids));
  const lacksOf = (id: string) => LACKING.flatMap(({ key, lack }) => (lacking.get(key)?.has(id) ? [lack ?? ''] : []));
  const ids = [...new Set([...popular.ids, ...columns.ids, ...unused.ids])];
  const known = new Map(
    (
      await db.rows<Omit<UsedAsset, 'lacks'>>(
        `
          select
            a.id, a.kind, ${PATH} as path, s.name as source, coalesce(u.calls, 0) as uses, u.moved_at as "askedAt",
            coalesce(u.roles, 0) as "askedBy", coalesce(u.statements, 0) as statements, ${BYTES} as bytes, a.first_seen as since
          from unnest($1::uuid[]) t(id)
          join ${FROM} on a.id = t.id
          left join asset_use u on u.asset_id = a.id
          where ${isSeen('a', '$2')}`,
        [ids, domains],
      )
    ).map((row) => [row.id, { ...row, lacks: lacksOf(row.id) }]),
  );
  const rows = (of: readonly string[]) => of.flatMap((id) => known.get(id) ?? []);
  return {
    popular: rows(popular.ids.slice(0, SHOWN)),
    columns: rows(columns.ids),
    nudges: rows(popular.ids)
      .map((row) => ({ ...row, gain: row.uses * row.lacks.length }))
      .filter(({ gain }) => gain > 0)
      .sort((a, b) => b.gain - a.gain || (a.path < b.path ? -1 : 1))
      .slice(0, SHOWN),
    unused: rows(unused.ids),
    totals: { used: popular.total, unused: unused.total, untold: untold.total },
    filters,
  };
}
