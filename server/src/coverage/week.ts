import { MEASURES, type WeekAnswer } from '@idrel/contract/coverage';
import { both, where } from '@idrel/core/catalog';
import { courseOf } from '@idrel/core/coverage';
import { ASSET_KINDS } from '@idrel/core/things';
import type { FinderClient } from '../catalog/index.ts';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { worklist } from '../worklist/index.ts';
import { allChanges, daysKept } from './course.ts';

/** So many figures that moved are told, those that moved most. */
const MOST_MOVED = 12;

/**
 * What the journal has of a person over two weeks, told by what was done: of assets by the fact that was changed, of other things by what they are.
 * What a routine did on their behalf is not theirs.
 */
const DONE = `
  with mine as materialized (
    select j.at, j.action, j.subject_kind, j.subject_id, j.before, j.after
    from journal j
    where j.person_id = $1 and j.run_id is null and j.at >= current_date - 13
  ),
  told as (
    select
      m.at,
      case
        when m.subject_kind = any($2::text[]) and (m.action like 'edited%' or m.action like 'many at once%') then fact.key
        when m.subject_kind = any($2::text[]) then 'asset: ' || m.action
        else m.subject_kind
      end as action
    from mine m
    left join lateral (
      select distinct key
      from jsonb_object_keys(coalesce(m.before, '{}') || coalesce(m.after, '{}')) key
    ) fact on m.subject_kind = any($2::text[]) and (m.action like 'edited%' or m.action like 'many at once%')
  )
  select
    action, count(*) filter (where at >= current_date - 6)::int as times,
    count(*) filter (where at < current_date - 6)::int as before
  from told
  where action is not null
  group by 1
  order by 2 desc, 3 desc, 1
  limit 40`;

/** The week of a person: the last seven days, beside the seven before. */
export async function week(db: Db, finder: FinderClient, who: Who): Promise<WeekAnswer> {
  const kinds = Object.keys(ASSET_KINDS);
  const done = await db.rows<WeekAnswer['done'][number]>(DONE, [who.id, kinds]);
  const days = await db.rows<{ day: string; times: number }>(
    `
      select to_char(d, 'YYYY-MM-DD') as day, (
        select count(*)::int
        from journal j
        where j.person_id = $1 and j.run_id is null and j.at >= d and j.at < d + interval '1 day'
      ) as times
      from generate_series(current_date - 13, current_date, interval '1 day') d
      order by d`,
    [who.id],
  );
  const touched = await db.one<{ assets: number }>(
    `
      select count(distinct subject_id)::int as assets
      from journal
      where person_id = $1 and run_id is null and at >= current_date - 6 and subject_kind = any($2::text[])`,
    [who.id, kinds],
  );
  const { counts } = await worklist(db, finder, who, { limit: 1 });
  return {
    from: days[7]?.day ?? '',
    to: days.at(-1)?.day ?? '',
    done,
    days,
    assets: touched?.assets ?? 0,
    waiting: Object.entries(counts).flatMap(([kind, items]) => (items > 0 ? [{ kind, items }] : [])),
    moved: await moved(db, who),
  };
}

/** Figures of the domains that somebody looks after, that are others than a week ago. */
async function moved(db: Db, who: Who): Promise<WeekAnswer['moved']> {
  const { days } = await daysKept(db, 8);
  const [first, last] = [days[0], days.at(-1)];
  const mine = who.domainsAs('steward');
  if (first === undefined || last === undefined || first === last || mine.length === 0) return [];
  const names = await db.rows<{ id: string; name: string }>('select id, name from domain where id = any($1::uuid[])', [
    mine,
  ]);
  const courses = courseOf(await allChanges(db, { domains: mine, days: [first, last] }, true), [first, last], 1);
  return names
    .flatMap(({ id, name }) => {
      const at = (figure: string) => courses.get(`${id} ${figure}`)?.map(([value]) => value ?? 0) ?? [0, 0];
      const [assetsBefore = 0, assets = 0] = at('assets');
      return MEASURES.flatMap((measure) => {
        const [before = 0, now = 0] = at(measure.key);
        const row = { key: measure.key, domain: name, measure: measure.label, before, now, assetsBefore, assets };
        return before === now ? [] : [{ ...row, filter: both(where('domain', name), measure.filter) }];
      });
    })
    .sort((a, b) => Math.abs(b.now - b.before) - Math.abs(a.now - a.before) || (a.domain < b.domain ? -1 : 1))
    .slice(0, MOST_MOVED);
}
