import type { ColumnRef, FuncCall, Node, SubLink, WindowDef } from '@pgsql/types';
import { isBuiltInAggregate, isChoice, isMasking, isMaskText, keepsAPart } from './functions.ts';
import { bodyOf, childNodes, textOf, textsOf } from './nodes.ts';
import { asInfluence, chosen, combine, combineInfluences, nothing } from './provenance.ts';
import { fieldNamed, fieldsOf, rowNamed, rowTypeOf } from './rows.ts';
import { columnOf, relationColumn, type Scope } from './scope.ts';
import { mention, type Trace, wholeRow } from './trace.ts';
import type { InfluenceKind, Influences, Provenance } from './types.ts';

/** Window definitions of the query at hand, by name (`WINDOW w AS (…)`). */
export type Windows = ReadonlyMap<string, WindowDef>;
const noWindows: Windows = new Map();

/**
 * The provenance of an expression.
 *
 * @param node any expression of PostgreSQL's parse tree
 * @returns the base columns its value is made of, each with what happens to it, and the columns that decided rows inside it
 */
export function readExpression(
  trace: Trace,
  node: Node | undefined,
  scope: Scope,
  windows: Windows = noWindows,
): Provenance {
  if (!node) return nothing;
  const read = (child: Node | undefined) => readExpression(trace, child, scope, windows);
  if ('ColumnRef' in node) return readColumnRef(trace, node.ColumnRef, scope);
  if ('CollateClause' in node) return read(node.CollateClause.arg);
  if ('A_Const' in node || 'ParamRef' in node || 'SetToDefault' in node) return nothing;
  if ('FuncCall' in node) return readCall(trace, node.FuncCall, scope, windows);
  if ('SubLink' in node) return readSubLink(trace, node.SubLink, scope, read);
  if ('A_Indirection' in node) return readIndirection(trace, node, scope, read);
  if ('SelectStmt' in node) {
    const derived = trace.query(node, scope);
    return combine([...derived.columns.map((column) => column.provenance), { ...nothing, influences: derived.rows }]);
  }
  if ('CaseExpr' in node) {
    const { arg, args = [], defresult } = node.CaseExpr;
    const whens = args.flatMap((when) => ('CaseWhen' in when ? [when.CaseWhen] : []));
    return chosen(
      [arg, ...whens.map((when) => when.expr)].map(read),
      [...whens.map((when) => when.result), defresult].map(read),
    );
  }
  const parts = childNodes(bodyOf(node)).map(read);
  if ('A_Expr' in node && isMaskedConcatenation(node)) return combine(parts, 'masked');
  return combine(
    parts,
    'List' in node || 'ResTarget' in node || 'Wrapped' in node || 'CollateClause' in node ? 'copied' : 'transformed',
  );
}

/** Reads several expressions only for the rows they decide. */
export function readAsInfluence(
  trace: Trace,
  nodes: readonly (Node | undefined)[],
  scope: Scope,
  kind: InfluenceKind,
  windows: Windows = noWindows,
): Influences {
  return combineInfluences(nodes.map((node) => asInfluence(readExpression(trace, node, scope, windows), kind)));
}

function readColumnRef(trace: Trace, ref: ColumnRef, scope: Scope): Provenance {
  const fields = ref.fields ?? [];
  const names = textsOf(fields);
  if (fields.some((field) => 'A_Star' in field)) {
    const item = scope.item(names.at(-1) ?? '', names.at(-2));
    return item ? wholeRow(trace, item) : nothing;
  }
  const [first = '', second, third] = names;
  if (second === undefined) {
    const column = scope.column(first);
    if (column) return mention(trace, column);
    const item = scope.item(first);
    if (item) return wholeRow(trace, item);
    trace.problems.add(`the column ${first} is in none of the relations named`);
    return nothing;
  }
  const qualified = third === undefined ? scope.item(first) : scope.item(second, first);
  if (qualified) {
    const column = columnOf(qualified, third ?? second);
    if (column) return mention(trace, column);
    trace.problems.add(`${names.join('.')} is not a column of ${qualified.alias}`);
    return nothing;
  }
  // `column.field` without brackets is not SQL, so an unknown qualifier is a mistake of the statement or of the schema given.
  trace.problems.add(`${names.slice(0, -1).join('.')} is not named in FROM`);
  return nothing;
}

/** `(t).column` names a column; `(value).field` and `value[1]` take a part of a value. */
function readIndirection(
  trace: Trace,
  node: Extract<Node, { A_Indirection: unknown }>,
  scope: Scope,
  read: (node: Node | undefined) => Provenance,
): Provenance {
  const { arg, indirection = [] } = node.A_Indirection;
  // `(list)[n].field` is a field of an element.
  const indices = indirection.findIndex((step) => !('A_Indices' in step));
  if (indices > 0) {
    const element: Node = { A_Indirection: { ...(arg ? { arg } : {}), indirection: indirection.slice(0, indices) } };
    return readIndirection(
      trace,
      { A_Indirection: { arg: element, indirection: indirection.slice(indices) } },
      scope,
      read,
    );
  }
  const field = textOf(indirection[0]);
  if (field !== undefined && arg && 'ColumnRef' in arg) {
    const item = rowNamed(arg.ColumnRef, scope);
    const column = item && columnOf(item, field);
    if (column) return combine([mention(trace, column)], indirection.length > 1 ? 'transformed' : 'copied');
  }
  const fields = field === undefined ? undefined : fieldsOf(trace, arg, scope, read);
  if (fields) {
    const made = fieldNamed(fields, indirection[0]);
    if (made)
      return combine(
        [
          made.provenance,
          ...indirection
            .slice(1)
            .filter((step) => 'A_Indices' in step)
            .map(read),
        ],
        indirection.length > 1 ? 'transformed' : 'copied',
      );
    trace.problems.add(`${field} is no field of the row that it is taken from`);
    return nothing;
  }
  // The field of a row belongs to the row's type: it is named here, though its value comes from where the row comes from.
  const type = field === undefined ? undefined : rowTypeOf(trace, arg, scope);
  if (type && field !== undefined) mention(trace, relationColumn(type.schema, type.relation, field));
  const subscripts = indirection.filter((step) => 'A_Indices' in step);
  return combine([read(arg), ...subscripts.map(read)], 'transformed');
}

function readCall(trace: Trace, call: FuncCall, scope: Scope, windows: Windows): Provenance {
  const names = textsOf(call.funcname);
  const name = names.at(-1) ?? '';
  const known = trace.catalog.functions(names.length > 1 ? names[0] : undefined, name);
  const aggregate =
    isBuiltInAggregate(name, trace.catalog.dialect) ||
    call.agg_star === true ||
    call.agg_within_group === true ||
    known.some((fn) => fn.aggregate);
  const kind =
    isMasking(name) || isMaskingReplacement(name, call) ? 'masked' : aggregate ? 'aggregated' : 'transformed';
  const inner = (call.args ?? []).map((arg) => readExpression(trace, arg, scope, windows));
  const [test, ...ways] = inner;
  if (test && isChoice(name, trace.catalog.dialect)) return chosen([test], ways);
  // The order inside an ordered-set aggregate (percentile … within group) is its argument; elsewhere it only sorts.
  const ordered = call.agg_within_group
    ? (call.agg_order ?? []).map((node) => readExpression(trace, node, scope, windows))
    : [];
  const decided = [
    call.agg_within_group ? nothing.influences : readAsInfluence(trace, call.agg_order ?? [], scope, 'sort', windows),
    readAsInfluence(trace, [call.agg_filter], scope, 'filter', windows),
    call.over ? readWindow(trace, call.over, scope, windows) : nothing.influences,
  ];
  return combine([combine([...inner, ...ordered], kind), { ...nothing, influences: combineInfluences(decided) }]);
}

function readWindow(trace: Trace, window: WindowDef, scope: Scope, windows: Windows): Influences {
  const base = windows.get(window.name ?? window.refname ?? '');
  const own = readAsInfluence(
    trace,
    [...(window.partitionClause ?? []), ...(window.orderClause ?? []), window.startOffset, window.endOffset],
    scope,
    'window',
    windows,
  );
  return base && base !== window ? combineInfluences([own, readWindow(trace, base, scope, windows)]) : own;
}

function readSubLink(
  trace: Trace,
  link: SubLink,
  scope: Scope,
  read: (node: Node | undefined) => Provenance,
): Provenance {
  if (!link.subselect) return nothing;
  const derived = trace.subquery(link.subselect, scope);
  const rows: Provenance = { ...nothing, influences: derived.rows };
  const columns = derived.columns.map((column) => column.provenance);
  switch (link.subLinkType) {
    case 'EXISTS_SUBLINK':
      return rows; // only whether a row is there counts; what it holds is not read
    case 'EXPR_SUBLINK':
      return combine([...columns, rows]);
    case 'ARRAY_SUBLINK':
      return combine([combine(columns, 'aggregated'), rows]);
    default:
      return combine([combine([read(link.testexpr), ...columns], 'transformed'), rows]);
  }
}

const constantText = (node: Node | undefined): string | undefined => {
  if (node && 'TypeCast' in node) return constantText(node.TypeCast.arg);
  return node && 'A_Const' in node ? node.A_Const.sval?.sval : undefined;
};

/** `regexp_replace(x, '…', '***')`, `overlay(x placing '****' …)`, `translate(x, '0123456789', '##########')`. */
function isMaskingReplacement(name: string, call: FuncCall): boolean {
  const masks = (position: number) => isMaskText(constantText(call.args?.[position]) ?? '');
  return (
    (name === 'regexp_replace' && masks(2)) || (name === 'overlay' && masks(1)) || (name === 'translate' && masks(2))
  );
}

/** `left(email, 1) || '***'`: a part of the value joined with mask characters. */
function isMaskedConcatenation(node: Extract<Node, { A_Expr: unknown }>): boolean {
  if (textOf(node.A_Expr.name?.[0]) !== '||') return false;
  const flat = (side: Node | undefined): Node[] => {
    if (!side) return [];
    if ('TypeCast' in side)
      return side.TypeCast.arg && 'A_Const' in side.TypeCast.arg ? [side] : flat(side.TypeCast.arg);
    return 'A_Expr' in side && textOf(side.A_Expr.name?.[0]) === '||'
      ? [...flat(side.A_Expr.lexpr), ...flat(side.A_Expr.rexpr)]
      : [side];
  };
  const parts = flat({ A_Expr: node.A_Expr });
  const parted = parts.every((part) => {
    if (constantText(part) !== undefined) return true;
    const callee = 'FuncCall' in part ? (textsOf(part.FuncCall.funcname).at(-1) ?? '') : '';
    return keepsAPart(callee) || isMasking(callee);
  });
  return parted && parts.some((part) => isMaskText(constantText(part) ?? ''));
}
