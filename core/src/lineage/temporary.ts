import { asInfluence, combine, combineInfluences, nothing, stronger } from './provenance.ts';
import { TEMPORARY_SCHEMA } from './schema.ts';
import {
  type ColumnId,
  type ColumnName,
  columnId,
  columnName,
  type Influence,
  type Influences,
  type Provenance,
  type StatementLineage,
  type ValueEdge,
  type Values,
} from './types.ts';

const isTemporary = ({ schema }: { schema: string }): boolean => schema === TEMPORARY_SCHEMA;
const idOf = ({ schema, relation, column }: ColumnName): ColumnId => columnId(schema, relation, column);

/**
 * Statements by way of temporary tables: what is written into one and read again goes from where it came to where it ends, and the table between, which
 * nobody sees, is left out. Which statement fills a temporary table before which reads it is not asked: what ever goes in counts.
 *
 * Takes time in the number of edges, and of temporary columns times the edges into them.
 */
export function throughTemporary(statements: readonly StatementLineage[]): StatementLineage[] {
  const into = statements.filter((one) => isTemporary(one.target));
  if (into.length === 0) return [...statements];
  const edgesInto = new Map<ColumnId, ValueEdge[]>();
  const rowsOf = new Map<string, Influence[]>();
  for (const { target, edges, influences } of into) {
    for (const edge of edges) {
      const id = columnId(target.schema, target.relation, edge.to);
      edgesInto.set(id, [...(edgesInto.get(id) ?? []), edge]);
    }
    rowsOf.set(target.relation, [...(rowsOf.get(target.relation) ?? []), ...influences]);
  }
  const known = new Map<ColumnId, Values>();
  /** What lasts of the values of a column: itself, or what its temporary table got it from. */
  const valuesOf = (column: ColumnName, open: ReadonlySet<ColumnId> = new Set()): Values => {
    const id = idOf(column);
    if (!isTemporary(column)) return new Map([[id, 'copied' as const]]);
    const before = known.get(id);
    if (before) return before;
    if (open.has(id)) return nothing.values;
    const inner = new Set([...open, id]);
    const found = combine(
      (edgesInto.get(id) ?? []).map(
        ({ from, kind }): Provenance => ({
          values: new Map([...valuesOf(from, inner)].map(([base, was]) => [base, stronger(was, kind)])),
          influences: nothing.influences,
        }),
      ),
    ).values;
    // Within a circle what is known is not all: it is worked out again from outside.
    if (open.size === 0) known.set(id, found);
    return found;
  };
  /** What decided the rows of a temporary table, and of those that it was made of. */
  const decided = (relation: string, open: ReadonlySet<string> = new Set()): Influences => {
    if (open.has(relation)) return nothing.influences;
    const inner = new Set([...open, relation]);
    const sources = into.filter((one) => one.target.relation === relation).flatMap((one) => one.edges);
    return combineInfluences([
      ...(rowsOf.get(relation) ?? []).map(({ from, kind }) =>
        asInfluence({ values: valuesOf(from), influences: nothing.influences }, kind),
      ),
      ...temporaryOf(sources).map((other) => decided(other, inner)),
    ]);
  };
  return statements
    .filter((one) => !isTemporary(one.target))
    .map((one) => {
      const behind = temporaryOf([...one.edges, ...one.influences]);
      if (behind.length === 0) return one;
      const edges = new Map<string, ValueEdge>();
      for (const { from, to, kind, wholeRow } of one.edges)
        for (const [base, was] of valuesOf(from)) {
          const edge = { from: columnName(base), to, kind: stronger(was, kind), ...(wholeRow ? { wholeRow } : {}) };
          const key = `${base}>${to}`;
          const before = edges.get(key);
          edges.set(key, before ? { ...edge, kind: stronger(before.kind, edge.kind) } : edge);
        }
      const influences = combineInfluences([
        ...one.influences.map(({ from, kind }) =>
          asInfluence({ values: valuesOf(from), influences: nothing.influences }, kind),
        ),
        ...behind.map((relation) => decided(relation)),
      ]);
      return {
        ...one,
        edges: [...edges.values()],
        influences: [...influences].flatMap(([id, kinds]) =>
          [...kinds].map((kind): Influence => ({ from: columnName(id), kind })),
        ),
      };
    });
}

const temporaryOf = (reads: readonly { from: ColumnName }[]): string[] => [
  ...new Set(reads.filter(({ from }) => isTemporary(from)).map(({ from }) => from.relation)),
];
