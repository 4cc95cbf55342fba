import type { TableExplained, TryAnswer } from '@idrel/contract/access';
import { besideColumns, pairRows } from '@idrel/core/access';
import { loadParser } from '@idrel/core/sql';
import type { Db } from '../platform/database.ts';
import { catalogOf, namedTables } from './asked.ts';

/** A result, with what was decided for each table that it read. */
interface Result {
  readonly columns: readonly string[];
  readonly rows: readonly (readonly (string | null)[])[];
  readonly tables: readonly TableExplained[];
}

/** Whether somebody reads all of some tables as they are. */
export const readsWhole = (tables: readonly TableExplained[]): boolean =>
  tables.every(({ access }) => access === 'yes');

/** What of a column, or of its table, keeps somebody from getting it as it is. */
const reasonsOf = (table: TableExplained | undefined, column: string): string[] =>
  (table?.columns ?? [])
    .filter(({ name, access }) => name === column && access !== 'plain')
    .flatMap(({ reasons }) => {
      const keeping = reasons.filter(({ effect }) => effect !== 'allow').map(({ policy }) => policy);
      return keeping.length > 0 ? keeping : ['no policy allows it'];
    });

/** The results of one query for two people, beside each other: columns with why they differ, and rows that are the same ones. */
export async function beside(
  db: Db,
  sql: string,
  yours: Result,
  theirs: Result,
): Promise<Pick<TryAnswer, 'beside' | 'pairs'>> {
  await loadParser();
  const known = await namedTables(db, [...new Set([...yours.tables, ...theirs.tables].map(({ tableId }) => tableId))]);
  const explained = (result: Result, schema: string, relation: string) => {
    const table = known.find((one) => one.schema === schema && one.name === relation);
    return result.tables.find(({ tableId }) => tableId === table?.id);
  };
  const isPlain = (result: Result, schema: string, relation: string, column: string) =>
    explained(result, schema, relation)?.columns.some(({ name, access }) => name === column && access === 'plain') ??
    false;
  const columns = besideColumns(
    sql,
    catalogOf(known),
    yours.columns,
    theirs.columns,
    (...names) => isPlain(yours, ...names) && isPlain(theirs, ...names),
  );
  const limits = theirs.tables.flatMap(({ rowLimits }) => rowLimits.map(({ policy }) => policy));
  return {
    beside: columns.map(({ from, ...column }) => ({
      ...column,
      because: [
        ...new Set([
          ...from.flatMap(({ schema, relation, column: name }) => reasonsOf(explained(theirs, schema, relation), name)),
          // What is counted has no column that it comes from.
          ...(column.ofMany || from.length === 0 ? limits : []),
        ]),
      ],
    })),
    pairs: pairRows(
      yours.rows,
      theirs.rows,
      columns.flatMap(({ same, yours: left, theirs: right }) =>
        same && left !== null && right !== null ? [[left, right] as const] : [],
      ),
    ).map((pair) => [...pair]),
  };
}
