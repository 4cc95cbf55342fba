import { randomUUID } from 'node:crypto';
import type { RunComparison } from '@idrel/contract/scanning';
import { searchWords } from '@idrel/core/catalog';
import type { Finding } from '@idrel/core/recognition';
import type { FoundAsset, FoundFlow, FoundLink, Structure } from '../connectors/index.ts';
import type { Db } from '../platform/database.ts';
import { settleLevels } from '../recognition/levels.ts';
import { type KnownAsset, sortFound, toComparison } from './compare.ts';
import { storeFlows } from './storeFlows.ts';

/** Everything that one run read, kept in memory until it is written as a whole. */
export interface RunResult {
  readonly structure: Structure;
  /** Findings per column that was sampled; a column that was not sampled keeps what it had. */
  readonly findings: ReadonlyMap<string, readonly Finding[]>;
  readonly flows: readonly FoundFlow[];
  readonly links: readonly FoundLink[];
}

const BATCH = 5000;

async function inBatches<T>(items: readonly T[], work: (batch: readonly T[]) => Promise<unknown>): Promise<void> {
  for (let from = 0; from < items.length; from += BATCH) await work(items.slice(from, from + BATCH));
}

interface Written {
  id: string;
  parent: string | null;
  kind: string;
  name: string;
  key: string;
  depth: number;
  position: number;
  native: unknown;
  stats: unknown;
  comment: string | null;
  names: string;
  texts: string;
}

/** Names of columns repeat over and over: their words are made once. */
const nameCache = new Map<string, ReturnType<typeof searchWords>>();
function wordsOf(name: string, texts: readonly (string | null | undefined)[]): ReturnType<typeof searchWords> {
  if (texts.some(Boolean)) return searchWords([name], texts);
  const cached = nameCache.get(name) ?? searchWords([name], []);
  if (nameCache.size < 50_000) nameCache.set(name, cached);
  return cached;
}

function toWrite(found: FoundAsset, ids: ReadonlyMap<string, string>, columnNames: ReadonlyMap<string, string[]>, known?: KnownAsset): Written {
  // A table is found by the names of its columns as well; those count less than its own.
  const words = wordsOf(found.name, [known?.description, found.comment, ...(columnNames.get(found.key) ?? [])]);
  return {
    id: ids.get(found.key) ?? '',
    parent: found.parentKey === null ? null : (ids.get(found.parentKey) ?? null),
    kind: found.kind,
    name: found.name,
    key: found.key,
    depth: found.depth,
    position: found.position,
    native: found.native,
    stats: found.stats,
    comment: found.comment,
    names: words.names.join(' '),
    texts: words.texts.join(' '),
  };
}

const RECORDS = `json_to_recordset($1::json) as r(id uuid, parent uuid, kind text, name text, key text, depth smallint, "position" integer, native jsonb, stats jsonb, comment text, names text, texts text)`;
export const WORDS = (names: string, texts: string) =>
  `setweight(array_to_tsvector(array_remove(string_to_array(${names}, ' '), '')), 'A') || setweight(array_to_tsvector(array_remove(string_to_array(${texts}, ' '), '')), 'C')`;

/**
 * Writes a run into the catalog, all of it or nothing (the caller's transaction). What people said is in columns and tables that this
 * does not touch; what the source no longer has is marked as gone and keeps everything.
 */
export async function applyRun(tx: Db, source: { id: string; domainId: string; address: Record<string, unknown> }, runId: string, result: RunResult): Promise<RunComparison> {
  const before = await tx.rows<KnownAsset>('select id, key, kind, native, stats, native_comment as comment, description, position, gone_at is not null as gone from asset where source_id = $1', [
    source.id,
  ]);
  const known = new Map(before.map((asset) => [asset.key, asset]));
  const { assets } = result.structure;
  const sorted = sortFound(known, assets);
  const ids = new Map(before.map((asset) => [asset.key, asset.id]));
  for (const asset of sorted.fresh) ids.set(asset.key, randomUUID());

  const columnNames = new Map<string, string[]>();
  for (const asset of assets)
    if (asset.kind === 'column' && asset.parentKey !== null) {
      const names = columnNames.get(asset.parentKey);
      if (names) names.push(asset.name);
      else columnNames.set(asset.parentKey, [asset.name]);
    }
  const touchedParents = new Set([...sorted.fresh, ...sorted.back.map((entry) => entry.found)].map((asset) => asset.parentKey));
  for (const asset of sorted.gone) touchedParents.add(asset.key.slice(0, asset.key.lastIndexOf('\u001f')));

  await inBatches(
    sorted.fresh.map((found) => toWrite(found, ids, columnNames)),
    (batch) =>
      tx.run(
        `insert into asset (id, source_id, parent_id, domain_id, kind, name, key, depth, position, native, stats, native_comment, words)
     select r.id, $2, r.parent, $3, r.kind, r.name, r.key, r.depth, r."position", r.native, r.stats, r.comment, ${WORDS('r.names', 'r.texts')} from ${RECORDS}`,
        [JSON.stringify(batch), source.id, source.domainId],
      ),
  );
  const byKey = new Map(assets.map((asset) => [asset.key, asset]));
  const rewritten = new Map([...sorted.changed, ...sorted.back, ...sorted.refreshed].map((entry) => [entry.found.key, entry]));
  for (const key of touchedParents) {
    const [found, was] = [byKey.get(key ?? ''), known.get(key ?? '')];
    if (found && was && !rewritten.has(found.key)) rewritten.set(found.key, { known: was, found });
  }
  await inBatches(
    [...rewritten.values()].map((entry) => toWrite(entry.found, ids, columnNames, entry.known)),
    (batch) =>
      tx.run(
        `update asset a set kind = r.kind, name = r.name, position = r."position", native = r.native, stats = r.stats, native_comment = r.comment, words = ${WORDS('r.names', 'r.texts')}, last_seen = now(), gone_at = null
     from ${RECORDS} where a.id = r.id`,
        [JSON.stringify(batch)],
      ),
  );
  await inBatches(
    sorted.gone.map((asset) => asset.id),
    (batch) => tx.run('update asset set gone_at = now() where id = any($1::uuid[])', [batch]),
  );

  await storeFindings(tx, runId, result.findings, ids);
  await storeFlows(tx, source, result, ids);
  await settleLevels(tx, source.id);
  return toComparison(sorted, ids, before.length === 0);
}

async function storeFindings(tx: Db, runId: string, findings: RunResult['findings'], ids: ReadonlyMap<string, string>): Promise<void> {
  await inBatches(
    [...findings.keys()].flatMap((key) => ids.get(key) ?? []),
    (batch) => tx.run('delete from finding where asset_id = any($1::uuid[])', [batch]),
  );
  const rows = [...findings].flatMap(([key, list]) =>
    list.map((finding) => ({
      asset: ids.get(key),
      class_key: finding.classKey,
      detector: finding.detector,
      version: finding.version,
      share: finding.share,
      matched: finding.matched,
      sampled: finding.sampled,
      distinct_values: finding.distinct,
      confidence: finding.confidence,
      state: finding.state,
      evidence: { name: finding.name, terms: finding.terms, examples: finding.examples, ...(finding.inside ? { inside: finding.inside } : {}) },
    })),
  );
  await inBatches(rows, (batch) =>
    tx.run(
      `insert into finding (asset_id, class_key, detector, detector_version, share, matched, sampled, distinct_values, confidence, state, evidence, run_id)
     select r.asset, r.class_key, r.detector, r.version, r.share, r.matched, r.sampled, r.distinct_values, r.confidence, r.state, r.evidence, $2
     from json_to_recordset($1::json) as r(asset uuid, class_key text, detector text, version text, share float8, matched int, sampled int, distinct_values int, confidence float8, state text, evidence jsonb)`,
      [JSON.stringify(batch), runId],
    ),
  );
}
