import { type Dialect, readDefinition, SchemaCatalog, type StatementLineage } from '@idrel/core/lineage';
import { loadParser } from '@idrel/core/sql';
import { type FlowProblem, type FoundFlow, inLines, keyOf, toldOf } from './types.ts';

interface ColumnOf {
  readonly schema: string;
  readonly relation: string;
  readonly column: string;
}

/** Of a definition nothing is known. */
export const unreadable = (error: unknown): FlowProblem => ({
  reason: `The definition cannot be read: ${error instanceof Error ? error.message : String(error)}`,
  line: null,
  statement: null,
  lost: true,
});

/** What a statement does to columns, told by keys of the catalog. @param columnKey key of a column that a statement reads */
export function keyed(
  base: Pick<FoundFlow, 'key' | 'kind' | 'origin' | 'statement' | 'problems'>,
  lineage: StatementLineage | null,
  columnKey: (from: ColumnOf) => string,
): FoundFlow {
  return {
    ...base,
    edges: (lineage?.edges ?? []).map((edge) => ({
      from: columnKey(edge.from),
      to: keyOf(base.key, edge.to),
      kind: edge.kind,
      ...inLines(edge),
    })),
    influences: (lineage?.influences ?? []).map((influence) => ({
      from: columnKey(influence.from),
      kind: influence.kind,
    })),
  };
}

const SCHEMA = 'main';

/**
 * Lineage of a view of a database without schemas, as far as its query is written in SQL that PostgreSQL's parser accepts; what it does not
 * accept becomes a flow that says so.
 * @param view key of the view, its name, its statement as the database gives it, and the query in it
 * @param relations columns of each table and view, in order
 * @param dialect whose rules names follow: SQLite tells no capitals apart, so names are looked up in small letters and told as they are
 */
export async function readFlow(
  view: { key: string; name: string; kind: string; statement: string; query: string },
  relations: ReadonlyMap<string, readonly string[]>,
  dialect: Dialect,
): Promise<FoundFlow> {
  await loadParser();
  const base = {
    key: view.key,
    kind: view.kind,
    origin: 'view' as const,
    statement: view.statement,
    problems: [] as FlowProblem[],
  };
  const top = view.key.slice(0, view.key.length - view.name.length - 1);
  const catalog = new SchemaCatalog([SCHEMA], dialect);
  const folds = dialect === 'sqlite';
  const fold = (name: string) => (folds ? name.toLowerCase() : name);
  const written = new Map(
    [...relations].map(([name, columns]) => [
      fold(name),
      { name, columns: new Map(columns.map((column) => [fold(column), column])) },
    ]),
  );
  for (const [name, columns] of relations)
    catalog.addRelation({ schema: SCHEMA, name: fold(name), columns: columns.map(fold) });
  try {
    const { lineage, problems } = readDefinition(
      view.query,
      { schema: SCHEMA, relation: view.name, columns: relations.get(view.name) ?? [], kind: 'view' },
      catalog,
    );
    return keyed({ ...base, problems: problems.map(toldOf) }, lineage, (from) => {
      const known = written.get(fold(from.relation));
      return keyOf(top, known?.name ?? from.relation, known?.columns.get(fold(from.column)) ?? from.column);
    });
  } catch (error) {
    return {
      ...base,
      problems: [unreadable(error)],
      edges: [],
      influences: [],
    };
  }
}
