import type { RunAnswer } from '@idrel/contract/scanning';
import type { PushBody, PushedAsset } from '@idrel/contract/sources';
import type { Finding, ValueType } from '@idrel/core/recognition';
import { type ColumnProfile, measureOf, profileOf } from '@idrel/core/scanning';
import { type FoundAsset, type FoundFlow, keyOf } from '@idrel/readers/connectors';
import { profileColumn, recogniseColumn } from '@idrel/readers/scans';
import { record } from '../journal/index.ts';
import type { Who } from '../people/index.ts';
import type { Tx } from '../platform/database.ts';
import { conflict, invalid } from '../platform/problems.ts';
import { lookingDetectors } from '../recognition/index.ts';
import { type SourceFacts, sourceFacts } from '../sources/index.ts';
import { getRun } from './service.ts';
import { writeTold } from './told.ts';

const pushedPath = (path: readonly string[]) => path.join('/');

/** The column's type as far as detectors care. */
function valueTypeOf(type: string): ValueType {
  const measure = measureOf(type);
  if (measure === 'time') return /^date$/i.test(type) ? 'date' : 'other';
  return measure === 'text' ? 'text' : /int|serial/i.test(type) ? 'integer' : 'decimal';
}

/** Assets that a program tells of, as a scan would have found them; of samples what is recognised in them, and their profiles. */
export async function readPushed(
  tx: Tx,
  pushed: readonly PushedAsset[],
): Promise<{
  assets: FoundAsset[];
  findings: Map<string, readonly Finding[]>;
  profiles: Map<string, ColumnProfile>;
}> {
  const findings = new Map<string, readonly Finding[]>();
  const profiles = new Map<string, ColumnProfile>();
  const detectors = pushed.some(({ values }) => values) ? await lookingDetectors(tx) : [];
  for (const asset of pushed) {
    if (!asset.values) continue;
    const [key, type] = [keyOf(...asset.path), asset.type ?? 'text'];
    const found = recogniseColumn(
      { name: asset.path.at(-1) ?? '', type: valueTypeOf(type), values: asset.values },
      detectors,
    );
    findings.set(key, found);
    profiles.set(key, profileColumn(profileOf(asset.values, measureOf(type), false), found));
  }
  return { assets: pushed.map(toFound), findings, profiles };
}

function toFound(
  { path, kind, comment, type, nullable, position, facts, rows }: PushedAsset,
  index: number,
): FoundAsset {
  return {
    key: keyOf(...path),
    parentKey: path.length > 1 ? keyOf(...path.slice(0, -1)) : null,
    kind,
    name: path.at(-1) ?? '',
    depth: path.length - 1,
    position: position ?? (kind === 'column' ? index : 0),
    comment: comment || null,
    native: { ...facts, ...(type === undefined ? {} : { type }), ...(nullable === undefined ? {} : { nullable }) },
    stats: rows === undefined ? {} : { rows },
  };
}

/** What cannot stand in a catalog, told by its place in the list. */
async function check(tx: Tx, sourceId: string, { assets, flows, whole }: PushBody): Promise<void> {
  const kinds = new Map<string, string>();
  const fields: { field: string; message: string }[] = [];
  for (const [index, asset] of assets.entries()) {
    const key = keyOf(...asset.path);
    if (kinds.has(key))
      fields.push({ field: `assets[${index}].path`, message: `${pushedPath(asset.path)} is named twice` });
    kinds.set(key, asset.kind);
    if (asset.kind !== 'column' && (asset.type !== undefined || asset.values))
      fields.push({ field: `assets[${index}]`, message: 'only columns have a type and values' });
  }
  const named = new Set(kinds.keys());
  const wanted = new Set([
    ...assets.flatMap((asset) => (asset.path.length > 1 ? [keyOf(...asset.path.slice(0, -1))] : [])),
    ...flows.flatMap((flow) => [
      keyOf(...flow.path),
      ...flow.edges.flatMap((edge) => [keyOf(...edge.from), keyOf(...edge.to)]),
    ]),
  ]);
  const missing = [...wanted].filter((key) => !kinds.has(key));
  // What was pushed before may be built upon, unless this is to be all there is.
  if (!whole && missing.length > 0)
    for (const row of await tx.rows<{ key: string; kind: string }>(
      'select key, kind from asset where source_id = $1 and gone_at is null and key = any($2::text[])',
      [sourceId, missing],
    ))
      kinds.set(row.key, row.kind);
  for (const [index, asset] of assets.entries()) {
    const parent = keyOf(...asset.path.slice(0, -1));
    if (asset.path.length === 1) {
      if (asset.kind === 'column')
        fields.push({ field: `assets[${index}].path`, message: 'a column lies in something' });
    } else if (!kinds.has(parent))
      fields.push({
        field: `assets[${index}].path`,
        message: `what it lies in, ${pushedPath(asset.path.slice(0, -1))}, is not there`,
      });
    else if (asset.kind === 'column' && !named.has(parent))
      fields.push({
        field: `assets[${index}].path`,
        message: `what holds it, ${pushedPath(asset.path.slice(0, -1))}, must be named beside it: with it come all columns that it has now`,
      });
    else if (kinds.get(parent) === 'column')
      fields.push({ field: `assets[${index}].path`, message: 'nothing lies in a column' });
  }
  for (const [index, flow] of flows.entries())
    for (const [side, path] of [
      ['path', flow.path] as const,
      ...flow.edges.flatMap((edge, at) => [
        [`edges[${at}].from`, edge.from] as const,
        [`edges[${at}].to`, edge.to] as const,
      ]),
    ])
      if (!kinds.has(keyOf(...path)))
        fields.push({ field: `flows[${index}].${side}`, message: `${pushedPath(path)} is not there` });
  if (fields.length > 0)
    throw invalid(
      `${fields.length === 1 ? 'One entry does' : `${fields.length} entries do`} not fit: ${fields
        .slice(0, 3)
        .map((entry) => `${entry.field}: ${entry.message}`)
        .join('; ')}${fields.length > 3 ? ' …' : ''}`,
      'Correct the named entries and push again. Nothing was written.',
      fields.slice(0, 100),
    );
}

/** A source that a person may push to, held until the end of the transaction. @throws 404, 403; 409 for one that is read by scans */
export async function pushedSource(tx: Tx, who: Who, sourceId: string): Promise<SourceFacts> {
  const source = await sourceFacts(tx, who, sourceId);
  who.must('source administrator', source.domainId);
  if (source.kind !== 'pushed')
    throw conflict(
      'not-pushed',
      `${source.name} is read by scans: what it holds is not pushed.`,
      'Register a source of the kind “Pushed by a program”.',
    );
  await tx.rows('select 1 from source where id = $1 for update', [sourceId]);
  return source;
}

/** Takes what a program says of a source into the catalog, as a scan would: compared, recognised, all or nothing. */
export async function pushAssets(tx: Tx, who: Who, sourceId: string, body: PushBody): Promise<RunAnswer> {
  const source = await pushedSource(tx, who, sourceId);
  await check(tx, sourceId, body);
  const { assets, findings, profiles } = await readPushed(tx, body.assets);
  const flows: FoundFlow[] = body.flows.map((flow) => ({
    key: keyOf(...flow.path),
    kind: 'pushed',
    origin: 'pushed' as const,
    statement: flow.statement,
    problems: [],
    influences: [],
    edges: flow.edges.map((edge) => ({ from: keyOf(...edge.from), to: keyOf(...edge.to), kind: edge.kind })),
  }));
  const named = new Set([...assets.map((asset) => asset.key), ...flows.map((flow) => flow.key)]);
  // Columns belong to what holds them: whoever names a table again says which columns it has now.
  const covers = body.whole ? () => true : (key: string) => named.has(key);
  const { runId, comparison } = await writeTold(tx, source, who.id, { assets, flows, findings, profiles, covers });
  await record(
    tx,
    who,
    'pushed',
    { kind: 'source', id: sourceId, name: source.name, domainId: source.domainId },
    null,
    { run: runId, ...comparison.counts },
  );
  return getRun(tx, who, runId);
}
