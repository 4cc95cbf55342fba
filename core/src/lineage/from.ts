import type { Alias, JoinExpr, Node, RangeFunction, RangeVar } from '@pgsql/types';
import { readAsInfluence, readExpression } from './expression.ts';
import { bodyOf, childNodes, textsOf } from './nodes.ts';
import { asInfluence, combine, combineInfluences, nothing } from './provenance.ts';
import { fieldsOf, rowTypeOf } from './rows.ts';
import type { RelationName } from './schema.ts';
import {
  type Derived,
  type Field,
  type Namespace,
  relationColumn,
  relationColumns,
  Scope,
  type ScopeColumn,
  type ScopeItem,
} from './scope.ts';
import { mention, type Trace } from './trace.ts';
import { columnId, type Influences, type Provenance } from './types.ts';

/** What one FROM clause or one part of it brings, and which columns decided its rows. */
export interface FromPart extends Namespace {
  readonly rows: Influences;
}

const single = (item: ScopeItem, rows: Influences = nothing.influences): FromPart => ({
  items: [item],
  columns: item.columns,
  rows,
});

/** Reads the items of FROM in order; a LATERAL item and a function see those before it. */
export function readFrom(trace: Trace, nodes: readonly Node[], scope: Scope): Influences {
  const rows: Influences[] = [];
  for (const node of nodes) {
    const part = readFromNode(trace, node, scope);
    rows.push(part.rows);
    const before = scope.namespace;
    scope.namespace = { items: [...before.items, ...part.items], columns: [...before.columns, ...part.columns] };
  }
  return combineInfluences(rows);
}

function readFromNode(trace: Trace, node: Node, scope: Scope): FromPart {
  if ('RangeVar' in node) return readRelation(trace, node.RangeVar, scope);
  if ('JoinExpr' in node) return readJoin(trace, node.JoinExpr, scope);
  if ('RangeSubselect' in node) {
    const { subquery, alias, lateral } = node.RangeSubselect;
    // Without LATERAL it sees the queries around and the names of WITH, but not its neighbours in FROM.
    const around = lateral ? scope : new Scope(scope.parent, scope);
    const derived: Derived = subquery ? trace.query(subquery, around) : { columns: [], rows: nothing.influences };
    return single(derivedItem(derived, alias), derived.rows);
  }
  if ('RangeFunction' in node) return readFunction(trace, node.RangeFunction, scope);
  if ('RangeTableSample' in node) {
    const { relation, args = [], repeatable } = node.RangeTableSample;
    const part = relation ? readFromNode(trace, relation, scope) : single({ alias: '', columns: [] });
    return {
      ...part,
      rows: combineInfluences([part.rows, readAsInfluence(trace, [...args, repeatable], scope, 'filter')]),
    };
  }
  // XMLTABLE and JSON_TABLE: every output column is made of everything that is put in.
  const body = bodyOf(node) as { alias?: Alias; columns?: Node[] };
  const made = combine(
    childNodes({ ...body, alias: undefined }).map((child) => readExpression(trace, child, scope)),
    'transformed',
  );
  const names = (body.columns ?? []).map(tableFunctionColumn).filter((name) => name !== undefined);
  return single(functionItem(body.alias?.aliasname ?? '', textsOf(body.alias?.colnames), names, made));
}

const tableFunctionColumn = (node: Node): string | undefined =>
  (bodyOf(node) as { colname?: string; name?: string }).colname ?? (bodyOf(node) as { name?: string }).name;

function derivedItem(derived: Derived, alias: Alias | undefined): ScopeItem {
  const names = textsOf(alias?.colnames);
  const columns = derived.columns.map((column, index) => ({
    name: names[index] ?? column.name,
    provenance: column.provenance,
    base: [],
    ...rowOf(column),
  }));
  return { alias: alias?.aliasname ?? '', columns };
}

/** What is known of the row that a column holds. */
export const rowOf = ({
  row,
  fields,
}: {
  row?: RelationName | undefined;
  fields?: readonly Field[] | undefined;
}): Pick<ScopeColumn, 'row' | 'fields'> => ({
  ...(row ? { row } : {}),
  ...(fields ? { fields } : {}),
});

function readRelation(trace: Trace, range: RangeVar, scope: Scope): FromPart {
  const name = range.relname ?? '';
  const cte = range.schemaname ? undefined : scope.cte(name);
  if (cte) {
    const derived = cte.read();
    const item = derivedItem(derived, range.alias);
    return single({ ...item, alias: range.alias?.aliasname ?? name }, derived.rows);
  }
  const known = trace.catalog.relation(range.schemaname, name);
  const schema = known?.schema ?? range.schemaname ?? trace.catalog.defaultSchema;
  const names = textsOf(range.alias?.colnames);
  const columns = (known ? relationColumns(known) : []).map((column, index) => ({
    ...column,
    name: names[index] ?? column.name,
  }));
  const other = known ? undefined : (column: string) => relationColumn(schema, name, column);
  const alias = range.alias?.aliasname ?? name;
  // Once a relation has an alias its schema no longer qualifies it.
  return single({
    alias,
    columns,
    relation: { schema, name },
    ...(range.alias ? {} : { schema }),
    ...(other ? { other } : {}),
  });
}

interface FunctionPart {
  readonly made: Provenance;
  readonly columns: readonly ScopeColumn[];
  /** It may give more columns than are known. */
  readonly open: boolean;
}

/** The columns that one function in FROM gives, each with what goes into it. */
function functionPart(trace: Trace, node: Node, declaredBeside: readonly Node[], scope: Scope): FunctionPart {
  const [call, definitions] = 'List' in node ? (node.List.items ?? []) : [node];
  const args =
    call && 'FuncCall' in call && textsOf(call.FuncCall.funcname).at(-1) === 'unnest' ? (call.FuncCall.args ?? []) : [];
  const each = args.map((arg) => unnested(trace, arg, scope));
  if (each.length > 1 || each.some((columns) => columns !== undefined)) {
    // unnest of several lists gives the columns of each: one, or those of the rows that a list holds.
    const columns = each.flatMap(
      (known, index): readonly ScopeColumn[] =>
        known ?? [
          { name: 'unnest', provenance: combine([readExpression(trace, args[index], scope)], 'transformed'), base: [] },
        ],
    );
    return { made: combine(columns.map((column) => column.provenance)), columns, open: false };
  }
  const made = combine([readExpression(trace, call, scope)], 'transformed');
  const shape = functionShape(trace, call, [
    ...definitionNames(definitions),
    ...declaredBeside.flatMap(definitionName),
  ]);
  return {
    made,
    columns: shape.columns.map((column) => ({ ...column, provenance: combine([made, column.provenance]) })),
    open: shape.open,
  };
}

/** The columns of the rows that a list holds; undefined where it holds something else, or it is not known what. */
function unnested(trace: Trace, list: Node, scope: Scope): readonly ScopeColumn[] | undefined {
  const fields = fieldsOf(trace, list, scope, (inner) => readExpression(trace, inner, scope));
  if (fields) return fields.map((field) => ({ ...field, base: [] }));
  const row = rowTypeOf(trace, list, scope);
  const relation = row && trace.catalog.relation(row.schema, row.relation);
  if (!relation) return undefined;
  const made = combine([readExpression(trace, list, scope)], 'transformed');
  return relationColumns(relation).map((column) => ({ ...column, provenance: made }));
}

function readFunction(trace: Trace, range: RangeFunction, scope: Scope): FromPart {
  const aliasNames = textsOf(range.alias?.colnames);
  const parts = (range.functions ?? []).map((node) => functionPart(trace, node, range.coldeflist ?? [], scope));
  const ordinal: ScopeColumn[] = range.ordinality ? [{ name: 'ordinality', provenance: nothing, base: [] }] : [];
  // More names than columns are known: the function whose columns are not known has them.
  const known = parts.reduce((sum, part) => sum + part.columns.length, ordinal.length);
  const widening = parts.findIndex((part) => part.open);
  const columns = [
    ...parts.flatMap((part, index) => [
      ...part.columns,
      ...(index === widening
        ? Array.from(
            { length: Math.max(0, aliasNames.length - known) },
            (): ScopeColumn => ({ name: 'column', provenance: part.made, base: [] }),
          )
        : []),
    ]),
    ...ordinal,
  ];
  const made = combine(parts.map((part) => part.made));
  const open = widening >= 0;
  const alias = range.alias?.aliasname ?? columns[0]?.name ?? '';
  // A function of one scalar column: the alias of the item names the column too (`generate_series(1, 9) AS n`).
  const scalar = open && columns.length === ordinal.length + 1 && range.alias?.aliasname;
  const named = columns.map((column, index) => ({
    ...column,
    name: aliasNames[index] ?? (index === 0 && scalar ? scalar : column.name),
  }));
  const item: ScopeItem = {
    alias,
    columns: named,
    ...(open && aliasNames.length === 0 ? { other: (name: string) => ({ name, provenance: made, base: [] }) } : {}),
  };
  // What a function is given decides which rows it gives.
  return { items: [item], columns: item.columns, rows: asInfluence(made, 'filter') };
}

function functionItem(alias: string, aliasNames: string[], names: string[], made: Provenance): ScopeItem {
  return {
    alias,
    columns: names.map((name, index) => ({ name: aliasNames[index] ?? name, provenance: made, base: [] })),
  };
}

const definitionName = (node: Node): string[] =>
  'ColumnDef' in node && node.ColumnDef.colname ? [node.ColumnDef.colname] : [];
const definitionNames = (node: Node | undefined): string[] =>
  node && 'List' in node ? (node.List.items ?? []).flatMap(definitionName) : [];

/** The columns a function in FROM gives: as declared beside it, as the catalog knows, or one named after it. */
function functionShape(
  trace: Trace,
  call: Node | undefined,
  declared: string[],
): { columns: ScopeColumn[]; open: boolean } {
  const plain = (name: string): ScopeColumn => ({ name, provenance: nothing, base: [] });
  if (declared.length > 0) return { columns: declared.map(plain), open: false };
  const names = call && 'FuncCall' in call ? textsOf(call.FuncCall.funcname) : [];
  const name = names.at(-1) ?? 'column1';
  const known = trace.catalog.functions(names.length > 1 ? names[0] : undefined, name);
  const returns = known.find((fn) => fn.returns)?.returns;
  const relation = returns && trace.catalog.relation(returns.schema, returns.relation);
  if (relation) {
    return { columns: relationColumns(relation), open: false };
  }
  const columns = known.find((fn) => fn.columns)?.columns;
  if (columns) return { columns: columns.map(plain), open: false };
  return { columns: [plain(name)], open: true };
}

function readJoin(trace: Trace, join: JoinExpr, scope: Scope): FromPart {
  const empty = single({ alias: '', columns: [] });
  const left = join.larg ? readFromNode(trace, join.larg, scope) : empty;
  const besides = new Scope(scope.parent, scope);
  besides.namespace = {
    items: [...scope.namespace.items, ...left.items],
    columns: [...scope.namespace.columns, ...left.columns],
  };
  const right = join.rarg ? readFromNode(trace, join.rarg, besides) : empty;
  const shared = join.isNatural ? naturalColumns(trace, left, right) : textsOf(join.usingClause);
  const rows: Influences[] = [left.rows, right.rows];
  const merged = shared.map((name): ScopeColumn => {
    const [l, r] = [sideColumn(left, name), sideColumn(right, name)];
    rows.push(
      ...[l, r].filter((column) => column !== undefined).map((column) => asInfluence(mention(trace, column), 'join')),
    );
    return mergedColumn(name, l, r, join.jointype);
  });
  const rest = (part: FromPart) => part.columns.filter((column) => !shared.includes(column.name));
  // The standard puts the columns that are shared first; SQLite leaves them where the left table has them.
  const columns =
    trace.catalog.dialect === 'sqlite'
      ? [
          ...left.columns.map((column) => merged.find((shared) => shared.name === column.name) ?? column),
          ...rest(right),
        ]
      : [...merged, ...rest(left), ...rest(right)];
  besides.namespace = {
    items: [...scope.namespace.items, ...left.items, ...right.items],
    columns: [...columns, ...scope.namespace.columns],
  };
  if (join.quals) rows.push(readAsInfluence(trace, [join.quals], besides, 'join'));
  const together = { columns, rows: combineInfluences(rows) };
  if (join.alias?.aliasname) {
    const names = textsOf(join.alias.colnames);
    const renamed = columns.map((column, index) => ({ ...column, name: names[index] ?? column.name }));
    return single({ alias: join.alias.aliasname, columns: renamed }, together.rows);
  }
  const using = join.join_using_alias?.aliasname ? [{ alias: join.join_using_alias.aliasname, columns: merged }] : [];
  return { ...together, items: [...left.items, ...right.items, ...using] };
}

function naturalColumns(trace: Trace, left: FromPart, right: FromPart): string[] {
  if ([...left.items, ...right.items].some((item) => item.other)) {
    trace.problems.add('a NATURAL JOIN needs the columns of both sides, and one of them is not known');
  }
  return left.columns
    .map((column) => column.name)
    .filter((name) => right.columns.some((column) => column.name === name));
}

function sideColumn(part: FromPart, name: string): ScopeColumn | undefined {
  return part.columns.find((column) => column.name === name) ?? part.items.find((item) => item.other)?.other?.(name);
}

/** The one column that USING makes of two: PostgreSQL takes the left, of a right join the right, of a full join the first that is not null. */
function mergedColumn(
  name: string,
  left: ScopeColumn | undefined,
  right: ScopeColumn | undefined,
  type: JoinExpr['jointype'],
): ScopeColumn {
  const both = [left, right].filter((column) => column !== undefined);
  if (type === 'JOIN_FULL') {
    return {
      name,
      provenance: combine(
        both.map((column) => column.provenance),
        'transformed',
      ),
      base: both.flatMap((column) => column.base),
    };
  }
  const taken = (type === 'JOIN_RIGHT' ? right : left) ?? both[0];
  return taken ? { ...taken, name } : { name, provenance: nothing, base: [columnId('', '', name)] };
}
