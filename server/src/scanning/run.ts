import {
  RUN_SILENCE_SECONDS,
  type RunComparison,
  type RunCounts,
  type RunOptions,
  type RunState,
} from '@idrel/contract/scanning';
import type { SourceKind } from '@idrel/contract/sources';
import { type ConnectorInput, SourceProblem } from '@idrel/readers/connectors';
import { Cancelled, coverOf, type Pulse, type RunReading, readSource, recipeOf } from '@idrel/readers/scans';
import { record, service } from '../journal/index.ts';
import type { Config } from '../platform/config.ts';
import type { Database, Db, Tx } from '../platform/database.ts';
import { TELL } from '../platform/signals.ts';
import { ownDetectors } from '../recognition/index.ts';
import { connectorInput } from '../sources/index.ts';
import { applyRun } from './apply.ts';
import { knownOf } from './known.ts';
import { queueRun } from './queue.ts';
import { relationsFor } from './relationsAt.ts';

const BEAT_MS = 700;

export interface RunRow {
  id: string;
  source_id: string;
  state: RunState;
  options: RunOptions;
}

/** Keeps a run's row and its followers up to date while it works, and hears when it is to be cancelled. */
class RunPulse implements Pulse {
  counts: RunCounts = {};
  cancelled = false;
  problems = 0;
  readonly #db: Db;
  readonly #id: string;
  readonly #timer: NodeJS.Timeout;
  #onCancel: () => void = () => undefined;

  constructor(db: Db, id: string) {
    this.#db = db;
    this.#id = id;
    this.#timer = setInterval(() => void this.beat().catch(() => undefined), BEAT_MS);
  }

  onCancel(act: () => void): void {
    this.#onCancel = act;
  }

  async beat(): Promise<void> {
    const row = await this.#db.one<{ cancel_asked: boolean }>(
      `
        update scan_run
        set beat_at = now(), counts = $2, pace = paced(pace, started_at, $2)
        where id = $1
        returning cancel_asked`,
      [this.#id, JSON.stringify(this.counts)],
    );
    await this.#db.rows(TELL, [`run:${this.#id}`]);
    if (row?.cancel_asked && !this.cancelled) {
      this.cancelled = true;
      this.#onCancel();
    }
  }

  async enter(state: RunState): Promise<void> {
    if (this.cancelled) throw new Cancelled();
    await this.#db.run(
      'update scan_run set state = $2, beat_at = now(), started_at = coalesce(started_at, now()) where id = $1',
      [this.#id, state],
    );
    await this.beat();
  }

  async log(level: 'info' | 'caution' | 'problem', text: string): Promise<void> {
    if (level === 'problem') this.problems += 1;
    await this.#db.run('insert into scan_log (run_id, level, text) values ($1, $2, $3)', [
      this.#id,
      level,
      text.slice(0, 2000),
    ]);
  }

  count(counts: RunCounts): void {
    this.counts = { ...this.counts, ...counts };
  }

  stop(): void {
    clearInterval(this.#timer);
  }
}

/** What an earlier run left of marks, for one that reads only what has changed. */
export const knownFor = async (
  db: Db,
  {
    source_id,
    options: { sample = true, rows = 500, profile = true, method = 'random', leaveOut = [], own = [], onlyChanged },
  }: Pick<RunRow, 'source_id' | 'options'>,
) =>
  onlyChanged
    ? await knownOf(db, source_id, sample ? recipeOf({ rows, profile, method, leaveOut, own }) : undefined)
    : undefined;

/** A run's options with the organisation's own detectors as they were when it was queued; the row keeps their ids and versions alone. */
export const withOwn = async (db: Db, options: RunOptions): Promise<RunOptions> =>
  options.own && options.own.length > 0 ? { ...options, own: await ownDetectors(db, options.own) } : options;

/**
 * Executes a waiting run: reads the source into memory, then writes everything in one transaction that also ends the run.
 * Killed at any moment, the catalog is what it was; the run is ended by {@link sweep}.
 */
export async function executeRun(db: Database, config: Config, runId: string): Promise<void> {
  const run = await db.one<RunRow>(
    `
      update scan_run
      set state = 'structure', started_at = now(), beat_at = now()
      where id = $1 and state = 'waiting'
      returning id, source_id, state, options`,
    [runId],
  );
  if (!run) return; // cancelled while it waited, or taken by another worker
  const pulse = new RunPulse(db, runId);
  try {
    const source = await connectorInput(db, config, run.source_id);
    const input: ConnectorInput & { kind: SourceKind } = { ...source, relations: await relationsFor(db, source) };
    const reading = await readSource(pulse, input, await withOwn(db, run.options), await knownFor(db, run));
    await writeRun(db, run, input.kind, reading, { counts: pulse.counts, problems: pulse.problems });
  } catch (error) {
    await endBadly(
      db,
      runId,
      pulse.cancelled || error instanceof Cancelled ? 'cancelled' : 'failed',
      error,
      pulse.counts,
    );
  } finally {
    pulse.stop();
  }
}

/** Writes what a run read, all of it or nothing, and ends the run in the same transaction. @throws Cancelled when somebody asked for that meanwhile */
export async function writeRun(
  db: Database,
  run: Pick<RunRow, 'id' | 'source_id' | 'options'>,
  kind: SourceKind,
  reading: RunReading,
  told: { counts: RunCounts; problems: number },
): Promise<RunComparison> {
  return db.transaction(async (tx) => {
    const source = await tx.one<{ id: string; name: string; domainId: string; address: Record<string, unknown> }>(
      'select id, name, domain_id as "domainId", address from source where id = $1 for update',
      [run.source_id],
    );
    if (!source)
      throw new SourceProblem('The source was removed while it was scanned.', 'Register it again to scan it.');
    const comparison = await applyRun(tx, source, run.id, {
      ...reading,
      covers: coverOf(run.options.scope, kind, run.options.fileKinds).covers,
    });
    const ended = await tx.run(
      `
        update scan_run
        set state = $2, counts = $3, comparison = $4, not_covered = $5, details = $6, ended_at = clock_timestamp()
        where id = $1 and not cancel_asked and ended_at is null`,
      [
        run.id,
        told.problems > 0 ? 'partly done' : 'done',
        JSON.stringify(told.counts),
        JSON.stringify(comparison),
        reading.notCovered
          ? JSON.stringify({ ...reading.notCovered, paths: reading.notCovered.paths.slice(0, SHOWN) })
          : null,
        JSON.stringify(reading.details),
      ],
    );
    if (ended === 0) throw new Cancelled();
    if (run.options.scope) await noteUncovered(tx, run.id, reading.notCovered?.paths ?? []);
    const { counts } = comparison;
    await tx.run("insert into scan_log (run_id, level, text) values ($1, 'info', $2)", [
      run.id,
      `Written: ${counts.new} new, ${counts.changed} changed, ${counts.gone} gone, ${counts.back} back.`,
    ]);
    await recordRun(tx, run.id, source, comparison, told.counts);
    await tx.rows(TELL, [`run:${run.id}`]);
    return comparison;
  });
}

/** What a run changed stands in the journal of its source; asset by asset it stands with the run. A run that changed nothing is none. */
async function recordRun(
  tx: Tx,
  runId: string,
  { id, name, domainId }: { id: string; name: string; domainId: string },
  { counts }: RunComparison,
  { findings = 0 }: RunCounts,
): Promise<void> {
  if (counts.new + counts.changed + counts.gone + counts.back === 0) return;
  const plan = await tx.one<{ name: string }>(
    'select p.name from scan_plan p join scan_run r on r.plan_id = p.id where r.id = $1',
    [runId],
  );
  const by = service(plan ? `plan ${plan.name}` : 'scan');
  const told = Object.entries({ ...counts, findings }).filter(([, count]) => count > 0);
  await record(tx, by, 'scanned', { kind: 'source', id, name, domainId }, null, {
    run: runId,
    ...Object.fromEntries(told),
  });
}

/** Objects not covered that a run names, and that wait on the worklist, at most. */
const SHOWN = 200;
const NEW_ONES = 1000;

/**
 * What a run did not cover: after a change of scope that is what was chosen, and known; what comes later is new, and waits for a decision.
 */
async function noteUncovered(tx: Tx, runId: string, paths: readonly string[]): Promise<void> {
  await tx.run(
    `
      update scan_plan p
      set
        left_out = coalesce(left_out, $2),
        uncovered = case
          when left_out is null then '[]'
          else coalesce(
            (
              select jsonb_agg(path order by path)
              from (
                select path
                from jsonb_array_elements_text($2) path
                where not left_out ? path
                order by path
                limit ${NEW_ONES}
              ) x
            ),
            '[]'
          )
        end
      from scan_run r
      where r.id = $1 and p.id = r.plan_id and p.scope = r.options -> 'scope'`,
    [runId, JSON.stringify(paths)],
  );
}

export async function endBadly(
  db: Db,
  runId: string,
  state: 'failed' | 'cancelled',
  error: unknown,
  counts: RunCounts,
): Promise<void> {
  const problem =
    state === 'cancelled'
      ? null
      : {
          what: (error as Error).message,
          mend: error instanceof SourceProblem ? error.mend : 'Look at the log, and scan again.',
        };
  // The last line of the log stands before the run is ended: whoever follows it reads no further then.
  await db.run('insert into scan_log (run_id, level, text) values ($1, $2, $3)', [
    runId,
    state === 'failed' ? 'problem' : 'info',
    state === 'failed'
      ? `Failed: ${(error as Error).message}. The catalog is as it was.`
      : 'Cancelled. The catalog is as it was.',
  ]);
  await db.run(
    'update scan_run set state = $2, problem = $3, counts = $4, ended_at = clock_timestamp() where id = $1 and ended_at is null',
    [runId, state, problem ? JSON.stringify(problem) : null, JSON.stringify(counts)],
  );
  if (state === 'failed') await tryAgainLater(db, runId);
  await db.rows(TELL, [`run:${runId}`]);
}

/** Queues a failed run once more, as long as its plan says so: each try waits twice as long as the one before. */
async function tryAgainLater(db: Db, runId: string): Promise<void> {
  const run = await db.one<RunRow & { plan_id: string | null; asked_by: string | null }>(
    'select id, source_id, plan_id, asked_by, state, options from scan_run where id = $1',
    [runId],
  );
  const { retries = 0, attempt = 0 } = run?.options ?? {};
  if (!run || attempt >= retries) return;
  const minutes = 2 ** attempt;
  const next = await queueRun(db, {
    sourceId: run.source_id,
    planId: run.plan_id,
    options: { ...run.options, attempt: attempt + 1 },
    askedBy: run.asked_by,
    afterMinutes: minutes,
  });
  if (next)
    await db.run("insert into scan_log (run_id, level, text) values ($1, 'info', $2)", [
      runId,
      `It is tried again in ${minutes} min (${attempt + 1} of ${retries}).`,
    ]);
}

/** After a run that wrote many assets the planner must know of them at once: until then it would read whole tables to check a reference. */
export async function afterRun(db: Db, runId: string): Promise<void> {
  const run = await db.one<{ fresh: number }>(
    "select coalesce((comparison #>> '{counts,new}')::int, 0) as fresh from scan_run where id = $1",
    [runId],
  );
  if ((run?.fresh ?? 0) > 1000) await db.run('analyze asset (source_id, parent_id, domain_id, kind)');
}

/** Ends runs whose worker or agent has died: no beat for {@link RUN_SILENCE_SECONDS}. They can be run again at once. @returns how many */
export async function sweep(db: Db, silence = `${RUN_SILENCE_SECONDS} seconds`): Promise<number> {
  const rows = await db.rows<{ id: string; agent: string | null }>(
    `
      update scan_run r
      set
        state = 'failed', ended_at = clock_timestamp(),
        problem = json_build_object(
          'what',
          case
            when r.agent_id is null then 'The worker that ran it'
            else 'The agent that ran it'
          end || ' stopped without a word.',
          'mend', 'The catalog is as it was. Scan again.'
        )
      where ended_at is null and state <> 'waiting' and beat_at < now() - $1::interval
      returning id, (select a.name from agent a where a.id = r.agent_id) as agent`,
    [silence],
  );
  for (const { id, agent } of rows) {
    await db.run("insert into scan_log (run_id, level, text) values ($1, 'problem', $2)", [
      id,
      `${agent ? `The agent ${agent}` : 'The worker'} stopped without a word; the run was ended. The catalog is as it was.`,
    ]);
    await db.run('delete from agent_batch where run_id = $1', [id]);
    await tryAgainLater(db, id);
    await db.rows(TELL, [`run:${id}`]);
  }
  return rows.length;
}
