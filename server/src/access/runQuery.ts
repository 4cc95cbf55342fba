import type { TableExplained } from '@idrel/contract/access';
import { kindsAsked, type SourceKind } from '@idrel/contract/sources';
import { DIGEST_SETTINGS, type Keyed, quoteIdentifier } from '@idrel/core/access';
import { type ConnectorInput, connectToPostgres, SESSION, setSecretly } from '@idrel/readers/connectors';
import type pg from 'pg';
import Cursor from 'pg-cursor';
import type { Config } from '../platform/config.ts';
import type { Db } from '../platform/database.ts';
import { ApiProblem, invalid } from '../platform/problems.ts';
import { connectorInput } from '../sources/index.ts';
import { borrow, type Lent } from './connections.ts';
import { digestKeyFor } from './digests.ts';
import type { Prepared } from './gateway.ts';
import { layOut, layRows, runsHere, workingInput } from './laidOut.ts';
import { SentCursor, type SentRows } from './rowsAsSent.ts';

/** The most that one answer may take of the server; an answer that is larger is cut there, and says so. */
export interface Bounds {
  readonly rows: number;
  /** Of the whole answer, in bytes as the source sends it. */
  readonly bytes: number;
  /** Of the whole answer, also while the reader takes it slowly. */
  readonly seconds: number;
}

/** What is read of an answer at once: about so much; never more than so much, where rows differ wildly; and how much a single row may be. */
const BATCH_BYTES = 1 << 20;
const BATCH_MOST = 24 << 20;
const ROW_BYTES = 8 << 20;
const STATEMENT_SECONDS = 30;

/** A connection for statements of readers, and how to reach its source again. */
export interface Gateway extends Lent {
  readonly input: ConnectorInput;
  /** The source whose rows are laid out where the statement runs, if it does not run at the source itself. */
  readonly from: (ConnectorInput & { readonly kind: SourceKind }) | null;
}

/** A connection for one statement of a reader: it is to be given back. @param reaching how the source is reached, where that is being looked up already */
export async function openGateway(
  db: Db,
  config: Config,
  sourceId: string,
  reaching: ReturnType<typeof connectorInput> = connectorInput(db, config, sourceId),
): Promise<Gateway> {
  const input = await reaching;
  if (!kindsAsked().includes(input.kind))
    throw invalid(
      `No statement can be asked of ${input.name}: it holds no rows.`,
      'Choose a source of tables or of files.',
    );
  if (!runsHere(input)) return { ...(await lentFor(input)), input, from: null };
  const working = await workingInput(db, config, sourceId);
  return { ...(await lentFor(working)), input: working, from: input };
}

const lentFor = (input: ConnectorInput): Promise<Lent> =>
  borrow(input, STATEMENT_SECONDS * 1000).catch((error: Error) => {
    throw new ApiProblem('source-error', error.message, { mend: (error as { mend?: string }).mend ?? '' });
  });

const PROBLEMS: Readonly<Record<string, readonly [detail: string, mend: string]>> = {
  '57014': [
    `The query took longer than ${STATEMENT_SECONDS} seconds and was stopped.`,
    'Read fewer rows, or add a condition.',
  ],
  '0A': ['The source does not support this.', 'Write the query without it.'],
  '21': ['A subquery that stands for one value gave several rows.', 'Limit it to one row, or use IN.'],
  '22': [
    'A value could not be computed.',
    'Check conversions and divisions. The value itself is not shown: it may be one that you may not see.',
  ],
  '42': ['The database does not accept the query.', 'Check types of arguments and the names used.'],
  '53': ['The source has not enough memory or room for this query.', 'Read fewer rows, or add a condition.'],
  '54': ['The query is too complex for the source, or gives too much at once.', 'Split it, or read fewer columns.'],
};

/**
 * What is told of an error of the database. Its own text can hold values ("invalid input syntax for integer: …"), also of rows that
 * are not to be seen: so it is never passed on, only what kind of error it was.
 */
function tellError(error: unknown, tables: readonly TableExplained[]): ApiProblem {
  const { code = '', message } = error as { code?: string; message: string };
  if (['42703', '42P01', '42702', '42P10', '42803'].includes(code)) {
    const name = /column "?([^"]+)"?/.exec(message)?.[1]?.split(/[ .]/).at(-1);
    const hidden = tables.flatMap((table) =>
      table.columns
        .filter((column) => column.name === name && column.access === 'refused')
        .map((column) => ({ table, column })),
    )[0];
    if (hidden) {
      const by = hidden.column.reasons.map((reason) => `“${reason.policy}”`).join(', ');
      return new ApiProblem(
        'refused-column',
        `${hidden.table.path}.${hidden.column.name} may not be read${by ? `: denied by ${by}` : ': no policy allows it'}.`,
        {
          mend: 'Leave the column out, or ask its owner for access.',
          current: tables,
        },
      );
    }
    return invalid(`${message.split('\n')[0]}.`, 'Names of columns are those that the catalog shows.');
  }
  const [detail, mend] = PROBLEMS[code] ?? PROBLEMS[code.slice(0, 2)] ?? [];
  if (detail && mend)
    return new ApiProblem(
      code === '57014' ? 'query-stopped' : 'invalid',
      code === '57014' ? detail : `${detail.slice(0, -1)} (${code}).`,
      { mend },
    );
  return new ApiProblem('source-error', `The source could not answer (${code || 'no code'}).`, {
    mend: 'Test the connection of the source.',
  });
}

const tooLarge = () =>
  new ApiProblem('row-too-large', `A row of the answer is larger than ${ROW_BYTES >> 20} MB.`, {
    mend: 'Read a part of the value, for example with left(), or fewer columns.',
  });

const asText = { getTypeParser: () => (value: string) => value };
export type TextRow = (string | null)[];
/** A column of an answer, with its type as the source's protocol tells it. */
export interface ShownColumn {
  readonly name: string;
  readonly typeId: number;
  readonly typeSize: number;
  readonly typeModifier: number;
}
const shown = ({ name, dataTypeID, dataTypeSize, dataTypeModifier }: pg.FieldDef): ShownColumn => ({
  name,
  typeId: dataTypeID,
  typeSize: dataTypeSize,
  typeModifier: dataTypeModifier,
});
type Socket = NodeJS.EventEmitter & { destroy(error?: Error): void };
const socketOf = (client: pg.Client): Socket =>
  (client as unknown as { connection: { stream: Socket } }).connection.stream;

/** The transaction in which a statement runs: read-only, with the settings that decide how it is read, whatever stands between here and the source. */
const beginning = (path: readonly string[]) =>
  `begin transaction read only; ${Object.entries({ ...SESSION, search_path: path.map(quoteIdentifier).join(', ') })
    .map(([name, value]) => `set local ${name} = ${name === 'search_path' ? value : `'${value}'`}`)
    .join('; ')}`;

/**
 * Begins the transaction of a statement. A connection that waited can have been ended by the source without a word so far: then on the next,
 * unless it was ended here, since nobody waits for the answer any more.
 */
async function begun(
  lent: Lent,
  input: ConnectorInput,
  path: readonly string[],
  isEnded: () => boolean,
  before: (client: pg.Client) => Promise<void> = async () => undefined,
): Promise<Lent> {
  try {
    await before(lent.client);
    await lent.client.query(beginning(path));
    return lent;
  } catch (error) {
    void lent.leave(false);
    if (!lent.kept || isEnded() || error instanceof ApiProblem) throw error;
    return begun(await lentFor(input), input, path, isEnded, before);
  }
}

/** Ends a connection at the source, with what it is doing: to cancel a statement is forgotten when it comes between two messages. */
async function endThere(input: ConnectorInput, client: pg.Client): Promise<void> {
  const pid = (client as unknown as { processID: number | null }).processID;
  if (pid === null) return;
  const other = await connectToPostgres(input, { statementTimeout: 5000 });
  await other.query('select pg_terminate_backend($1)', [pid]).finally(() => other.end());
}

/** Some rows of an answer, in the form in which they are read. */
interface Rows<R> {
  readonly length: number;
  slice(from: number, to: number): R;
}
/** How rows are read of a source. */
interface Reader<R extends Rows<R>> {
  /** So many at once, at most. */
  readonly most: number;
  open(
    client: pg.Client,
    sql: string,
    values: readonly (string | null)[],
  ): { read(most: number): Promise<R>; fields(): readonly pg.FieldDef[]; close(): Promise<unknown> };
}

/** Each value as a text. */
export const AS_TEXT: Reader<TextRow[]> = {
  most: 5000,
  open(client, sql, values) {
    const cursor = client.query(new Cursor<TextRow>(sql, [...values], { rowMode: 'array', types: asText as never }));
    return {
      read: (most) => cursor.read(most),
      fields: () => (cursor as unknown as { _result: { fields: pg.FieldDef[] } })._result.fields,
      close: () => cursor.close(),
    };
  },
};
/** As the source sends them, for who speaks its protocol. */
export const AS_SENT: Reader<SentRows> = {
  most: 50_000,
  open(client, sql, values) {
    const cursor = client.query(new SentCursor(sql, values) as unknown as pg.Submittable) as unknown as SentCursor;
    return { read: (most) => cursor.read(most), fields: () => cursor.fields, close: () => cursor.close() };
  },
};

export interface Ran {
  readonly rows: number;
  readonly capped: boolean;
  readonly because?: 'rows' | 'bytes';
  /** What is to be said of the rows that were laid out for it. */
  readonly notes?: readonly string[];
}

/** Why nobody takes an answer any more: as it was said by who ended it, else since the reader went. */
export const whyGone = (left: AbortSignal | undefined): ApiProblem =>
  left?.reason instanceof ApiProblem ? left.reason : new ApiProblem('gone', 'The reader went away.');

/** The same as {@link runReading}, with each value as a text. */
export const runPrepared = (
  gateway: Gateway,
  config: Pick<Config, 'digestKey'>,
  prepared: Prepared,
  bounds: Bounds,
  take: (columns: readonly ShownColumn[], rows: TextRow[]) => Promise<void> | void,
  left?: AbortSignal,
): Promise<Ran> => runReading(AS_TEXT, gateway, config, prepared, bounds, take, left);

/**
 * Runs a prepared statement in a read-only transaction within bounds, and hands its rows over in batches of about a megabyte.
 *
 * @param reader in what form they are read
 * @param take gets the columns and each batch; it may wait: the next batch is asked for meanwhile, and the database waits with that
 * @param left ends the statement at the source when the reader leaves
 * @param values of the parameters of the statement
 * @returns number of rows, and why there are not more
 */
export async function runReading<R extends Rows<R>>(
  reader: Reader<R>,
  gateway: Gateway,
  config: Pick<Config, 'digestKey'>,
  prepared: Prepared,
  bounds: Bounds,
  take: (columns: readonly ShownColumn[], rows: R) => Promise<void> | void,
  left?: AbortSignal,
  values: readonly (string | null)[] = [],
): Promise<Ran> {
  const { input } = gateway;
  let lent: Lent = gateway;
  let well = false;
  let received = 0;
  let sinceBatch = 0;
  let most = BATCH_MOST;
  let ended: ApiProblem | undefined;
  const stop = (problem: ApiProblem) => {
    if (ended) return;
    ended = problem;
    void endThere(input, lent.client).catch(() => undefined);
    socketOf(lent.client).destroy();
  };
  const count = (chunk: Buffer) => {
    received += chunk.length;
    sinceBatch += chunk.length;
    if (sinceBatch > most) stop(tooLarge());
  };
  const gone = () => stop(whyGone(left));
  left?.addEventListener('abort', gone);
  const late = setTimeout(
    () =>
      stop(
        new ApiProblem('query-stopped', `The answer was not taken within ${bounds.seconds} seconds and was stopped.`, {
          mend: 'Read fewer rows, or take them faster.',
        }),
      ),
    bounds.seconds * 1000,
  );
  try {
    if (left?.aborted) gone();
    let notes: string[] = [];
    lent = await begun(
      lent,
      input,
      prepared.path,
      () => ended !== undefined,
      async (client) => {
        const { from } = gateway;
        if (!from) return;
        notes = await layOut(client, prepared.laid, () =>
          layRows(client, prepared.laid, from, left ?? new AbortController().signal),
        );
      },
    );
    if (ended) throw ended;
    const { client } = lent;
    if (prepared.digests)
      for (const [keyed, setting] of Object.entries(DIGEST_SETTINGS))
        await setSecretly(client, setting, digestKeyFor(config, keyed as Keyed, prepared.organisation));
    socketOf(client).on('data', count);
    const cursor = reader.open(client, prepared.sql, values);
    let rowsTaken = 0;
    const ask = (wanted: number) => {
      const asked = Math.min(wanted, bounds.rows - rowsTaken + 1);
      sinceBatch = 0;
      // One row too large is known before all of it has come.
      most = asked === 1 ? ROW_BYTES + 4096 : BATCH_MOST;
      const coming = cursor.read(asked);
      coming.catch(() => undefined); // told where it is waited for
      return { wanted, asked, coming };
    };
    let next = ask(1);
    for (;;) {
      const { wanted, asked, coming } = next;
      const rows = await coming;
      const fields = cursor.fields().map(shown);
      const kept = rows.slice(0, bounds.rows - rowsTaken);
      rowsTaken += kept.length;
      const isWhole = rows.length < asked;
      const because = rows.length > kept.length ? 'rows' : received > bounds.bytes ? 'bytes' : undefined;
      if (isWhole || because) {
        await take(fields, kept);
        if (!isWhole) await cursor.close();
        well = true;
        const told = notes.length > 0 ? { notes } : {};
        return isWhole || !because
          ? { rows: rowsTaken, capped: false, ...told }
          : { rows: rowsTaken, capped: true, because, ...told };
      }
      const fitting = Math.floor((BATCH_BYTES * rows.length) / Math.max(1, sinceBatch));
      next = ask(Math.max(1, Math.min(reader.most, wanted * 8, fitting)));
      await take(fields, kept);
    }
  } catch (error) {
    if (ended) throw ended;
    throw error instanceof ApiProblem ? error : tellError(error, prepared.tables);
  } finally {
    clearTimeout(late);
    left?.removeEventListener('abort', gone);
    socketOf(lent.client).off('data', count);
    void lent.leave(well && !ended);
  }
}

/** What a prepared statement takes and gives. */
export interface Described {
  /** Types of its parameters, as the source's protocol tells them. */
  readonly parameters: readonly number[];
  readonly columns: readonly ShownColumn[];
}

/** Asks the source what a statement takes and gives, without running it: a query of the client that only describes. */
class Describing {
  readonly #text: string;
  readonly #done: (described: Described) => void;
  readonly #failed: (error: unknown) => void;
  #parameters: number[] = [];
  #columns: ShownColumn[] = [];

  constructor(text: string, done: (described: Described) => void, failed: (error: unknown) => void) {
    this.#text = text;
    this.#done = done;
    this.#failed = failed;
  }

  submit(connection: pg.Connection): void {
    const about = (message: { dataTypeIDs: number[] }) => {
      this.#parameters = message.dataTypeIDs;
    };
    connection.once('parameterDescription', about);
    connection.once('readyForQuery', () => connection.off('parameterDescription', about));
    connection.parse({ name: '', text: this.#text, types: [] }, true);
    connection.describe({ type: 'S', name: '' }, true);
    connection.sync();
  }

  handleRowDescription({ fields }: { fields: pg.FieldDef[] }): void {
    this.#columns = fields.map(shown);
  }

  handleError(error: unknown): void {
    this.#failed(error);
  }

  handleReadyForQuery(): void {
    this.#done({ parameters: this.#parameters, columns: this.#columns });
  }
}

/** What a prepared statement takes and gives at its source. */
export async function describePrepared(gateway: Gateway, prepared: Prepared): Promise<Described> {
  let lent: Lent = gateway;
  let well = false;
  try {
    lent = await begun(
      lent,
      gateway.input,
      prepared.path,
      () => false,
      async (client) => {
        await layOut(client, prepared.laid);
      },
    );
    const { client } = lent;
    const described = await new Promise<Described>((resolve, reject) => {
      client.query(new Describing(prepared.sql, resolve, reject) as unknown as pg.Submittable);
    });
    well = true;
    return described;
  } catch (error) {
    throw error instanceof ApiProblem ? error : tellError(error, prepared.tables);
  } finally {
    void lent.leave(well);
  }
}
