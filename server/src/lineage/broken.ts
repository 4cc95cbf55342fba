import type { BrokenThing } from '@idrel/contract/worklist';
import { getAsset, IS_MINE, PATH, PRIORITY, pathOf, REACHED_BEHIND } from '../catalog/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { seenIn } from './around.ts';

/** What stopped to be written longer ago is no news. */
const DAYS = 60;
/** So far upstream a report is looked at for what retires. */
const RINGS = 20;

/** All that is broken now: which asset, in what way, by what. */
const BROKEN = `
  with recursive gone as (
    select a.id, case when h.gone_at is not null then h.id else a.id end as told
    from asset a
    left join asset h on h.id = a.parent_id and a.kind = 'column'
    where a.gone_at is not null
  ),
  naming as (
    select ${seenIn('t')} as asset_id, g.told
    from gone g
    join (
      select from_id, to_id from lineage_edge where not wrong
      union all
      select from_id, to_id from lineage_influence
    ) e on e.from_id = g.id
    join asset t on t.id = e.to_id and t.gone_at is null
  ),
  stopped as (
    select ${seenIn('t')} as asset_id, x.flow_id, x.until
    from ended_edge x
    join asset t on t.id = x.to_id and t.gone_at is null
    where x.until > now() - interval '${DAYS} days' and x.origin in ('routine', 'script', 'run event', 'pushed')
  ),
  retiring(id, root, steps) as (
    select a.id, a.id, 0
    from asset a
    where a.standing = 'retiring' and a.gone_at is null and a.kind <> 'column'
    union
    select f.to_id, r.root, r.steps + 1
    from retiring r
    join lineage_feed f on f.from_id = r.id
    where r.steps < ${RINGS}
  ),
  found as (
    select n.asset_id, 'names what is gone' as what, n.told as cause, (select gone_at from asset where id = n.told) as since
    from naming n
    union all
    select s.asset_id, 'is written no more', nullif(s.flow_id, s.asset_id), s.until
    from stopped s
    where not exists (select from lineage_feed f where f.to_id = s.asset_id)
    union all
    select r.id, 'is made from what retires', r.root, coalesce((select t.at from retirement t where t.asset_id = r.root), now())
    from retiring r
    join asset a on a.id = r.id and a.kind in ('report', 'dashboard') and a.gone_at is null and a.standing <> 'retiring'
    where r.steps > 0
  )
  select f.asset_id, f.what, coalesce(array_agg(distinct f.cause order by f.cause) filter (where f.cause is not null), '{}') as causes, max(f.since) as since
  from found f
  join asset a on a.id = f.asset_id and a.gone_at is null
  group by f.asset_id, f.what`;

/** Looks for what is broken, and writes what is different from before. @returns how much is broken */
export async function settleBroken(tx: Db): Promise<number> {
  await tx.run(`create temp table broken_now on commit drop as ${BROKEN}`);
  await tx.run(
    'delete from broken b where not exists (select from broken_now n where n.asset_id = b.asset_id and n.what = b.what)',
  );
  await tx.run(
    `
      insert into broken (asset_id, what, causes, since)
      select n.asset_id, n.what, n.causes, n.since
      from broken_now n
      on conflict (asset_id, what) do update set causes = excluded.causes, since = excluded.since
        where broken.causes <> excluded.causes`,
  );
  return (await tx.one<{ count: number }>('select count(*)::int from broken'))?.count ?? 0;
}

/** What is broken of a person's, or upstream of what is theirs; what they noted with the same causes is not told again. */
export const brokenThings = (db: Db, who: Who): Promise<BrokenThing[]> =>
  db.rows<BrokenThing>(
    `
      with recursive roots as (
        select b.asset_id as id, b.what, b.causes, b.since
        from broken b
        join asset a on a.id = b.asset_id and a.gone_at is null
        where ${isSeen('a', '$3')}
          and not exists (
            select from broken_seen v
            where v.asset_id = b.asset_id and v.what = b.what and v.causes = b.causes and v.person_id = $1
          )
      ),
      ${REACHED_BEHIND('select f.from_id as root, f.to_id as id from roots r join lineage_feed f on f.from_id = r.id')}
      select
        a.id, a.kind, ${PATH} as path, s.name as source, b.what, b.since, b.causes as sign, ${PRIORITY} as priority,
        coalesce(
          (
            select json_agg(json_build_object('id', c.id, 'kind', c.kind, 'path', ${pathOf('c', 'cs')}) order by c.key)
            from asset c
            join source cs on cs.id = c.source_id
            where c.id = any(b.causes) and ${isSeen('c', '$3')}
          ),
          '[]'
        ) as causes,
        coalesce((select t.told from told_behind t where t.root = a.id), '[]') as reached
      from roots b
      join asset a on a.id = b.id
      join source s on s.id = a.source_id
      where ${IS_MINE('a')} or exists (select from reached r where r.root = a.id and r.mine)
      order by ${PRIORITY} desc, b.since desc, a.key
      limit 50`,
    [who.id, who.domainsAs('steward'), who.domainsAs('reader')],
  );

/** Takes what is broken off a person's worklist, or puts it back; with other causes it comes again. */
export async function seeBroken(
  db: Db,
  who: Who,
  assetId: string,
  { what, sign, seen }: { what: string; sign: readonly string[]; seen: boolean },
): Promise<void> {
  await getAsset(db, who, assetId);
  if (seen)
    await db.run(
      `
        insert into broken_seen (asset_id, what, causes, person_id) values ($1, $2, $3::uuid[], $4)
        on conflict (asset_id, what, person_id) do update set causes = excluded.causes`,
      [assetId, what, sign, who.id],
    );
  else
    await db.run('delete from broken_seen where asset_id = $1 and what = $2 and person_id = $3', [
      assetId,
      what,
      who.id,
    ]);
}
