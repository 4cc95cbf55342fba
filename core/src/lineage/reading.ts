import type { Node, RangeVar } from '@pgsql/types';
import { type Made, newRelation, toLineage } from './made.ts';
import { textsOf } from './nodes.ts';
import { readQuery } from './query.ts';
import type { SchemaCatalog } from './schema.ts';
import { type Derived, Scope } from './scope.ts';
import type { Trace } from './trace.ts';
import { readAttached, readTableOf, readWithin, readWrite } from './writes.ts';

export const shorten = (text: string) => (text.length > 200 ? `${text.slice(0, 199)}…` : text);

export function newTrace(catalog: SchemaCatalog): Trace {
  const read = new WeakMap<Node, { scope: Scope; derived: Derived }>();
  const trace: Trace = {
    catalog,
    mentioned: new Set(),
    wholeRow: new Set(),
    problems: new Set(),
    query: (node, scope) => readQuery(trace, node, scope),
    subquery: (node, scope) => {
      const known = read.get(node);
      const derived = known?.scope === scope ? known.derived : readQuery(trace, node, scope);
      if (derived !== known?.derived) read.set(node, { scope, derived });
      return derived;
    },
    write: (node, scope) => readWithin(trace, node, scope),
    written: [],
  };
  return trace;
}

export interface Reading {
  readonly trace: Trace;
  readonly catalog: SchemaCatalog;
  /** Number of plain SELECTs so far: they have no target of their own and are named after it. */
  readonly nextQuery: () => number;
}

/** What one statement does. @param around names that it may use beside those of its own relations */
export function readStatement(reading: Reading, node: Node, around?: Scope): Made | undefined {
  const { trace, catalog, nextQuery } = reading;
  const scope = new Scope(around);
  if ('SelectStmt' in node) {
    const into = node.SelectStmt.intoClause;
    const derived = readQuery(trace, node, scope);
    if (!into) return toLineage(trace, derived, 'select', { schema: 'query', relation: String(nextQuery()) }, []);
    return created(trace, catalog, derived, 'table', into.rel, []);
  }
  if ('ViewStmt' in node && node.ViewStmt.query) {
    const { view, query, aliases } = node.ViewStmt;
    return created(trace, catalog, readQuery(trace, query, scope), 'view', view, textsOf(aliases));
  }
  if ('CreateTableAsStmt' in node && node.CreateTableAsStmt.query && !('ExecuteStmt' in node.CreateTableAsStmt.query)) {
    const { query, into, objtype } = node.CreateTableAsStmt;
    const kind = objtype === 'OBJECT_MATVIEW' ? 'materialised view' : 'table';
    return created(trace, catalog, readQuery(trace, query, scope), kind, into?.rel, textsOf(into?.colNames));
  }
  if ('ExplainStmt' in node && node.ExplainStmt.query) return readStatement(reading, node.ExplainStmt.query, around);
  if ('PrepareStmt' in node && node.PrepareStmt.query) return readStatement(reading, node.PrepareStmt.query, around);
  if ('DeclareCursorStmt' in node && node.DeclareCursorStmt.query)
    return readStatement(reading, node.DeclareCursorStmt.query, around);
  if ('CreateStmt' in node) return readTableOf(trace, node.CreateStmt);
  if ('AlterTableStmt' in node) return readAttached(trace, node.AlterTableStmt);
  return readWrite(trace, node, scope);
}

function created(
  trace: Trace,
  catalog: SchemaCatalog,
  derived: Derived,
  kind: Made['kind'],
  range: RangeVar | undefined,
  names: string[],
): Made {
  const target = newRelation(catalog, range);
  const made = toLineage(trace, derived, kind, target, names);
  catalog.addRelation({ schema: target.schema, name: target.relation, columns: made.columns });
  return made;
}
