import type { TrialAnswer, TrialColumn } from '@idrel/contract/recognition';
import type { DraftTrial } from '@idrel/contract/scanning';
import { KINDS, SOURCE_KINDS } from '@idrel/contract/sources';
import type { DetectorSpec } from '@idrel/core/recognition';
import { CONNECTORS, type Reading, type Structure } from '@idrel/readers/connectors';
import { type TriedColumn, type TriedTable, tryDraft } from '@idrel/readers/scans';
import { PATH } from '../catalog/index.ts';
import type { Who } from '../people/index.ts';
import type { Config } from '../platform/config.ts';
import type { Db } from '../platform/database.ts';
import { notFound } from '../platform/problems.ts';
import { connectorInput } from '../sources/index.ts';
import { checkBeside, checkSpec, mustHaveClass } from './checkSpec.ts';
import { detectorsNow, knownClasses, ownDetectors } from './registry.ts';

/** Values that are looked at of each column. */
const ROWS = 300;
/** Columns that are told, of those gained and of those lost. */
const TOLD = 500;

const SELECT = `
  select id, ended_at is not null as ended, cancelled, done, total, columns, gains, loses, keeps, problems
  from detector_trial`;

/** Starts a trial as a job of the workers. What the person tried before is ended and forgotten. */
export async function startTrial(
  tx: Db,
  who: Who,
  { classKey, detectorId, spec }: { classKey: string; detectorId: string | null; spec: DetectorSpec },
): Promise<TrialAnswer> {
  who.mustAnywhere('steward');
  checkSpec(spec);
  await checkBeside(tx, classKey, spec);
  await mustHaveClass(tx, classKey);
  await tx.run('update detector_trial set cancelled = true where asked_by = $1 and ended_at is null', [who.id]);
  await tx.run('delete from detector_trial where asked_by = $1 and ended_at is not null', [who.id]);
  const [row] = await tx.rows<{ id: string }>(
    'insert into detector_trial (detector_id, class_key, spec, asked_by) values ($1, $2, $3, $4) returning id',
    [detectorId, classKey, JSON.stringify(spec), who.id],
  );
  await tx.rows(
    "select graphile_worker.add_job('trial', json_build_object('trialId', $1::text, 'domains', $2::text[]), max_attempts => 1)",
    [row?.id, who.domainsAs('steward')],
  );
  return getTrial(tx, who, row?.id ?? '');
}

/** A trial of one's own. One whose worker died is told as ended. */
export async function getTrial(db: Db, who: Who, id: string): Promise<TrialAnswer> {
  await db.run(
    `
      update detector_trial
      set ended_at = now(), problems = problems || '"The worker that ran it stopped without a word."'
      where id = $1 and ended_at is null and beat_at < now() - interval '60 seconds'`,
    [id],
  );
  const trial = await db.one<TrialAnswer>(`${SELECT} where id = $1 and asked_by = $2`, [id, who.id]);
  if (!trial) throw notFound('The trial');
  return trial;
}

export async function stopTrial(db: Db, who: Who, id: string): Promise<TrialAnswer> {
  await db.run('update detector_trial set cancelled = true where id = $1 and asked_by = $2', [id, who.id]);
  return getTrial(db, who, id);
}

interface Row {
  classKey: string;
  detectorId: string | null;
  spec: DetectorSpec;
}
interface Column {
  id: string;
  key: string;
  path: string;
  source: string;
  classKey: string;
  detector: string | null;
  share: number | null;
  distinct: number | null;
  confidence: number | null;
  state: string | null;
}

/** Asks the agents that read a source to try a draft, and answers what they found. */
export type AskTrial = (
  source: { id: string; name: string; agentGroup: string | null },
  trial: DraftTrial,
) => Promise<readonly TriedTable[]>;

/** What the catalog knows of a source's columns, against which what is tried is compared. */
class Comparison {
  readonly gains: TrialColumn[] = [];
  readonly loses: TrialColumn[] = [];
  columns = 0;
  keeps = 0;
  readonly #detectorId: string | null;
  constructor(detectorId: string | null) {
    this.#detectorId = detectorId;
  }

  /** Takes in what was tried of a table. */
  take({ looked, found }: TriedTable, known: ReadonlyMap<string, Column>): void {
    const seen = new Map<string, TriedColumn[]>();
    for (const entry of found) seen.set(entry.key, [...(seen.get(entry.key) ?? []), entry]);
    for (const key of looked) {
      const entry = known.get(key);
      if (!entry) continue; // not in the catalog yet
      this.columns += 1;
      const here = { assetId: entry.id, path: entry.path, source: entry.source };
      const claims = seen.get(key) ?? [];
      for (const { classKey, share, distinct, confidence, state, examples, without } of claims) {
        const before = without === undefined ? (entry.detector ? state : null) : without;
        if (before === state) this.keeps += 1;
        else
          this.gains.push({
            ...here,
            classKey,
            share,
            distinct,
            confidence,
            state: without === undefined ? (entry.state ?? state) : state,
            examples,
          });
      }
      if (claims.length === 0 && entry.detector && entry.detector === this.#detectorId)
        this.loses.push({
          ...here,
          classKey: entry.classKey,
          share: entry.share ?? 0,
          distinct: entry.distinct ?? 0,
          confidence: entry.confidence ?? 0,
          state: entry.state ?? '',
          examples: [],
        });
    }
  }
}

/**
 * Tries a draft on every source of these domains, by the server or by the agents that read it, and compares with what the catalog has. Nothing is written but the
 * trial.
 */
export async function runTrial(
  db: Db,
  config: Config,
  trialId: string,
  domains: readonly string[],
  askAgents: AskTrial,
): Promise<void> {
  const trial = await db.one<Row>(
    'select class_key as "classKey", detector_id as "detectorId", spec from detector_trial where id = $1 and ended_at is null',
    [trialId],
  );
  if (!trial) return;
  const about = (await knownClasses(db)).get(trial.classKey);
  if (!about) return;
  const { off, own } = await detectorsNow(db);
  const given: DraftTrial = {
    draft: {
      id: trial.detectorId ?? 'draft',
      version: 0,
      classKey: trial.classKey,
      label: about.label,
      level: about.level,
      spec: trial.spec,
    },
    own: await ownDetectors(
      db,
      own.filter((detector) => detector.id !== trial.detectorId),
    ),
    off,
    rows: ROWS,
  };
  const sources = await db.rows<{ id: string; name: string; agentGroup: string | null }>(
    `
      select id, name, agent_group as "agentGroup"
      from source s
      where domain_id = any($1::uuid[])
        and kind <> all($2::text[])
        and exists (select 1 from asset a where a.source_id = s.id and a.gone_at is null)
      order by name`,
    [domains, SOURCE_KINDS.filter((kind) => KINDS[kind].told)],
  );
  const compared = new Comparison(trial.detectorId);
  const problems: string[] = [];
  const told = { done: 0, total: 0 };
  const tell = async (): Promise<boolean> => {
    const [row] = await db.rows<{ cancelled: boolean }>(
      `
        update detector_trial
        set done = $2, total = $3, columns = $4, keeps = $5, gains = $6, loses = $7, problems = $8, beat_at = now()
        where id = $1
        returning cancelled`,
      [
        trialId,
        told.done,
        told.total,
        compared.columns,
        compared.keeps,
        JSON.stringify(compared.gains.slice(0, TOLD)),
        JSON.stringify(compared.loses.slice(0, TOLD)),
        JSON.stringify(problems),
      ],
    );
    return row?.cancelled ?? true;
  };
  const take = (table: TriedTable, source: string, known: ReadonlyMap<string, Column>) => {
    compared.take(table, known);
    if (table.problem) problems.push(`${source}, ${table.problem}`);
    told.done += 1;
  };
  const open: { name: string; id: string; reading: Reading; structure: Structure }[] = [];
  try {
    for (const source of sources.filter((entry) => entry.agentGroup === null)) {
      try {
        const input = await connectorInput(db, config, source.id);
        const reading = await CONNECTORS[input.kind].open(input);
        const structure = await reading.structure(() => undefined);
        open.push({ ...source, reading, structure });
        told.total += structure.sampleable.length;
      } catch (error) {
        problems.push(`${source.name} could not be looked into: ${(error as Error).message.split('\n')[0]}`);
      }
      if (await tell()) return;
    }
    for (const { id, name, reading, structure } of open) {
      const known = await columnsOf(db, id, trial.classKey);
      for await (const table of tryDraft(reading, structure, given)) {
        take(table, name, known);
        if (await tell()) return;
      }
    }
    for (const source of sources.filter((entry) => entry.agentGroup !== null)) {
      const waiting = setInterval(() => void tell().catch(() => undefined), 10_000);
      try {
        const tables = await askAgents(source, given);
        const known = await columnsOf(db, source.id, trial.classKey);
        told.total += tables.length;
        for (const table of tables) take(table, source.name, known);
      } catch (error) {
        problems.push(`${source.name} could not be looked into: ${(error as Error).message}`);
      } finally {
        clearInterval(waiting);
      }
      if (await tell()) return;
    }
  } finally {
    for (const { reading } of open) await reading.close().catch(() => undefined);
    await tell();
    await db.run('update detector_trial set ended_at = now() where id = $1', [trialId]);
  }
}

/** Columns of a source with what is found of one class in them now, by key. */
async function columnsOf(db: Db, sourceId: string, classKey: string): Promise<ReadonlyMap<string, Column>> {
  const rows = await db.rows<Column>(
    `
      select
        a.id, a.key, ${PATH} as path, s.name as source, $2 as "classKey", f.detector, f.share,
        f.distinct_values as distinct, f.confidence, coalesce(d.decision, f.state) as state
      from asset a
      join source s on s.id = a.source_id
      left join finding f on f.asset_id = a.id and f.class_key = $2
      left join finding_decision d on d.asset_id = a.id and d.class_key = $2
      where a.source_id = $1 and a.kind = 'column' and a.gone_at is null`,
    [sourceId, classKey],
  );
  return new Map(rows.map((column) => [column.key, column]));
}
