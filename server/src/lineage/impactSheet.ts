import type { FileAnswer } from '@idrel/contract/curation';
import { joined, neutral } from '@idrel/core/text';
import { getAsset } from '../catalog/index.ts';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { asSheet, SHEET_TYPES, type SheetFormat } from '../platform/sheets.ts';
import { impactList } from './impact.ts';
import type { Direction } from './walk.ts';

const HEADS = ['steps', 'kind', 'path', 'source', 'how', 'owners', 'level', 'way'];

/** The impact list of an asset as a sheet, each row with the way to it. */
export async function impactSheet(
  db: Db,
  who: Who,
  assetId: string,
  direction: Direction,
  format: SheetFormat,
): Promise<FileAnswer> {
  const { name } = await getAsset(db, who, assetId);
  const rows = await impactList(db, who, assetId, direction);
  const content = await asSheet(
    format,
    'Impact',
    [
      HEADS,
      ...rows.map(({ distance, kind, path, source, how, owners, level, way }) =>
        [
          String(distance),
          kind,
          path,
          source,
          how,
          joined(owners),
          level === null ? '' : String(level),
          way.join(' > '),
        ].map(neutral),
      ),
    ],
    { wide: ['path', 'owners', 'way'] },
  );
  return {
    name: `impact of ${name.replace(/[^\p{L}\p{N}_.-]+/gu, ' ').trim()}.${format}`,
    type: SHEET_TYPES[format],
    content: content.toString('base64'),
  };
}
