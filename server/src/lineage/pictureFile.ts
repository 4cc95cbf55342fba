import type { FileAnswer } from '@idrel/contract/curation';
import type { LineageAnswer } from '@idrel/contract/lineage';
import { EDGE_HEADS, toMermaid, toOpenLineage, toRows } from '@idrel/core/lineage';
import { neutral } from '@idrel/core/text';
import { KEY_SEPARATOR, nameDataset } from '@idrel/readers/connectors';
import type { Db } from '../platform/database.ts';
import { asSheet, SHEET_TYPES } from '../platform/sheets.ts';

/** Who tells the events of an export. */
const PRODUCER = 'urn:idrel';

const WRITTEN = {
  async csv(_db: Db, shown: LineageAnswer) {
    const rows = [[...EDGE_HEADS], ...toRows(shown).map((row) => row.map(neutral))];
    return asSheet('csv', 'Lineage', rows, {});
  },
  async mermaid(_db: Db, shown: LineageAnswer) {
    return Buffer.from(toMermaid(shown));
  },
  async openlineage(db: Db, shown: LineageAnswer) {
    const places = await db.rows<{ id: string; place: string | null; source: string; key: string }>(
      `
        select a.id, s.place, s.name as source, a.key
        from asset a
        join source s on s.id = a.source_id
        where a.id = any($1::uuid[])`,
      [shown.nodes.map(({ id }) => id)],
    );
    const named = new Map(
      places.map(({ id, place, source, key }) => {
        const [top = '', ...names] = key.split(KEY_SEPARATOR);
        return [id, nameDataset({ place: place ?? '', top, source }, names)];
      }),
    );
    const events = toOpenLineage(shown, (id) => named.get(id) ?? { namespace: PRODUCER, name: id }, {
      at: new Date().toISOString(),
      producer: PRODUCER,
    });
    return Buffer.from(`${JSON.stringify(events, null, 2)}\n`);
  },
} as const;
export type PictureFormat = keyof typeof WRITTEN;
const TYPES: Record<PictureFormat, readonly [ending: string, type: string]> = {
  csv: ['csv', SHEET_TYPES.csv],
  mermaid: ['mmd', 'text/vnd.mermaid; charset=utf-8'],
  openlineage: ['openlineage.json', 'application/json; charset=utf-8'],
};

/** A picture of lineage as a file. @param name what it is about */
export async function pictureFile(
  db: Db,
  shown: LineageAnswer,
  format: PictureFormat,
  name: string,
): Promise<FileAnswer> {
  const [ending, type] = TYPES[format];
  const content = await WRITTEN[format](db, shown);
  return {
    name: `lineage of ${name.replace(/[^\p{L}\p{N}_.-]+/gu, ' ').trim()}.${ending}`,
    type,
    content: content.toString('base64'),
  };
}
