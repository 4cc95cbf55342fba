import type { RunCounts, RunDetails, RunOptions, RunState } from '@idrel/contract/scanning';
import type { SourceKind } from '@idrel/contract/sources';
import {
  type ColumnSample,
  compileSpec,
  DETECTORS,
  type Detector,
  dataClass,
  type Finding,
  type OwnDetector,
  recognise,
  recogniseTable,
} from '@idrel/core/recognition';
import { type ColumnProfile, guardProfile, measureOf, PROFILE_ROWS, profileOf } from '@idrel/core/scanning';
import { keepable, keepableWithin } from '@idrel/core/text';
import {
  CONNECTORS,
  type ConnectorInput,
  type FoundFlow,
  type FoundQuery,
  type FoundRights,
  type Known,
  type Reading,
  type Sampleable,
  type SampleMethod,
  SourceProblem,
  type Structure,
} from '../connectors/index.ts';
import { DISK_FULL, isDiskFull } from '../files/disk.ts';
import { coverOf, cutToScope, type NotCovered, pathOfKey } from './cover.ts';
import { keepStructure } from './keepStructure.ts';
import { recipeOf, sampledMark } from './marks.ts';

/** What drivers say when the whole connection is gone, and not just one statement failed. */
const LOST =
  /^(connection terminated|the reading was terminated|client has encountered)|connection (is |was |is in )?closed|not queryable/i;

/** Countries whose national phone formats are accepted; every instance of Idrel has one list. */
const COUNTRIES = ['GB', 'NO', 'DK', 'SE', 'DE', 'NL', 'US'];

/** A run that somebody asked to end. */
export class Cancelled extends Error {}

/** What a run tells while it works, and how it hears that it is to end. */
export interface Pulse {
  readonly cancelled: boolean;
  /** @throws Cancelled */
  enter(state: RunState): Promise<void>;
  log(level: 'info' | 'caution' | 'problem', text: string): Promise<void>;
  count(counts: RunCounts): void;
  onCancel(act: () => void): void;
}

/** What the process that reads may use. */
export interface ReadLimits {
  /** Rows sampled per second, over all tables; none when left out. */
  readonly rowsPerSecond?: number;
}

/** Everything that one run read, before it is written. */
export interface RunReading {
  readonly structure: Structure;
  /** Findings per column that was sampled, by key. */
  readonly findings: ReadonlyMap<string, readonly Finding[]>;
  /** What was sampled, by key, with the mark of its values at that time. */
  readonly sampled: ReadonlyMap<string, string>;
  /** Profiles of columns, by key. */
  readonly profiles: ReadonlyMap<string, ColumnProfile>;
  readonly flows: readonly FoundFlow[];
  /** How often what is there was asked for, by key. */
  readonly queries: readonly FoundQuery[];
  /** Rights at the source; null where it tells of none. */
  readonly rights: FoundRights | null;
  readonly notCovered: NotCovered | null;
  readonly details: RunDetails;
}

/**
 * Reads a source stage by stage into memory: structure, samples and what detectors make of them, lineage. The same wherever it runs, beside the server
 * or in an agent near the source.
 * @throws SourceProblem when the source cannot be read; Cancelled
 */
export async function readSource(
  pulse: Pulse,
  input: ConnectorInput & { readonly kind: SourceKind },
  options: RunOptions,
  known: Known | undefined,
  limits: ReadLimits = {},
): Promise<RunReading> {
  await pulse.log('info', `Reading ${input.name}.`);
  const reading = await CONNECTORS[input.kind]
    .open({
      ...input,
      ...(options.memoryMb ? { memoryMb: options.memoryMb } : {}),
      ...(options.fileKinds ? { fileKinds: options.fileKinds } : {}),
    })
    .catch((error: unknown) => {
      throw isDiskFull(error) ? new SourceProblem(DISK_FULL.what, DISK_FULL.mend) : error;
    });
  let late = false;
  const timer = options.minutes
    ? setTimeout(() => {
        late = true;
        reading.abort();
      }, options.minutes * 60_000)
    : undefined;
  try {
    pulse.onCancel(() => reading.abort());
    const { covers, whole } = coverOf(options.scope, input.kind);
    const { sample = true, rows = 500, profile = true, method = 'random', leaveOut = [], own = [] } = options;
    const ending = () => {
      if (late) throw new Error('The run has used up its time.');
    };
    const way = new Way((key) => pathOfKey(key, input.kind));
    const all = await readStructureStage(pulse, reading, way, known);
    const { structure, notCovered } = whole
      ? { structure: all, notCovered: null }
      : cutToScope(all, input.kind, covers);
    if (notCovered) await noteScope(pulse, structure, notCovered);
    const { findings, sampled, profiles } = sample
      ? await samplingStage(pulse, reading, structure, { rows, profile, method, leaveOut, own }, limits, way, ending)
      : NOTHING_SAMPLED;
    await pulse.enter('lineage');
    const flows = (await reading.flows()).filter((flow) => covers(flow.key)).map(keepableWithin);
    await noteFlows(pulse, flows);
    const queries = ((await reading.queries?.()) ?? []).filter(({ reads }) => reads.some(([key]) => covers(key)));
    if (queries.length > 0)
      await pulse.log('info', `Use: ${queries.length} different statements were asked at the source.`);
    const rights = (await reading.rights?.()) ?? null;
    if (rights)
      await pulse.log(
        'info',
        `Rights: ${rights.roles.filter(({ login }) => login).length} logins among ${rights.roles.length} roles.`,
      );
    if (pulse.cancelled) throw new Cancelled();
    return { structure, findings, sampled, profiles, flows, queries, rights, notCovered, details: way.details() };
  } catch (error) {
    if (late && !pulse.cancelled)
      throw new SourceProblem(
        `The run took longer than the ${options.minutes} minutes that its plan gives it.`,
        'Give it more time, or let the plan cover less.',
      );
    if (isDiskFull(error)) throw new SourceProblem(DISK_FULL.what, DISK_FULL.mend);
    throw error;
  } finally {
    clearTimeout(timer);
    await reading.close().catch(() => undefined);
  }
}

const SLOWEST = 10;
const PROBLEMS = 500;

/** Notes on the way what is slow and what fails. */
class Way {
  readonly #pathOf: (key: string) => string;
  #slowest: { path: string; seconds: number; rows: number }[] = [];
  readonly #problems: { path: string; what: string }[] = [];
  constructor(pathOf: (key: string) => string) {
    this.#pathOf = pathOf;
  }
  took(key: string, seconds: number, rows: number): void {
    if (this.#slowest.length === SLOWEST && seconds <= (this.#slowest.at(-1)?.seconds ?? 0)) return;
    this.#slowest.push({ path: this.#pathOf(key), seconds: Math.round(seconds * 1000) / 1000, rows });
    this.#slowest.sort((a, b) => b.seconds - a.seconds);
    this.#slowest = this.#slowest.slice(0, SLOWEST);
  }
  failed(key: string, what: string): void {
    if (this.#problems.length < PROBLEMS) this.#problems.push({ path: this.#pathOf(key), what });
  }
  details = (): RunDetails => ({ slowest: this.#slowest, problems: this.#problems });
}

async function readStructureStage(pulse: Pulse, reading: Reading, way: Way, known?: Known): Promise<Structure> {
  await pulse.enter('structure');
  const { structure, odd } = keepStructure(
    await reading.structure((objects, columns) => pulse.count({ objects, columns }), known),
  );
  for (const { what } of odd) await pulse.log('caution', what);
  const columns = structure.assets.filter((asset) => asset.kind === 'column').length;
  const unchanged = structure.unchanged?.size ?? 0;
  pulse.count({ objects: structure.assets.length - columns, columns, ...(known ? { unchanged } : {}) });
  await pulse.log(
    'info',
    `Structure: ${structure.assets.length - columns} objects with ${columns} columns${known ? `; ${unchanged} more have not changed and were not read again` : ''}.`,
  );
  for (const asset of structure.assets) {
    if (!asset.native.problem) continue;
    way.failed(asset.key, String(asset.native.problem));
    await pulse.log('problem', `${asset.name} cannot be read: ${String(asset.native.problem)}`);
  }
  return structure;
}

async function noteScope(pulse: Pulse, structure: Structure, notCovered: NotCovered): Promise<void> {
  const columns = structure.assets.filter((asset) => asset.kind === 'column').length;
  pulse.count({ objects: structure.assets.length - columns, columns });
  await pulse.log(
    'info',
    `The plan covers ${structure.assets.length - columns} objects with ${columns} columns, and leaves ${notCovered.count} out.`,
  );
}

interface Sampled {
  readonly findings: Map<string, Finding[]>;
  /** What was sampled without a problem, by key, with the mark of its values. */
  readonly sampled: Map<string, string>;
  readonly profiles: Map<string, ColumnProfile>;
}
const NOTHING_SAMPLED: Sampled = { findings: new Map(), sampled: new Map(), profiles: new Map() };

/** From this level on no raw value of a column is kept. */
const GUARDED = 3;
const isGuarded = (findings: readonly Finding[]) =>
  findings.some((finding) => (finding.level ?? dataClass(finding.classKey)?.level ?? 0) >= GUARDED);

/** What detectors make of some values of a column, today. */
export const recogniseColumn = (column: ColumnSample, detectors: readonly Detector[] = DETECTORS): Finding[] =>
  recognise(column, { today: new Date(), countries: COUNTRIES }, detectors);

/** What detectors make of the columns of one table together, today. */
export const recogniseColumns = (columns: readonly ColumnSample[], detectors: readonly Detector[]): Finding[][] =>
  recogniseTable(columns, { today: new Date(), countries: COUNTRIES }, detectors);

/** The profile as it may be kept beside what was found in the column. */
export const profileColumn = (profile: ColumnProfile, findings: readonly Finding[]): ColumnProfile =>
  isGuarded(findings) ? guardProfile(profile) : profile;

/** Profiles of a table's columns, without values where a finding says that they are guarded, be it to settle yet: they do not leave this process. */
async function profileTable(
  reading: Reading,
  table: Sampleable,
  types: ReadonlyMap<string, string>,
  findings: ReadonlyMap<string, readonly Finding[]>,
  most: number,
): Promise<(readonly [string, ColumnProfile])[]> {
  const measures = table.columns.map((column) => measureOf(types.get(column.key) ?? ''));
  const read = async () => {
    const { values } = await reading.sample(table, most);
    return values.map((list, index) =>
      profileOf(list, measures[index] ?? 'text', list.length < most && table.estimatedRows <= list.length),
    );
  };
  const profiles =
    table.columns.length === 0 ? [] : reading.profile ? await reading.profile(table, measures, most) : await read();
  return table.columns.flatMap((column, index) => {
    const profile = profiles[index];
    return profile ? [[column.key, profileColumn(profile, findings.get(column.key) ?? [])] as const] : [];
  });
}

async function samplingStage(
  pulse: Pulse,
  reading: Reading,
  structure: Structure,
  {
    rows,
    profile,
    method,
    leaveOut,
    own,
  }: { rows: number; profile: boolean; method: SampleMethod; leaveOut: readonly string[]; own: readonly OwnDetector[] },
  { rowsPerSecond }: ReadLimits,
  way: Way,
  ending: () => void,
): Promise<Sampled> {
  const recipe = recipeOf({ rows, profile, method, leaveOut, own });
  const detectors = [...DETECTORS.filter((detector) => !leaveOut.includes(detector.id)), ...own.map(compileSpec)];
  const profiles = new Map<string, ColumnProfile>();
  const types = new Map(
    profile
      ? structure.assets.flatMap((asset) =>
          asset.kind === 'column' ? [[asset.key, String(asset.native.type ?? '')] as const] : [],
        )
      : [],
  );
  await pulse.enter('sampling');
  const marked = new Map<string, string>();
  const findings = new Map<string, Finding[]>();
  let sampled = 0;
  let found = 0;
  pulse.count({ sampled, toSample: structure.sampleable.length, findings: 0 });
  for (const [index, table] of structure.sampleable.entries()) {
    if (pulse.cancelled) throw new Cancelled();
    ending();
    if (index === 1) await pulse.enter('recognition'); // from here on sampling and recognition go hand in hand, table by table
    try {
      const started = performance.now();
      const { values } = await reading.sample(table, rows, method);
      const drawn = Math.max(0, ...values.map((list) => list.length));
      const lists = recogniseColumns(
        table.columns.map((column, position) => ({
          name: column.name,
          type: column.type,
          values: values[position] ?? [],
          ...(column.permitted ? { permitted: column.permitted } : {}),
        })),
        detectors,
      );
      for (const [position, column] of table.columns.entries()) {
        const list = keepableWithin(lists[position] ?? []);
        findings.set(column.key, list);
        found += list.length;
      }
      const most = rowsPerSecond ? Math.min(PROFILE_ROWS, rowsPerSecond * 5) : PROFILE_ROWS;
      if (profile)
        for (const [key, told] of await profileTable(reading, table, types, findings, most))
          profiles.set(key, keepableWithin(told));
      const read = Math.max(drawn, ...table.columns.map((column) => profiles.get(column.key)?.rows ?? 0));
      if (rowsPerSecond)
        await new Promise((resolve) =>
          setTimeout(resolve, Math.max(0, (read / rowsPerSecond) * 1000 - (performance.now() - started))),
        );
      way.took(table.key, (performance.now() - started) / 1000, read);
      marked.set(table.key, sampledMark(structure.marks?.get(table.key), recipe));
    } catch (error) {
      if (pulse.cancelled) throw new Cancelled();
      ending();
      if ((error as { code?: string }).code === undefined && LOST.test((error as Error).message)) throw error;
      const what = keepable((error as Error).message.split('\n')[0] ?? '');
      way.failed(table.key, what);
      await pulse.log('problem', keepable(`${table.label} was not sampled: ${what}`));
    }
    sampled += 1;
    pulse.count({ sampled, findings: found });
  }
  await pulse.log('info', `Recognition: ${found} findings in ${findings.size} columns.`);
  return { findings, sampled: marked, profiles };
}

/** So many remarks about statements stand in the log of a run: all are listed with the source. */
const FLOW_PROBLEMS_LOGGED = 20;

async function noteFlows(pulse: Pulse, flows: readonly FoundFlow[]): Promise<void> {
  const edges = flows.reduce((sum, flow) => sum + flow.edges.length + (flow.remote?.length ?? 0), 0);
  pulse.count({ flows: flows.length, edges });
  const problems = flows.flatMap((flow) => flow.problems.map((problem) => ({ ...problem, key: flow.key })));
  for (const { key, line, reason } of problems.slice(0, FLOW_PROBLEMS_LOGGED))
    await pulse.log(
      'caution',
      keepable(
        `Lineage of ${key.split('\u001f').slice(1).join('.')}${line === null ? '' : `, line ${line}`}: ${reason}`,
      ),
    );
  if (problems.length > FLOW_PROBLEMS_LOGGED)
    await pulse.log(
      'caution',
      `Lineage: ${problems.length - FLOW_PROBLEMS_LOGGED} more remarks are listed with the source, under Statements.`,
    );
  await pulse.log('info', `Lineage: ${edges} edges through ${flows.length} flows.`);
}
