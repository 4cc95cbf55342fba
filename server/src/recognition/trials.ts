import type { TrialAnswer, TrialColumn } from '@idrel/contract/recognition';
import { compileSpec, type DetectorSpec } from '@idrel/core/recognition';
import { CONNECTORS, type Reading } from '@idrel/readers/connectors';
import { recogniseColumn } from '@idrel/readers/scans';
import { PATH } from '../catalog/index.ts';
import type { Who } from '../people/index.ts';
import type { Config } from '../platform/config.ts';
import type { Db } from '../platform/database.ts';
import { notFound } from '../platform/problems.ts';
import { connectorInput } from '../sources/index.ts';
import { checkSpec, mustHaveClass } from './own.ts';
import { knownClasses } from './registry.ts';

/** Values that are looked at of each column. */
const ROWS = 300;
/** Columns that are told, of those gained and of those lost. */
const TOLD = 500;

const SELECT = `select id, ended_at is not null as ended, cancelled, done, total, columns, gains, loses, keeps, problems from detector_trial`;

/** Starts a trial as a job of the workers. What the person tried before is ended and forgotten. */
export async function startTrial(tx: Db, who: Who, { classKey, detectorId, spec }: { classKey: string; detectorId: string | null; spec: DetectorSpec }): Promise<TrialAnswer> {
  who.mustAnywhere('steward');
  checkSpec(spec);
  await mustHaveClass(tx, classKey);
  await tx.run('update detector_trial set cancelled = true where asked_by = $1 and ended_at is null', [who.id]);
  await tx.run('delete from detector_trial where asked_by = $1 and ended_at is not null', [who.id]);
  const [row] = await tx.rows<{ id: string }>('insert into detector_trial (detector_id, class_key, spec, asked_by) values ($1, $2, $3, $4) returning id', [
    detectorId,
    classKey,
    JSON.stringify(spec),
    who.id,
  ]);
  await tx.rows("select graphile_worker.add_job('trial', json_build_object('trialId', $1::text, 'domains', $2::text[]), max_attempts => 1)", [row?.id, who.domainsAs('steward')]);
  return getTrial(tx, who, row?.id ?? '');
}

/** A trial of one's own. One whose worker died is told as ended. */
export async function getTrial(db: Db, who: Who, id: string): Promise<TrialAnswer> {
  await db.run(
    `update detector_trial set ended_at = now(), problems = problems || '"The worker that ran it stopped without a word."' where id = $1 and ended_at is null and beat_at < now() - interval '60 seconds'`,
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
  detector: string | null;
  share: number | null;
  distinct: number | null;
  confidence: number | null;
  state: string | null;
}

/**
 * Looks into every source of these domains that the server reaches itself, with nothing but the draft, and compares with what the catalog has. Nothing is written but
 * the trial.
 */
export async function runTrial(db: Db, config: Config, trialId: string, domains: readonly string[]): Promise<void> {
  const trial = await db.one<Row>('select class_key as "classKey", detector_id as "detectorId", spec from detector_trial where id = $1 and ended_at is null', [trialId]);
  if (!trial) return;
  const about = (await knownClasses(db)).get(trial.classKey);
  if (!about) return;
  const draft = compileSpec({ id: 'draft', version: 0, classKey: trial.classKey, label: about.label, level: about.level, spec: trial.spec });
  const sources = await db.rows<{ id: string; name: string }>(
    "select id, name from source s where domain_id = any($1::uuid[]) and agent_group is null and kind <> 'pushed' and exists (select 1 from asset a where a.source_id = s.id and a.gone_at is null) order by name",
    [domains],
  );
  const [gains, loses]: [TrialColumn[], TrialColumn[]] = [[], []];
  const problems: string[] = [];
  const told = { done: 0, total: 0, columns: 0, keeps: 0 };
  const tell = async (): Promise<boolean> => {
    const [row] = await db.rows<{ cancelled: boolean }>(
      'update detector_trial set done = $2, total = $3, columns = $4, keeps = $5, gains = $6, loses = $7, problems = $8, beat_at = now() where id = $1 returning cancelled',
      [trialId, told.done, told.total, told.columns, told.keeps, JSON.stringify(gains.slice(0, TOLD)), JSON.stringify(loses.slice(0, TOLD)), JSON.stringify(problems)],
    );
    return row?.cancelled ?? true;
  };
  const open: { name: string; id: string; reading: Reading; structure: Awaited<ReturnType<Reading['structure']>> }[] = [];
  try {
    for (const source of sources) {
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
      const known = new Map((await columnsOf(db, id, trial.classKey)).map((column) => [column.key, column]));
      for (const table of structure.sampleable) {
        try {
          const { values } = await reading.sample(table, ROWS, 'random');
          for (const [index, column] of table.columns.entries()) {
            const entry = known.get(column.key);
            if (!entry) continue; // not in the catalog yet
            told.columns += 1;
            const [finding] = recogniseColumn({ name: column.name, type: column.type, values: values[index] ?? [] }, [draft]);
            const found = { assetId: entry.id, path: entry.path, source: name };
            if (finding && entry.detector) told.keeps += 1;
            else if (finding)
              gains.push({ ...found, share: finding.share, distinct: finding.distinct, confidence: finding.confidence, state: entry.state ?? finding.state, examples: finding.examples });
            else if (entry.detector && entry.detector === trial.detectorId)
              loses.push({ ...found, share: entry.share ?? 0, distinct: entry.distinct ?? 0, confidence: entry.confidence ?? 0, state: entry.state ?? '', examples: [] });
          }
        } catch (error) {
          problems.push(`${table.label} of ${name}: ${(error as Error).message.split('\n')[0]}`);
        }
        told.done += 1;
        if (await tell()) return;
      }
    }
  } finally {
    for (const { reading } of open) await reading.close().catch(() => undefined);
    await tell();
    await db.run('update detector_trial set ended_at = now() where id = $1', [trialId]);
  }
}

/** Columns of a source with what is found of one class in them now. */
const columnsOf = (db: Db, sourceId: string, classKey: string) =>
  db.rows<Column>(
    `select a.id, a.key, ${PATH} as path, s.name as source, f.detector, f.share, f.distinct_values as distinct, f.confidence, coalesce(d.decision, f.state) as state
     from asset a join source s on s.id = a.source_id left join finding f on f.asset_id = a.id and f.class_key = $2 left join finding_decision d on d.asset_id = a.id and d.class_key = $2
     where a.source_id = $1 and a.kind = 'column' and a.gone_at is null`,
    [sourceId, classKey],
  );
