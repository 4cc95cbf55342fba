import type { RangeVar } from '@pgsql/types';
import { expressionText } from '../sql/index.ts';
import { combineInfluences } from './provenance.ts';
import { type SchemaCatalog, TEMPORARY_SCHEMA } from './schema.ts';
import type { Derived } from './scope.ts';
import type { Trace } from './trace.ts';
import {
  type ColumnId,
  columnName,
  type Influence,
  type Provenance,
  type StatementLineage,
  type ValueEdge,
} from './types.ts';

/** What a statement does, before it is said where it stands. */
export type Made = Omit<StatementLineage, 'statement' | 'line'>;

/** Longer expressions are cut: they are read where the statement stands. In characters. */
const EXPRESSION_LONGEST = 300;
/** So many steps are told, the last ones. */
const STEPS_TOLD = 4;

function inWords({ steps }: Provenance, id: ColumnId): Pick<ValueEdge, 'expressions'> {
  const texts = (steps?.get(id) ?? [])
    .slice(-STEPS_TOLD)
    .flatMap((node) => expressionText(node) ?? [])
    .map((text) => (text.length > EXPRESSION_LONGEST ? `${text.slice(0, EXPRESSION_LONGEST - 1)}…` : text));
  return texts.length > 0 ? { expressions: texts } : {};
}

/** Turns what a query reads into edges to the columns of a target. */
export function toLineage(
  trace: Trace,
  derived: Derived,
  kind: Made['kind'],
  target: Made['target'],
  names: readonly string[],
): Made {
  const edges: ValueEdge[] = [];
  const used = new Set<string>();
  const seen = new Set<string>();
  const rowOnly = (id: string) =>
    trace.wholeRow.has(id) && !trace.mentioned.has(id) ? { wholeRow: true as const } : {};
  const columns = derived.columns.map((column, index) => names[index] ?? column.name);
  derived.columns.forEach((column, index) => {
    for (const [id, valueKind] of column.provenance.values) {
      used.add(id);
      const to = columns[index] ?? column.name;
      // Two branches of one statement can do the same.
      const same = `${id}>${to}>${valueKind}`;
      if (!seen.has(same))
        edges.push({ from: columnName(id), to, kind: valueKind, ...inWords(column.provenance, id), ...rowOnly(id) });
      seen.add(same);
    }
  });
  const influences: Influence[] = [];
  const decided = combineInfluences([derived.rows, ...derived.columns.map((column) => column.provenance.influences)]);
  for (const [id, kinds] of decided) {
    used.add(id);
    for (const influence of kinds) influences.push({ from: columnName(id), kind: influence, ...rowOnly(id) });
  }
  for (const id of trace.mentioned) if (!used.has(id)) influences.push({ from: columnName(id), kind: 'unused' });
  return { kind, target, columns: [...new Set(columns)], edges, influences };
}

export function targetOf(catalog: SchemaCatalog, range: RangeVar | undefined): { schema: string; relation: string } {
  const name = range?.relname ?? '';
  return {
    schema: range?.schemaname ?? catalog.relation(undefined, name)?.schema ?? catalog.defaultSchema,
    relation: name,
  };
}

/** A new relation goes to its own schema or to the default one, whatever else has its name; a temporary one to a schema of its own. */
export const newRelation = (
  catalog: SchemaCatalog,
  range: RangeVar | undefined,
): { schema: string; relation: string } => ({
  schema: range?.relpersistence === 't' ? TEMPORARY_SCHEMA : (range?.schemaname ?? catalog.defaultSchema),
  relation: range?.relname ?? '',
});
