import type { DatasetName, InputField, RunEvent } from '@idrel/contract/lineage';
import type { InfluenceKind, ValueKind } from '@idrel/core/lineage';
import { type FoundRun, inLines, placeOf, type RemoteColumn, type RemoteTable } from '../types.ts';

/** So many runs of a job are told, the last ones. */
export const RUNS_MOST = 200;
/** So many checks are told of a run: those that failed first. */
const CHECKS_MOST = 50;

/** A column as the events name it, or a dataset as a whole, and where that is, if it is a system that Idrel reads. */
export interface NamedEnd {
  readonly dataset: DatasetName;
  /** Null: the dataset as a whole. */
  readonly column: string | null;
  readonly at: RemoteColumn | RemoteTable | undefined;
}

/** A dataset as the events tell of it. */
export interface ToldDataset extends DatasetName {
  readonly description: string;
  readonly fields: readonly { readonly name: string; readonly type: string; readonly description: string }[];
}

/** What one job did, and what it does to columns. */
export interface Job {
  readonly namespace: string;
  readonly name: string;
  readonly description: string;
  readonly code: string | null;
  readonly language: string | null;
  /** Where its code lies. */
  readonly codeAt: string | null;
  /** Its last runs, the newest last. */
  readonly runs: readonly FoundRun[];
  readonly reads: readonly DatasetName[];
  readonly writes: readonly DatasetName[];
  readonly datasets: readonly ToldDataset[];
  readonly edges: readonly {
    readonly from: NamedEnd;
    readonly to: NamedEnd;
    readonly kind: ValueKind;
    readonly expression?: string;
  }[];
  /** Columns that decide about the rows of what it writes. */
  readonly influences: readonly { readonly from: NamedEnd; readonly to: NamedEnd; readonly kind: InfluenceKind }[];
  readonly problems: readonly string[];
  /** The event that what it reads and writes is taken from: when it was, and whether it tells of columns. */
  readonly told: { readonly at: string; readonly columns: boolean } | null;
}

/**
 * A dataset by the naming rules of OpenLineage (spec/Naming.md): `postgres://host:port` with `database.schema.table`, `mysql://host:port` with `database.table`,
 * `s3://bucket` with the key. @returns undefined for systems that Idrel does not read
 */
export function readDataset({ namespace, name }: DatasetName): { place: string; names: string[] } | undefined {
  const server = /^(postgres|mysql):\/\/([^:/]+)(?::(\d+))?\/?$/.exec(namespace);
  const parts = name.split('.');
  if (server?.[1] === 'postgres' && parts.length === 3)
    return {
      place: placeOf('postgresql', server[2] ?? '', Number(server[3] ?? 5432), parts[0] ?? ''),
      names: parts.slice(1),
    };
  if (server?.[1] === 'mysql' && parts.length === 2)
    return {
      place: placeOf('mariadb', server[2] ?? '', Number(server[3] ?? 3306), parts[0] ?? ''),
      names: parts.slice(1),
    };
  if (/^s3:\/\/[^/]+$/.test(namespace)) return { place: namespace, names: name.replace(/^\//, '').split('/') };
  return undefined;
}

/**
 * The dataset that something in the catalog is: the inverse of {@link readDataset} for systems that the rules name; what lies elsewhere is named by its source.
 * @param place where its source is, see `placeOf`; `s3://bucket` of an object store
 * @param top the first of its names: the database, or the bucket
 * @param names those below it
 */
export function nameDataset(
  { place, top, source }: { readonly place: string; readonly top: string; readonly source: string },
  names: readonly string[],
): DatasetName {
  const server = /^(postgresql|mariadb):\/\/(.+)\/[^/]*$/.exec(place);
  if (server?.[1] === 'postgresql') return { namespace: `postgres://${server[2]}`, name: [top, ...names].join('.') };
  if (server?.[1] === 'mariadb') return { namespace: `mysql://${server[2]}`, name: [top, ...names].join('.') };
  if (place.startsWith('s3://')) return { namespace: place, name: names.join('/') };
  return { namespace: `idrel://${encodeURIComponent(source)}`, name: names.join('/') };
}

/** What happens to the value on its way; undefined when the column only decides about rows. */
function kindOf(field: InputField): ValueKind | undefined {
  const all = field.transformations ?? [{ type: 'DIRECT', subtype: 'TRANSFORMATION' }];
  const direct = all.filter((entry) => entry.type === 'DIRECT');
  if (direct.length === 0) return undefined;
  if (direct.some((entry) => entry.masking)) return 'masked';
  if (direct.some((entry) => entry.subtype === 'AGGREGATION')) return 'aggregated';
  return direct.some((entry) => entry.subtype !== 'IDENTITY') ? 'transformed' : 'copied';
}

/** What a column that gives no value decides, in the standard's words; what it says otherwise decides which rows there are. */
const DECIDES: Readonly<Record<string, InfluenceKind>> = {
  JOIN: 'join',
  GROUP_BY: 'group',
  FILTER: 'filter',
  SORT: 'sort',
  WINDOW: 'window',
  CONDITIONAL: 'filter',
};
const decides = ({ transformations = [] }: InputField): InfluenceKind[] =>
  transformations.flatMap(({ type, subtype = '' }) => (type === 'INDIRECT' ? [DECIDES[subtype] ?? 'filter'] : []));

/** What is said of how values change on the way. */
const saidOf = ({ transformations = [] }: InputField) =>
  inLines({
    expressions: transformations.flatMap(({ type, description }) =>
      type === 'DIRECT' && description ? [description] : [],
    ),
  });

const STATES = { START: 'running', RUNNING: 'running', COMPLETE: 'done', ABORT: 'cancelled', FAIL: 'failed' } as const;
type Telling = keyof typeof STATES;

/** One run, from all that its events told, in the order of their times. */
function toRun(id: string, events: readonly RunEvent[]): FoundRun | undefined {
  const told = events.filter(
    (event): event is RunEvent & { eventType: Telling } => event.eventType !== undefined && event.eventType !== 'OTHER',
  );
  // An end stays one, whatever comes late.
  const last = told.findLast(({ eventType }) => STATES[eventType] !== 'running') ?? told.at(-1);
  if (!last) return undefined;
  const state = STATES[last.eventType];
  const first = told.find(({ eventType }) => STATES[eventType] === 'running');
  const counts = events.flatMap(({ outputs = [] }) =>
    outputs.flatMap(({ namespace, name, outputFacets }) => {
      const rows = outputFacets?.outputStatistics?.rowCount;
      return rows === undefined ? [] : [[`${namespace} ${name}`, rows] as const];
    }),
  );
  const checks = events.flatMap(({ inputs = [] }) =>
    inputs.flatMap(({ name, inputFacets }) =>
      (inputFacets?.dataQualityAssertions?.assertions ?? []).map(({ assertion, success, column }) => ({
        of: column ? `${name}.${column}` : name,
        what: assertion,
        passed: success,
      })),
    ),
  );
  return {
    id,
    state,
    began: first?.eventTime ?? null,
    ended: state === 'running' ? null : last.eventTime,
    // What a dataset's last event counted is what was written there.
    rows: counts.length > 0 ? [...new Map(counts).values()].reduce((sum, rows) => sum + rows, 0) : null,
    message:
      events.findLast(({ run }) => run?.facets?.errorMessage?.message)?.run?.facets?.errorMessage?.message ?? null,
    checks: [...checks.filter(({ passed }) => !passed), ...checks.filter(({ passed }) => passed)].slice(0, CHECKS_MOST),
  };
}

function runsOf(inTime: readonly RunEvent[]): FoundRun[] {
  const byRun = new Map<string, RunEvent[]>();
  for (const event of inTime) if (event.run) byRun.set(event.run.runId, [...(byRun.get(event.run.runId) ?? []), event]);
  const at = ({ began, ended }: FoundRun) => Date.parse(ended ?? began ?? '');
  return [...byRun]
    .flatMap(([id, events]) => toRun(id, events) ?? [])
    .sort((a, b) => at(a) - at(b))
    .slice(-RUNS_MOST);
}

const named = ({ namespace, name }: DatasetName) => `${namespace}\n${name}`;

/** What is told of a dataset, with what was told before of which nothing is said now. */
export const alsoTold = (dataset: ToldDataset, before: ToldDataset | undefined): ToldDataset => ({
  ...dataset,
  description: dataset.description || (before?.description ?? ''),
  fields: dataset.fields.length > 0 ? dataset.fields : (before?.fields ?? []),
});

/** Datasets that the events name, each with the newest of what was told of it. */
function datasetsOf(inTime: readonly RunEvent[]): ToldDataset[] {
  const all = new Map<string, ToldDataset>();
  for (const { inputs = [], outputs = [] } of inTime)
    for (const dataset of [...inputs, ...outputs]) {
      const { schema, documentation } = dataset.facets ?? {};
      const told: ToldDataset = {
        namespace: dataset.namespace,
        name: dataset.name,
        description: documentation?.description ?? '',
        fields: (schema?.fields ?? []).map((field) => ({
          name: field.name,
          type: field.type ?? '',
          description: field.description ?? '',
        })),
      };
      all.set(named(dataset), alsoTold(told, all.get(named(dataset))));
    }
  return [...all.values()];
}

/** Puts the events of runs together, job by job; the newest event that says something of columns counts. */
export function readEvents(events: readonly RunEvent[]): Job[] {
  const jobs = new Map<string, RunEvent[]>();
  for (const event of events) jobs.set(named(event.job), [...(jobs.get(named(event.job)) ?? []), event]);
  return [...jobs.values()].map(readJob);
}

function readJob(list: readonly RunEvent[]): Job {
  const inTime = [...list].sort((a, b) => Date.parse(a.eventTime) - Date.parse(b.eventTime));
  const newest = (wanted: (event: RunEvent) => boolean) => inTime.findLast(wanted);
  const told =
    newest(({ outputs = [] }) => outputs.some((output) => output.facets?.columnLineage)) ??
    newest(({ outputs = [] }) => outputs.length > 0);
  const problems = new Set<string>();
  const edges: Job['edges'][number][] = [];
  const influences = new Map<string, Job['influences'][number]>();
  const endOf = (dataset: DatasetName, column: string | null): NamedEnd => {
    const at = readDataset(dataset);
    return {
      dataset: { namespace: dataset.namespace, name: dataset.name },
      column,
      at: at && (column === null ? at : { ...at, column }),
    };
  };
  const influence = (field: InputField, output: DatasetName): void => {
    for (const kind of field.field === '' ? [] : decides(field)) {
      const one = { from: endOf(field, field.field), to: endOf(output, null), kind };
      influences.set(JSON.stringify(one), one);
    }
  };
  for (const output of told?.outputs ?? []) {
    const { fields, dataset = [] } = output.facets?.columnLineage ?? {};
    if (!fields) {
      problems.add(`The events say nothing of the columns of ${output.name}.`);
      // What a job reads, it writes from: of which columns nothing is said.
      for (const input of told?.inputs ?? [])
        if (named(input) !== named(output))
          edges.push({ from: endOf(input, null), to: endOf(output, null), kind: 'transformed' });
    }
    for (const field of dataset) influence(field, output);
    for (const [column, { inputFields = [] }] of Object.entries(fields ?? {}))
      for (const field of inputFields) {
        const kind = kindOf(field);
        if (kind && field.field !== '')
          edges.push({ from: endOf(field, field.field), to: endOf(output, column), kind, ...saidOf(field) });
        influence(field, output);
      }
  }
  const facet = <T>(of: (event: RunEvent) => T | undefined | ''): T | null => {
    for (const event of [...inTime].reverse()) {
      const found = of(event);
      if (found) return found;
    }
    return null;
  };
  const { job } = inTime[0] as RunEvent;
  const query = facet((event) => event.job.facets?.sql?.query);
  return {
    namespace: job.namespace,
    name: job.name,
    description: facet((event) => event.job.facets?.documentation?.description) ?? '',
    code: query ?? facet((event) => event.job.facets?.sourceCode?.sourceCode),
    language: query ? 'sql' : facet((event) => event.job.facets?.sourceCode?.language),
    codeAt: facet((event) => event.job.facets?.sourceCodeLocation?.url),
    runs: runsOf(inTime),
    reads: (told?.inputs ?? []).map(({ namespace, name }) => ({ namespace, name })),
    writes: (told?.outputs ?? []).map(({ namespace, name }) => ({ namespace, name })),
    datasets: datasetsOf(inTime),
    edges,
    influences: [...influences.values()],
    problems: [...problems],
    told: told
      ? { at: told.eventTime, columns: (told.outputs ?? []).some(({ facets }) => facets?.columnLineage) }
      : null,
  };
}
