import type { ValueKind } from '@idrel/core/lineage';
import { placeOf, type RemoteColumn, type RemoteEdge } from '../types.ts';

/** The parts of a run event that are read (OpenLineage, RunEvent and ColumnLineageDatasetFacet 1-2-0). */
export interface RunEvent {
  readonly eventType?: 'START' | 'RUNNING' | 'COMPLETE' | 'ABORT' | 'FAIL' | 'OTHER';
  readonly eventTime: string;
  readonly run: { readonly runId: string; readonly facets?: { readonly errorMessage?: { readonly message?: string } } };
  readonly job: {
    readonly namespace: string;
    readonly name: string;
    readonly facets?: {
      readonly documentation?: { readonly description?: string };
      readonly sql?: { readonly query?: string };
    };
  };
  readonly inputs?: readonly DatasetRef[];
  readonly outputs?: readonly (DatasetRef & {
    readonly facets?: {
      readonly columnLineage?: {
        readonly fields?: Readonly<Record<string, { readonly inputFields?: readonly InputField[] }>>;
      };
    };
  })[];
}
interface DatasetRef {
  readonly namespace: string;
  readonly name: string;
}
interface InputField extends DatasetRef {
  readonly field: string;
  readonly transformations?: readonly {
    readonly type: string;
    readonly subtype?: string;
    readonly masking?: boolean;
  }[];
}

/** What one job did last, and what it does to columns. */
export interface Job {
  readonly namespace: string;
  readonly name: string;
  readonly description: string;
  readonly query: string | null;
  readonly runs: number;
  readonly failed: number;
  readonly last: { readonly state: string; readonly at: string; readonly message: string | null } | null;
  readonly reads: readonly string[];
  readonly writes: readonly string[];
  readonly edges: readonly RemoteEdge[];
  readonly problems: readonly string[];
}

/**
 * A dataset by the naming rules of OpenLineage (spec/Naming.md): `postgres://host:port` with `database.schema.table`, `mysql://host:port` with `database.table`,
 * `s3://bucket` with the key. @returns undefined for systems that Idrel does not read
 */
export function readDataset({ namespace, name }: DatasetRef): { place: string; names: string[] } | undefined {
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

/** What happens to the value on its way; undefined when the column only decides about rows. */
function kindOf(field: InputField): ValueKind | undefined {
  const all = field.transformations ?? [{ type: 'DIRECT', subtype: 'TRANSFORMATION' }];
  const direct = all.filter((entry) => entry.type === 'DIRECT');
  if (direct.length === 0) return undefined;
  if (direct.some((entry) => entry.masking)) return 'masked';
  if (direct.some((entry) => entry.subtype === 'AGGREGATION')) return 'aggregated';
  return direct.some((entry) => entry.subtype !== 'IDENTITY') ? 'transformed' : 'copied';
}

const STATES: Record<string, string> = {
  START: 'running',
  RUNNING: 'running',
  COMPLETE: 'done',
  ABORT: 'cancelled',
  FAIL: 'failed',
};

/** Puts the events of runs together, job by job; the newest event that says something of columns counts. */
export function readEvents(events: readonly RunEvent[]): Job[] {
  const jobs = new Map<string, RunEvent[]>();
  for (const event of events) {
    const key = `${event.job.namespace}\n${event.job.name}`;
    jobs.set(key, [...(jobs.get(key) ?? []), event]);
  }
  return [...jobs.values()].map((list) => {
    const inTime = [...list].sort((a, b) => Date.parse(a.eventTime) - Date.parse(b.eventTime));
    const newest = (wanted: (event: RunEvent) => boolean) => inTime.findLast(wanted);
    const ended = new Map(inTime.filter((event) => event.eventType).map((event) => [event.run.runId, event.eventType]));
    const last = newest((event) => event.eventType !== undefined && event.eventType !== 'OTHER');
    const told =
      newest((event) => (event.outputs ?? []).some((output) => output.facets?.columnLineage)) ??
      newest((event) => (event.outputs ?? []).length > 0);
    const problems = new Set<string>();
    const edges: RemoteEdge[] = [];
    for (const output of told?.outputs ?? []) {
      const to = readDataset(output);
      if (!to) problems.add(`${output.namespace} ${output.name} is in a system that is not read.`);
      else if (!output.facets?.columnLineage?.fields)
        problems.add(`The events say nothing of the columns of ${output.name}.`);
      for (const [column, { inputFields = [] }] of Object.entries(output.facets?.columnLineage?.fields ?? {}))
        for (const field of inputFields) {
          const from = readDataset(field);
          const kind = kindOf(field);
          if (!from) problems.add(`${field.namespace} ${field.name} is in a system that is not read.`);
          else if (to && kind)
            edges.push({ from: { ...from, column: field.field } satisfies RemoteColumn, to: { ...to, column }, kind });
        }
    }
    const first = inTime[0] as RunEvent;
    return {
      namespace: first.job.namespace,
      name: first.job.name,
      description:
        newest((event) => Boolean(event.job.facets?.documentation?.description))?.job.facets?.documentation
          ?.description ?? '',
      query: newest((event) => Boolean(event.job.facets?.sql?.query))?.job.facets?.sql?.query ?? null,
      runs: new Set(inTime.map((event) => event.run.runId)).size,
      failed: [...ended.values()].filter((state) => state === 'FAIL').length,
      last: last
        ? {
            state: STATES[last.eventType ?? ''] ?? 'running',
            at: last.eventTime,
            message: last.run.facets?.errorMessage?.message ?? null,
          }
        : null,
      reads: (told?.inputs ?? []).map((input) => `${input.namespace}/${input.name}`),
      writes: (told?.outputs ?? []).map((output) => `${output.namespace}/${output.name}`),
      edges,
      problems: [...problems],
    };
  });
}
