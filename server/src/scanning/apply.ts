import type { RunComparison } from '@idrel/contract/scanning';
import type { RunChange } from '@idrel/core/scanning';
import type { RunReading } from '@idrel/readers/scans';
import type { Tx } from '../platform/database.ts';
import { newId } from '../platform/ids.ts';
import { follow } from '../platform/jobs.ts';
import { settleLevels } from '../recognition/index.ts';
import { inBatches } from './batches.ts';
import { storeBreaking } from './breaking.ts';
import {
  type Changes,
  compareUnits,
  type KnownAsset,
  type KnownHolder,
  shownPath,
  sortUnits,
  toComparison,
  toUnits,
} from './compare.ts';
import { findRenames } from './renames.ts';
import { storeFindings } from './storeFindings.ts';
import { storeFlows } from './storeFlows.ts';
import { storeProfiles } from './storeProfiles.ts';
import { storeQueries } from './storeQueries.ts';
import { storeRights } from './storeRights.ts';
import { insertAssets, rewriteAssets, writeMarks } from './write.ts';

/** Everything that one run read, and what it was asked to read. */
export interface RunResult
  extends Pick<RunReading, 'structure' | 'findings' | 'sampled' | 'profiles' | 'flows'>,
    Partial<Pick<RunReading, 'queries' | 'rights'>> {
  /** Whether a key was in the scope of the run: what was not asked for is not gone. */
  readonly covers: (key: string) => boolean;
}

/** The source as writing needs it. */
export interface WrittenSource {
  readonly id: string;
  readonly domainId: string;
  readonly address: Record<string, unknown>;
}

/**
 * Writes a run into the catalog, all of it or nothing (the caller's transaction). What people said is in columns and tables that this
 * does not touch; what the source no longer has is marked as gone and keeps everything.
 */
export async function applyRun(
  tx: Tx,
  source: WrittenSource,
  runId: string,
  result: RunResult,
): Promise<RunComparison> {
  await tx.rows("select set_config('work_mem', '64MB', true)"); // sets of tens of thousands of rows stay in memory
  const before = await tx.rows<KnownHolder>(
    `
      select
        id, key, kind, print, gone_at is not null as gone,
        case
          when mark_structure is not null
          then json_build_object('structure', mark_structure, 'data', coalesce(mark_data, ''))
        end as mark
      from asset
      where source_id = $1 and kind <> 'column'`,
    [source.id],
  );
  const { structure } = result;
  const units = toUnits(structure.assets);
  const sorted = sortUnits(before, units, result.covers, structure.unchanged);
  const ids = new Map(before.map((holder) => [holder.key, holder.id]));
  const known = await load(tx, [
    ...sorted.differing.map((entry) => entry.known.id),
    ...sorted.gone.map((holder) => holder.id),
  ]);
  for (const asset of known.values()) ids.set(asset.key, asset.id);
  const changes = compareUnits(
    sorted.differing.map((entry) => entry.unit),
    known,
  );
  // Columns by name: ids and names grow together, and each index is written at its end.
  const fresh = [...sorted.fresh.flatMap((unit) => [unit.holder, ...[...unit.columns].sort(byName)]), ...changes.fresh];
  for (const asset of fresh) ids.set(asset.key, newId());
  const unitOf = new Map(units.map((unit) => [unit.holder.key, unit]));

  await insertAssets(tx, source, fresh, result, unitOf, ids);
  await settleFresh(tx, source.id, fresh, ids);
  await rewriteAssets(tx, changes.rewrite, unitOf, ids);
  await inBatches(
    changes.gone,
    (asset) => asset.id,
    (batch) => tx.run('update asset set gone_at = now() where id = any($1::uuid[])', [batch]),
  );
  await writeMarks(tx, sorted, result);
  await storeFindings(tx, runId, result.findings, ids);
  await storeProfiles(tx, runId, result.profiles, ids);
  await storeQueries(tx, source.id, runId, result.queries ?? [], ids);
  if (result.rights) await storeRights(tx, source.id, result.rights, result.covers, ids);
  await storeBreaking(tx, runId, changes, ids);
  await storeFlows(tx, source, result, ids);
  await settleLevels(tx, source.id);
  const renames = await findRenames(tx, { fresh }, changes.gone, (key) =>
    (result.findings.get(key) ?? []).map((finding) => finding.classKey),
  );
  const first = before.length === 0;
  if (!first) await storeChanges(tx, runId, { ...changes, fresh }, ids);
  await follow(tx, 'priority', 'broken');
  return toComparison({ ...changes, fresh }, renames, ids, first);
}

/** What is new lies in the domain of what holds it, where somebody chose one for that, and is seen by what lets that be seen. */
async function settleFresh(
  tx: Tx,
  sourceId: string,
  fresh: readonly { readonly key: string }[],
  ids: ReadonlyMap<string, string>,
): Promise<void> {
  if (
    !(await tx.one(
      'select from asset where source_id = $1 and (domain_set is not null or opened_id is not null) limit 1',
      [sourceId],
    ))
  )
    return;
  await inBatches(
    fresh,
    ({ key }) => ids.get(key),
    (batch) => tx.run('select settle_domains($1::uuid[])', [batch]),
  );
}

/** Keeps all that the run found different; the comparison that is shown is cut. */
async function storeChanges(
  tx: Tx,
  runId: string,
  { fresh, changed, gone, back }: Omit<Changes, 'rewrite'>,
  ids: ReadonlyMap<string, string>,
): Promise<void> {
  const row = (change: RunChange['change'], asset: { key: string; kind: string }, what: readonly string[] = []) => ({
    id: ids.get(asset.key),
    path: shownPath(asset.key),
    kind: asset.kind,
    change,
    what,
  });
  const rows = [
    ...fresh.map((asset) => row('new', asset)),
    ...changed.map((entry) => row('changed', entry.found, entry.what)),
    ...back.map((entry) => row('back', entry.found, entry.what)),
    ...gone.map((asset) => ({ ...row('gone', asset), id: asset.id })),
  ];
  await inBatches(
    rows,
    (entry) => entry,
    (batch) =>
      tx.run(
        `
          insert into run_change (run_id, asset_id, path, kind, change, what)
          select $1, r.id, r.path, r.kind, r.change, array(select jsonb_array_elements_text(r.what))
          from json_to_recordset($2::json) as r(id uuid, path text, kind text, change text, what jsonb)`,
        [runId, JSON.stringify(batch)],
      ),
  );
}

const byName = (a: { readonly name: string }, b: { readonly name: string }) => (a.name < b.name ? -1 : 1);

/** What is known of these holders and of their columns, by key. */
async function load(tx: Tx, holders: readonly string[]): Promise<Map<string, KnownAsset>> {
  const known = new Map<string, KnownAsset>();
  const facts =
    'id, key, kind, native, stats, native_comment as comment, description, position, gone_at is not null as gone';
  await inBatches(
    holders,
    (id) => id,
    async (batch) => {
      const rows = await tx.rows<KnownAsset>(
        `
          select ${facts}
          from asset
          where id = any($1::uuid[])
          union all
          select ${facts}
          from asset
          where parent_id = any($1::uuid[]) and kind = 'column'`,
        [batch],
      );
      for (const row of rows) known.set(row.key, row);
    },
  );
  return known;
}
