import type { TableExplained } from '@idrel/contract/access';
import type pg from 'pg';
import type { Who } from '../people/index.ts';
import type { Context } from '../platform/context.ts';
import { ApiProblem } from '../platform/problems.ts';
import { threads } from '../platform/threads.ts';
import { connectorInput } from '../sources/index.ts';
import { askedKeeper } from './asked.ts';
import type { Asking } from './facts.ts';
import { type Prepared, prepare } from './gateway.ts';
import {
  AS_TEXT,
  type Bounds,
  type Described,
  describePrepared,
  openGateway,
  runReading,
  type ShownColumn,
  type TextRow,
} from './runQuery.ts';
import { callablesOf, knownCallables } from './sourceCallables.ts';

/** Longer statements are looked at in a thread: to parse them takes longer than others should wait. */
export const LONG_STATEMENT = 4000;

interface VersionedSource {
  readonly id: string;
  readonly version: number;
}

export const tablesOf = ({ tables }: { readonly tables: readonly TableExplained[] }) =>
  tables.map(({ tableId }) => tableId);

export const outcomeOf = (error: unknown): string => (error instanceof ApiProblem ? error.code : 'failed');

/** Runs statements for people, by whatever way they come, and notes them. */
export function gatewayFor({ db, config, log }: Pick<Context, 'db' | 'config' | 'log'>) {
  const callables = async (source: VersionedSource, opening: ReturnType<typeof openGateway>) =>
    knownCallables(source.id, source.version) ?? (await readCallablesOf(source, await opening));
  const readCallablesOf = async ({ id, version }: VersionedSource, { client }: { client: pg.Client }) => {
    try {
      return (await callablesOf(id, version, client)).callables;
    } catch (error) {
      if (error instanceof ApiProblem) throw error;
      throw new ApiProblem('source-error', 'The source could not be asked what it offers: its connection has ended.', {
        mend: 'Try again; if it stays so, test the connection of the source.',
      });
    }
  };
  /** How a source is reached, looked up while it is found out whether who asks may know of it: what is wrong with it is told only then. */
  const reachingFor = (sourceId: string) => {
    const reaching = connectorInput(db, config, sourceId);
    reaching.catch(() => undefined);
    return reaching;
  };
  return {
    reachingFor,
    /** Counts what was asked, soon. */
    asked: askedKeeper({ db, log }),
    /** Notes what went through the gateway: the statement and its outcome, never a value. */
    note: (
      who: Who,
      asPerson: string,
      sourceId: string,
      sql: string,
      outcome: string,
      rows: number | null,
      started: number,
      purpose: string | null = null,
      shareId: string | null = null,
    ) =>
      db.run(
        `
          insert into gateway_query (asked_by, as_person, source_id, statement, outcome, rows, milliseconds, purpose, share_id)
          values ($1, $2, $3, $4, $5, $6, $7, $8, $9)`,
        [who.id, asPerson, sourceId, sql, outcome, rows, Math.round(performance.now() - started), purpose, shareId],
      ),
    /** Decides for a statement of a person, and asks its source what it takes and gives; nothing is run. */
    describe: async (
      who: Who,
      source: VersionedSource,
      sql: string,
      asked: Omit<Asking, 'personId'>,
      decided?: Prepared,
    ): Promise<Described> => {
      const opening = openGateway(db, config, source.id);
      opening.catch(() => undefined);
      try {
        const prepared =
          decided ??
          (await prepare(db, await callables(source, opening), { personId: who.id, ...asked }, source.id, sql, true));
        return await describePrepared(await opening, prepared);
      } finally {
        await opening.then(
          ({ leave }) => void leave(false),
          () => undefined,
        );
      }
    },
    /** Decides for a statement of a person, and runs it with what is decided on a connection that is its own meanwhile. */
    run: async <R extends { readonly length: number; slice(from: number, to: number): R } = TextRow[]>(
      who: Who,
      personId: string,
      source: VersionedSource,
      sql: string,
      bounds: Bounds,
      take: (columns: readonly ShownColumn[], rows: R) => Promise<void> | void,
      left: AbortSignal,
      {
        reaching = reachingFor(source.id),
        values,
        decided,
        purpose = null,
        preview = false,
        share,
        seen,
        reader = AS_TEXT as never,
      }: {
        readonly reaching?: ReturnType<typeof connectorInput>;
        /** Of the parameters of the statement, which it may have where they are given. */
        readonly values?: readonly (string | null)[];
        /** Where it was decided before what is run. */
        readonly decided?: Prepared;
        /** What they say that they read for. */
        readonly purpose?: string | null;
        /** Whether a few rows are shown to them. */
        readonly preview?: boolean | undefined;
        /** By which share they read. */
        readonly share?: Asking['share'] | undefined;
        /** Where they see only some of the source: by what. */
        readonly seen?: Asking['seen'] | undefined;
        /** In what form rows are read: as texts, unless it is said. */
        readonly reader?: Parameters<typeof runReading<R>>[0];
      } = {},
    ) => {
      const parameters = values !== undefined;
      const asking: Asking = { personId, purpose, preview, ...(share && { share }), ...(seen && { seen }) };
      const elsewhere = !decided && sql.length > LONG_STATEMENT ? threads() : undefined;
      const early =
        decided ??
        (await elsewhere?.<Prepared>(
          'prepareStatement',
          { asking, source: { id: source.id, version: source.version }, sql, parameters },
          who.id,
          left,
        ));
      // To connect and to decide take a while each, and do not need each other where it is known what the source can call.
      const opening = openGateway(db, config, source.id, reaching);
      opening.catch(() => undefined); // told below, where it is waited for
      try {
        const prepared =
          early ?? (await prepare(db, await callables(source, opening), asking, source.id, sql, parameters));
        return {
          prepared,
          done: await runReading(reader, await opening, config, prepared, bounds, take, left, values),
        };
      } finally {
        // Given back already, where the statement ran.
        await opening.then(
          ({ leave }) => void leave(false),
          () => undefined,
        );
      }
    },
  };
}
