import { KINDS, type SourceKind } from '@idrel/contract/sources';
import { fitsLaid, LAID_SCHEMA, type LaidTable, quoteIdentifier } from '@idrel/core/access';
import { type ConnectorInput, KEY_SEPARATOR, lettersIn, WHOLE_LETTERS_MOST } from '@idrel/readers/connectors';
import type pg from 'pg';
import type { Config } from '../platform/config.ts';
import type { Db } from '../platform/database.ts';
import { conflict, invalid } from '../platform/problems.ts';
import { mustReach, withReading } from './readNow.ts';

/** So many rows of one table are laid out at most, and so many letters of all tables of a statement. */
const ROWS_MOST = 100_000;
const LETTERS_MOST = WHOLE_LETTERS_MOST;
/** So many rows go over at once. */
const BATCH = 4000;

type Source = ConnectorInput & { readonly kind: SourceKind };

/** Whether statements over a source run here, over rows that are laid out. */
export const runsHere = ({ kind }: { readonly kind: SourceKind }): boolean => KINDS[kind].asked === 'here';

/** Names that a table may have for which a statement writes a path: whatever follows a slash in it, and all of it. */
export const namesIn = (relation: string): string[] => {
  const parts = relation.split('/');
  return parts.map((_, from) => parts.slice(from).join('/'));
};

/** How the working database is reached. @throws 409 when this server has none, 409 when only agents reach the source */
export async function workingInput(
  db: Db,
  { workUrl }: Pick<Config, 'workUrl'>,
  sourceId: string,
): Promise<ConnectorInput> {
  const source = await db.one<{ name: string; agentGroup: string | null }>(
    'select name, agent_group as "agentGroup" from source where id = $1',
    [sourceId],
  );
  if (source) mustReach(source, 'rows');
  if (!workUrl)
    throw conflict(
      'no-work-database',
      'This server has no working database, in which statements over sources that are not PostgreSQL run.',
      'Whoever runs the server sets IDREL_WORK_DATABASE_URL. A few rows of a table are read on its page all the same.',
    );
  const { hostname, port, pathname, username, password, searchParams } = new URL(workUrl);
  const tls = ['yes', 'checked'].find((one) => one === searchParams.get('tls')) ?? 'no';
  return {
    name: 'the working database',
    address: { host: hostname, port: Number(port || 5432), database: decodeURIComponent(pathname.slice(1)), tls },
    secret: { username: decodeURIComponent(username), password: decodeURIComponent(password) },
  };
}

/** Makes the tables of a statement, and fills them: nothing but that is written there. @param fill nothing, where the statement is only described */
export async function layOut(
  client: pg.Client,
  tables: readonly LaidTable[],
  fill: () => Promise<string[]> = async () => [],
): Promise<string[]> {
  if (tables.length === 0) return [];
  await client.query('begin transaction read write');
  await layTables(client, tables);
  const notes = await fill();
  await client.query('commit');
  return notes;
}

async function layTables(client: pg.Client, tables: readonly LaidTable[]): Promise<void> {
  for (const { name, columns } of tables) {
    const list = columns.map((column) => `${quoteIdentifier(column.name)} ${column.type}`).join(', ');
    await client.query(`create temporary table ${quoteIdentifier(name)} (${list})`);
  }
}

/**
 * Reads the tables of a statement at their source, once and whole, and lays out the rows that its reader may see. They are gone with the connection.
 * @returns what is to be said of them
 * @throws 422 when there are too many; 502 when the source does not give them
 */
export async function layRows(
  client: pg.Client,
  tables: readonly LaidTable[],
  source: Source,
  left: AbortSignal,
): Promise<string[]> {
  let letters = 0;
  const notes: string[] = [];
  const wanted = tables.filter(({ only }) => only.every(({ values }) => values.length > 0));
  if (wanted.length === 0) return [];
  await withReading(source, left, 'rows', async (reading) => {
    for (const table of wanted) {
      if (!reading.rows) throw invalid(`${table.path} holds no rows.`, 'Name a table, a view or a file.');
      const names = [...new Set([...table.wanted, ...table.only.map(({ column }) => column)])];
      const { rows, tooMuch } = await reading.rows({
        names: table.key.split(KEY_SEPARATOR).slice(1),
        columns: names,
        only: table.only,
        most: ROWS_MOST + 1,
        whole: true,
      });
      letters += rows.reduce((sum, row) => sum + lettersIn(row), 0);
      if (tooMuch || rows.length > ROWS_MOST || letters > LETTERS_MOST)
        throw invalid(
          `${table.path} is too large to be read whole for a statement: it has more than ${rows.length > ROWS_MOST ? `${ROWS_MOST.toLocaleString('en')} rows` : `${LETTERS_MOST >> 20} MB`}.`,
          'Let it be loaded into a database, and ask that; a few rows of it are read on its page.',
        );
      const at = new Map(names.map((name, index) => [name, index]));
      // The source was asked for permitted rows alone; how it compares texts is its own affair, so it is not taken at its word.
      const permitted = rows.filter((row) =>
        table.only.every(({ column, values }) => {
          const value = row[at.get(column) ?? -1];
          return typeof value === 'string' && values.includes(value);
        }),
      );
      notes.push(...(await insert(client, table, permitted)));
    }
  });
  return notes;
}

/** Fills a table. @param rows values of the columns that are wanted, in their order; what follows them is not taken */
async function insert(
  client: pg.Client,
  { name, path, columns, wanted }: LaidTable,
  rows: readonly (readonly (string | null)[])[],
): Promise<string[]> {
  const into = `insert into pg_temp.${quoteIdentifier(name)}`;
  const [first] = columns;
  if (wanted.length === 0 && first) {
    // Its rows count all the same.
    const sql = `${into} (${quoteIdentifier(first.name)}) select null from generate_series(1, $1::int)`;
    await client.query(sql, [rows.length]);
    return [];
  }
  const filled = wanted.flatMap((one) => columns.filter((column) => column.name === one));
  const odd = filled.map(() => 0);
  const each = (text: (index: number) => string) => filled.map((_, index) => text(index)).join(', ');
  const sql = `${into} (${each((index) => quoteIdentifier(filled[index]?.name ?? ''))})
    select ${each((index) => `v${index}::${filled[index]?.type}`)}
    from unnest(${each((index) => `$${index + 1}::text[]`)}) as r(${each((index) => `v${index}`)})`;
  for (let from = 0; from < rows.length; from += BATCH) {
    const part = rows.slice(from, from + BATCH);
    const values = filled.map(({ type }, index) =>
      part.map((row) => {
        const value = row[index] ?? null;
        if (value === null || fitsLaid(type, value)) return value;
        odd[index] = (odd[index] ?? 0) + 1;
        return null;
      }),
    );
    await client.query(sql, values);
  }
  const many = (count: number) => count.toLocaleString('en');
  return filled.flatMap((column, index) =>
    odd[index] && column.plain
      ? [
          `${many(odd[index])} of ${many(rows.length)} values of ${path}.${column.name} are no ${column.type} and are left empty here; they are shown among its rows.`,
        ]
      : [],
  );
}

/** As a statement names a table: by its schema and name, where its source has none by its path, or by its last name. */
export const isNamed = (
  table: { readonly here: boolean; readonly schema: string; readonly name: string; readonly path: string },
  schema: string | undefined,
  name: string,
): boolean =>
  table.here
    ? (schema === undefined || schema === LAID_SCHEMA) && (table.path === name || table.name === name)
    : table.name === name && (schema === undefined || table.schema === schema);
