import type { RunComparison } from '@idrel/contract/scanning';
import type { AssetKind } from '@idrel/contract/things';
import type { Finding } from '@idrel/core/recognition';
import { type FoundAsset, type FoundFlow, keyOf, type Structure } from '@idrel/readers/connectors';
import type { Database } from '../src/platform/database.ts';
import { applyRun } from '../src/scanning/index.ts';

/** A source as a scan finds it: which tables there are, and each column's type. */
export type World = Record<string, Record<string, string>>;

export function toStructure(world: World): Structure {
  const asset = (names: string[], kind: AssetKind, native: object): FoundAsset => ({
    key: keyOf('db', ...names),
    parentKey: names.length === 0 ? null : keyOf('db', ...names.slice(0, -1)),
    kind,
    name: names.at(-1) ?? 'db',
    depth: names.length,
    position: 0,
    comment: null,
    native: native as Record<string, unknown>,
    stats: { rows: Math.round(Math.random() * 100) },
  });
  const assets = [asset([], 'database', {}), asset(['s'], 'schema', {})];
  for (const [table, columns] of Object.entries(world)) {
    assets.push(asset(['s', table], 'table', {}));
    for (const [column, type] of Object.entries(columns)) assets.push(asset(['s', table, column], 'column', { type }));
  }
  return { assets, sampleable: [] };
}

/** Writes what a scan of a source that looks so would write. */
export const scanWorld = (
  db: Database,
  { sourceId, domainId }: { sourceId: string; domainId: string },
  world: World,
  findings: ReadonlyMap<string, Finding[]> = new Map(),
  flows: readonly FoundFlow[] = [],
): Promise<RunComparison & { readonly runId: string }> =>
  db.transaction(async (tx) => {
    const run = await tx.one<{ id: string }>(
      "insert into scan_run (source_id, state, ended_at) values ($1, 'done', now()) returning id",
      [sourceId],
    );
    const runId = run?.id ?? '';
    const comparison = await applyRun(tx, { id: sourceId, domainId, address: { database: 'db' } }, runId, {
      structure: toStructure(world),
      findings,
      sampled: new Map(),
      profiles: new Map(),
      flows,
      covers: () => true,
    });
    await tx.run('update scan_run set comparison = $2 where id = $1', [runId, JSON.stringify(comparison)]);
    return { ...comparison, runId };
  });
