import { type DuckDBConnection, DuckDBInstance } from '@duckdb/node-api';
import type { ValueType } from '@idrel/core/recognition';
import type { WalkedFile } from './walk.ts';

const text = (value: string) => `'${value.replaceAll("'", "''")}'`;
const quote = (name: string) => `"${name.replaceAll('"', '""')}"`;

/** The path of a file as a text of SQL: what would stand for other names in it (`*.csv`) stands for itself. */
const pathText = (path: string) =>
  text(path.replace(/[*?[\\]/g, (character) => (character === '\\' ? '\\\\' : `[${character}]`)));

/** A DuckDB in memory that may read below one folder (and others that are named) and nowhere else, loads nothing, and keeps within its memory. */
export async function openDuck(root: string, memoryMb = 512, ...others: readonly string[]): Promise<DuckDBConnection> {
  const instance = await DuckDBInstance.create(':memory:', {
    memory_limit: `${memoryMb}MB`,
    threads: '2',
    autoinstall_known_extensions: 'false',
    autoload_known_extensions: 'false',
  });
  const connection = await instance.connect();
  await connection.run(
    `set allowed_directories = [${[root, ...others].map((folder) => text(folder.endsWith('/') ? folder : `${folder}/`)).join(', ')}]`,
  );
  await connection.run('set enable_external_access = false');
  await connection.run('set lock_configuration = true');
  return connection;
}

/** The table function that reads a file of this format with the types that DuckDB infers; what folders are called is no part of it. */
function readerOf(file: Readable): string {
  switch (file.format) {
    case 'parquet':
      return `read_parquet(${pathText(file.path)}, hive_partitioning = false)`;
    case 'ndjson':
      return `read_json(${pathText(file.path)}, format = 'newline_delimited', hive_partitioning = false)`;
    case 'json':
      return `read_json(${pathText(file.path)}, hive_partitioning = false)`;
    case 'text':
      // One line a row: no character of a text ends a field or quotes one.
      return `read_csv(${pathText(file.path)}, auto_detect = false, columns = {'line': 'varchar'}, delim = '\u0001', quote = '', escape = '', header = false, null_padding = true, hive_partitioning = false${encodingOf(file)})`;
    case 'csv':
      return `read_csv(${pathText(file.path)}, sample_size = 20480, hive_partitioning = false${encodingOf(file)})`;
    default:
      throw new Error(`Files of the format ${file.format} are not read as they are.`);
  }
}

/**
 * The table function that reads values as they are written. Of a CSV file an inferred type would change them: `0047 …` and `+47…` are
 * numbers to it. Without types a header can no longer be told from a row, so it is said whether there is one.
 */
function rawReaderOf(file: Readable, columns: readonly string[]): string {
  if (file.format !== 'csv') return readerOf(file);
  const header = !columns.every(
    (name, index) =>
      name === `column${index}` || name === `column${String(index).padStart(String(columns.length - 1).length, '0')}`,
  );
  return `read_csv(${pathText(file.path)}, sample_size = 20480, all_varchar = true, header = ${header}, hive_partitioning = false${encodingOf(file)})`;
}

/** A file that can be read: where it is, and what its format is. */
export type Readable = Pick<WalkedFile, 'path' | 'format' | 'encoding'>;

const encodingOf = (file: Readable) => (file.encoding ? `, encoding = ${text(file.encoding)}` : '');

export interface FileColumn {
  readonly name: string;
  readonly type: string;
  readonly valueType: ValueType;
}

function valueTypeOf(type: string): ValueType {
  if (/^(VARCHAR|UUID|ENUM)/.test(type)) return 'text';
  if (/^U?(TINY|SMALL|BIG|HUGE)?INT(EGER)?$/.test(type)) return 'integer';
  if (/^(DECIMAL|DOUBLE|FLOAT)/.test(type)) return 'decimal';
  return type === 'DATE' ? 'date' : 'other';
}

/** Reading ends here: a file that unpacks without end, or takes for ever, must not hold up the others. */
const LONGEST_MS = 60_000;
export async function withinTime<T>(connection: DuckDBConnection, work: Promise<T>): Promise<T> {
  let late = false;
  const timer = setTimeout(() => {
    late = true;
    connection.interrupt();
  }, LONGEST_MS);
  try {
    return await work;
  } catch (error) {
    if (late) throw new Error(`Reading it took longer than ${LONGEST_MS / 1000} s, and was ended.`);
    throw error;
  } finally {
    clearTimeout(timer);
  }
}

async function describeColumns(connection: DuckDBConnection, file: Readable): Promise<FileColumn[]> {
  const described = await withinTime(connection, connection.runAndReadAll(`describe select * from ${readerOf(file)}`));
  return described.getRowObjects().map((row) => {
    const type = String(row.column_type);
    return { name: String(row.column_name), type: type.toLowerCase(), valueType: valueTypeOf(type) };
  });
}

/** Columns with the types that DuckDB infers, and the number of rows where the file says it without being read. */
export async function describeFile(
  connection: DuckDBConnection,
  file: Readable,
): Promise<{ columns: FileColumn[]; rows: number | null }> {
  const columns = await describeColumns(connection, file);
  if (file.format !== 'parquet') return { columns, rows: null };
  const counted = await connection.runAndReadAll(
    `select sum(num_rows)::double as n from parquet_file_metadata(${pathText(file.path)})`,
  );
  return { columns, rows: Number(counted.getRowObjects()[0]?.n ?? 0) };
}

/**
 * The same for parts of one Parquet dataset: their footers are read in one statement, and columns are described once for each schema that differs.
 * @throws when one of them cannot be read: then each has to be looked at by itself
 */
export async function describeParquetParts(
  connection: DuckDBConnection,
  files: readonly Readable[],
): Promise<{ columns: FileColumn[]; rows: number | null }[]> {
  const list = `[${files.map((file) => pathText(file.path)).join(', ')}]`;
  const footers = await withinTime(
    connection,
    connection.runAndReadAll(
      `
        select
          s.file_name,
          md5(
            string_agg(
              concat_ws(
                '|', s.name, s.type, s.type_length, s.repetition_type, s.num_children, s.converted_type, s.scale,
                s.precision, s.logical_type
              ),
              ';'
            )
          ),
          any_value(m.num_rows)::double
        from parquet_schema(${list}) s
        join parquet_file_metadata(${list}) m on m.file_name = s.file_name
        group by 1`,
    ),
  );
  const facts = new Map(
    footers
      .getRows()
      .map(([path, schema, rows]) => [String(path), { schema: String(schema), rows: Number(rows ?? 0) }]),
  );
  const known = new Map<string, FileColumn[]>();
  const found: { columns: FileColumn[]; rows: number | null }[] = [];
  for (const file of files) {
    const { schema, rows } = facts.get(file.path) ?? { schema: file.path, rows: null };
    const columns = known.get(schema) ?? (await describeColumns(connection, file));
    known.set(schema, columns);
    found.push({ columns, rows });
  }
  return found;
}

/** Above this size a file is sampled by blocks instead of being read whole. */
const LARGE = 64 * 1024 * 1024;

/** Types whose values have parts of their own: they are written as JSON. */
export const isNested = (type: string): boolean => /^(struct|map|union)\b|\[\]$/i.test(type);

/** A random sample of values as text, column by column; of columns with parts as JSON. */
export async function sampleFile(
  connection: DuckDBConnection,
  file: Readable & { readonly bytes: number },
  columns: readonly string[],
  rows: number,
  method: 'random' | 'first' = 'random',
  nested: ReadonlySet<string> = new Set(),
): Promise<(string | null)[][]> {
  const list = columns.map((name) => valueText(name, nested)).join(', ');
  const result = await withinTime(
    connection,
    connection.runAndReadAll(`select ${list} from ${drawnFrom(file, columns, rows, method)}`),
  );
  const read = result.getRows();
  return columns.map((_, index) => read.map((row) => asText(row[index])));
}

/**
 * The first rows of a file as texts, of columns with parts as JSON.
 * @param all every column that it has
 * @param wanted the columns to be shown, and the values that some of them must have
 */
export async function rowsOfFile(
  connection: DuckDBConnection,
  file: Readable,
  all: readonly string[],
  wanted: {
    readonly columns: readonly string[];
    readonly only: readonly { readonly column: string; readonly values: readonly string[] }[];
    readonly most: number;
    readonly nested: ReadonlySet<string>;
    /** Whether long values are cut. */
    readonly cut: boolean;
  },
): Promise<(string | null)[][]> {
  const { columns, only, most, nested, cut } = wanted;
  const list = columns.map((name) => (cut ? valueText(name, nested) : wholeText(name, nested)));
  // A row counts as one also where none of its columns is shown.
  const sql = `
    select ${[...list, '1'].join(', ')}
    from ${rawReaderOf(file, all)}
    ${only.length > 0 ? `where ${only.map(({ column, values }) => `${quote(column)}::varchar in (${values.map(text).join(', ')})`).join(' and ')}` : ''}
    limit ${most}`;
  const read = (await withinTime(connection, connection.runAndReadAll(sql))).getRows();
  return read.map((row) => columns.map((_, index) => asText(row[index])));
}

const wholeText = (name: string, nested: ReadonlySet<string>) =>
  nested.has(name) ? `to_json(${quote(name)})::varchar` : `${quote(name)}::varchar`;
const valueText = (name: string, nested: ReadonlySet<string>) =>
  `left(${wholeText(name, nested)}, ${nested.has(name) ? 8000 : 2000})`;
const asText = (value: unknown): string | null => (value === null || value === undefined ? null : String(value));

/** SQL of random rows of a file, with values as they are written. */
export function drawnFrom(
  file: Readable & { readonly bytes: number },
  columns: readonly string[],
  rows: number,
  method: 'random' | 'first' = 'random',
): string {
  const sampling =
    method === 'first'
      ? ''
      : file.bytes > LARGE
        ? `using sample ${Math.max(0.5, (100 * 50 * 1024 * 1024) / file.bytes).toFixed(2)} percent (system)`
        : `using sample reservoir(${rows} rows)`;
  return `(select * from (select * from ${rawReaderOf(file, columns)} ${sampling}) limit ${rows}) t`;
}
