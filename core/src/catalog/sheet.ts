import { joined, nearest, neutral, parted, plain } from '../text/index.ts';
import { STANDINGS } from './facts.ts';
import {
  isSameNotice,
  NOTICE_LONGEST,
  type NoticeCell,
  noticeIn,
  noticeInCell,
  REMARK_LONGEST,
} from './noticeCells.ts';

/** As what a sheet is written and read, with what each is called. */
export const SHEET_FORMATS = { csv: 'CSV', xlsx: 'XLSX' } as const;
export type SheetFormat = keyof typeof SHEET_FORMATS;

/** Columns of a sheet of assets that can be written into, and whether a cell holds several values. */
export const SHEET_FIELDS = {
  description: false,
  owners: true,
  stewards: true,
  custodians: true,
  terms: true,
  tags: true,
  standing: false,
  notices: true,
  remark: false,
} as const;
export type SheetField = keyof typeof SHEET_FIELDS;
export const SHEET_FIELD_NAMES = Object.keys(SHEET_FIELDS) as SheetField[];
/** By which an asset is known and read; what is written into these is not taken. */
const READ_ONLY = ['id', 'version', 'path', 'kind', 'source'] as const;
/** What a sheet of an impact list tells of each asset besides; what is written into these is not taken either. */
export const IMPACT_HEADS = ['steps', 'consequence', 'why', 'how', 'way', 'level', 'asked', 'answers'] as const;
export type ImpactCells = Readonly<Record<(typeof IMPACT_HEADS)[number], string>>;
/** What is filled in on such a sheet, and brought back. */
const IMPACT_FIELDS: readonly SheetField[] = ['owners', 'stewards', 'custodians', 'standing', 'notices', 'remark'];

/** An asset as a sheet has it: people, terms and tags by what they are called; notices that hold or are to come; of remarks those that stand in open discussions. */
export interface SheetAsset extends Readonly<Record<SheetField, readonly string[]>> {
  readonly id: string;
  readonly version: number;
  readonly path: string;
  readonly kind: string;
  readonly source: string;
}

export interface SheetFlaw {
  readonly at: string;
  readonly what: string;
  readonly mend: string;
}

/** What a line of a sheet says of an asset; fields without a column are not there. */
export interface SheetLine {
  readonly at: string;
  readonly id: string;
  readonly version: number | null;
  readonly cells: Readonly<Partial<Record<SheetField, readonly string[]>>>;
}

export interface SheetRead {
  readonly lines: readonly SheetLine[];
  readonly flaws: readonly SheetFlaw[];
  readonly notKept: readonly { readonly what: string; readonly times: number }[];
}

/** One cell that differs from what stands in the catalog. */
export interface CellChange {
  readonly at: string;
  readonly id: string;
  readonly path: string;
  readonly field: SheetField;
  readonly before: readonly string[];
  readonly after: readonly string[];
  /** The asset was changed since the sheet was made: perhaps what differs is the newer edit, not the cell. */
  readonly newer: boolean;
}

/** What things are called in a sheet: by each name, in lower case, the name that is kept; null where it is one of several. */
export type SheetNames = Readonly<Record<'owners' | 'people' | 'terms' | 'tags', ReadonlyMap<string, string | null>>>;
const NAMED: Partial<Record<SheetField, keyof SheetNames>> = {
  owners: 'owners',
  stewards: 'people',
  custodians: 'people',
  terms: 'terms',
  tags: 'tags',
};

/** Assets as rows of a sheet, the names of the columns first. @param impact of an impact list, what it tells of each, by id */
export function sheetRows(assets: readonly SheetAsset[], impact?: ReadonlyMap<string, ImpactCells>): string[][] {
  const columns = impact
    ? ['path', 'kind', 'source', ...IMPACT_HEADS, ...IMPACT_FIELDS, 'id', 'version']
    : ['path', 'kind', 'source', ...SHEET_FIELD_NAMES, 'id', 'version'];
  const rows = assets.map((asset) =>
    columns.map((column) => {
      if (column === 'version') return String(asset.version);
      if ((IMPACT_HEADS as readonly string[]).includes(column))
        return neutral(impact?.get(asset.id)?.[column as keyof ImpactCells] ?? '');
      if (!(column in SHEET_FIELDS)) return neutral(String(asset[column as 'path']));
      // What was said already stands in its discussion; a cell of a remark is there to be written into.
      const values = column === 'remark' ? [] : asset[column as SheetField];
      return neutral(SHEET_FIELDS[column as SheetField] ? joined(values) : (values[0] ?? ''));
    }),
  );
  return [columns, ...rows];
}

/** Reads what the lines of a sheet say of assets. */
export function readSheetRows(rows: readonly (readonly string[])[]): SheetRead {
  const [head = [], ...body] = rows;
  const names = head.map((cell) => cell.trim().toLowerCase());
  const place = (name: string) => names.indexOf(name);
  const flaws: SheetFlaw[] = [];
  const known: readonly string[] = [...READ_ONLY, ...IMPACT_HEADS, ...SHEET_FIELD_NAMES];
  const notKept = names.flatMap((name, at) =>
    name && !known.includes(name)
      ? [{ what: `the column “${head[at]?.trim()}”`, times: body.filter((row) => row[at]?.trim()).length }]
      : [],
  );
  if (place('id') < 0)
    return {
      lines: [],
      notKept,
      flaws: [
        {
          at: 'line 1',
          what: 'No column is called “id”.',
          mend: 'Begin with a sheet that was exported: by that column assets are known.',
        },
      ],
    };
  const lines = body.flatMap((row, index): SheetLine[] => {
    if (row.every((cell) => !cell.trim())) return [];
    const at = `line ${index + 2}`;
    const cell = (name: string) => (place(name) < 0 ? undefined : plain(row[place(name)] ?? ''));
    const id = (cell('id') ?? '').toLowerCase();
    if (!/^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/.test(id)) {
      flaws.push({
        at,
        what: id ? `“${id}” is no id.` : 'The line has no id.',
        mend: 'Copy it from the sheet that was exported; the line is left out.',
      });
      return [];
    }
    const version = Number(cell('version'));
    const cells = Object.fromEntries(
      SHEET_FIELD_NAMES.flatMap((field) => {
        const text = cell(field);
        if (text === undefined) return [];
        return [[field, SHEET_FIELDS[field] ? [...new Set(parted(text))] : text ? [text] : []] as const];
      }),
    );
    return [{ at, id, version: Number.isInteger(version) && version > 0 ? version : null, cells }];
  });
  return { lines, flaws, notKept };
}

/**
 * What taking a sheet in would change, cell by cell.
 * @param now the assets of its lines, by id: those that may be seen
 */
export function compareSheet(
  read: SheetRead,
  now: ReadonlyMap<string, SheetAsset>,
  names: SheetNames,
): { cells: CellChange[]; same: number; flaws: SheetFlaw[] } {
  const flaws = [...read.flaws];
  const cells: CellChange[] = [];
  const seen = new Set<string>();
  let same = 0;
  for (const line of read.lines) {
    const asset = now.get(line.id);
    if (!asset || seen.has(line.id)) {
      flaws.push({
        at: line.at,
        what: asset ? `${asset.path} stands in the sheet twice.` : 'No asset has this id, or you may not see it.',
        mend: asset ? 'Keep one line of it; this one is left out.' : 'Export the sheet anew; the line is left out.',
      });
      continue;
    }
    seen.add(line.id);
    const changed = SHEET_FIELD_NAMES.flatMap((field): CellChange[] => {
      const said = line.cells[field];
      if (said === undefined) return [];
      const flaw = (what: string, mend: string) => flaws.push({ at: `${line.at}, ${field}`, what, mend });
      const { at, id } = line;
      // What is only added to takes nothing of anybody away, so it is never the older word.
      if (field === 'notices' || field === 'remark') {
        const after = added(field, said, asset[field], flaw);
        return after.length === 0 ? [] : [{ at, id, path: asset.path, field, before: [], after, newer: false }];
      }
      const after = meant(field, said, names, (what, mend) =>
        flaw(what, mend.endsWith('?') ? `${mend} The cell is left.` : `${mend.slice(0, -1)}; the cell is left.`),
      );
      if (!after || sameSet(after, asset[field])) return [];
      return [{ at, id, path: asset.path, field, before: asset[field], after, newer: line.version !== asset.version }];
    });
    cells.push(...changed);
    if (changed.length === 0) same += 1;
  }
  return { cells, same, flaws };
}

/** What a cell adds to what stands there. Nothing is taken away by a sheet that is not taken away on the page, where it can be brought back. */
function added(
  field: 'notices' | 'remark',
  said: readonly string[],
  there: readonly string[],
  flaw: (what: string, mend: string) => void,
): readonly string[] {
  const fitting = (text: string, most: number): boolean => {
    if (text.length <= most) return true;
    flaw(`It is longer than ${most.toLocaleString('en')} letters.`, 'Say it shorter; it is left.');
    return false;
  };
  if (field === 'remark') return said.filter((text) => !there.includes(text) && fitting(text, REMARK_LONGEST));
  const known = there.flatMap((text): NoticeCell[] => {
    const notice = noticeIn(text);
    return notice ? [notice] : [];
  });
  const read = said.flatMap((text) => {
    const notice = noticeIn(text);
    if (notice) return fitting(notice.text, NOTICE_LONGEST) ? [notice] : [];
    flaw(
      `“${text}” is no notice.`,
      'Write its kind, its days where it has some, and what it says: “caution 2027-01-01 to 2027-01-31: …”, “note: …”, “stop until 2027-01-31: …”; it is left.',
    );
    return [];
  });
  const missing = known.filter((notice) => !read.some((one) => isSameNotice(one, notice)));
  if (missing.length > 0 && read.length === said.length)
    flaw(
      `The sheet has no longer the notice “${missing.map(noticeInCell).join('”, “')}”.`,
      'A sheet takes no notice away: end it on the page of the asset. It stays.',
    );
  return [...new Set(read.filter((one) => !known.some((notice) => isSameNotice(one, notice))).map(noticeInCell))];
}

/** What is said of a field as it is called here; undefined where something of it is not known, of which `flaw` is told with what mends it. */
export function meant(
  field: SheetField,
  said: readonly string[],
  names: SheetNames,
  flaw: (what: string, mend: string) => void,
): readonly string[] | undefined {
  if (field === 'standing') {
    const standing = STANDINGS.find((one) => one === said[0]?.toLowerCase());
    if (standing) return [standing];
    flaw(`“${said[0] ?? ''}” is no standing.`, `Use one of ${STANDINGS.join(', ')}.`);
    return undefined;
  }
  const of = NAMED[field];
  if (!of) return said;
  const found = said.map((name) => {
    const known = names[of].get(name.toLowerCase());
    if (known) return known;
    const near = known === undefined ? nearest(named(names[of]), name) : undefined;
    flaw(
      known === null ? `Several are called “${name}”.` : `Nothing here is called “${name}”.`,
      known === null
        ? `Write ${of === 'people' || of === 'owners' ? 'the address of the one who is meant, or group/ and the name of a group' : 'it with its scheme: scheme/name'}.`
        : near
          ? `Is “${near}” meant?`
          : `Write one of the ${of === 'owners' ? 'people and groups' : of} that are there.`,
    );
    return undefined;
  });
  if (found.includes(undefined)) return undefined;
  const each = [...new Set(found as string[])];
  if (field !== 'owners' || each.length <= 1) return each;
  flaw('One owner answers for an asset, a person or a group.', 'Leave one of them, or write the others as stewards.');
  return undefined;
}

const named = (names: ReadonlyMap<string, string | null>): string[] => [
  ...new Set([...names.values()].filter((name) => name !== null)),
];

/** Whether two lists hold the same, in whatever order. */
export const sameSet = (a: readonly string[], b: readonly string[]): boolean =>
  a.length === b.length && [...a].sort().join('\u001f') === [...b].sort().join('\u001f');
