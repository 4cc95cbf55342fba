import type { RunCounts, RunState } from '@idrel/contract/scanning';
import { type Finding, recognise } from '@idrel/core/recognition';
import type { Scope } from '@idrel/core/scanning';
import { CONNECTORS, type FoundFlow, type Known, type Reading, SourceProblem, type Structure } from '../connectors/index.ts';
import type { Config } from '../platform/config.ts';
import type { Database, Db } from '../platform/database.ts';
import { TELL } from '../platform/signals.ts';
import { connectorInput } from '../sources/index.ts';
import { applyRun } from './apply.ts';
import { coverOf, cutToScope, type NotCovered } from './cover.ts';
import { knownOf, recipeOf, sampledMark } from './marks.ts';

/** Countries whose national phone formats are accepted; every instance of Idrel has one list. */
const COUNTRIES = ['GB', 'NO', 'DK', 'SE', 'DE', 'NL', 'US'];
const BEAT_MS = 700;

class Cancelled extends Error {}

interface RunRow {
  id: string;
  source_id: string;
  state: RunState;
  options: { sample?: boolean; rows?: number; onlyChanged?: boolean; scope?: Scope };
}

/** Keeps a run's row and its followers up to date while it works, and hears when it is to be cancelled. */
class Pulse {
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
    const row = await this.#db.one<{ cancel_asked: boolean }>('update scan_run set beat_at = now(), counts = $2 where id = $1 returning cancel_asked', [this.#id, JSON.stringify(this.counts)]);
    await this.#db.rows(TELL, [`run:${this.#id}`]);
    if (row?.cancel_asked && !this.cancelled) {
      this.cancelled = true;
      this.#onCancel();
    }
  }

  async enter(state: RunState): Promise<void> {
    if (this.cancelled) throw new Cancelled();
    await this.#db.run('update scan_run set state = $2, beat_at = now(), started_at = coalesce(started_at, now()) where id = $1', [this.#id, state]);
    await this.beat();
  }

  async log(level: 'info' | 'caution' | 'problem', text: string): Promise<void> {
    if (level === 'problem') this.problems += 1;
    await this.#db.run('insert into scan_log (run_id, level, text) values ($1, $2, $3)', [this.#id, level, text.slice(0, 2000)]);
  }

  count(counts: RunCounts): void {
    this.counts = { ...this.counts, ...counts };
  }

  stop(): void {
    clearInterval(this.#timer);
  }
}

/**
 * Executes a waiting run: reads the source into memory stage by stage, then writes everything in one transaction that also ends the run.
 * Killed at any moment, the catalog is what it was; the run is ended by {@link sweep}.
 */
export async function executeRun(db: Database, config: Config, runId: string): Promise<void> {
  const run = await db.one<RunRow>("update scan_run set state = 'structure', started_at = now(), beat_at = now() where id = $1 and state = 'waiting' returning id, source_id, state, options", [runId]);
  if (!run) return; // cancelled while it waited, or taken by another worker
  const pulse = new Pulse(db, runId);
  let reading: Reading | undefined;
  try {
    const input = await connectorInput(db, config, run.source_id);
    await pulse.log('info', `Reading ${input.name}.`);
    reading = await CONNECTORS[input.kind].open(input);
    const open = reading;
    pulse.onCancel(() => open.abort());
    const { covers, whole } = coverOf(run.options.scope, input.kind);
    const { sample = true, rows = 500, onlyChanged } = run.options;
    const recipe = recipeOf(rows);
    const all = await readStructureStage(pulse, reading, onlyChanged ? await knownOf(db, run.source_id, sample ? recipe : undefined) : undefined);
    const { structure, notCovered } = whole ? { structure: all, notCovered: null } : cutToScope(all, input.kind, covers);
    if (notCovered) await noteScope(pulse, structure, notCovered);
    const { findings, sampled } = sample ? await samplingStage(pulse, reading, structure, rows, recipe) : NOTHING_SAMPLED;
    await pulse.enter('lineage');
    const flows = (await reading.flows()).filter((flow) => covers(flow.key));
    await noteFlows(pulse, flows);
    if (pulse.cancelled) throw new Cancelled();
    await db.transaction(async (tx) => {
      const source = await tx.one<{ id: string; domainId: string; address: Record<string, unknown> }>('select id, domain_id as "domainId", address from source where id = $1 for update', [
        run.source_id,
      ]);
      if (!source) throw new SourceProblem('The source was removed while it was scanned.', 'Register it again to scan it.');
      const comparison = await applyRun(tx, source, runId, { structure, findings, sampled, flows, covers });
      const ended = await tx.run('update scan_run set state = $2, counts = $3, comparison = $4, not_covered = $5, ended_at = clock_timestamp() where id = $1 and not cancel_asked', [
        runId,
        pulse.problems > 0 ? 'partly done' : 'done',
        JSON.stringify(pulse.counts),
        JSON.stringify(comparison),
        notCovered ? JSON.stringify(notCovered) : null,
      ]);
      if (ended === 0) throw new Cancelled();
      const { counts } = comparison;
      await tx.run("insert into scan_log (run_id, level, text) values ($1, 'info', $2)", [runId, `Written: ${counts.new} new, ${counts.changed} changed, ${counts.gone} gone, ${counts.back} back.`]);
      await tx.rows(TELL, [`run:${runId}`]);
    });
  } catch (error) {
    await endBadly(db, runId, pulse.cancelled || error instanceof Cancelled ? 'cancelled' : 'failed', error, pulse.counts);
  } finally {
    pulse.stop();
    await reading?.close().catch(() => undefined);
  }
}

async function readStructureStage(pulse: Pulse, reading: Reading, known?: Known): Promise<Structure> {
  await pulse.enter('structure');
  const structure = await reading.structure((objects, columns) => pulse.count({ objects, columns }), known);
  const columns = structure.assets.filter((asset) => asset.kind === 'column').length;
  const unchanged = structure.unchanged?.size ?? 0;
  pulse.count({ objects: structure.assets.length - columns, columns, ...(known ? { unchanged } : {}) });
  await pulse.log('info', `Structure: ${structure.assets.length - columns} objects with ${columns} columns${known ? `; ${unchanged} more have not changed and were not read again` : ''}.`);
  for (const asset of structure.assets) if (asset.native.problem) await pulse.log('problem', `${asset.name} cannot be read: ${String(asset.native.problem)}`);
  return structure;
}

async function noteScope(pulse: Pulse, structure: Structure, notCovered: NotCovered): Promise<void> {
  const columns = structure.assets.filter((asset) => asset.kind === 'column').length;
  pulse.count({ objects: structure.assets.length - columns, columns });
  await pulse.log('info', `The plan covers ${structure.assets.length - columns} objects with ${columns} columns; ${notCovered.count} objects are not covered.`);
}

interface Sampled {
  readonly findings: Map<string, Finding[]>;
  /** What was sampled without a problem, by key, with the mark of its values. */
  readonly sampled: Map<string, string>;
}
const NOTHING_SAMPLED: Sampled = { findings: new Map(), sampled: new Map() };

async function samplingStage(pulse: Pulse, reading: Reading, structure: Structure, rows: number, recipe: string): Promise<Sampled> {
  await pulse.enter('sampling');
  const marked = new Map<string, string>();
  const findings = new Map<string, Finding[]>();
  const setting = { today: new Date(), countries: COUNTRIES };
  let sampled = 0;
  let found = 0;
  pulse.count({ sampled, toSample: structure.sampleable.length, findings: 0 });
  for (const [index, table] of structure.sampleable.entries()) {
    if (pulse.cancelled) throw new Cancelled();
    if (index === 1) await pulse.enter('recognition'); // from here on sampling and recognition go hand in hand, table by table
    try {
      const { values } = await reading.sample(table, rows);
      table.columns.forEach((column, position) => {
        const list = recognise({ name: column.name, type: column.type, values: values[position] ?? [] }, setting);
        findings.set(column.key, list);
        found += list.length;
      });
      marked.set(table.key, sampledMark(structure.marks?.get(table.key), recipe));
    } catch (error) {
      if (pulse.cancelled) throw new Cancelled();
      if ((error as { code?: string }).code === undefined && /terminated|closed|not queryable/i.test((error as Error).message)) throw error;
      await pulse.log('problem', `${table.label} was not sampled: ${(error as Error).message.split('\n')[0]}`);
    }
    sampled += 1;
    pulse.count({ sampled, findings: found });
  }
  await pulse.log('info', `Recognition: ${found} findings in ${findings.size} columns.`);
  return { findings, sampled: marked };
}

async function noteFlows(pulse: Pulse, flows: readonly FoundFlow[]): Promise<void> {
  const edges = flows.reduce((sum, flow) => sum + flow.edges.length + (flow.remote?.length ?? 0), 0);
  pulse.count({ flows: flows.length, edges });
  for (const flow of flows) for (const problem of flow.problems) await pulse.log('caution', `Lineage of ${flow.key.split('\u001f').slice(1).join('.')}: ${problem}`);
  await pulse.log('info', `Lineage: ${edges} edges through ${flows.length} flows.`);
}

async function endBadly(db: Db, runId: string, state: 'failed' | 'cancelled', error: unknown, counts: RunCounts): Promise<void> {
  const problem = state === 'cancelled' ? null : { what: (error as Error).message, mend: error instanceof SourceProblem ? error.mend : 'Look at the log, and scan again.' };
  await db.run('update scan_run set state = $2, problem = $3, counts = $4, ended_at = clock_timestamp() where id = $1 and ended_at is null', [
    runId,
    state,
    problem ? JSON.stringify(problem) : null,
    JSON.stringify(counts),
  ]);
  await db.run('insert into scan_log (run_id, level, text) values ($1, $2, $3)', [
    runId,
    state === 'failed' ? 'problem' : 'info',
    state === 'failed' ? `Failed: ${(error as Error).message}. The catalog is as it was.` : 'Cancelled. The catalog is as it was.',
  ]);
  await db.rows(TELL, [`run:${runId}`]);
}

/** After a run that wrote many assets the planner must know of them at once: until then it would read whole tables to check a reference. */
export async function afterRun(db: Db, runId: string): Promise<void> {
  const run = await db.one<{ fresh: number }>("select coalesce((comparison #>> '{counts,new}')::int, 0) as fresh from scan_run where id = $1", [runId]);
  if ((run?.fresh ?? 0) > 1000) await db.run('analyze asset (source_id, parent_id, domain_id, kind)');
}

/** Ends runs whose worker has died: no beat for half a minute. They can be run again at once. @returns how many */
export async function sweep(db: Db, silence = '30 seconds'): Promise<number> {
  const rows = await db.rows<{ id: string }>(
    `update scan_run set state = 'failed', ended_at = clock_timestamp(), problem = $2 where ended_at is null and state <> 'waiting' and beat_at < now() - $1::interval returning id`,
    [silence, JSON.stringify({ what: 'The worker that ran it stopped without a word.', mend: 'The catalog is as it was. Scan again.' })],
  );
  for (const { id } of rows) {
    await db.run("insert into scan_log (run_id, level, text) values ($1, 'problem', 'The worker stopped without a word; the run was ended. The catalog is as it was.')", [id]);
    await db.rows(TELL, [`run:${id}`]);
  }
  return rows.length;
}
