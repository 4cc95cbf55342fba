import type { CommonTableExpr, Node, SelectStmt, WindowDef, WithClause } from '@pgsql/types';
import { readAsInfluence, readExpression, type Windows } from './expression.ts';
import { readFrom, rowOf } from './from.ts';
import { textOf, textsOf } from './nodes.ts';
import { asInfluence, combine, combineInfluences, nothing, sameProvenance, through } from './provenance.ts';
import { fieldsOf, rowTypeOf, together } from './rows.ts';
import { type Derived, Scope, type ScopeItem } from './scope.ts';
import { mention, type Trace } from './trace.ts';
import type { InfluenceKind, Influences, Provenance } from './types.ts';

type Out = Derived['columns'][number];
const emptyDerived: Derived = { columns: [], rows: nothing.influences };

/** Analyses a query in the scope around it. A writing statement of WITH gives what it returns. */
export function readQuery(trace: Trace, node: Node, around: Scope): Derived {
  if ('SelectStmt' in node) return readSelect(trace, node.SelectStmt, around);
  const returned = trace.write(node, around);
  if (!returned) trace.problems.add('something stands where a query is read that is none');
  return returned ?? emptyDerived;
}

function readSelect(trace: Trace, select: SelectStmt, around: Scope): Derived {
  const scope = new Scope(around);
  addCtes(trace, select.withClause, scope);
  if (select.op && select.op !== 'SETOP_NONE') return readSetOperation(trace, select, scope);
  if (select.valuesLists) return readValues(trace, select.valuesLists, scope);

  const rows: Influences[] = [readFrom(trace, select.fromClause ?? [], scope)];
  const windows = windowsOf(select.windowClause);
  const columns = readTargets(trace, select.targetList ?? [], scope, windows);
  const decide = (kind: InfluenceKind, nodes: readonly (Node | undefined)[]) =>
    rows.push(readAsInfluence(trace, nodes, scope, kind, windows));
  decide('filter', [select.whereClause, select.havingClause, select.limitCount, select.limitOffset]);
  for (const node of select.groupClause ?? []) rows.push(readGrouping(trace, node, columns, scope, windows));
  // A plain DISTINCT is a grouping by every output column; DISTINCT ON by the expressions it names.
  const distinct = select.distinctClause ?? [];
  if (distinct.some((node) => Object.keys(node).length > 0)) {
    for (const node of distinct)
      rows.push(asInfluence(outputOr(trace, node, columns, scope, windows, 'output first'), 'group'));
  } else if (distinct.length > 0) {
    for (const column of columns) rows.push(asInfluence(column.provenance, 'group'));
  }
  for (const node of select.sortClause ?? []) {
    const inner = 'SortBy' in node ? node.SortBy.node : node;
    rows.push(asInfluence(outputOr(trace, inner, columns, scope, windows, 'output first'), 'sort'));
  }
  for (const window of windows.values()) {
    rows.push(
      readAsInfluence(
        trace,
        [...(window.partitionClause ?? []), ...(window.orderClause ?? [])],
        scope,
        'window',
        windows,
      ),
    );
  }
  return { columns, rows: combineInfluences(rows) };
}

const windowsOf = (nodes: readonly Node[] | undefined): Windows =>
  new Map(
    (nodes ?? []).flatMap((node): [string, WindowDef][] =>
      'WindowDef' in node && node.WindowDef.name ? [[node.WindowDef.name, node.WindowDef]] : [],
    ),
  );

export function readTargets(trace: Trace, targets: readonly Node[], scope: Scope, windows: Windows): Out[] {
  const columns: Out[] = [];
  for (const node of targets) {
    const target = 'ResTarget' in node ? node.ResTarget : undefined;
    const star = target?.val && starOf(target.val, scope);
    const fields = target?.val && !star ? starredFields(trace, target.val, scope, windows) : undefined;
    const wide = target?.val && !star && !fields ? widened(trace, target.val, scope) : undefined;
    if (star) columns.push(...expandStar(trace, star.qualifier, scope));
    else if (fields) columns.push(...fields);
    else if (wide) {
      const provenance = through(
        combine([readExpression(trace, wide.arg, scope, windows)], 'transformed'),
        target?.val,
      );
      columns.push(...wide.names.map((name) => ({ name, provenance })));
    } else {
      const provenance = through(readExpression(trace, target?.val, scope, windows), target?.val);
      columns.push({
        name: target?.name ?? outputName(target?.val),
        provenance,
        ...rowOf({
          row: rowTypeOf(trace, target?.val, scope),
          fields: fieldsOf(trace, target?.val, scope, (inner) => readExpression(trace, inner, scope, windows)),
        }),
      });
    }
  }
  return columns;
}

/** `*`, `t.*` and `(t).*` as a whole target; undefined for any other expression. */
function starOf(node: Node, scope: Scope): { qualifier: string[] } | undefined {
  if ('ColumnRef' in node && (node.ColumnRef.fields ?? []).some((field) => 'A_Star' in field))
    return { qualifier: textsOf(node.ColumnRef.fields) };
  if ('A_Indirection' in node && (node.A_Indirection.indirection ?? []).some((step) => 'A_Star' in step)) {
    const { arg } = node.A_Indirection;
    if (
      arg &&
      'ColumnRef' in arg &&
      scope.item(textsOf(arg.ColumnRef.fields).at(-1) ?? '', textsOf(arg.ColumnRef.fields).at(-2))
    )
      return { qualifier: textsOf(arg.ColumnRef.fields) };
  }
  return undefined;
}

/** `(row).*` of a row that the statement made itself: a column for each of its fields. */
function starredFields(trace: Trace, node: Node, scope: Scope, windows: Windows): readonly Out[] | undefined {
  const steps = 'A_Indirection' in node ? (node.A_Indirection.indirection ?? []) : [];
  const last = steps.at(-1);
  if (!('A_Indirection' in node) || !last || !('A_Star' in last)) return undefined;
  const { arg } = node.A_Indirection;
  const row = steps.length > 1 ? { A_Indirection: { arg, indirection: steps.slice(0, -1) } } : arg;
  return fieldsOf(trace, row as Node | undefined, scope, (inner) => readExpression(trace, inner, scope, windows));
}

/** `(f(x)).*` and `(t.c).*`: the columns that a call or a column of a row type gives; undefined for any other expression. */
function widened(
  trace: Trace,
  node: Node,
  scope: Scope,
): { arg: Node | undefined; names: readonly string[] } | undefined {
  if (!('A_Indirection' in node) || !(node.A_Indirection.indirection ?? []).some((step) => 'A_Star' in step))
    return undefined;
  const { arg } = node.A_Indirection;
  const row = rowTypeOf(trace, arg, scope);
  const relation = row && trace.catalog.relation(row.schema, row.relation);
  if (relation) return { arg, names: relation.columns };
  const called = arg && 'FuncCall' in arg ? textsOf(arg.FuncCall.funcname) : [];
  const known = trace.catalog
    .functions(called.length > 1 ? called[0] : undefined, called.at(-1) ?? '')
    .find((fn) => fn.columns)?.columns;
  if (!known)
    trace.problems.add(
      `the columns of (${called.join('.') || 'a row'}${called.length > 0 ? '(…)' : ''}).* are not known, so it cannot be expanded: give its definition`,
    );
  return { arg, names: known ?? [] };
}

function expandStar(trace: Trace, qualifier: string[], scope: Scope): Out[] {
  const item = qualifier.length > 0 ? scope.item(qualifier.at(-1) ?? '', qualifier.at(-2)) : undefined;
  if (qualifier.length > 0 && !item) trace.problems.add(`${qualifier.join('.')}.* names nothing in FROM`);
  const seen: readonly ScopeItem[] = item ? [item] : qualifier.length > 0 ? [] : scope.namespace.items;
  for (const open of seen) {
    if (open.other && open.relation)
      trace.problems.add(
        `the columns of ${open.relation.schema}.${open.relation.name} are not known, so * cannot be expanded: give its definition`,
      );
  }
  const columns = item ? item.columns : qualifier.length > 0 ? [] : scope.namespace.columns;
  return columns.map((column) => ({ name: column.name, provenance: mention(trace, column), ...rowOf(column) }));
}

/** The name PostgreSQL gives to an output column without an alias. */
function outputName(node: Node | undefined): string {
  if (!node) return '?column?';
  if ('ColumnRef' in node) return textsOf(node.ColumnRef.fields).at(-1) ?? '?column?';
  if ('FuncCall' in node) return textsOf(node.FuncCall.funcname).at(-1) ?? '?column?';
  if ('TypeCast' in node) {
    const inner = outputName(node.TypeCast.arg);
    return inner === '?column?' ? (textsOf(node.TypeCast.typeName?.names).at(-1) ?? inner) : inner;
  }
  if ('CollateClause' in node) return outputName(node.CollateClause.arg);
  if ('A_Indirection' in node) {
    const field = [...(node.A_Indirection.indirection ?? [])]
      .reverse()
      .map(textOf)
      .find((name) => name !== undefined);
    return field ?? outputName(node.A_Indirection.arg);
  }
  if ('CaseExpr' in node) {
    const inner = outputName(node.CaseExpr.defresult);
    return inner === '?column?' ? 'case' : inner;
  }
  if ('CoalesceExpr' in node) return 'coalesce';
  if ('MinMaxExpr' in node) return node.MinMaxExpr.op === 'IS_LEAST' ? 'least' : 'greatest';
  if ('A_ArrayExpr' in node) return 'array';
  if ('RowExpr' in node) return 'row';
  if ('SubLink' in node) {
    if (node.SubLink.subLinkType === 'EXISTS_SUBLINK') return 'exists';
    if (node.SubLink.subLinkType === 'ARRAY_SUBLINK') return 'array';
    const select =
      node.SubLink.subselect && 'SelectStmt' in node.SubLink.subselect ? node.SubLink.subselect.SelectStmt : undefined;
    const target = select?.targetList?.[0];
    return target && 'ResTarget' in target ? (target.ResTarget.name ?? outputName(target.ResTarget.val)) : '?column?';
  }
  if ('SQLValueFunction' in node)
    return (node.SQLValueFunction.op ?? '')
      .replace(/^SVFOP_/, '')
      .replace(/_N$/, '')
      .toLowerCase();
  return '?column?';
}

function readGrouping(trace: Trace, node: Node, columns: readonly Out[], scope: Scope, windows: Windows): Influences {
  if ('GroupingSet' in node)
    return combineInfluences(
      (node.GroupingSet.content ?? []).map((inner) => readGrouping(trace, inner, columns, scope, windows)),
    );
  if ('RowExpr' in node)
    return combineInfluences(
      (node.RowExpr.args ?? []).map((inner) => readGrouping(trace, inner, columns, scope, windows)),
    );
  return asInfluence(outputOr(trace, node, columns, scope, windows, 'input first'), 'group');
}

/** An item of ORDER BY, GROUP BY or DISTINCT ON: a position, the name of an output column, or an expression. */
function outputOr(
  trace: Trace,
  node: Node | undefined,
  columns: readonly Out[],
  scope: Scope,
  windows: Windows,
  order: 'output first' | 'input first',
): Provenance {
  if (node && 'A_Const' in node && node.A_Const.ival)
    return columns[(node.A_Const.ival.ival ?? 0) - 1]?.provenance ?? nothing;
  const name =
    node && 'ColumnRef' in node && node.ColumnRef.fields?.length === 1 ? textOf(node.ColumnRef.fields[0]) : undefined;
  const output = name === undefined ? undefined : columns.find((column) => column.name === name);
  if (output && (order === 'output first' || !scope.namespace.columns.some((column) => column.name === name)))
    return output.provenance;
  return readExpression(trace, node, scope, windows);
}

function readSetOperation(trace: Trace, select: SelectStmt, scope: Scope): Derived {
  const left = select.larg ? readSelect(trace, select.larg, scope) : emptyDerived;
  const right = select.rarg ? readSelect(trace, select.rarg, scope) : emptyDerived;
  const rows: Influences[] = [left.rows, right.rows];
  const union = select.op === 'SETOP_UNION';
  // Rows of the left side stay, or go, by what both sides hold; without ALL equal rows become one, as with DISTINCT.
  if (!union)
    for (const column of [...left.columns, ...right.columns]) rows.push(asInfluence(column.provenance, 'filter'));
  else if (!select.all)
    for (const column of [...left.columns, ...right.columns]) rows.push(asInfluence(column.provenance, 'group'));
  const columns = left.columns.map((column, index): Out => {
    const other = right.columns[index];
    if (!union || !other) return column;
    return {
      name: column.name,
      provenance: combine([column.provenance, other.provenance]),
      ...rowOf({ row: column.row, fields: together([column.fields, other.fields]) }),
    };
  });
  for (const node of select.sortClause ?? []) {
    rows.push(
      asInfluence(
        outputOr(trace, 'SortBy' in node ? node.SortBy.node : node, columns, scope, new Map(), 'output first'),
        'sort',
      ),
    );
  }
  rows.push(readAsInfluence(trace, [select.limitCount, select.limitOffset], scope, 'filter'));
  return { columns, rows: combineInfluences(rows) };
}

function readValues(trace: Trace, lists: readonly Node[], scope: Scope): Derived {
  const read = lists.map((list) =>
    ('List' in list ? (list.List.items ?? []) : []).map((node) => through(readExpression(trace, node, scope), node)),
  );
  const width = Math.max(0, ...read.map((row) => row.length));
  const columns = Array.from({ length: width }, (_, index) => ({
    name: `column${index + 1}`,
    provenance: combine(read.map((row) => row[index] ?? nothing)),
  }));
  return { columns, rows: nothing.influences };
}

/** Makes the names of WITH known. Each is analysed once; one that nobody names is still read, for what it mentions. */
export function addCtes(trace: Trace, clause: WithClause | undefined, scope: Scope): void {
  const entries: (() => Derived)[] = [];
  for (const node of clause?.ctes ?? []) {
    if (!('CommonTableExpr' in node)) continue;
    const cte = node.CommonTableExpr;
    // A later name hides an earlier one of an outer query, and itself only when RECURSIVE: so each is read in the scope before it.
    const around = clause?.recursive ? scope : frozen(scope);
    let derived: Derived | undefined;
    let reading = false;
    const read = (): Derived => {
      if (derived) return derived;
      if (reading) return emptyDerived;
      reading = true;
      derived = clause?.recursive
        ? readRecursive(trace, cte, around)
        : renamed(cte.ctequery ? trace.query(cte.ctequery, around) : emptyDerived, cte);
      return derived;
    };
    scope.addCte({ name: cte.ctename ?? '', read });
    entries.push(read);
  }
  for (const read of entries) read();
}

function frozen(scope: Scope): Scope {
  const copy = new Scope(scope.parent);
  for (const entry of scope.ownCtes()) copy.addCte(entry);
  return copy;
}

function renamed(derived: Derived, cte: CommonTableExpr): Derived {
  const names = textsOf(cte.aliascolnames);
  const columns = derived.columns.map((column, index) => ({ ...column, name: names[index] ?? column.name }));
  /** A column that PostgreSQL makes of others: the order of a search, the way of a cycle. */
  const madeOf = (name: string | undefined, of: readonly Node[] | undefined): Out[] => {
    const named = textsOf(of);
    return name
      ? [
          {
            name,
            provenance: combine(
              columns.filter((column) => named.includes(column.name)).map((column) => column.provenance),
              'transformed',
            ),
          },
        ]
      : [];
  };
  const { search_clause: search, cycle_clause: cycle } = cte;
  const extra = [
    ...madeOf(search?.search_seq_column, search?.search_col_list),
    ...madeOf(cycle?.cycle_mark_column, cycle?.cycle_col_list),
    ...madeOf(cycle?.cycle_path_column, cycle?.cycle_col_list),
  ];
  return { ...derived, columns: [...columns, ...extra] };
}

/** A recursive query reads itself: its arms are read again until what they read no longer grows. */
function readRecursive(trace: Trace, cte: CommonTableExpr, around: Scope): Derived {
  if (!cte.ctequery) return emptyDerived;
  const select = 'SelectStmt' in cte.ctequery ? cte.ctequery.SelectStmt : undefined;
  if (!select?.larg || !select.rarg) return renamed(trace.query(cte.ctequery, around), cte);
  const inner = new Scope(around);
  addCtes(trace, select.withClause, inner);
  let known = renamed(readSelect(trace, select.larg, inner), cte);
  for (let round = 0; round < 20; round += 1) {
    const self = new Scope(inner);
    const current = known;
    self.addCte({ name: cte.ctename ?? '', read: () => current });
    const next = renamed(readSetOperation(trace, select, self), cte);
    const settled = next.columns.every((column, index) =>
      sameProvenance(column.provenance, current.columns[index]?.provenance ?? nothing),
    );
    const rowsSettled = sameProvenance({ ...nothing, influences: next.rows }, { ...nothing, influences: current.rows });
    known = next;
    if (settled && rowsSettled) break;
  }
  return known;
}
