import type { ShownLineage } from './shown.ts';
import type { InfluenceKind, ValueKind } from './types.ts';

/** A dataset by the naming rules of OpenLineage (spec/Naming.md). */
export interface NamedDataset {
  readonly namespace: string;
  readonly name: string;
}

const SPEC = 'https://openlineage.io/spec';
/** What happens to a value, in the standard's words (ColumnLineageDatasetFacet 1-2-0). */
const DIRECT: Record<ValueKind, { readonly subtype: string; readonly masking: boolean }> = {
  copied: { subtype: 'IDENTITY', masking: false },
  transformed: { subtype: 'TRANSFORMATION', masking: false },
  aggregated: { subtype: 'AGGREGATION', masking: false },
  masked: { subtype: 'TRANSFORMATION', masking: true },
};
const INDIRECT: Record<Exclude<InfluenceKind, 'unused'>, string> = {
  join: 'JOIN',
  filter: 'FILTER',
  group: 'GROUP_BY',
  sort: 'SORT',
  window: 'WINDOW',
};

interface Transformation {
  readonly type: 'DIRECT' | 'INDIRECT';
  readonly subtype: string;
  readonly description: string;
  readonly masking: boolean;
}
interface InputField extends NamedDataset {
  readonly field: string;
  readonly transformations: readonly Transformation[];
}
/** A `JobEvent` of OpenLineage 2-0-2: what a job does, without its having run. */
export interface JobEvent {
  readonly eventTime: string;
  readonly producer: string;
  readonly schemaURL: string;
  readonly job: NamedDataset & { readonly facets?: Readonly<Record<string, object>> };
  readonly inputs: readonly NamedDataset[];
  readonly outputs: readonly (NamedDataset & { readonly facets: Readonly<Record<string, object>> })[];
}

/** What one job writes into one dataset. */
interface Written {
  readonly fields: Map<string, InputField[]>;
  readonly rows: InputField[];
}

/**
 * What a picture shows, as events of OpenLineage: one job for each flow, and one for each table that is made by its own definition. What somebody says is wrong is
 * left out, and what ended.
 * @param nameOf the dataset that a table of the picture is, by its id
 * @param at when, ISO 8601
 * @param producer a URI of who tells it
 */
export function toOpenLineage(
  shown: ShownLineage,
  nameOf: (tableId: string) => NamedDataset,
  { at, producer }: { readonly at: string; readonly producer: string },
): JobEvent[] {
  const columns = new Map(shown.nodes.flatMap((node) => node.columns.map(({ id, name }) => [id, name] as const)));
  const flows = new Map(shown.flows.map((flow) => [flow.id, flow]));
  /** By job, by the table it writes. */
  const jobs = new Map<string, Map<string, Written>>();
  const written = (job: string, table: string): Written => {
    const tables = jobs.get(job) ?? new Map<string, Written>();
    jobs.set(job, tables);
    const known = tables.get(table) ?? { fields: new Map<string, InputField[]>(), rows: [] };
    tables.set(table, known);
    return known;
  };
  const input = (
    table: string,
    field: string,
    type: Transformation['type'],
    how: { subtype: string; masking: boolean },
  ) => ({
    ...nameOf(table),
    field,
    transformations: [{ type, ...how, description: '' }],
  });
  for (const { from, to, fromTable, toTable, kind, wrong, flow, change } of shown.links) {
    if (wrong || change === 'went') continue;
    const [field, into] = [columns.get(from), columns.get(to)];
    const job = written(flow ?? toTable, toTable);
    // Of whole tables the standard says no more than that one is read and the other written.
    if (field === undefined || into === undefined) job.rows.push(input(fromTable, '', 'DIRECT', DIRECT[kind]));
    else job.fields.set(into, [...(job.fields.get(into) ?? []), input(fromTable, field, 'DIRECT', DIRECT[kind])]);
  }
  for (const { from, fromTable, toTable, kind, change } of shown.influences) {
    const field = columns.get(from);
    if (kind === 'unused' || change === 'went' || field === undefined) continue;
    const flow = shown.flows.find((one) => one.from.includes(fromTable) && one.to.includes(toTable));
    const how = { subtype: INDIRECT[kind], masking: false };
    written(flow?.id ?? toTable, toTable).rows.push(input(fromTable, field, 'INDIRECT', how));
  }
  const facet = (name: string, version: string, content: object) => ({
    _producer: producer,
    _schemaURL: `${SPEC}/facets/${version}/${name}.json#/$defs/${name}`,
    ...content,
  });
  return [...jobs].map(([job, tables]): JobEvent => {
    const flow = flows.get(job);
    const first = nameOf([...tables.keys()][0] ?? job);
    const inputs = new Map<string, NamedDataset>();
    for (const { fields, rows } of tables.values())
      for (const { namespace, name } of [...[...fields.values()].flat(), ...rows])
        inputs.set(`${namespace}\n${name}`, { namespace, name });
    return {
      eventTime: at,
      producer,
      schemaURL: `${SPEC}/2-0-2/OpenLineage.json#/$defs/JobEvent`,
      job: {
        namespace: first.namespace,
        name: flow?.path ?? first.name,
        ...(flow?.statement ? { facets: { sql: facet('SQLJobFacet', '1-1-0', { query: flow.statement }) } } : {}),
      },
      inputs: [...inputs.values()],
      outputs: [...tables].map(([table, { fields, rows }]) => {
        const node = shown.nodes.find(({ id }) => id === table);
        const dataset = rows.filter(({ field }) => field !== '');
        return {
          ...nameOf(table),
          facets: {
            schema: facet('SchemaDatasetFacet', '1-1-1', {
              fields: (node?.columns ?? []).map(({ name, type }) => ({ name, ...(type === null ? {} : { type }) })),
            }),
            columnLineage: facet('ColumnLineageDatasetFacet', '1-2-0', {
              fields: Object.fromEntries([...fields].map(([name, inputFields]) => [name, { inputFields }])),
              ...(dataset.length > 0 ? { dataset } : {}),
            }),
          },
        };
      }),
    };
  });
}
