import { asInfluence, combineInfluences, either, nothing, stronger } from './provenance.ts';
import { TEMPORARY_SCHEMA } from './schema.ts';
import {
  type ColumnId,
  type ColumnName,
  columnId,
  columnName,
  type Influence,
  type Influences,
  type StatementLineage,
  type ValueEdge,
  type ValueKind,
  type Values,
} from './types.ts';

const isTemporary = ({ schema }: { schema: string }): boolean => schema === TEMPORARY_SCHEMA;
const idOf = ({ schema, relation, column }: ColumnName): ColumnId => columnId(schema, relation, column);

/**
 * Statements by way of temporary tables: what is written into one and read again goes from where it came to where it ends, and the table between, which
 * nobody sees, is left out. Which statement fills a temporary table before which reads it is not asked: whatever goes in counts.
 *
 * Takes time in the number of edges between temporary columns, times what each of them is made of.
 */
export function throughTemporary(statements: readonly StatementLineage[]): StatementLineage[] {
  const into = statements.filter((one) => isTemporary(one.target));
  const edgesInto = new Map<ColumnId, ValueEdge[]>();
  const rowsOf = new Map<string, Influence[]>();
  for (const { target, edges, influences } of into) {
    for (const edge of edges) {
      const id = columnId(target.schema, target.relation, edge.to);
      edgesInto.set(id, [...(edgesInto.get(id) ?? []), edge]);
    }
    rowsOf.set(target.relation, [...(rowsOf.get(target.relation) ?? []), ...influences]);
  }
  const known = settled(edgesInto);
  /** What lasts of the values of a column: itself, or what its temporary table got it from. */
  const valuesOf = (column: ColumnName): Values =>
    isTemporary(column) ? (known.get(idOf(column)) ?? nothing.values) : new Map([[idOf(column), 'copied' as const]]);
  /** What decided the rows of temporary tables, and of those that these were made of. */
  const decided = (relations: readonly string[]): Influences => {
    const met = new Set(relations);
    // Grows while it is gone through: each is looked at once, however they are made of each other.
    for (const relation of met)
      for (const other of temporaryOf(
        into.filter(({ target }) => target.relation === relation).flatMap(({ edges }) => edges),
      ))
        met.add(other);
    return combineInfluences(
      [...met].flatMap((relation) =>
        (rowsOf.get(relation) ?? []).map(({ from, kind }) =>
          asInfluence({ values: valuesOf(from), influences: nothing.influences }, kind),
        ),
      ),
    );
  };
  return statements
    .filter((one) => !isTemporary(one.target))
    .map((one) => {
      const behind = temporaryOf([...one.edges, ...one.influences]);
      if (behind.length === 0) return one;
      const edges = new Map<string, ValueEdge>();
      for (const { from, to, kind, expressions, wholeRow } of one.edges)
        for (const [base, was] of valuesOf(from)) {
          const edge = {
            from: columnName(base),
            to,
            kind: stronger(was, kind),
            ...(expressions ? { expressions } : {}),
            ...(wholeRow ? { wholeRow } : {}),
          };
          const key = `${base}>${to}`;
          const before = edges.get(key);
          edges.set(key, before ? { ...edge, kind: either(before.kind, edge.kind) } : edge);
        }
      const influences = combineInfluences([
        ...one.influences.map(({ from, kind }) =>
          asInfluence({ values: valuesOf(from), influences: nothing.influences }, kind),
        ),
        decided(behind),
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

/**
 * What each temporary column is made of in the end: what goes into it is handed on until nothing more comes. Columns made of each other in a circle, and
 * in whatever many ways, settle all the same: values only grow.
 */
function settled(edgesInto: ReadonlyMap<ColumnId, readonly ValueEdge[]>): ReadonlyMap<ColumnId, Values> {
  const known = new Map<ColumnId, Map<ColumnId, ValueKind>>();
  const readers = new Map<ColumnId, ColumnId[]>();
  for (const [id, edges] of edgesInto)
    for (const { from } of edges)
      if (isTemporary(from)) readers.set(idOf(from), [...(readers.get(idOf(from)) ?? []), id]);
  const waiting = new Set(edgesInto.keys());
  // Grows while it is gone through: a column is looked at again whenever one that it is made of came to hold more.
  for (const id of waiting) {
    waiting.delete(id);
    const own = known.get(id) ?? new Map<ColumnId, ValueKind>();
    let grew = false;
    for (const { from, kind } of edgesInto.get(id) ?? []) {
      const base: Values = isTemporary(from)
        ? (known.get(idOf(from)) ?? nothing.values)
        : new Map([[idOf(from), kind]]);
      for (const [column, was] of base) {
        const before = own.get(column);
        const now = either(before ?? stronger(was, kind), stronger(was, kind));
        if (now === before) continue;
        own.set(column, now);
        grew = true;
      }
    }
    known.set(id, own);
    if (grew) for (const reader of readers.get(id) ?? []) waiting.add(reader);
  }
  return known;
}

const temporaryOf = (reads: readonly { from: ColumnName }[]): string[] => [
  ...new Set(reads.filter(({ from }) => isTemporary(from)).map(({ from }) => from.relation)),
];
