import { readScript, type SchemaCatalog } from '../lineage/index.ts';

/** A column of the result of a statement that two people asked, as it comes to either. */
export interface BesideColumn {
  readonly name: string;
  /** Its place in the result of the one and of the other; null where it is not there for them. */
  readonly yours: number | null;
  readonly theirs: number | null;
  /** Whether both get its values as they are: by these, rows of the one are found again among those of the other. */
  readonly same: boolean;
  /** Columns of tables from which its values come, as far as that can be told. */
  readonly from: readonly { readonly schema: string; readonly relation: string; readonly column: string }[];
  /** Whether it tells of many rows at once: it is another figure where somebody gets fewer of them. */
  readonly ofMany: boolean;
}

/** Names of columns, each with how often it was there before: results may call two the same. */
function numbered(names: readonly string[]): Map<string, number> {
  const seen = new Map<string, number>();
  return new Map(
    names.map((name, at) => {
      const before = seen.get(name) ?? 0;
      seen.set(name, before + 1);
      return [JSON.stringify([name, before]), at];
    }),
  );
}

/**
 * The columns of two results of one SELECT, beside each other.
 * @param sql the statement as it was written; `loadParser` must have finished
 * @param catalog the tables that it names, with all of their columns
 * @param isSame whether a column of a table is read as it is by both
 */
export function besideColumns(
  sql: string,
  catalog: SchemaCatalog,
  yours: readonly string[],
  theirs: readonly string[],
  isSame: (schema: string, relation: string, column: string) => boolean,
): BesideColumn[] {
  const { statements } = readScript(sql, catalog);
  const edges = statements.at(-1)?.edges ?? [];
  const [mine, other] = [numbered(yours), numbered(theirs)];
  return [...new Set([...mine.keys(), ...other.keys()])].map((key) => {
    const [name] = JSON.parse(key) as [string, number];
    const into = edges.filter(({ to }) => to === name);
    const [left, right] = [mine.get(key) ?? null, other.get(key) ?? null];
    return {
      name,
      yours: left,
      theirs: right,
      same:
        left !== null &&
        right !== null &&
        into.length > 0 &&
        into.every(({ kind, from }) => kind !== 'aggregated' && isSame(from.schema, from.relation, from.column)),
      from: into.map(({ from }) => from),
      ofMany: into.some(({ kind }) => kind === 'aggregated'),
    };
  });
}
