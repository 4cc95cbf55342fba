import type { AlterTableStmt, CreateStmt, MultiAssignRef, Node, OnConflictClause } from '@pgsql/types';
import { readAsInfluence, readExpression } from './expression.ts';
import { readFrom } from './from.ts';
import { type Made, targetOf, toLineage } from './made.ts';
import { combine, combineInfluences, nothing, through } from './provenance.ts';
import { addCtes, readQuery, readTargets } from './query.ts';
import { type Derived, relationColumn, relationColumns, Scope, type ScopeItem } from './scope.ts';
import type { Trace } from './trace.ts';
import {
  type ColumnId,
  type ColumnName,
  columnId,
  type InfluenceKind,
  type Influences,
  type Provenance,
} from './types.ts';

type Write<K extends string> =
  Extract<Node, Record<K, unknown>> extends infer N ? (N extends Record<K, infer B> ? B : never) : never;
type Out = Derived['columns'][number];

/** What a statement that writes rows does to the columns of its target; undefined for any other. */
export function readWrite(trace: Trace, node: Node, scope: Scope): Made | undefined {
  if ('InsertStmt' in node) return readInsert(trace, node.InsertStmt, scope);
  if ('UpdateStmt' in node) return readUpdate(trace, node.UpdateStmt, scope);
  if ('DeleteStmt' in node) return readDelete(trace, node.DeleteStmt, scope);
  if ('MergeStmt' in node) return readMerge(trace, node.MergeStmt, scope);
  return undefined;
}

/** A statement of WITH that writes: what it does is noted, and its RETURNING gives columns of the rows as they are then. */
export function readWithin(trace: Trace, node: Node, around: Scope): Derived | undefined {
  const scope = new Scope(around);
  const made = readWrite(trace, node, scope);
  if (!made) return undefined;
  trace.written.push(made);
  const statement =
    ('InsertStmt' in node && node.InsertStmt) ||
    ('UpdateStmt' in node && node.UpdateStmt) ||
    ('DeleteStmt' in node && node.DeleteStmt) ||
    ('MergeStmt' in node && node.MergeStmt);
  const returning = statement ? (statement.returningClause?.exprs ?? []) : [];
  // What decides which rows are written decides which are returned.
  const decided = decidedBy(made);
  if (returning.length === 0) return { columns: [], rows: decided };
  // An INSERT returns rows of its target alone; the others may name what stands beside it too.
  const rows = 'InsertStmt' in node ? new Scope(around) : scope;
  if ('InsertStmt' in node && node.InsertStmt.relation) readFrom(trace, [{ RangeVar: node.InsertStmt.relation }], rows);
  return { columns: readTargets(trace, returning, rows, new Map()), rows: decided };
}

function decidedBy({ influences }: Made): Influences {
  const all = new Map<ColumnId, Set<InfluenceKind>>();
  for (const { from, kind } of influences) {
    const id = columnId(from.schema, from.relation, from.column);
    if (kind !== 'unused') all.set(id, (all.get(id) ?? new Set()).add(kind));
  }
  return all;
}

function readInsert(trace: Trace, insert: Write<'InsertStmt'>, scope: Scope): Made | undefined {
  addCtes(trace, insert.withClause, scope);
  const { catalog } = trace;
  const target = targetOf(catalog, insert.relation);
  if (!insert.selectStmt) return undefined; // DEFAULT VALUES
  const listed = (insert.cols ?? []).flatMap((col) =>
    'ResTarget' in col && col.ResTarget.name ? [col.ResTarget.name] : [],
  );
  const known = catalog.relation(target.schema, target.relation);
  if (listed.length === 0 && !known)
    trace.problems.add(
      `the columns of ${target.schema}.${target.relation} are not known: those of the query are taken`,
    );
  const derived = readQuery(trace, insert.selectStmt, scope);
  const names = listed.length > 0 ? listed : (known?.columns ?? []);
  const again =
    insert.onConflictClause && readConflict(trace, insert.onConflictClause, insert.relation, derived, names);
  const named = derived.columns.map((column, index) => ({ ...column, name: names[index] ?? column.name }));
  return toLineage(
    trace,
    {
      columns: [...named, ...(again?.columns ?? [])],
      rows: combineInfluences([derived.rows, again?.rows ?? new Map()]),
    },
    'insert',
    target,
    [],
  );
}

/** ON CONFLICT DO UPDATE: `excluded` is the row that was to be inserted, the target's own name the row that is there. */
function readConflict(
  trace: Trace,
  clause: OnConflictClause,
  relation: Write<'InsertStmt'>['relation'],
  inserted: Derived,
  names: readonly string[],
): { columns: Out[]; rows: Influences } | undefined {
  if (clause.action !== 'ONCONFLICT_UPDATE') return undefined;
  const scope = new Scope();
  const own: Node[] = relation ? [{ RangeVar: relation }] : [];
  const rows = readFrom(trace, own, scope);
  const excluded: ScopeItem = {
    alias: 'excluded',
    columns: inserted.columns.map((column, index) => ({
      name: names[index] ?? column.name,
      provenance: column.provenance,
      base: [],
    })),
    other: (name) => ({ name, provenance: nothing, base: [] }),
  };
  scope.namespace = { items: [...scope.namespace.items, excluded], columns: scope.namespace.columns };
  return {
    columns: assignments(trace, clause.targetList ?? [], scope),
    rows: combineInfluences([rows, readAsInfluence(trace, [clause.whereClause], scope, 'filter')]),
  };
}

/** `SET a = x, (b, c) = (y, z)`: each column with what it gets. */
function assignments(trace: Trace, targets: readonly Node[], scope: Scope): Out[] {
  return targets.flatMap((node) => {
    if (!('ResTarget' in node) || !node.ResTarget.name) return [];
    const value = node.ResTarget.val;
    const provenance =
      value && 'MultiAssignRef' in value
        ? assigned(trace, value.MultiAssignRef, scope)
        : through(readExpression(trace, value, scope), value);
    return [{ name: node.ResTarget.name, provenance }];
  });
}

/** What one of several columns gets that are assigned together: `(a, b) = (x, y)`, or from the columns of a query. */
function assigned(trace: Trace, { source, colno = 1 }: MultiAssignRef, scope: Scope): Provenance {
  if (source && 'RowExpr' in source) {
    const value = source.RowExpr.args?.[colno - 1];
    return through(readExpression(trace, value, scope), value);
  }
  if (source && 'SubLink' in source && source.SubLink.subselect) {
    const derived = trace.query(source.SubLink.subselect, scope);
    return combine([derived.columns[colno - 1]?.provenance ?? nothing, { ...nothing, influences: derived.rows }]);
  }
  return readExpression(trace, source, scope);
}

function readUpdate(trace: Trace, update: Write<'UpdateStmt'>, scope: Scope): Made {
  addCtes(trace, update.withClause, scope);
  const target = targetOf(trace.catalog, update.relation);
  const own: Node[] = update.relation ? [{ RangeVar: update.relation }] : [];
  const rows = [
    readFrom(trace, [...own, ...(update.fromClause ?? [])], scope),
    readAsInfluence(trace, [update.whereClause], scope, 'filter'),
  ];
  return toLineage(
    trace,
    { columns: assignments(trace, update.targetList ?? [], scope), rows: combineInfluences(rows) },
    'update',
    target,
    [],
  );
}

/** DELETE gives no value to anything; what it looks at decides which rows stay. */
function readDelete(trace: Trace, removal: Write<'DeleteStmt'>, scope: Scope): Made {
  addCtes(trace, removal.withClause, scope);
  const own: Node[] = removal.relation ? [{ RangeVar: removal.relation }] : [];
  const rows = [
    readFrom(trace, [...own, ...(removal.usingClause ?? [])], scope),
    readAsInfluence(trace, [removal.whereClause], scope, 'filter'),
  ];
  return toLineage(
    trace,
    { columns: [], rows: combineInfluences(rows) },
    'delete',
    targetOf(trace.catalog, removal.relation),
    [],
  );
}

function readMerge(trace: Trace, merge: Write<'MergeStmt'>, scope: Scope): Made {
  addCtes(trace, merge.withClause, scope);
  const target = targetOf(trace.catalog, merge.relation);
  const known = trace.catalog.relation(target.schema, target.relation);
  const own: Node[] = merge.relation ? [{ RangeVar: merge.relation }] : [];
  const rows: Influences[] = [
    readFrom(trace, [...own, ...(merge.sourceRelation ? [merge.sourceRelation] : [])], scope),
    readAsInfluence(trace, [merge.joinCondition], scope, 'join'),
  ];
  const columns: Out[] = [];
  for (const node of merge.mergeWhenClauses ?? []) {
    if (!('MergeWhenClause' in node)) continue;
    const { commandType, condition, targetList = [], values = [] } = node.MergeWhenClause;
    rows.push(readAsInfluence(trace, [condition], scope, 'filter'));
    if (commandType === 'CMD_UPDATE') columns.push(...assignments(trace, targetList, scope));
    if (commandType !== 'CMD_INSERT') continue;
    const listed = targetList.flatMap((target) =>
      'ResTarget' in target && target.ResTarget.name ? [target.ResTarget.name] : [],
    );
    if (listed.length === 0 && !known)
      trace.problems.add(`the columns of ${target.schema}.${target.relation} are not known`);
    for (const [index, value] of values.entries())
      columns.push({
        name: (listed.length > 0 ? listed[index] : known?.columns[index]) ?? `column${index + 1}`,
        provenance: through(readExpression(trace, value, scope), value),
      });
  }
  return toLineage(trace, { columns, rows: combineInfluences(rows) }, 'merge', target, []);
}

/**
 * What a table gets without anybody writing to it: generated columns from columns beside them, and a parent (of partitions, or by inheritance) from its
 * children. The table is known already.
 */
export function readTableOf(trace: Trace, create: CreateStmt): Made | undefined {
  const { catalog } = trace;
  const target = {
    schema: create.relation?.schemaname ?? catalog.defaultSchema,
    relation: create.relation?.relname ?? '',
  };
  const [parent] = (create.inhRelations ?? []).flatMap((node) =>
    'RangeVar' in node ? [targetOf(catalog, node.RangeVar)] : [],
  );
  if (parent) return fromChild(trace, target, parent);
  const known = catalog.relation(target.schema, target.relation);
  const scope = new Scope();
  const own = known ? relationColumns(known) : [];
  scope.namespace = { items: [{ alias: target.relation, columns: own }], columns: own };
  const columns = (create.tableElts ?? []).flatMap((element): Out[] => {
    if (!('ColumnDef' in element)) return [];
    const generated = (element.ColumnDef.constraints ?? []).flatMap((node) =>
      'Constraint' in node && node.Constraint.contype === 'CONSTR_GENERATED' && node.Constraint.raw_expr
        ? [node.Constraint.raw_expr]
        : [],
    );
    return generated.map((expression) => ({
      name: element.ColumnDef.colname ?? '',
      provenance: through(readExpression(trace, expression, scope), expression),
    }));
  });
  return columns.length > 0 ? toLineage(trace, { columns, rows: new Map() }, 'generated', target, []) : undefined;
}

type RelationOf = Pick<ColumnName, 'schema' | 'relation'>;

/** Whoever reads a parent reads its children. */
function fromChild(trace: Trace, child: RelationOf, parent: RelationOf): Made | undefined {
  const columns = (trace.catalog.relation(parent.schema, parent.relation)?.columns ?? []).map((name) => ({
    name,
    provenance: relationColumn(child.schema, child.relation, name).provenance,
  }));
  return columns.length > 0 ? toLineage(trace, { columns, rows: new Map() }, 'child', parent, []) : undefined;
}

/** ALTER TABLE … ATTACH PARTITION and … INHERIT make a child of a table. */
export function readAttached(trace: Trace, { relation, cmds = [] }: AlterTableStmt): Made | undefined {
  for (const node of cmds) {
    if (!('AlterTableCmd' in node)) continue;
    const { subtype, def } = node.AlterTableCmd;
    const own = targetOf(trace.catalog, relation);
    if (subtype === 'AT_AttachPartition' && def && 'PartitionCmd' in def && def.PartitionCmd.name)
      return fromChild(trace, targetOf(trace.catalog, def.PartitionCmd.name), own);
    if (subtype === 'AT_AddInherit' && def && 'RangeVar' in def)
      return fromChild(trace, own, targetOf(trace.catalog, def.RangeVar));
  }
  return undefined;
}
