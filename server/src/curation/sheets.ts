import { createHash } from 'node:crypto';
import {
  type FileAnswer,
  SHEET_MOST,
  type SheetChange,
  type SheetFormat,
  type sheetEndpoints,
} from '@idrel/contract/curation';
import type { BodyOf, QueryOf } from '@idrel/contract/http';
import type { lineageEndpoints } from '@idrel/contract/lineage';
import {
  type CellChange,
  compareSheet,
  noticeIn,
  readSheetRows,
  type SheetAsset,
  STANDINGS,
  sheetRows,
} from '@idrel/core/catalog';
import { joined } from '@idrel/core/text';
import { getAsset } from '../catalog/index.ts';
import { impactList, proposedImpact } from '../lineage/index.ts';
import type { Who } from '../people/index.ts';
import type { Database, Db, Tx } from '../platform/database.ts';
import { ApiProblem, conflict, invalid } from '../platform/problems.ts';
import { asSheet, readSheet, SHEET_TYPES } from '../platform/sheets.ts';
import { beginDiscussion } from '../writing/index.ts';
import { changeOf, type Known, known, readAssets, withValues } from './called.ts';
import { addNotice } from './notices.ts';
import { editAsset } from './service.ts';

const TOLD = { cells: 2000, flaws: 500 } as const;

/** Assets as a file. Called in a thread: to write thousands of cells takes a while. */
export async function writeAssets(db: Db, who: Who, ids: readonly string[], format: SheetFormat): Promise<FileAnswer> {
  const rows = sheetRows(await readAssets(db, who, ids, await known(db)));
  const content = await asSheet(format, 'Assets', rows, {
    wide: ['path', 'description', 'owners', 'terms', 'tags', 'notices', 'remark'],
    lists: { standing: STANDINGS },
  });
  return { name: `assets.${format}`, type: SHEET_TYPES[format], content: content.toString('base64') };
}

/** What lies downstream or upstream of an asset, or what a proposed change of it would do, as a sheet to be filled in and brought back. */
export async function writeImpact(
  db: Db,
  who: Who,
  asked: QueryOf<typeof lineageEndpoints.impactSheet>,
): Promise<FileAnswer> {
  const { asset, what, to, format } = asked;
  const { name } = await getAsset(db, who, asset);
  const cells = what
    ? (await proposedImpact(db, who, { asset, what, to })).rows.map((row) => ({ ...row, how: '' }))
    : (await impactList(db, who, asset, asked.direction)).map((row) => ({
        ...row,
        consequence: '',
        why: '',
        asked: 0,
      }));
  const told = new Map(
    cells.map(({ id, distance, consequence, why, how, way, level, asked: calls, owners }) => [
      id,
      {
        steps: String(distance),
        consequence,
        why,
        how,
        way: way.join(' > '),
        level: level === null ? '' : String(level),
        asked: calls === 0 ? '' : String(Math.round(calls)),
        answers: joined(owners),
      },
    ]),
  );
  const rows = sheetRows(await readAssets(db, who, [...told.keys()], await known(db)), told);
  const content = await asSheet(format, 'Impact', rows, {
    wide: ['path', 'why', 'way', 'owners', 'notices', 'remark'],
    lists: { standing: STANDINGS },
  });
  return {
    name: `impact of ${name.replace(/[^\p{L}\p{N}_.-]+/gu, ' ').trim()}.${format}`,
    type: SHEET_TYPES[format],
    content: content.toString('base64'),
  };
}

/** @throws 422 where more is found than a sheet takes */
export function mustFit(ids: readonly string[]): void {
  if (ids.length > SHEET_MOST.out)
    throw invalid(
      `More than ${SHEET_MOST.out.toLocaleString('en')} assets are found.`,
      'Narrow the filter, and take them out in parts.',
      [{ field: 'filter', message: 'finds too many' }],
    );
}

type Body = BodyOf<typeof sheetEndpoints.back>;

/**
 * Takes a sheet back, or tells what would come of it: each asset that it changes is edited as by hand, with the same rights and rules, and those that cannot
 * be are told.
 * @throws 422 when it cannot be read, or changes more assets than one sheet may; 409 when something else would come of it than was seen
 */
export async function takeSheet(db: Database, who: Who, body: Body, preview: boolean): Promise<SheetChange> {
  const read = readSheetRows(await readSheet(body.name, Buffer.from(body.content, 'base64')));
  const things = await known(db);
  const now = new Map(
    (await readAssets(db, who, [...new Set(read.lines.map(({ id }) => id))], things)).map((asset) => [asset.id, asset]),
  );
  const { cells, same, flaws } = compareSheet(read, now, {
    ...things.names,
    tags: withValues(
      things,
      read.lines.flatMap(({ cells }) => cells.tags ?? []),
      now,
    ),
  });
  const seen = createHash('sha256').update(JSON.stringify(cells)).digest('base64url');
  const told = {
    cells: cells.slice(0, TOLD.cells).map(({ before, after, ...cell }) => ({
      ...cell,
      before: before.join(', '),
      after: after.join(', '),
    })),
    cellCount: cells.length,
    assets: new Set(cells.map(({ id }) => id)).size,
    same,
    flaws: flaws.slice(0, TOLD.flaws),
    flawCount: flaws.length,
    notKept: read.notKept.map((entry) => ({ ...entry })),
    seen,
  };
  if (preview) return { ...told, changed: 0, refused: [] };
  if (body.seen !== undefined && body.seen !== seen)
    throw conflict(
      'differs-now',
      'Something was changed since you looked: something else would come of the sheet now.',
      'Look at it again, then take it in. Nothing was changed.',
    );
  const left = new Set(body.leave);
  const wanted = new Map<string, CellChange[]>();
  for (const cell of cells)
    if (!left.has(`${cell.at} ${cell.field}`)) wanted.set(cell.id, [...(wanted.get(cell.id) ?? []), cell]);
  if (wanted.size > SHEET_MOST.changed)
    throw invalid(
      `The sheet changes ${wanted.size.toLocaleString('en')} assets.`,
      `Take it in parts: at most ${SHEET_MOST.changed.toLocaleString('en')} are changed by one. Nothing was changed.`,
      [{ field: 'content', message: 'changes too many' }],
    );
  const refused: { at: string; path: string; why: string }[] = [];
  for (const [id, changes] of wanted) {
    const asset = now.get(id) as SheetAsset;
    try {
      await db.transaction((tx) => takeCells(tx, who, asset, changes, things));
    } catch (error) {
      if (!(error instanceof ApiProblem)) throw error;
      refused.push({ at: changes[0]?.at ?? '', path: asset.path, why: error.message });
    }
  }
  return { ...told, changed: wanted.size - refused.length, refused };
}

/** Writes what some cells say of an asset: facts as an edit, notices and remarks beside it. */
async function takeCells(tx: Tx, who: Who, { id, version }: SheetAsset, cells: readonly CellChange[], things: Known) {
  const facts = cells.filter(({ field }) => field !== 'notices' && field !== 'remark');
  if (facts.length > 0) await editAsset(tx, who, id, version, changeOf(facts, things));
  const today = new Date().toISOString().slice(0, 10);
  for (const { field, after } of cells)
    for (const text of after) {
      const notice = field === 'notices' ? noticeIn(text) : undefined;
      if (notice) await addNotice(tx, who, id, { ...notice, starts: notice.starts ?? today });
      else if (field === 'remark') await beginDiscussion(tx, who, id, { question: false, text });
    }
}
