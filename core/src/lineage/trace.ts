import type { Node } from '@pgsql/types';
import type { Made } from './made.ts';
import { combine, nothing } from './provenance.ts';
import type { SchemaCatalog } from './schema.ts';
import type { Derived, Scope, ScopeColumn, ScopeItem } from './scope.ts';
import type { ColumnId, Provenance } from './types.ts';

/** What one analysis carries through the tree: the names it may meet, and the notes it takes on the way. */
export interface Trace {
  readonly catalog: SchemaCatalog;
  /** Columns named anywhere, also where it has no effect. */
  readonly mentioned: Set<ColumnId>;
  /** Columns reached because their whole row was named. */
  readonly wholeRow: Set<ColumnId>;
  /** What could not be settled, in words. */
  readonly problems: Set<string>;
  /** Analyses a query (SELECT, VALUES, set operation, or a writing statement of WITH) in the scope around it. */
  readonly query: (node: Node, scope: Scope) => Derived;
  /** As `query`, for a query inside an expression: read once, though both its value and its fields may be asked for. */
  readonly subquery: (node: Node, scope: Scope) => Derived;
  /** Analyses a statement of WITH that writes: notes what it does, and gives what it returns; undefined for any other node. */
  readonly write: (node: Node, scope: Scope) => Derived | undefined;
  /** What statements of WITH write. */
  readonly written: Made[];
}

/** Notes that a column was named, and gives what it stands for. */
export function mention(trace: Trace, column: ScopeColumn): Provenance {
  for (const id of column.base) trace.mentioned.add(id);
  return column.provenance;
}

/** A whole row (`t`, `t.*` inside an expression): every column of it, turned into something else. */
export function wholeRow(trace: Trace, item: ScopeItem): Provenance {
  if (item.columns.length === 0 && item.other) {
    trace.problems.add(`the whole row of ${item.alias} is used, and its columns are not known`);
    return nothing;
  }
  for (const column of item.columns) for (const id of column.base) trace.wholeRow.add(id);
  return combine(
    item.columns.map((column) => column.provenance),
    'transformed',
  );
}
