import type { ColumnRef, Node } from '@pgsql/types';
import { textOf, textsOf } from './nodes.ts';
import { asInfluence, combine, combineInfluences, nothing } from './provenance.ts';
import type { RelationName } from './schema.ts';
import { columnOf, type Field, type Scope, type ScopeColumn, type ScopeItem } from './scope.ts';
import type { Trace } from './trace.ts';
import type { Influences, Provenance, ValueKind } from './types.ts';

type Read = (node: Node | undefined) => Provenance;

/** Calls that give back one of the rows they were given, or a list of them, and what that does to a value. */
const PASSING: ReadonlyMap<string, ValueKind> = new Map([
  ['array_agg', 'aggregated'],
  ['any_value', 'aggregated'],
  ['unnest', 'copied'],
  ['first_value', 'transformed'],
  ['last_value', 'transformed'],
  ['nth_value', 'transformed'],
  ['lag', 'transformed'],
  ['lead', 'transformed'],
  ['array_reverse', 'transformed'],
  ['array_shuffle', 'transformed'],
  ['array_sample', 'transformed'],
  ['trim_array', 'transformed'],
]);

/** The column that a reference names, as its scope sees it. */
function columnNamed(ref: ColumnRef, scope: Scope): ScopeColumn | undefined {
  const names = textsOf(ref.fields);
  if (names.length < 2) return scope.column(names[0] ?? '');
  const item = scope.item(names.at(-2) ?? '', names.at(-3));
  return item && columnOf(item, names.at(-1) ?? '');
}

/** The thing in FROM whose whole row a reference names (`t`, `t.*`). */
export function rowNamed(ref: ColumnRef, scope: Scope): ScopeItem | undefined {
  const names = textsOf(ref.fields);
  const [first = ''] = names;
  const star = (ref.fields ?? []).some((field) => 'A_Star' in field);
  if (star) return scope.item(names.at(-1) ?? '', names.at(-2));
  return names.length === 1 && !scope.column(first) ? scope.item(first) : undefined;
}

/** The relation whose row type an expression has, as far as it can be told without types: columns, calls, elements of arrays. */
export function rowTypeOf(trace: Trace, node: Node | undefined, scope: Scope): RelationName | undefined {
  if (!node) return undefined;
  if ('ColumnRef' in node) return columnNamed(node.ColumnRef, scope)?.row;
  if ('A_Indirection' in node) return rowTypeOf(trace, node.A_Indirection.arg, scope);
  if (!('FuncCall' in node)) return undefined;
  const names = textsOf(node.FuncCall.funcname);
  if (PASSING.has(names.at(-1) ?? '')) return rowTypeOf(trace, node.FuncCall.args?.[0], scope);
  return trace.catalog.functions(names.length > 1 ? names[0] : undefined, names.at(-1) ?? '').find((fn) => fn.returns)
    ?.returns;
}

/** Fields after something was done to the row: with what that made of their values, and what decided which row it is. */
const changed = (
  fields: readonly Field[] | undefined,
  kind: ValueKind,
  decided: Influences = nothing.influences,
): readonly Field[] | undefined =>
  fields?.map((field) => ({
    ...field,
    provenance: combine([combine([field.provenance], kind), { ...nothing, influences: decided }]),
  }));

/**
 * What a row that a statement makes itself consists of: of a table named as a whole, of `row(…)`, also through lists of rows (`array_agg(t)` and `unnest` of it).
 *
 * @param read what an expression is made of
 * @returns the fields in their order, each with where its value comes from; undefined where the expression is no such row
 */
export function fieldsOf(trace: Trace, node: Node | undefined, scope: Scope, read: Read): readonly Field[] | undefined {
  if (!node) return undefined;
  const inner = (child: Node | undefined) => fieldsOf(trace, child, scope, read);
  if ('ColumnRef' in node) {
    const item = rowNamed(node.ColumnRef, scope);
    // A relation whose columns are not known has more of them than were told.
    if (item) return item.other ? undefined : item.columns;
    return columnNamed(node.ColumnRef, scope)?.fields;
  }
  if ('RowExpr' in node) return rowFields(node.RowExpr.args ?? [], scope, read);
  if ('SubLink' in node) {
    const { subLinkType, subselect } = node.SubLink;
    if (!subselect || (subLinkType !== 'EXPR_SUBLINK' && subLinkType !== 'ARRAY_SUBLINK')) return undefined;
    const { columns, rows } = trace.subquery(subselect, scope);
    return changed(columns[0]?.fields, subLinkType === 'ARRAY_SUBLINK' ? 'aggregated' : 'copied', rows);
  }
  if ('A_Indirection' in node) {
    const steps = node.A_Indirection.indirection ?? [];
    const fields = steps.every((step) => 'A_Indices' in step) ? inner(node.A_Indirection.arg) : undefined;
    // Which of the rows it is, its number decides.
    return (
      fields &&
      changed(fields, 'transformed', combineInfluences(steps.map((step) => asInfluence(read(step), 'filter'))))
    );
  }
  if ('A_ArrayExpr' in node) return together((node.A_ArrayExpr.elements ?? []).map(inner));
  if ('CoalesceExpr' in node) return changed(together((node.CoalesceExpr.args ?? []).map(inner)), 'transformed');
  if (!('FuncCall' in node)) return undefined;
  const kind = PASSING.get(textsOf(node.FuncCall.funcname).at(-1) ?? '');
  // A third argument of lag and lead is another row.
  const fields = kind && (node.FuncCall.args?.length ?? 0) < 3 ? inner(node.FuncCall.args?.[0]) : undefined;
  return fields && kind && changed(fields, kind, read(node).influences);
}

/** `row(a, t.*, b)`: fields named f1, f2, … as PostgreSQL names them; a star in it stands for the columns of its relation. */
function rowFields(args: readonly Node[], scope: Scope, read: Read): readonly Field[] | undefined {
  const parts: Provenance[] = [];
  for (const arg of args) {
    const star =
      'ColumnRef' in arg && (arg.ColumnRef.fields ?? []).some((field) => 'A_Star' in field)
        ? rowNamed(arg.ColumnRef, scope)
        : undefined;
    if (star?.other) return undefined;
    if (star) parts.push(...star.columns.map((column) => column.provenance));
    else parts.push(read(arg));
  }
  return parts.map((provenance, index) => ({ name: `f${index + 1}`, provenance }));
}

/** Several rows of one type, any of which may be meant: they must have the same fields. */
export function together(rows: readonly (readonly Field[] | undefined)[]): readonly Field[] | undefined {
  const [first, ...others] = rows;
  if (!first || others.some((other) => other?.length !== first.length)) return undefined;
  return first.map((field, index) => ({
    name: field.name,
    provenance: combine([field.provenance, ...others.map((other) => other?.[index]?.provenance ?? field.provenance)]),
  }));
}

/** The field that the first step of `(row).field…` names, where the row's fields are known. */
export function fieldNamed(fields: readonly Field[] | undefined, step: Node | undefined): Field | undefined {
  const name = textOf(step);
  return name === undefined ? undefined : fields?.find((field) => field.name === name);
}
