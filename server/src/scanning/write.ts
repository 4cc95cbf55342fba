import type { FoundAsset } from '@idrel/readers/connectors';
import { copyLine, type Tx } from '../platform/database.ts';
import type { RunResult, WrittenSource } from './apply.ts';
import { inBatches } from './batches.ts';
import type { KnownAsset, SortedUnits, Unit } from './compare.ts';
import { wordsVector } from './words.ts';

type Units = ReadonlyMap<string, Unit>;
type Ids = ReadonlyMap<string, string>;

/** Words by which an asset is found. A table is found by the names of its columns as well; a column's own follow from its name unless somebody wrote about it. */
function wordsOf(found: FoundAsset, units: Units, description: string | null): string {
  if (found.kind === 'column' && !found.comment && !description) return '';
  const columns = units.get(found.key)?.columns ?? [];
  return wordsVector([found.name], [description, found.comment, ...columns.map((column) => column.name)]);
}

const COPY = `
    copy asset (
      id, source_id, parent_id, domain_id, kind, name, key, depth, position, native, stats, native_comment, words, print,
      mark_structure, mark_data
    )
    from stdin`;

type Read = Pick<RunResult, 'structure' | 'sampled'>;

function* lines(
  fresh: readonly FoundAsset[],
  source: WrittenSource,
  result: Read,
  units: Units,
  ids: Ids,
): Generator<string> {
  for (const found of fresh) {
    const parent = found.parentKey === null ? null : (ids.get(found.parentKey) ?? null);
    const { kind, name, key, depth, position, comment } = found;
    yield copyLine([
      ids.get(key) ?? null,
      source.id,
      parent,
      source.domainId,
      kind,
      name,
      key,
      depth,
      position,
      JSON.stringify(found.native),
      JSON.stringify(found.stats),
      comment,
      wordsOf(found, units, null),
      units.get(key)?.print ?? null,
      result.structure.marks?.get(key)?.structure ?? null,
      result.sampled.get(key) || null,
    ]);
  }
}

/** Writes new assets in one stream. */
export async function insertAssets(
  tx: Tx,
  source: WrittenSource,
  fresh: readonly FoundAsset[],
  result: Read,
  units: Units,
  ids: Ids,
): Promise<void> {
  if (fresh.length === 0) return;
  await writeNames(tx, fresh);
  await tx.copyIn(COPY, lines(fresh, source, result, units, ids));
}

/** Writes again what was read of known assets. */
export async function rewriteAssets(
  tx: Tx,
  rewrite: readonly { known: KnownAsset; found: FoundAsset }[],
  units: Units,
  ids: Ids,
): Promise<void> {
  await writeNames(
    tx,
    rewrite.map((entry) => entry.found),
  );
  await inBatches(
    rewrite,
    ({ known, found }) => ({
      ...found,
      id: ids.get(found.key),
      words: wordsOf(found, units, known.description),
      print: units.get(found.key)?.print ?? null,
    }),
    (batch) =>
      tx.run(
        `
          update asset a
          set
            kind = r.kind, name = r.name, position = r."position", native = r.native, stats = r.stats,
            native_comment = r.comment, words = r.words, print = r.print, mark_structure = null, mark_data = null,
            last_seen = now(), gone_at = null
          from json_to_recordset($1::json) as r(
            id uuid, kind text, name text, "position" integer, native jsonb, stats jsonb, comment text, words tsvector,
            print uuid
          )
          where a.id = r.id`,
        [JSON.stringify(batch)],
      ),
  );
}

/**
 * Keeps the marks of what was read again. Values that were not sampled keep the mark of those that were: they are looked at again when it is asked for.
 */
export async function writeMarks(tx: Tx, sorted: SortedUnits, { structure, sampled }: Read): Promise<void> {
  if (!structure.marks) return;
  const marks: { id: string; structure: string; data: string | null }[] = [];
  for (const [list, rewritten] of [
    [sorted.differing, true],
    [sorted.same, false],
  ] as const)
    for (const { known } of list) {
      const mark = structure.marks.get(known.key);
      if (!mark) continue;
      const data = sampled.get(known.key) ?? known.mark?.data ?? '';
      if (rewritten || known.mark?.structure !== mark.structure || known.mark.data !== data)
        marks.push({ id: known.id, structure: mark.structure, data: data || null });
    }
  await inBatches(
    marks,
    (mark) => mark,
    (batch) =>
      tx.run(
        `
          update asset a
          set mark_structure = r.structure, mark_data = r.data
          from json_to_recordset($1::json) as r(id uuid, structure text, data text)
          where a.id = r.id`,
        [JSON.stringify(batch)],
      ),
  );
}

/** Keeps the words of names of columns, once per name. */
async function writeNames(tx: Tx, assets: readonly FoundAsset[]): Promise<void> {
  const names = new Set(assets.filter((asset) => asset.kind === 'column').map((asset) => asset.name));
  await inBatches(
    [...names],
    (name) => ({ name, words: wordsVector([name], []) }),
    (batch) =>
      tx.run(
        `
          insert into name_words (name, words)
          select r.name, r.words
          from json_to_recordset($1::json) as r(name text, words tsvector)
          order by 1
          on conflict
          do nothing`,
        [JSON.stringify(batch)],
      ),
  );
}
