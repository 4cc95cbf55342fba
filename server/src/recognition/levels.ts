import type { LevelPreview } from '@idrel/contract/recognition';
import { PATH } from '../catalog/index.ts';
import { isSeen } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { knownClasses, levelsJson } from './registry.ts';

/** From this level on no raw value of a column is kept. */
const GUARDED = 3;

/** Of what is carried (`carried k`) that which counts for levels: not what is still to settle. */
export const COUNTING = "k.via <> 'inside' and k.how <> 'to-settle'";

/** Reports and dashboards hold no values: their columns have the levels of the columns whose values they show. */
export const SHOWING = "('report', 'dashboard')";
/** Edges by which a value itself arrives, not only a count or a sum of it. */
export const CARRYING = "('copied', 'transformed')";

/** Levels of one source, and of those that show its values; only rows that differ are touched. */
export async function settleSource(tx: Db, sourceId: string, settled: ReadonlySet<string>): Promise<void> {
  const anything = await tx.one(
    `
      select 1 as yes
      where exists (select 1 from carried k join asset a on a.id = k.asset_id where a.source_id = $1)
        or exists (
          select 1
          from asset a
          where a.source_id = $1 and (a.level is not null or a.rises is not null or a.kind in ${SHOWING})
        )`,
    [sourceId],
  );
  if (!anything) return;
  await setLevels(tx, sourceId);
  await guardProfiles(tx, 'a.source_id = $1', [sourceId]);
  await keepDay(tx, sourceId);
  // What shows its values elsewhere follows.
  const shown = await tx.rows<{ id: string }>(
    `
      select distinct t.source_id as id
      from asset f
      join lineage_edge e on e.from_id = f.id and e.kind in ${CARRYING}
      join asset t on t.id = e.to_id
      join asset h on h.id = t.parent_id and h.kind in ${SHOWING}
      where f.source_id = $1 and t.source_id <> $1`,
    [sourceId],
  );
  const now = new Set([...settled, sourceId]);
  for (const { id } of shown) if (!now.has(id)) await settleSource(tx, id, now);
}

/** Whoever works levels of these sources out waits for the others: two who speak of columns of one table at once would each work the table out without what the other said. */
export async function lockLevels(tx: Db, sourceIds: Iterable<string>): Promise<void> {
  for (const id of [...new Set(sourceIds)].sort())
    await tx.rows("select pg_advisory_xact_lock(hashtextextended('levels ' || $1::text, 0))", [id]);
}

/**
 * What the source's assets are today, for the report of levels over time. Whoever finds somebody else at it leaves it to them: waiting for each other would be worse than
 * a day that lacks the last change, and today is counted live.
 */
async function keepDay(tx: Db, sourceId: string): Promise<void> {
  const mine = await tx.one<{ free: boolean }>(
    "select pg_try_advisory_xact_lock(hashtextextended('level_day ' || $1::text, 0)) as free",
    [sourceId],
  );
  if (!mine?.free) return;
  await tx.run('delete from level_day where source_id = $1 and day = current_date', [sourceId]);
  await tx.run(
    `
      insert into level_day (day, source_id, domain_id, kind, level, assets)
      select current_date, source_id, domain_id, kind, coalesce(level, 0), count(*)
      from asset
      where source_id = $1 and gone_at is null
      group by 2, 3, 4, 5`,
    [sourceId],
  );
}

/** Takes out of the profiles of guarded columns everything from which a value could be read; the same as `guardProfile` of core. */
export async function guardProfiles(tx: Db, which: string, bind: readonly unknown[]): Promise<void> {
  await tx.run(
    `
      update column_profile p
      set facts = p.facts || '{"guarded": true, "first": null, "last": null, "span": null, "quantiles": null, "frequent": [], "histogram": null}'
      from asset a
      where a.id = p.asset_id and ${which} and a.level >= ${GUARDED} and p.facts -> 'guarded' = 'false'`,
    bind,
  );
}

/** A combination of classes that raises what holds their columns. */
export interface RuleOfLevels {
  readonly level: number;
  readonly classKeys: readonly string[];
  /** Kinds of assets that it raises; null: all that have columns. */
  readonly kinds: readonly string[] | null;
}

/**
 * The levels that follow: a column's from its classes, or in a report from what it shows; a holder's from what it holds and from the rules all of whose classes it
 * carries, up to the top, as far as its kind is to have one. What somebody set by hand counts upwards in place of what was found. Parameters: levels by class (JSON),
 * rules (JSON), a source or null for all, kinds of holders.
 */
const WANTED = `
  recursive counted as (
    select a.id, a.parent_id, k.class_key
    from carried k
    join asset a on a.id = k.asset_id
    where ($3::uuid is null or a.source_id = $3) and ${COUNTING}),
  of_class as (select id, max(($1::jsonb ->> class_key)::smallint) as level from counted group by 1),
  shows as (
    select t.id, e.from_id from asset h join asset t on t.parent_id = h.id and t.gone_at is null join lineage_edge e on e.to_id = t.id and e.kind in ${CARRYING}
      where h.kind in ${SHOWING} and ($3::uuid is null or h.source_id = $3)
    union select s.id, e.from_id from shows s join asset f on f.id = s.from_id join asset h on h.id = f.parent_id and h.kind in ${SHOWING} join lineage_edge e on e.to_id = f.id and e.kind in ${CARRYING}),
  of_shown as (
    select s.id, max(coalesce(f.level_set, l.level, case when f.source_id <> $3 then f.level_found end)) as level from shows s join asset f on f.id = s.from_id and f.gone_at is null left join of_class l on l.id = f.id group by 1),
  of_column as (select id, greatest(l.level, s.level) as level from of_class l full join of_shown s using (id)),
  held as (select a.parent_id as id, array_agg(distinct k.class_key) as keys from counted k join asset a on a.id = k.id where a.kind = 'column' and a.gone_at is null and a.parent_id is not null group by 1),
  of_rule as (
    select h.id, max(r.level) as level from json_to_recordset($2::json) as r(level smallint, "classKeys" text[], kinds text[])
    join held h on h.keys @> r."classKeys" join asset t on t.id = h.id and (r.kinds is null or t.kind = any(r.kinds)) group by 1),
  rising as (
    select id, level from (
      select c.parent_id as id, max(coalesce(c.level_set, l.level)) as level from asset c left join of_column l on l.id = c.id
        where ($3::uuid is null or c.source_id = $3) and c.kind = 'column' and c.gone_at is null group by 1
      union all select id, level from of_rule
      union all select c.parent_id, c.level_set from asset c where ($3::uuid is null or c.source_id = $3) and c.kind <> 'column' and c.level_set is not null and c.gone_at is null) b
      where level is not null and id is not null
    union select h.parent_id, coalesce(h.level_set, r.level) from rising r join asset h on h.id = r.id where h.parent_id is not null and h.gone_at is null),
  of_holder as (select id, max(level) as level from rising group by 1),
  wanted as (
    select a.id, case when a.kind = 'column' then l.level when a.kind = any($4::text[]) then greatest(l.level, h.level) end as level,
      coalesce(a.level_set, case when a.kind = 'column' then l.level else h.level end) as rises
    from asset a left join of_column l on l.id = a.id left join of_holder h on h.id = a.id where $3::uuid is null or a.source_id = $3)`;

export const kindsNow = async (db: Db): Promise<readonly string[]> =>
  (await db.one<{ kinds: string[] }>('select kinds from level_kinds'))?.kinds ?? [];
export const rulesJson = async (db: Db): Promise<string> =>
  JSON.stringify(await db.rows<RuleOfLevels>('select level, class_keys as "classKeys", kinds from level_rule'));

async function setLevels(tx: Db, sourceId: string): Promise<void> {
  await tx.run(
    `
      with ${WANTED}
      update asset a
      set level_found = w.level, rises = w.rises
      from wanted w
      where w.id = a.id and (a.level_found is distinct from w.level or a.rises is distinct from w.rises)`,
    [await levelsJson(tx), await rulesJson(tx), sourceId, await kindsNow(tx)],
  );
}

/** What would be other than it is: rules, levels of classes, kinds of holders. */
export interface OtherLevels {
  readonly rules?: readonly RuleOfLevels[];
  readonly classes?: Readonly<Record<string, number>>;
  readonly kinds?: readonly string[];
}

/** What other rules, levels of classes or kinds would change: how many assets, and those of the domains that are named first. */
export async function previewLevels(
  db: Db,
  { rules, classes, kinds }: OtherLevels,
  domains: readonly string[],
): Promise<LevelPreview> {
  const levels = { ...(JSON.parse(await levelsJson(db)) as Record<string, number>), ...classes };
  const changing = `
    with ${WANTED},
    changing as (
      select a.id, a.level as before, coalesce(a.level_set, w.level) as after
      from asset a
      join wanted w on w.id = a.id
      where a.gone_at is null and a.level is distinct from coalesce(a.level_set, w.level)
    )`;
  const bind = [
    JSON.stringify(levels),
    rules ? JSON.stringify(rules) : await rulesJson(db),
    null,
    kinds ?? (await kindsNow(db)),
  ];
  const counts = await db.rows<{ before: number | null; after: number | null; n: number }>(
    `${changing} select before, after, count(*)::int as n from changing group by 1, 2 order by 2 desc nulls last, 1`,
    bind,
  );
  const shown = await db.rows<LevelPreview['shown'][number]>(
    `${changing} select c.id, a.kind, ${PATH} as path, s.name as source, c.before, c.after from changing c join asset a on a.id = c.id join source s on s.id = a.source_id where ${isSeen('a', '$5')}
     order by c.after desc nulls last, s.name, a.key limit 200`,
    [...bind, domains],
  );
  return {
    total: counts.reduce((sum, row) => sum + row.n, 0),
    counts: counts.map(({ before, after, n }) => ({ before, after, count: n })),
    shown,
  };
}

const FEW = 4;
const fewOf = (names: readonly string[]) =>
  `${names.slice(0, FEW).join(', ')}${names.length > FEW ? ` and ${names.length - FEW} more` : ''}`;

/** Why an asset has the level that was found: its classes, a rule, what it holds, or the columns that it shows. */
export async function levelReasons(db: Db, assetId: string, domains: readonly string[]): Promise<string[]> {
  const asset = await db.one<{ kind: string; level: number | null }>(
    'select kind, level_found as level from asset where id = $1',
    [assetId],
  );
  if (!asset?.level) return [];
  const own = await db.rows<{ key: string; came: boolean }>(
    `select k.class_key as key, k.via = 'lineage' as came from carried k where k.asset_id = $1 and ${COUNTING}`,
    [assetId],
  );
  const classes = await knownClasses(db);
  const reasons = own.flatMap(({ key, came }) => {
    const { level, label } = classes.get(key) ?? {};
    if (level !== asset.level) return [];
    return [came ? `${label} came along lineage` : `it holds: ${label}`];
  });
  const shown = await db.rows<{ path: string }>(
    `
      select distinct ${PATH} as path
      from lineage_edge e
      join asset a on a.id = e.from_id
      join source s on s.id = a.source_id
      where e.to_id = $1 and e.kind in ${CARRYING} and a.gone_at is null and a.level = $2 and ${isSeen('a', '$3')}
      order by 1`,
    [assetId, asset.level, domains],
  );
  if (shown.length > 0) reasons.push(`it shows ${fewOf(shown.map((column) => column.path))}`);
  const held = await db.rows<{ name: string }>(
    'select name from asset where parent_id = $1 and gone_at is null and level = $2 order by position, name',
    [assetId, asset.level],
  );
  if (held.length > 0) reasons.push(`of ${fewOf(held.map((part) => part.name))}`);
  const carried = (
    await db.rows<{ key: string }>(
      "select distinct k.class_key as key from carried k where k.asset_id = $1 and k.via = 'inside' and k.how <> 'to-settle'",
      [assetId],
    )
  ).map(({ key }) => key);
  const rules = await db.rows<RuleOfLevels & { name: string }>(
    'select name, level, class_keys as "classKeys", kinds from level_rule where level = $1 order by name',
    [asset.level],
  );
  for (const rule of rules)
    if (
      rule.classKeys.every((key) => carried.includes(key)) &&
      (rule.kinds === null || rule.kinds.includes(asset.kind))
    )
      reasons.push(`by the rule “${rule.name}”`);
  return reasons;
}
