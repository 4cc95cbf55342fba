import type { OutlineItem } from '@idrel/contract/scanning';
import {
  type ColumnProfile,
  type FileSet,
  groupFiles,
  type Measure,
  mergeSchemas,
  profileOf,
  spread,
} from '@idrel/core/scanning';
import type { AssetKind } from '@idrel/core/things';
import {
  DISK_FULL,
  describeFile,
  describeParquetParts,
  drawnFrom,
  type FileColumn,
  isDiskFull,
  isNested,
  type openDuck,
  sampleFile,
  type Walked,
  type WalkedFile,
  withinTime,
} from '../../files/index.ts';
import { type ProfileDialect, type ProfileRow, profileSql, readProfiles } from '../profile.ts';
import {
  digest,
  type FoundAsset,
  isUnchanged,
  KEY_SEPARATOR,
  type Known,
  keyOf,
  type Mark,
  type Sampleable,
  type SampledTable,
  type SampleMethod,
  type Structure,
} from '../types.ts';
import type { FileStore } from './store.ts';

type Duck = Awaited<ReturnType<typeof openDuck>>;

/** What a file or file set can be sampled from: the parts that were looked into, with their own columns; and the keys of its folders. */
export interface Dataset {
  readonly parts: readonly { readonly file: WalkedFile; readonly columns: readonly FileColumn[] }[];
  readonly keys: ReadonlyMap<string, readonly string[]>;
}

/** Parts of a file set whose schema is read, and of those: from how many values are drawn. */
const LOOKED_INTO = 8;
const DRAWN_FROM = 4;
/** Names of parts that are kept to be shown. */
const SHOWN = 60;

const within = (names: readonly string[], folder: readonly string[]) =>
  folder.every((name, index) => names[index] === name);

/** Folders that hold something else than parts of file sets; folders of partitions are no assets of their own. */
function foldersOf(
  walked: Walked,
  sets: readonly FileSet<WalkedFile>[],
  single: readonly WalkedFile[],
): (readonly string[])[] {
  const kept = new Set<string>();
  const keep = (names: readonly string[]) => {
    for (let length = names.length; length > 0; length -= 1) kept.add(names.slice(0, length).join(KEY_SEPARATOR));
  };
  for (const file of single) keep(file.names.slice(0, -1));
  for (const set of sets) keep(set.folder);
  const filled = new Set(
    walked.files.flatMap((file) =>
      file.names.slice(0, -1).map((_, index) => file.names.slice(0, index + 1).join(KEY_SEPARATOR)),
    ),
  );
  return walked.folders.filter(
    (names) =>
      kept.has(names.join(KEY_SEPARATOR)) ||
      (!filled.has(names.join(KEY_SEPARATOR)) &&
        !sets.some((set) => set.folder.length > 0 && within(names, set.folder))),
  );
}

/** What lies in a folder, by name: folders, files and file sets. */
export function outlineOf(walked: Walked): OutlineItem[] {
  const { sets, single } = groupFiles(walked.files);
  const items = [
    ...foldersOf(walked, sets, single).map((names) => ({ path: names.join('/'), kind: 'folder' })),
    ...single.map((file) => ({ path: file.names.join('/'), kind: 'file' })),
    ...sets.map((set) => ({ path: [...set.folder, set.pattern].join('/'), kind: 'file set' })),
  ];
  return items.sort((a, b) => (a.path < b.path ? -1 : 1));
}

function problemOf(error: unknown): string {
  if (isDiskFull(error)) return `${DISK_FULL.what} ${DISK_FULL.mend}`;
  const [first = ''] = (error instanceof Error ? error.message : String(error)).split('\n');
  // Text of thousands of columns is what needs so much.
  return first.startsWith('Out of Memory')
    ? 'It takes more memory to read than one file is granted, as files of some thousands of columns do. Split its columns over several files, or keep it as Parquet.'
    : first;
}

/** Reads what a store holds: files with their columns, and file sets as one. A file that cannot be read says so, and does not fail the rest. */
export async function readFiles(
  store: FileStore,
  duck: Duck,
  datasets: Map<string, Dataset>,
  progress: (objects: number, columns: number) => void,
  known?: Known,
): Promise<Structure> {
  const { top } = store;
  const walked = await store.walk();
  const { sets, single } = groupFiles(walked.files);
  const assets: FoundAsset[] = [
    {
      key: keyOf(top),
      parentKey: null,
      kind: 'folder',
      name: top,
      depth: 0,
      position: 0,
      comment: null,
      native: store.native,
      stats: { files: walked.files.length },
    },
  ];
  const sampleable: Sampleable[] = [];
  let columnCount = 0;
  const add = (
    names: readonly string[],
    kind: AssetKind,
    native: Record<string, unknown>,
    stats: Record<string, unknown>,
  ) => {
    const key = keyOf(top, ...names);
    assets.push({
      key,
      parentKey: keyOf(top, ...names.slice(0, -1)),
      kind,
      name: names.at(-1) ?? '',
      depth: names.length,
      position: 0,
      comment: null,
      native,
      stats,
    });
    return key;
  };
  const addColumns = (
    key: string,
    label: string,
    rows: number | null,
    columns: readonly (FileColumn & { partition?: boolean })[],
  ) => {
    const depth = key.split(KEY_SEPARATOR).length;
    columns.forEach((column, index) => {
      const native = {
        type: column.type,
        nullable: !column.partition,
        ...(column.partition ? { partition: true } : {}),
      };
      assets.push({
        key: keyOf(key, column.name),
        parentKey: key,
        kind: 'column',
        name: column.name,
        depth,
        position: index,
        comment: null,
        native,
        stats: {},
      });
    });
    columnCount += columns.length;
    if (columns.length > 0)
      sampleable.push({
        key,
        label,
        estimatedRows: rows ?? 0,
        columns: columns.map((column) => ({ key: keyOf(key, column.name), name: column.name, type: column.valueType })),
      });
    progress(assets.length, columnCount);
  };

  // Size and time of each file tell whether it must be looked into again.
  const marks = new Map<string, Mark>();
  const unchanged = new Set<string>();
  const isAsBefore = (names: readonly string[], files: readonly WalkedFile[]) => {
    if (!known) return false;
    const key = keyOf(top, ...names);
    const text = digest(files.map((file) => [file.names, file.bytes, file.modified, file.tag]));
    marks.set(key, { structure: text, data: text });
    if (isUnchanged(known, key, { structure: text, data: text })) unchanged.add(key);
    return unchanged.has(key);
  };

  for (const names of foldersOf(walked, sets, single)) add(names, 'folder', {}, {});
  for (const file of single) {
    if (isAsBefore(file.names, [file])) continue;
    const described = await describe(store, duck, file);
    const key = add(
      file.names,
      'file',
      {
        format: file.format ?? 'other',
        ...(described.file.encoding ? { encoding: 'not UTF-8: read as Latin-1' } : {}),
        ...(described.problem ? { problem: described.problem } : {}),
      },
      {
        bytes: file.bytes,
        modified: new Date(file.modified).toISOString(),
        ...(described.rows === null ? {} : { rows: described.rows }),
      },
    );
    datasets.set(key, { parts: [described], keys: new Map() });
    addColumns(key, file.names.join('/'), described.rows, described.columns);
  }
  const changed = sets.filter(
    (set) =>
      !isAsBefore(
        [...set.folder, set.pattern],
        set.parts.map((part) => part.file),
      ),
  );
  const chosen = new Map(changed.map((set) => [set, spread(set.parts, LOOKED_INTO).map(({ file }) => file)]));
  const footers =
    store.inPlace && !store.skip?.includes(MANY_PARTS)
      ? await footersAtOnce(store, duck, [...chosen.values()].flat())
      : undefined;
  for (const set of changed) {
    const looked = await describeParts(store, duck, chosen.get(set) ?? [], footers);
    const readable = looked.filter((part) => !part.problem);
    const { columns, variants } = mergeSchemas(readable);
    const problems = looked.flatMap((part) => (part.problem ? [`${part.part}: ${part.problem}`] : []));
    // Rows are known of the parts that were looked into; the rest is taken to be like them.
    const known = readable.flatMap((part) => (part.rows === null ? [] : [part.rows]));
    const rows =
      known.length > 0
        ? Math.round((known.reduce((sum, count) => sum + count, 0) / known.length) * set.parts.length)
        : null;
    const key = add(
      [...set.folder, set.pattern],
      'file set',
      {
        format: set.format,
        ...(set.keys.length > 0 ? { partitionedBy: set.keys.join(', ') } : {}),
        ...(variants.length > 0 ? { variants } : {}),
        ...(problems.length > 0 ? { problem: problems.join('; ') } : {}),
      },
      {
        bytes: set.parts.reduce((sum, part) => sum + part.file.bytes, 0),
        modified: new Date(set.parts.reduce((latest, part) => Math.max(latest, part.file.modified), 0)).toISOString(),
        files: set.parts.length,
        lookedInto: looked.length,
        parts: set.parts.slice(-SHOWN).map((part) => ({ name: part.file.names.slice(set.folder.length).join('/') })),
        ...(rows === null ? {} : { rows }),
      },
    );
    const keys = new Map(set.keys.map((name, index) => [name, set.parts.map((part) => part.values[index] ?? '')]));
    const partitions = set.keys
      .filter((name) => !columns.some((column) => column.name === name))
      .map((name) => ({ name, type: 'varchar', valueType: 'text' as const, partition: true }));
    datasets.set(key, { parts: spread(readable, DRAWN_FROM), keys });
    addColumns(key, [...set.folder, set.pattern].join('/'), rows, [...partitions, ...columns]);
  }
  return { assets, sampleable, ...(known ? { marks, unchanged } : {}) };
}

interface Described {
  readonly file: WalkedFile;
  readonly columns: FileColumn[];
  readonly rows: number | null;
  readonly problem?: string;
}

/** The columns of one file; what keeps it from being read is said, not thrown. */
export async function describe(store: FileStore, duck: Duck, file: WalkedFile): Promise<Described> {
  if (!file.format) return { file, columns: [], rows: null };
  const label = file.names.join('/');
  if (store.skip?.includes(label))
    return {
      file,
      columns: [],
      rows: null,
      problem: 'It was not looked into: reading it took more memory or time than one file may take.',
    };
  store.reading?.(label);
  const look = async (own: WalkedFile): Promise<Described> => ({
    file: own,
    ...(await describeFile(duck, (await store.local(own)).file)),
  });
  try {
    return await look(file);
  } catch (error) {
    // Bytes that are no UTF-8 all mean something in Latin-1: the file can be read, and says that it is written so.
    const latin = isNoUnicode(error) ? await look({ ...file, encoding: 'latin-1' }).catch(() => undefined) : undefined;
    return latin ?? { file, columns: [], rows: null, problem: problemOf(error) };
  }
}

/** What is said when many Parquet files are looked into at once; left out, they are looked into one by one. */
const MANY_PARTS = 'the Parquet files';
/** Footers that one statement reads. */
const AT_ONCE = 1000;

type Footer = Pick<Described, 'columns' | 'rows'>;

/** Footers of Parquet files that lie on a disk, many in one statement. Where that fails, those files are missing here: they are looked at set by set. */
async function footersAtOnce(
  store: FileStore,
  duck: Duck,
  files: readonly WalkedFile[],
): Promise<ReadonlyMap<WalkedFile, Footer>> {
  const parquet = files.filter((file) => file.format === 'parquet');
  const found = new Map<WalkedFile, Footer>();
  store.reading?.(MANY_PARTS);
  for (let from = 0; from < parquet.length; from += AT_ONCE) {
    const batch = parquet.slice(from, from + AT_ONCE);
    const described = await describeParquetParts(duck, batch).catch(() => []);
    for (const [index, footer] of described.entries()) found.set(batch[index] as WalkedFile, footer);
  }
  return found;
}

/** What some parts of a file set hold; all footers of Parquet files at once, and one by one where that fails. */
async function describeParts(
  store: FileStore,
  duck: Duck,
  files: readonly WalkedFile[],
  footers?: ReadonlyMap<WalkedFile, Footer>,
): Promise<(Described & { part: string })[]> {
  const partOf = (file: WalkedFile) => file.names.join('/');
  if (footers && files.every((file) => footers.has(file)))
    return files.map((file) => ({ part: partOf(file), file, ...(footers.get(file) as Footer) }));
  if (files.length > 1 && !store.skip?.includes(MANY_PARTS) && files.every((file) => file.format === 'parquet')) {
    try {
      store.reading?.(MANY_PARTS);
      const locals: WalkedFile[] = [];
      for (const file of files) locals.push((await store.local(file)).file);
      const described = await describeParquetParts(duck, locals);
      return files.map((file, index) => ({
        part: partOf(file),
        file,
        ...(described[index] as Pick<Described, 'columns' | 'rows'>),
      }));
    } catch {
      // Which of them it is, and why, is told below.
    }
  }
  const found = [];
  for (const file of files) found.push({ part: partOf(file), ...(await describe(store, duck, file)) });
  return found;
}

const isNoUnicode = (error: unknown) => /utf-?8|unicode/i.test((error as Error).message);

/** A random sample of a file, or of some parts of a file set; keys of folders give the values of their parts. */
export async function sampleDataset(
  store: FileStore,
  duck: Duck,
  dataset: Dataset,
  table: Sampleable,
  rows: number,
  method: SampleMethod = 'random',
): Promise<SampledTable> {
  const values = new Map<string, (string | null)[]>(table.columns.map((column) => [column.name, []]));
  for (const [name, list] of dataset.keys) if (values.has(name)) values.set(name, spread(list, rows));
  const each = Math.max(1, Math.ceil(rows / Math.max(1, dataset.parts.length)));
  for (const { file, columns } of dataset.parts) {
    const names = columns.map((column) => column.name).filter((name) => values.has(name) && !dataset.keys.has(name));
    const nested = new Set(columns.flatMap((column) => (isNested(column.type) ? [column.name] : [])));
    const read = await sampleFile(duck, (await store.local(file)).file, names, each, method, nested);
    for (const [index, name] of names.entries()) values.get(name)?.push(...(read[index] ?? []));
  }
  return { values: table.columns.map((column) => values.get(column.name) ?? []) };
}

const quote = (name: string) => `"${name.replaceAll('"', '""')}"`;
const CLASSES = { digit: '[0-9]', capitals: '\\p{Lu}+', small: '\\p{Ll}+' } as const;
const DIALECT: ProfileDialect = {
  number: (value) => `try_cast(${value} as double)`,
  seconds: (value) => `epoch(try_cast(${value} as timestamp))`,
  replace: (value, pattern, by) => `regexp_replace(${value}, '${CLASSES[pattern]}', '${by}', 'g')`,
  plain: (value) => value,
};

/** Profiles of the columns of a file, or of some parts of a file set, in one statement; keys of folders are known without reading. */
export async function profileDataset(
  store: FileStore,
  duck: Duck,
  dataset: Dataset,
  table: Sampleable,
  measures: readonly Measure[],
  rows: number,
): Promise<ColumnProfile[]> {
  const each = Math.max(1, Math.ceil(rows / Math.max(1, dataset.parts.length)));
  const read = table.columns.flatMap((column, index) =>
    dataset.keys.has(column.name) ? [] : [{ name: column.name, measure: measures[index] ?? 'text' }],
  );
  const parts: string[] = [];
  for (const { file, columns } of dataset.parts) {
    const names = columns.map((column) => column.name);
    const list = read.map(
      ({ name }, index) => `${names.includes(name) ? `${quote(name)}::varchar` : 'null::varchar'} as v${index}`,
    );
    parts.push(`select ${list.join(', ')} from ${drawnFrom((await store.local(file)).file, names, each)}`);
  }
  const wholeSet = dataset.keys.size === 0 && dataset.parts.length === 1;
  let profiles: ColumnProfile[] = [];
  if (read.length > 0 && parts.length > 0) {
    const sql = profileSql(
      `(${parts.join(' union all ')}) t`,
      read.map(({ measure }, index) => ({ text: `v${index}`, measure })),
      DIALECT,
    );
    const answered = (await withinTime(duck, duck.runAndReadAll(sql))).getRows() as unknown as ProfileRow[];
    profiles = readProfiles(
      answered,
      read.map(({ measure }) => measure),
      (counted) => wholeSet && counted < rows,
    );
  }
  return table.columns.map((column, index) => {
    const list = dataset.keys.get(column.name);
    if (list) return profileOf(list, measures[index] ?? 'text', true);
    return profiles[read.findIndex(({ name }) => name === column.name)] as ColumnProfile;
  });
}
