import type { Connection, RowDataPacket } from 'mysql2/promise';
import { inWordsOf, reachSteps } from '../network.ts';
import { runSteps } from '../steps.ts';
import {
  type Connector,
  type ConnectorInput,
  lettersIn,
  namesThere,
  OUTLINE_MOST,
  type Reading,
  type RowsRead,
  type RowsWanted,
  type Sampleable,
  type SampledTable,
  type SampleMethod,
  SourceProblem,
  VALUE_LONGEST,
  WHOLE_LETTERS_MOST,
} from '../types.ts';
import { connectMaria, explainMariaError, quoteName as quote, readingAccount } from './connect.ts';
import { readMariaAskedFlows, readMariaQueries } from './queries.ts';
import { readMariaFlows, readMariaStructure } from './structure.ts';

/** MariaDB and MySQL, through information_schema. One source is one database of a server. */
export const mariadb: Connector = { test, open };

async function test(input: ConnectorInput) {
  const { address } = input;
  const words = inWordsOf(explainMariaError, input);
  let connection: Connection | undefined;
  const open = (): Connection => connection as Connection;
  const database = String(address.database);
  try {
    return await runSteps([
      ...reachSteps(input, words),
      [
        'Authenticate',
        async () => {
          if (!input.secret)
            throw new SourceProblem(
              'The source has no credential.',
              `Choose or make a credential for it. A reading account is made with\n${readingAccount('idrel_reader', database)}`,
            );
          connection = await words(connectMaria(input));
          return `Signed in as ${input.secret.username} to ${database}.`;
        },
      ],
      [
        'Rights to read the catalog',
        async () => {
          const [rows] = await words(
            open().query<RowDataPacket[]>(
              'select count(*) as n from information_schema.columns where table_schema = ?',
              [database],
            ),
          );
          const n = Number(rows[0]?.n ?? 0);
          // information_schema shows only what the account has some right on: nothing shown can mean no right.
          if (n === 0)
            throw new SourceProblem(
              `No column of ${database} is shown to this account.`,
              readingAccount(input.secret?.username ?? 'idrel_reader', database),
            );
          return `${n.toLocaleString('en')} columns are described.`;
        },
      ],
      [
        'Rights to read data',
        async () => {
          const [rows] = await words(
            open().query<RowDataPacket[]>(
              'select table_name as name from information_schema.tables where table_schema = ?',
              [database],
            ),
          );
          let readable = 0;
          const closed: string[] = [];
          for (const { name } of rows as { name: string }[]) {
            const asked = await open()
              .query(`select 1 from ${quote(database)}.${quote(name)} limit 0`)
              .then(
                () => true,
                () => false,
              );
            if (asked) readable += 1;
            else closed.push(name);
          }
          const grant = `GRANT SELECT, SHOW VIEW ON \`${database}\`.* TO '${input.secret?.username}'@'%';`;
          if (readable === 0 && rows.length > 0)
            throw new SourceProblem(`None of the ${rows.length} tables and views can be read by this account.`, grant);
          return closed.length > 0
            ? `${readable} of ${rows.length} tables and views can be read. For the rest (${closed.slice(0, 5).join(', ')}):\n${grant}`
            : `All ${rows.length} tables and views can be read.`;
        },
      ],
    ]);
  } finally {
    await connection?.end().catch(() => undefined);
  }
}

async function sample(
  connection: Connection,
  database: string,
  table: Sampleable,
  rows: number,
  method: SampleMethod = 'random',
): Promise<SampledTable> {
  const name = `${quote(database)}.${quote(namesThere(table)[0] ?? '')}`;
  const list = table.columns.map((column) => `left(cast(${quote(column.name)} as char), ${VALUE_LONGEST})`).join(', ');
  if (list === '') return { values: [] };
  // Small tables are shuffled; of large ones each row has the same chance, and one pass ends when enough are drawn.
  const share = (rows * 3) / Math.max(table.estimatedRows, 1);
  const drawn =
    method === 'first'
      ? `limit ${rows}`
      : share < 0.3
        ? `where rand() < ${share.toFixed(8)} limit ${rows}`
        : `order by rand() limit ${rows}`;
  const [read] = await connection.query<RowDataPacket[][]>({
    sql: `select ${list} from ${name} ${drawn}`,
    rowsAsArray: true,
    timeout: 20_000,
  });
  return {
    values: table.columns.map((_, index) => read.map((row) => asText(row[index]))),
  };
}

const asText = (value: unknown): string | null => (value === null || value === undefined ? null : String(value));

/** Looking for a few rows takes the server at most so long: it goes on with a statement after whoever asked has left. */
const FIRST_ROWS_SECONDS = 20;

/** Bounds statements of this connection at the server: MariaDB and MySQL have different names for it. */
async function boundStatements(connection: Connection): Promise<void> {
  await connection
    .query('set session max_statement_time = ?', [FIRST_ROWS_SECONDS])
    .catch(() => connection.query('set session max_execution_time = ?', [FIRST_ROWS_SECONDS * 1000]));
}

/** Rows one by one as they come: what the client offers beneath its promises. */
const streamed = (connection: Connection, query: object): AsyncIterable<unknown[]> =>
  (
    connection as unknown as { readonly connection: { query(sql: object): { stream(): AsyncIterable<unknown[]> } } }
  ).connection
    .query(query)
    .stream();

async function firstRows(
  connection: Connection,
  database: string,
  { names, columns, only, most, whole }: RowsWanted,
): Promise<RowsRead> {
  await boundStatements(connection);
  const list = columns
    .map((name) => `cast(${quote(name)} as char)`)
    .map((value) => (whole ? value : `left(${value}, ${VALUE_LONGEST})`));
  // Letter by letter: the order of the column may take capitals for small letters.
  const conditions = only.map(({ column }) => `cast(${quote(column)} as char) collate utf8mb4_bin in (?)`);
  const query = {
    sql: `select ${list.length > 0 ? list.join(', ') : '1'} from ${quote(database)}.${quote(names[0] ?? '')} ${conditions.length > 0 ? `where ${conditions.join(' and ')}` : ''} limit ${most}`,
    values: only.map(({ values }) => values),
    rowsAsArray: true,
  };
  if (!whole) {
    const [read] = await connection.query<RowDataPacket[][]>(query);
    return { rows: read.map((row) => row.map(asText)) };
  }
  // Bit by bit: how much it comes to is known before all of it is here.
  const rows: (string | null)[][] = [];
  let letters = 0;
  for await (const read of streamed(connection, query)) {
    const row = read.map(asText);
    letters += lettersIn(row);
    if (letters > WHOLE_LETTERS_MOST) {
      connection.destroy();
      return { rows: [], tooMuch: true };
    }
    rows.push(row);
  }
  return { rows };
}

async function open(input: ConnectorInput): Promise<Reading> {
  const connection = await connectMaria(input);
  const database = String(input.address.database);
  const inWords = inWordsOf(explainMariaError, input);
  return {
    outline: async () => {
      const [rows] = await inWords(
        connection.query<RowDataPacket[]>(
          `select table_name as path, if(table_type like '%VIEW%', 'view', 'table') as kind from information_schema.tables where table_schema = ? order by 1 limit ${OUTLINE_MOST}`,
          [database],
        ),
      );
      return rows as { path: string; kind: string }[];
    },
    structure: (progress, known) => inWords(readMariaStructure(connection, database, progress, known)),
    sample: (table, rows, method) => sample(connection, database, table, rows, method),
    rows: (wanted) => inWords(firstRows(connection, database, wanted)),
    flows: () =>
      inWords(
        Promise.all([readMariaFlows(connection, database), readMariaAskedFlows(connection, database)]).then((all) =>
          all.flat(),
        ),
      ),
    queries: () => inWords(readMariaQueries(connection, database)),
    abort: () => connection.destroy(),
    close: () => connection.end().catch(() => undefined),
  };
}
