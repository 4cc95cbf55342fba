import type { Database, Db } from '../platform/database.ts';
import { CARRYING, COUNTING, guardProfiles, kindsNow, lockLevels, rulesJson, SHOWING } from './levels.ts';
import { levelsJson } from './registry.ts';
import { settleTravel } from './travel.ts';

/** What was touched, with what it was before. */
interface Moved {
  readonly id: string;
  readonly parentId: string | null;
  readonly sourceId: string;
  readonly domainId: string;
  readonly kind: string;
  readonly before: number | null;
  readonly after: number | null;
  readonly gone: boolean;
  readonly rose: boolean;
}
const MOVED = `returning a.id, a.parent_id as "parentId", a.source_id as "sourceId", a.domain_id as "domainId", a.kind, o.level as before, a.level as after, a.gone_at is not null as gone, o.rises is distinct from a.rises as rose`;

/** Classes that count, of the assets that `needed` lists; found by their own rows, whatever else there is. */
const COUNTED = `
  counted as (
    select n.id, k.class_key from needed n join carried k on k.asset_id = n.id where ${COUNTING}),
  of_class as (select id, max(($2::jsonb ->> class_key)::smallint) as level from counted group by 1)`;

/** Levels of single columns: from their classes, and in reports from what they show. Parameters: columns, levels by class. */
const OF_COLUMNS = `
  with recursive shows as (
    select t.id, e.from_id
    from asset t
    join asset h on h.id = t.parent_id and h.kind in ${SHOWING}
    join lineage_edge e on e.to_id = t.id and e.kind in ${CARRYING}
    where t.id = any($1::uuid[]) and t.gone_at is null
    union
    select s.id, e.from_id
    from shows s
    join asset f on f.id = s.from_id
    join asset h on h.id = f.parent_id and h.kind in ${SHOWING}
    join lineage_edge e on e.to_id = f.id and e.kind in ${CARRYING}
  ),
  needed as (select unnest($1::uuid[]) as id union select from_id from shows),
  ${COUNTED},
  of_shown as (
    select s.id, max(coalesce(f.level_set, l.level)) as level
    from shows s
    join asset f on f.id = s.from_id and f.gone_at is null
    left join of_class l on l.id = f.id
    group by 1
  ),
  wanted as (
    select a.id, greatest(l.level, s.level) as level
    from asset a
    left join of_class l on l.id = a.id
    left join of_shown s on s.id = a.id
    where a.id = any($1::uuid[])
  )
  update asset a
  set level_found = w.level, rises = coalesce(a.level_set, w.level)
  from wanted w
  join asset o on o.id = w.id
  where a.id = w.id
    and (a.level_found is distinct from w.level or a.rises is distinct from coalesce(a.level_set, w.level)) ${MOVED}`;

/** Levels of some holders, from what they hold directly and from rules. Parameters: holders, levels by class, rules, kinds that have a level. */
const OF_HOLDERS = `
  with columns as (
    select c.id, c.parent_id
    from asset c
    where c.parent_id = any($1::uuid[]) and c.kind = 'column' and c.gone_at is null
  ),
  needed as (select id from columns union select unnest($1::uuid[])),
  ${COUNTED},
  held as (
    select c.parent_id as id, array_agg(distinct k.class_key) as keys
    from counted k
    join columns c on c.id = k.id
    group by 1
  ),
  of_rule as (
    select h.id, max(r.level) as level
    from json_to_recordset($3::json) as r(level smallint, "classKeys" text[], kinds text[])
    join held h on h.keys @> r."classKeys"
    join asset t on t.id = h.id and (r.kinds is null or t.kind = any(r.kinds))
    group by 1
  ),
  below as (
    select c.parent_id as id, max(c.rises) as level
    from asset c
    where c.parent_id = any($1::uuid[]) and c.gone_at is null
    group by 1
  ),
  wanted as (
    select
      a.id, greatest(b.level, r.level) as rising,
      case when a.kind = any($4::text[]) then greatest(l.level, b.level, r.level) end as level
    from asset a
    left join below b on b.id = a.id
    left join of_rule r on r.id = a.id
    left join of_class l on l.id = a.id
    where a.id = any($1::uuid[])
  )
  update asset a
  set level_found = w.level, rises = coalesce(a.level_set, w.rising)
  from wanted w
  join asset o on o.id = w.id
  where a.id = w.id
    and (a.level_found is distinct from w.level or a.rises is distinct from coalesce(a.level_set, w.rising)) ${MOVED}`;

/**
 * Levels after something was said of single assets, or of edges: of these, of what classes travel to, of report columns that show them, and of what holds any of them, as far up as something changes. The same
 * as working the sources out whole; what it takes depends on what it touches.
 *
 * @param was levels that were changed by hand just now, as they were before
 */
export async function settleAround(
  tx: Db,
  assetIds: readonly string[],
  was: ReadonlyMap<string, number | null> = new Map(),
): Promise<void> {
  const moved = await settleTravel(tx);
  await settleThese(tx, [...new Set([...assetIds, ...moved])], was);
}

/** Levels that are still to be worked out, since what travels was changed by something that did not go on to levels: a source that is removed, a program at the database. */
export async function tendLevels(db: Database): Promise<void> {
  if (await db.one('select from travel_moved limit 1')) await db.transaction((tx) => settleAround(tx, []));
}

async function settleThese(
  tx: Db,
  assetIds: readonly string[],
  was: ReadonlyMap<string, number | null>,
): Promise<void> {
  if (assetIds.length === 0) return;
  const touched = await tx.rows<{ id: string; source: string; column: boolean; parent: string | null }>(
    `
      with recursive shown as (
        select unnest($1::uuid[]) as id
        union
        select e.to_id
        from shown s
        join lineage_edge e on e.from_id = s.id and e.kind in ${CARRYING}
        join asset t on t.id = e.to_id and t.gone_at is null
        join asset h on h.id = t.parent_id and h.kind in ${SHOWING}
      )
      select a.id, a.source_id as source, a.kind = 'column' as column, a.parent_id as parent
      from shown s
      join asset a on a.id = s.id`,
    [assetIds],
  );
  await lockLevels(
    tx,
    touched.map((asset) => asset.source),
  );
  const [levels, rules, kinds] = [await levelsJson(tx), await rulesJson(tx), await kindsNow(tx)];
  const columns = touched.filter((asset) => asset.column);
  const moved = columns.length > 0 ? await tx.rows<Moved>(OF_COLUMNS, [columns.map((asset) => asset.id), levels]) : [];
  // Classes alone can make a rule hold, though no column's level changes.
  let ring = touched.flatMap((asset) => (asset.column ? (asset.parent ?? []) : asset.id));
  while (ring.length > 0) {
    const risen: Moved[] = await tx.rows<Moved>(OF_HOLDERS, [[...new Set(ring)], levels, rules, kinds]);
    moved.push(...risen);
    ring = risen.flatMap((asset) => (asset.rose ? (asset.parentId ?? []) : []));
  }
  await guardProfiles(tx, 'a.id = any($1::uuid[])', [moved.map((asset) => asset.id)]);
  await countDay(
    tx,
    moved.map((asset) => (was.has(asset.id) ? { ...asset, before: was.get(asset.id) ?? null } : asset)),
  );
}

/** Today's row of the report of levels over time, by what has moved. A source without any day has none until it is worked out whole. */
async function countDay(tx: Db, moved: readonly Moved[]): Promise<void> {
  const steps = new Map<string, [source: string, domain: string, kind: string, level: number, by: number]>();
  for (const { sourceId, domainId, kind, before, after, gone } of moved)
    if (!gone && (before ?? 0) !== (after ?? 0))
      for (const [level, by] of [
        [before ?? 0, -1],
        [after ?? 0, 1],
      ] as const) {
        const key = [sourceId, domainId, kind, level].join(' ');
        steps.set(key, [sourceId, domainId, kind, level, (steps.get(key)?.[4] ?? 0) + by]);
      }
  const changes = [...steps.values()].filter(([, , , , by]) => by !== 0);
  for (const source of new Set(changes.map(([id]) => id))) {
    const mine = await tx.one<{ free: boolean }>(
      "select pg_try_advisory_xact_lock(hashtextextended('level_day ' || $1::text, 0)) as free",
      [source],
    );
    if (!mine?.free) continue;
    await tx.run(
      `insert into level_day (day, source_id, domain_id, kind, level, assets)
       select current_date, source_id, domain_id, kind, level, assets from level_day
       where source_id = $1 and day = (select max(day) from level_day where source_id = $1) and day < current_date`,
      [source],
    );
    for (const [id, domain, kind, level, by] of changes)
      if (id === source)
        await tx.run(
          `
            insert into level_day (day, source_id, domain_id, kind, level, assets)
            select current_date, $1, $2, $3, $4, greatest($5::int, 0)
            where exists (select from level_day where source_id = $1 and day = current_date)
            on conflict (source_id, day, domain_id, kind, level)
            do update set assets = greatest(level_day.assets + $5::int, 0)`,
          [id, domain, kind, level, by],
        );
  }
}
