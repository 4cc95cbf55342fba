import type { LevelPreview } from '@idrel/contract/recognition';
import { PATH } from '../catalog/index.ts';
import type { Db } from '../platform/database.ts';
import { knownClasses, levelsJson } from './registry.ts';

/** From this level on no raw value of a column is kept. */
const GUARDED = 3;

/**
 * Classes that count for a column: what people confirmed, and what a detector is certain of unless people dismissed it.
 * A finding that is still to settle does not raise a level.
 */
const COUNTING = `(d.decision = 'confirmed' or (d.decision is null and f.state = 'certain'))`;

/** Sets the levels that follow from classes, for columns and for what holds them; only rows that differ are touched. */
export async function settleLevels(tx: Db, sourceId: string): Promise<void> {
  const anything = await tx.one(
    `select 1 as yes where exists (select 1 from finding f join asset a on a.id = f.asset_id where a.source_id = $1) or exists (select 1 from finding_decision d join asset a on a.id = d.asset_id where a.source_id = $1)
       or exists (select 1 from asset a where a.source_id = $1 and a.level is not null)`,
    [sourceId],
  );
  if (!anything) return;
  await setLevels(tx, sourceId);
  await guardProfiles(tx, sourceId);
}

/** Takes out of the profiles of guarded columns everything from which a value could be read; the same as `guardProfile` of core. */
async function guardProfiles(tx: Db, sourceId: string): Promise<void> {
  await tx.run(
    `update column_profile p set facts = p.facts || '{"guarded": true, "first": null, "last": null, "span": null, "quantiles": null, "frequent": [], "histogram": null}'
     from asset a where a.id = p.asset_id and a.source_id = $1 and a.level >= ${GUARDED} and p.facts -> 'guarded' = 'false'`,
    [sourceId],
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
 * The levels that follow: a column's from its classes, a holder's from its columns and from the rules all of whose classes it carries. Parameters: levels by class
 * (JSON), rules (JSON), a source or null for all.
 */
const WANTED = `
  carried as (
    select a.id, a.parent_id, k.class_key from asset a
    join (select asset_id, class_key from finding union select asset_id, class_key from finding_decision) k on k.asset_id = a.id
    left join finding f on f.asset_id = a.id and f.class_key = k.class_key
    left join finding_decision d on d.asset_id = a.id and d.class_key = k.class_key
    where ($3::uuid is null or a.source_id = $3) and ${COUNTING}),
  of_column as (select id, max(($1::jsonb ->> class_key)::smallint) as level from carried group by 1),
  of_holder as (
    select c.parent_id as id, max(coalesce(c.level_set, l.level)) as level from asset c left join of_column l on l.id = c.id
    where ($3::uuid is null or c.source_id = $3) and c.kind = 'column' and c.gone_at is null group by 1),
  held as (select a.parent_id as id, array_agg(distinct k.class_key) as keys from carried k join asset a on a.id = k.id where a.kind = 'column' and a.gone_at is null and a.parent_id is not null group by 1),
  of_rule as (
    select h.id, max(r.level) as level from json_to_recordset($2::json) as r(level smallint, "classKeys" text[], kinds text[])
    join held h on h.keys @> r."classKeys" join asset t on t.id = h.id and (r.kinds is null or t.kind = any(r.kinds)) group by 1),
  wanted as (
    select a.id, greatest(coalesce(l.level, h.level), r.level) as level from asset a left join of_column l on l.id = a.id left join of_holder h on h.id = a.id left join of_rule r on r.id = a.id
    where $3::uuid is null or a.source_id = $3)`;

const rulesJson = async (db: Db): Promise<string> => JSON.stringify(await db.rows<RuleOfLevels>('select level, class_keys as "classKeys", kinds from level_rule'));

async function setLevels(tx: Db, sourceId: string): Promise<void> {
  await tx.run(`with ${WANTED} update asset a set level_found = w.level from wanted w where w.id = a.id and a.level_found is distinct from w.level`, [
    await levelsJson(tx),
    await rulesJson(tx),
    sourceId,
  ]);
}

/** Levels of all sources, after rules or classes have changed. */
export async function settleAllLevels(tx: Db): Promise<void> {
  for (const { id } of await tx.rows<{ id: string }>('select id from source')) await settleLevels(tx, id);
}

/** What other rules, and other levels of classes, would change: how many assets, and those of the domains that are named first. */
export async function previewLevels(db: Db, rules: readonly RuleOfLevels[], classes: Readonly<Record<string, number>>, domains: readonly string[]): Promise<LevelPreview> {
  const levels = { ...(JSON.parse(await levelsJson(db)) as Record<string, number>), ...classes };
  const changing = `with ${WANTED}, changing as (select a.id, a.level as before, coalesce(a.level_set, w.level) as after from asset a join wanted w on w.id = a.id where a.gone_at is null and a.level is distinct from coalesce(a.level_set, w.level))`;
  const bind = [JSON.stringify(levels), JSON.stringify(rules), null];
  const counts = await db.rows<{ before: number | null; after: number | null; n: number }>(
    `${changing} select before, after, count(*)::int as n from changing group by 1, 2 order by 2 desc nulls last, 1`,
    bind,
  );
  const shown = await db.rows<LevelPreview['shown'][number]>(
    `${changing} select c.id, a.kind, ${PATH} as path, s.name as source, c.before, c.after from changing c join asset a on a.id = c.id join source s on s.id = a.source_id where a.domain_id = any($4::uuid[])
     order by c.after desc nulls last, s.name, a.key limit 200`,
    [...bind, domains],
  );
  return { total: counts.reduce((sum, row) => sum + row.n, 0), counts: counts.map(({ before, after, n }) => ({ before, after, count: n })), shown };
}

/** Why an asset has the level that was found: its classes, a rule, or the columns that it holds. */
export async function levelReasons(db: Db, assetId: string): Promise<string[]> {
  const asset = await db.one<{ kind: string; level: number | null }>('select kind, level_found as level from asset where id = $1', [assetId]);
  if (!asset?.level) return [];
  const own = await db.rows<{ key: string }>(
    `select k.class_key as key from (select class_key from finding where asset_id = $1 union select class_key from finding_decision where asset_id = $1) k
     left join finding f on f.asset_id = $1 and f.class_key = k.class_key left join finding_decision d on d.asset_id = $1 and d.class_key = k.class_key where ${COUNTING}`,
    [assetId],
  );
  const classes = await knownClasses(db);
  const reasons = own.flatMap(({ key }) => (classes.get(key)?.level === asset.level ? [`it holds: ${classes.get(key)?.label}`] : []));
  const columns = await db.rows<{ name: string }>("select name from asset where parent_id = $1 and kind = 'column' and gone_at is null and level = $2 order by position", [assetId, asset.level]);
  if (columns.length > 0)
    reasons.push(
      `of ${columns
        .slice(0, 4)
        .map((column) => column.name)
        .join(', ')}${columns.length > 4 ? ` and ${columns.length - 4} more columns` : ''}`,
    );
  const carried = (
    await db.rows<{ key: string }>(
      `select distinct k.class_key as key from asset a join (select asset_id, class_key from finding union select asset_id, class_key from finding_decision) k on k.asset_id = a.id
    left join finding f on f.asset_id = a.id and f.class_key = k.class_key left join finding_decision d on d.asset_id = a.id and d.class_key = k.class_key where a.parent_id = $1 and a.kind = 'column' and a.gone_at is null and ${COUNTING}`,
      [assetId],
    )
  ).map(({ key }) => key);
  const rules = await db.rows<RuleOfLevels & { name: string }>('select name, level, class_keys as "classKeys", kinds from level_rule where level = $1 order by name', [asset.level]);
  for (const rule of rules) if (rule.classKeys.every((key) => carried.includes(key)) && (rule.kinds === null || rule.kinds.includes(asset.kind))) reasons.push(`by the rule “${rule.name}”`);
  return reasons;
}
