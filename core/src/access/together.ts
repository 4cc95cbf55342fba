import type { A_Const, ColumnRef, FuncCall, JoinExpr, Node, RangeVar, SelectStmt } from '@pgsql/types';
import { quoteIdentifier } from './masks.ts';
import { RefusedStatement } from './refused.ts';
import type { TableDecision } from './types.ts';

/** A table that a query names in FROM. */
export interface Range {
  /** As the query calls it. */
  readonly name: string;
  readonly range: RangeVar;
  readonly decision: TableDecision;
}

/** A limit that tells rows only together with others: so many different values of a column at least. */
interface Together {
  readonly column: string;
  readonly least: number;
}

/** What of a table may be told only together. */
export const togetherIn = ({ rowLimits }: TableDecision): Together[] =>
  rowLimits.flatMap(({ column, least }) => (least === undefined ? [] : [{ column, least }]));

/** Aggregates that tell of a group nothing that is one member's alone, called by their plain names with a plain column, or `*`. */
const AGGREGATES: ReadonlySet<string> = new Set([
  'count',
  'sum',
  'avg',
  'stddev',
  'stddev_pop',
  'stddev_samp',
  'variance',
  'var_pop',
  'var_samp',
]);
const COMPARISONS: ReadonlySet<string> = new Set(['=', '<>', '!=', '<', '<=', '>', '>=']);
/** Of a text: they take any, and give one. */
const OF_TEXT: ReadonlySet<string> = new Set(['lower', 'upper', 'btrim', 'ltrim', 'rtrim', 'initcap']);
const OF_NUMBER: ReadonlySet<string> = new Set(['floor', 'ceil', 'ceiling', 'trunc', 'round']);
/** Functions that are no aggregates, whatever they are given: with these what groups are made by may be told in another form. */
const OF_ANY: ReadonlySet<string> = new Set(
  `abs btrim ceil ceiling char_length concat concat_ws date date_part date_trunc extract floor format initcap left length lower lpad ltrim make_date mod
   now overlay position regexp_replace repeat replace reverse right round rpad rtrim sign split_part sqrt strpos substr substring timezone to_char to_date to_number
   trunc upper`.split(/\s+/),
);
/** Parts that each day and each moment has. */
const PARTS: ReadonlySet<string> = new Set(
  'year isoyear quarter month week day dow isodow doy decade century millennium'.split(' '),
);
/** To these a day or a moment can be cut. */
const CUTS: ReadonlySet<string> = new Set(
  'hour day week month quarter year decade century millennium minute second'.split(' '),
);
/** Parts of a format that each day and each moment can be written by. */
const FORMAT_PARTS =
  /IYYY|YYYY|YY|Month|MONTH|month|Mon|MON|mon|MM|Day|DAY|day|Dy|DY|dy|DD|ID|D|IW|WW|Q|HH24|[-/. _:]/g;
/** Days and moments may lie so far from now. */
const SPAN = /^\d{1,4} (minute|hour|day|week|month|year)s?$/;
const DAYS_MOST = 100_000;
const DIVISOR_MOST = 1_000_000;
const OWN_NAMES = /^idrel_/;

const textIn = (nodes: unknown): string[] =>
  (Array.isArray(nodes) ? (nodes as Node[]) : []).flatMap((node) => ('String' in node ? [node.String.sval ?? ''] : []));
/** A whole number or a text that stands there as such. */
const wholeIn = (node: Node | undefined): number | undefined => {
  const constant = node && 'A_Const' in node ? (node.A_Const as A_Const) : undefined;
  return constant?.ival ? (constant.ival.ival ?? 0) : undefined;
};
const stringIn = (node: Node | undefined): string | undefined => {
  const constant = node && 'A_Const' in node ? (node.A_Const as A_Const) : undefined;
  return constant?.sval ? (constant.sval.sval ?? '') : undefined;
};
const columnIn = (node: Node | undefined): ColumnRef | undefined =>
  node && 'ColumnRef' in node ? node.ColumnRef : undefined;
const isUpTo = (value: number | undefined, most: number): boolean => value !== undefined && value > 0 && value <= most;

/** Nodes below a node, one by one; what `stop` says yes to is not looked into. */
function* below(value: unknown, stop: (node: Node) => boolean = () => false): Generator<Node> {
  if (Array.isArray(value)) for (const entry of value) yield* below(entry, stop);
  else if (value !== null && typeof value === 'object') {
    for (const [key, inner] of Object.entries(value)) {
      if (/^[A-Z]/.test(key)) {
        const node = { [key]: inner } as unknown as Node;
        yield node;
        if (stop(node)) continue;
      }
      yield* below(inner, stop);
    }
  }
}

const withoutPlaces = (value: unknown): string =>
  JSON.stringify(value, (key, inner) => (/location$|^rexpr_list_|^list_(start|end)$/.test(key) ? undefined : inner));

/**
 * Holds one query block to what may be asked where rows are told only together: aggregates of plain columns over groups, each of which the source
 * then counts. Conditions and groups are those that can fail for no value, and that can give one row no more weight than the data gives it: so
 * nothing is told of a group that is too small, neither by an answer nor by an error.
 */
class Block {
  readonly #select: SelectStmt;
  readonly #ranges: readonly Range[];
  readonly #guarded: readonly (Range & { readonly limits: readonly Together[] })[];
  readonly #groups = new Set<string>();

  constructor(select: SelectStmt, ranges: readonly Range[]) {
    this.#select = select;
    this.#ranges = ranges;
    this.#guarded = ranges.flatMap((range) => {
      const limits = togetherIn(range.decision);
      return limits.length > 0 ? [{ ...range, limits }] : [];
    });
  }

  judge(): void {
    const select = this.#select;
    const { fromClause = [], targetList = [], groupClause = [], whereClause } = select;
    const isAggregated =
      groupClause.length > 0 ||
      select.havingClause !== undefined ||
      [...below([targetList, select.sortClause], (node) => 'SelectStmt' in node)].some(
        (node) => 'FuncCall' in node && this.#aggregate(node.FuncCall) && node.FuncCall.over === undefined,
      );
    // By its first part the query is found again in the text.
    if (targetList.length === 0) throw this.#refuse('nothing is asked', 'ask for count(*)');
    if (!isAggregated) throw this.#refuse('', 'ask for counts, sums or averages, for all of it or with GROUP BY');
    const { withClause: _, ...own } = select;
    for (const node of below(own)) {
      if ('SubLink' in node)
        throw this.#refuse('a subquery stands in the same query', 'put the one or the other in WITH, or in FROM');
      const fields = columnIn(node)?.fields ?? [];
      if (fields.length > 2) throw this.#refuse('a column is named with its schema', 'name it by its table alone');
      if (textIn(fields).some((name) => OWN_NAMES.test(name)))
        throw this.#refuse(`${textIn(fields).join('.')} is no column of it`, 'leave it out');
    }
    for (const node of fromClause) this.#from(node);
    if (whereClause) for (const condition of conjuncts(whereClause)) this.#condition(condition);
    for (const node of groupClause) this.#group(node, targetList);
    for (const part of [
      targetList,
      select.havingClause,
      select.sortClause,
      select.distinctClause,
      select.windowClause,
      select.limitCount,
      select.limitOffset,
    ])
      this.#told(part);
  }

  #refuse(what: string, mend: string): RefusedStatement {
    const [guarded] = this.#guarded;
    const limits = guarded?.limits.map(({ column, least }) => `at least ${least} different values of ${column}`) ?? [];
    const { schema = '', name = '' } = guarded?.decision ?? {};
    return new RefusedStatement(
      'together',
      `Of ${schema}.${name} only what holds of groups may be told, each with ${limits.join(' and ')}${what && `; here ${what}`}.`,
      `${mend[0]?.toUpperCase()}${mend.slice(1)}.`,
    );
  }

  #from(node: Node): void {
    if ('RangeVar' in node) {
      const range = this.#ranges.find((one) => one.range.location === node.RangeVar.location);
      if (!range)
        throw this.#refuse(
          `${node.RangeVar.relname ?? ''}, which is no table, stands beside it in FROM`,
          'join it with the groups, in a query around this one',
        );
      if (node.RangeVar.alias?.colnames && togetherIn(range.decision).length > 0)
        throw this.#refuse('its columns are given other names in FROM', 'give them where they are told, by AS');
      return;
    }
    if ('JoinExpr' in node) {
      this.#join(node.JoinExpr);
      return;
    }
    if ('RangeTableSample' in node)
      throw this.#refuse('a sample of a table is taken', 'ask for all of it, with a condition');
    throw this.#refuse(
      'something that is no table stands beside it in FROM',
      'join it with the groups, in a query around this one',
    );
  }

  #join({ larg, rarg, jointype, quals, alias, join_using_alias }: JoinExpr): void {
    for (const side of [larg, rarg]) if (side) this.#from(side);
    if (alias || join_using_alias) throw this.#refuse('a join is given a name', 'name the tables in it');
    for (const condition of quals ? conjuncts(quals) : []) {
      if (jointype === 'JOIN_INNER') this.#condition(condition);
      else if (!this.#isEquation(condition))
        throw this.#refuse(
          'an outer join has another condition than that columns of the two are equal',
          'put the condition after WHERE',
        );
    }
  }

  /** A column of one table is one of another. */
  #isEquation(node: Node): boolean {
    if (!('A_Expr' in node) || node.A_Expr.kind !== 'AEXPR_OP' || textIn(node.A_Expr.name).join('.') !== '=')
      return false;
    const [left, right] = [columnIn(node.A_Expr.lexpr), columnIn(node.A_Expr.rexpr)];
    const [one, other] = [left && this.#rangeOf(left), right && this.#rangeOf(right)];
    return one !== undefined && other !== undefined && one !== other;
  }

  /** The table that a column is of; undefined for one of a query around this one. */
  #rangeOf(ref: ColumnRef): Range | undefined {
    const [column = '', table] = textIn(ref.fields).reverse();
    const found = this.#ranges.filter(
      ({ name, decision }) =>
        (table === undefined || table === name) && decision.columns.some((one) => one.name === column),
    );
    if (found.length > 1)
      throw this.#refuse(`several tables have a column ${column}`, 'write the name of the table before it');
    return found[0];
  }

  /** A table's name in the place of a column: all of a row, with what tells one from another. */
  #isRow({ fields }: ColumnRef): boolean {
    const [name, ...more] = textIn(fields);
    return (
      more.length === 0 &&
      this.#ranges.some((range) => range.name === name) &&
      !this.#ranges.some(({ decision }) => decision.columns.some((column) => column.name === name))
    );
  }

  /** One condition by itself: an equation of two tables, or something of one table that can fail for no value. */
  #condition(node: Node): void {
    if (this.#isEquation(node)) return;
    if (!this.#isCondition(node))
      throw this.#refuse(
        'a condition holds something else than comparisons of columns with plain values',
        'compare columns by =, <, >, IN, BETWEEN, LIKE or IS NULL, joined by AND, OR and NOT',
      );
    this.#ofOneTable(node, 'a condition');
  }

  #ofOneTable(node: Node, what: string): void {
    const ranges = new Set<Range>();
    for (const inner of below(node)) {
      const ref = columnIn(inner);
      const range = ref && this.#rangeOf(ref);
      if (!ref || !range) continue;
      ranges.add(range);
      const column = textIn(ref.fields).at(-1) ?? '';
      if (togetherIn(range.decision).some((limit) => limit.column === column))
        throw this.#refuse(`${what} asks for ${column}, which tells one from another`, 'choose by other columns');
    }
    if (ranges.size > 1)
      throw this.#refuse(`${what} is about two tables at once`, 'say something of each of them, joined by AND');
  }

  #isCondition(node: Node | undefined): boolean {
    if (!node) return false;
    if ('BoolExpr' in node) return (node.BoolExpr.args ?? []).every((inner) => this.#isCondition(inner));
    if ('NullTest' in node) return this.#isScalar(node.NullTest.arg);
    if ('BooleanTest' in node) return this.#isCondition(node.BooleanTest.arg);
    if ('ColumnRef' in node) return this.#isScalar(node);
    if ('A_Const' in node) return true;
    if (!('A_Expr' in node)) return false;
    const { kind, name, lexpr, rexpr } = node.A_Expr;
    const values = rexpr && 'List' in rexpr ? (rexpr.List.items ?? []) : rexpr ? [rexpr] : [];
    const every = (is: (value: Node) => boolean) => values.length > 0 && values.every(is);
    const left = this.#isScalar(lexpr);
    switch (kind) {
      case 'AEXPR_OP':
        return COMPARISONS.has(textIn(name).join('.')) && left && this.#isScalar(rexpr);
      case 'AEXPR_DISTINCT':
      case 'AEXPR_NOT_DISTINCT':
        return left && this.#isScalar(rexpr);
      case 'AEXPR_IN':
      case 'AEXPR_BETWEEN':
      case 'AEXPR_NOT_BETWEEN':
        return left && every((value) => isConstant(value));
      case 'AEXPR_OP_ANY':
        return textIn(name).join('.') === '=' && left && every((value) => isConstant(value));
      // A pattern that ends in the middle of something fails for what it is held to.
      case 'AEXPR_LIKE':
      case 'AEXPR_ILIKE':
        return left && every((value) => stringIn(value)?.includes('\\') === false);
      default:
        return false;
    }
  }

  /** A value that can be computed of every row: a column, or little more. */
  #isScalar(node: Node | undefined): boolean {
    if (!node) return false;
    if (isConstant(node)) return true;
    const ref = columnIn(node);
    if (ref) return textIn(ref.fields).length === (ref.fields ?? []).length && !this.#isRow(ref);
    if ('FuncCall' in node) return this.#isFunction(node.FuncCall);
    if ('CoalesceExpr' in node) {
      const [of, ...values] = node.CoalesceExpr.args ?? [];
      return this.#isScalar(of) && values.every((value) => isConstant(value));
    }
    if ('CaseExpr' in node) {
      const { arg, args = [], defresult } = node.CaseExpr;
      return (
        arg === undefined &&
        args.every(
          (when) => 'CaseWhen' in when && this.#isCondition(when.CaseWhen.expr) && this.#isScalar(when.CaseWhen.result),
        ) &&
        (defresult === undefined || this.#isScalar(defresult))
      );
    }
    if ('TypeCast' in node) {
      const type = textIn(node.TypeCast.typeName?.names).at(-1) ?? '';
      const { arg } = node.TypeCast;
      if (node.TypeCast.typeName?.typmods || node.TypeCast.typeName?.arrayBounds) return false;
      return (['text', 'varchar'].includes(type) && this.#isScalar(arg)) || (type === 'date' && this.#isDay(arg));
    }
    if ('A_Expr' in node && node.A_Expr.kind === 'AEXPR_OP') {
      const { name, lexpr, rexpr } = node.A_Expr;
      return (
        ['/', '%'].includes(textIn(name).join('.')) && this.#isScalar(lexpr) && isUpTo(wholeIn(rexpr), DIVISOR_MOST)
      );
    }
    return false;
  }

  #isFunction(call: FuncCall): boolean {
    const { args = [] } = call;
    if (call.over || call.agg_filter || call.agg_order || call.agg_distinct || call.agg_star || call.func_variadic)
      return false;
    const [name = '', schema] = textIn(call.funcname).reverse();
    if (schema !== undefined && schema !== 'pg_catalog') return false;
    const [first, second] = args;
    if (args.length === 1)
      return OF_TEXT.has(name) || OF_NUMBER.has(name)
        ? this.#isScalar(first)
        : name === 'date'
          ? this.#isDay(first)
          : false;
    if (args.length !== 2) return false;
    const text = stringIn(first);
    if (name === 'date_trunc') return CUTS.has(text?.toLowerCase() ?? '') && this.#isDay(second);
    if (name === 'extract' || name === 'date_part') return PARTS.has(text?.toLowerCase() ?? '') && this.#isDay(second);
    if (name === 'to_char') return stringIn(second)?.replace(FORMAT_PARTS, '') === '' && this.#isDay(first);
    if (name === 'left' || name === 'right') return this.#isScalar(first) && isUpTo(wholeIn(second), DIVISOR_MOST);
    return false;
  }

  /** A column of days or moments, as it is. */
  #isDay(node: Node | undefined): boolean {
    const ref = columnIn(node);
    const range = ref && this.#rangeOf(ref);
    const column = range?.decision.columns.find(({ name }) => name === textIn(ref?.fields).at(-1));
    return (
      column !== undefined &&
      column.mask === null &&
      /^(date|timestamp)\b/.test(column.type) &&
      !column.type.endsWith(']')
    );
  }

  #group(node: Node, targets: readonly Node[]): void {
    if ('GroupingSet' in node)
      throw this.#refuse(
        'groups of several kinds are asked for at once',
        'ask for each kind by itself, with UNION ALL',
      );
    const target = (at: (place: number, name: string | undefined) => boolean) => {
      const found = targets.find((one, place) => 'ResTarget' in one && at(place + 1, one.ResTarget.name));
      return found && 'ResTarget' in found ? found.ResTarget.val : undefined;
    };
    const place = wholeIn(node);
    const fields = textIn(columnIn(node)?.fields);
    // A name alone is that of a column where there is one, else that of something told: both are looked at.
    const named = fields.length === 1 ? target((_, name) => name === fields[0]) : undefined;
    const meant = place === undefined ? [node, ...(named ? [named] : [])] : [target((at) => at === place)];
    for (const one of meant) {
      if (!one) continue; // the source has its own words for that
      if (!this.#isScalar(one))
        throw this.#refuse(
          'groups are made by something else than columns or plain parts of them',
          'group by columns, date_trunc, extract, lower, left, a division by a number, or CASE of comparisons',
        );
      this.#ofOneTable(one, 'a group');
      this.#groups.add(withoutPlaces(one));
    }
  }

  /** Whether it is an aggregate of which a group may be told. */
  #aggregate(call: FuncCall): boolean {
    const names = textIn(call.funcname);
    const name = names.length === 2 && names[0] === 'pg_catalog' ? names[1] : names.length === 1 ? names[0] : undefined;
    const [of, ...more] = call.args ?? [];
    const fields = columnIn(of)?.fields ?? [];
    return (
      name !== undefined &&
      AGGREGATES.has(name) &&
      !call.agg_filter &&
      !call.agg_order &&
      !call.agg_within_group &&
      !call.func_variadic &&
      (call.agg_star === true ||
        (more.length === 0 &&
          ((of !== undefined && 'A_Const' in of) || (fields.length > 0 && textIn(fields).length === fields.length))))
    );
  }

  /**
   * What is told of the groups: whatever is computed of what may be told. The source computes it of groups that it tells, all but what aggregates take: that
   * it computes of every row, so no aggregate may stand there but the known ones.
   */
  #told(value: unknown): void {
    const isAggregate = (node: Node) => 'FuncCall' in node && this.#aggregate(node.FuncCall);
    const isPart = (node: Node) => isAggregate(node) || this.#groups.has(withoutPlaces(node));
    for (const node of below(value, isPart)) {
      if (!('FuncCall' in node)) continue;
      const call = node.FuncCall;
      // What a window is laid over are the groups that are told.
      if (isPart(node) && call.over) this.#told(call.over);
      if (isPart(node) || call.over) continue;
      const [name = '', schema = 'pg_catalog'] = textIn(call.funcname).reverse();
      const plain = !call.agg_filter && !call.agg_order && !call.agg_within_group && !call.agg_distinct;
      // No aggregate takes another.
      const ofGroups = [...below(call.args, isPart)].some((inner) => isAggregate(inner));
      if (!(plain && (ofGroups || (schema === 'pg_catalog' && OF_ANY.has(name)))))
        throw this.#refuse(
          `${name} is asked`,
          'ask for count, sum, avg, stddev or variance of a column, without FILTER and ORDER BY; what groups are made by may be changed by plain functions such as upper or to_char',
        );
    }
  }

  /** What must hold of a group that is told. @param called by which name the values that are counted go */
  condition(called: (range: RangeVar, column: string) => string | undefined): string {
    return this.#guarded
      .flatMap(({ name, range, limits }) =>
        limits.map(({ column, least }) => {
          const counted = called(range, column);
          return counted === undefined
            ? 'FALSE'
            : `pg_catalog.count(DISTINCT ${quoteIdentifier(name)}.${quoteIdentifier(counted)}) >= ${least}`;
        }),
      )
      .join(' AND ');
  }
}

/** What must hold by itself: a condition taken apart at its ANDs. */
const conjuncts = (node: Node): Node[] =>
  'BoolExpr' in node && node.BoolExpr.boolop === 'AND_EXPR' ? (node.BoolExpr.args ?? []).flatMap(conjuncts) : [node];

/** A value that is the same for each row, and that can be computed before the first of them is looked at. */
function isConstant(node: Node | undefined): boolean {
  if (!node) return false;
  if ('A_Const' in node || 'ParamRef' in node) return true;
  if ('SQLValueFunction' in node) return true;
  if ('FuncCall' in node)
    return textIn(node.FuncCall.funcname).join('.') === 'now' && (node.FuncCall.args ?? []).length === 0;
  // What is written is turned into the type when the statement is read; what is computed would be for each row.
  if ('TypeCast' in node)
    return node.TypeCast.arg !== undefined && ('A_Const' in node.TypeCast.arg || 'ParamRef' in node.TypeCast.arg);
  if ('A_ArrayExpr' in node) return (node.A_ArrayExpr.elements ?? []).every((inner) => isConstant(inner));
  if (!('A_Expr' in node) || node.A_Expr.kind !== 'AEXPR_OP') return false;
  const { name, lexpr, rexpr } = node.A_Expr;
  const operator = textIn(name).join('.');
  if (operator !== '-' && operator !== '+') return false;
  if (!lexpr) return rexpr !== undefined && 'A_Const' in rexpr;
  const isNow = 'SQLValueFunction' in lexpr || ('FuncCall' in lexpr && isConstant(lexpr));
  const span = rexpr && 'TypeCast' in rexpr ? stringIn(rexpr.TypeCast.arg) : undefined;
  return isNow && (isUpTo(wholeIn(rexpr), DAYS_MOST) || (span !== undefined && SPAN.test(span)));
}

/** How a query block is kept to what may be told together. */
export interface Kept {
  /** What must hold of a group that is told, by the name that the values that are counted go by in a table. */
  condition(called: (range: RangeVar, column: string) => string | undefined): string;
}

/**
 * Looks at one query block over tables of which some may be told only together.
 * @param ranges the tables of the catalog that it names in FROM
 * @returns undefined when no such table is among them
 * @throws {RefusedStatement} with what to ask instead
 */
export function keptTogether(select: SelectStmt, ranges: readonly Range[]): Kept | undefined {
  if (!ranges.some(({ decision }) => togetherIn(decision).length > 0)) return undefined;
  const block = new Block(select, ranges);
  block.judge();
  return block;
}
