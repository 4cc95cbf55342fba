import type { Node, RangeVar, SelectStmt } from '@pgsql/types';
import { parseOne, parserReason } from '../sql/index.ts';
import type { Callables } from './callables.ts';
import { DIGEST_SETTINGS, maskedExpression, quoteIdentifier, rowCondition } from './masks.ts';
import { Meanings, NeedsExtensions } from './meanings.ts';
import { PERMITTED_NODES, PERMITTED_VALUE_FUNCTIONS, UNWRAPPED } from './permitted.ts';
import { RefusedStatement } from './refused.ts';
import { Splice } from './splice.ts';
import { type Kept, keptTogether, type Range, togetherIn } from './together.ts';
import type { ColumnDecision, TableDecision } from './types.ts';

export interface Rewritten {
  readonly sql: string;
  /** What was decided for each table that the statement names. */
  readonly tables: readonly TableDecision[];
  /** Schemas in which the source must look names up, and no others. */
  readonly path: readonly string[];
  /** Whether the keys of digests must be set in the session before the statement runs. */
  readonly digests: boolean;
}

/** Finds the decision for a table by the names a statement uses; undefined when the catalog has no such table. */
export type TableLookup = (schema: string | undefined, name: string) => TableDecision | 'ambiguous' | undefined;

type Body = Record<string, unknown>;
type CteNames = ReadonlyMap<string, string>;

/** The name of a table inside the part of it that may be read: columns are written with it, so that none is taken from elsewhere. */
const INSIDE = 'idrel_row';

/**
 * Rewrites a SELECT so that it can give nothing that the decisions refuse: each table becomes a subquery of its permitted columns, masks
 * applied, rows limited. Permits only what {@link PERMITTED_NODES} and its fellows list, and calls only what the source has under that name
 * and is allowed. Nothing is written anew but the names of tables and of WITH: what people wrote around them stays letter by letter.
 *
 * @param parameters whether `$1` and its like may stand in it: their values come beside the text, so they can be nothing but values
 * @throws {RefusedStatement} when the statement is not one SELECT of permitted parts over permitted tables
 */
export function rewriteSelect(sql: string, lookup: TableLookup, callables: Callables, parameters = false): Rewritten {
  const rewrite = (extensions: boolean) => rewriteWith(sql, lookup, new Meanings(callables, extensions), parameters);
  try {
    return rewrite(false);
  } catch (error) {
    if (error instanceof NeedsExtensions) return rewrite(true);
    if (error instanceof RangeError)
      throw new RefusedStatement('construct', 'The statement is nested too deeply to be looked at.');
    throw error;
  }
}

function rewriteWith(sql: string, lookup: TableLookup, meanings: Meanings, parameters: boolean): Rewritten {
  const tree = parse(sql);
  if (!('SelectStmt' in tree))
    throw new RefusedStatement('statement', `Only SELECT passes; this is ${kindInWords(tree)}.`);
  const rewriting = new Rewriting(lookup, meanings, new Splice(sql), parameters);
  const expected: Node = { SelectStmt: rewriting.select(tree.SelectStmt, new Map()) };
  meanings.judgeTails();
  const text = rewriting.splice.text().replace(/[;\s]+$/, '');
  // The text is read again: had an edit met another place than the one meant, the two trees would differ, and nothing is run.
  if (withoutPlaces(parse(text)) !== withoutPlaces(expected))
    throw new RefusedStatement('construct', 'This statement cannot be written back without changing it. Simplify it.');
  return {
    sql: text,
    tables: [...rewriting.used.values()],
    path: meanings.path,
    digests: Object.values(DIGEST_SETTINGS).some((setting) => text.includes(setting)),
  };
}

function parse(sql: string): Node {
  try {
    return parseOne(sql);
  } catch (error) {
    if (error instanceof RangeError) throw error;
    const reason = parserReason(error);
    throw new RefusedStatement(reason.startsWith('Exactly one') ? 'statement' : 'syntax', reason);
  }
}

const kindInWords = (tree: Node): string =>
  (Object.keys(tree)[0] ?? 'nothing')
    .replace(/Stmt$/, '')
    .replace(/(?<=[a-z])([A-Z])/g, ' $1')
    .toUpperCase();

const PLACES = new Set([
  'location',
  'list_start',
  'list_end',
  'rexpr_list_start',
  'rexpr_list_end',
  'name_location',
  'stmt_location',
  'stmt_len',
]);

/** The tree as text, without the places in the text. */
function withoutPlaces(tree: Node): string {
  return JSON.stringify(tree, (key, value: unknown) => {
    if (PLACES.has(key)) return undefined;
    if (value && typeof value === 'object' && !Array.isArray(value)) {
      return Object.fromEntries(Object.entries(value).sort(([a], [b]) => (a < b ? -1 : 1)));
    }
    return value;
  });
}

class Rewriting {
  readonly used = new Map<string, TableDecision>();
  readonly splice: Splice;
  readonly #lookup: TableLookup;
  readonly #meanings: Meanings;
  readonly #parameters: boolean;
  #ctes = 0;
  #counts = 0;
  /** By the place of a table that is told only together: the values that are counted, and by which name. */
  readonly #counted = new Map<number, ReadonlyMap<string, string>>();

  constructor(lookup: TableLookup, meanings: Meanings, splice: Splice, parameters: boolean) {
    this.#lookup = lookup;
    this.#meanings = meanings;
    this.#parameters = parameters;
    this.splice = splice;
  }

  /** A query: its WITH first, whose names get new ones, so that a name that is no table and no known WITH can reach nothing. */
  select(select: SelectStmt, around: CteNames): SelectStmt {
    const names = new Map(around);
    const { withClause, ...rest } = select;
    const ctes: Node[] = [];
    const entries = (withClause?.ctes ?? []).map((node) => {
      if (!('CommonTableExpr' in node)) throw this.#refuse(Object.keys(node)[0] ?? '');
      this.#ctes += 1;
      return { cte: node.CommonTableExpr, renamed: `idrel_with_${this.#ctes}` };
    });
    if (withClause?.recursive) for (const { cte, renamed } of entries) names.set(cte.ctename ?? '', renamed);
    for (const { cte, renamed } of entries) {
      const { ctequery: query, ...others } = cte;
      if (!query || !('SelectStmt' in query)) throw new RefusedStatement('construct', 'Only SELECT may stand in WITH.');
      const body = this.#fields('CommonTableExpr', { ...others }, names);
      this.splice.replaceName(cte.location ?? -1, renamed);
      ctes.push({
        CommonTableExpr: { ...body, ctename: renamed, ctequery: { SelectStmt: this.select(query.SelectStmt, names) } },
      } as Node);
      names.set(cte.ctename ?? '', renamed);
    }
    const kept = this.#together(rest, names);
    const body = this.#fields('SelectStmt', { ...rest }, names);
    return {
      ...body,
      ...(kept ? { havingClause: this.#having(rest, kept, body.havingClause as Node | undefined) } : {}),
      ...(withClause ? { withClause: { ...withClause, ctes } } : {}),
    } as SelectStmt;
  }

  /** Looks at a query block for tables that are told only together; for each, what is counted of it gets a name. */
  #together(select: SelectStmt, names: CteNames): Kept | undefined {
    const ranges = (select.fromClause ?? [])
      .flatMap(namedIn)
      .flatMap((range): Range[] =>
        !range.schemaname && names.has(range.relname ?? '')
          ? []
          : [{ name: range.alias?.aliasname ?? range.relname ?? '', range, decision: this.#decided(range) }],
      );
    const kept = keptTogether(select, ranges);
    if (kept)
      for (const { range, decision } of ranges) {
        const there = columnsOf(decision);
        const counted = togetherIn(decision).flatMap(({ column }) => (there.has(column) ? [column] : []));
        this.#counted.set(
          range.location ?? -1,
          new Map(
            counted.map((column) => {
              this.#counts += 1;
              return [column, `idrel_counted_${this.#counts}`];
            }),
          ),
        );
      }
    return kept;
  }

  /** What groups are told: those that are large enough, and of these the ones that were asked for, which is not looked at of others. */
  #having(select: SelectStmt, kept: Kept, asked: Node | undefined): Node {
    const condition = kept.condition((range, column) => this.#counted.get(range.location ?? -1)?.get(column));
    const [first] = select.targetList ?? [];
    const at = (first && 'ResTarget' in first && first.ResTarget.location) || -1;
    this.splice.having(at, condition, asked !== undefined);
    const havingOf = (text: string): Node | undefined => {
      const node = parseOne(`SELECT HAVING ${text}`);
      return 'SelectStmt' in node ? node.SelectStmt.havingClause : undefined;
    };
    const whole = havingOf(asked ? `CASE WHEN ${condition} THEN NULL ELSE FALSE END` : condition);
    if (!whole) throw this.#refuse('HAVING');
    if (!asked || !('CaseExpr' in whole)) return whole;
    const [when] = whole.CaseExpr.args ?? [];
    if (!when || !('CaseWhen' in when)) throw this.#refuse('HAVING');
    return { CaseExpr: { ...whole.CaseExpr, args: [{ CaseWhen: { ...when.CaseWhen, result: asked } }] } };
  }

  #refuse(kind: string): RefusedStatement {
    return new RefusedStatement('construct', `${kind} is not permitted in a query through the gateway.`);
  }

  #checkFields(kind: string, body: Body): void {
    const permitted = PERMITTED_NODES.get(kind);
    if (!permitted) throw this.#refuse(kind);
    for (const key of Object.keys(body)) if (!permitted.has(key)) throw this.#refuse(`${key} (in ${kind})`);
  }

  #fields(kind: string, body: Body, names: CteNames): Body {
    this.#checkFields(kind, body);
    const checked = this.#checkMeaning(kind, body);
    return Object.fromEntries(
      Object.entries(checked).map(([key, value]) => [key, this.#value(kind, key, value, names)]),
    );
  }

  #value(kind: string, key: string, value: unknown, names: CteNames): unknown {
    if (value === null || typeof value !== 'object') return value;
    if (Array.isArray(value)) return value.map((entry) => this.#node(entry as Node, names));
    if (kind === 'SelectStmt' && (key === 'larg' || key === 'rarg')) return this.select(value as SelectStmt, names);
    const bare = UNWRAPPED[key];
    // `sval` and its like are a bare text inside a String, and a bare node inside a constant.
    return bare ? this.#fields(bare, value as Body, names) : this.#node(value as Node, names);
  }

  #node(node: Node, names: CteNames): Node {
    const [kind, ...more] = Object.keys(node);
    if (kind === undefined) return node; // the empty mark of a plain DISTINCT
    const body = (node as unknown as Record<string, Body>)[kind];
    if (more.length > 0 || !/^[A-Z]/.test(kind) || body === null || typeof body !== 'object') throw this.#refuse(kind);
    if (kind === 'SelectStmt') return { SelectStmt: this.select(body as SelectStmt, names) };
    // Numbers alone: what they stand for is no part of the text.
    if (kind === 'ParamRef' && this.#parameters) return node;
    if (kind === 'RangeVar') return this.#relation(body as RangeVar, names, '');
    if (kind === 'RangeTableSample') return this.#sampled(body, names);
    return { [kind]: this.#fields(kind, body, names) } as unknown as Node;
  }

  /** Holds what a node names to what it may come to mean; the node, with the schema written before the function where it must be. */
  #checkMeaning(kind: string, body: Body): Body {
    const meanings = this.#meanings;
    if (kind === 'FuncCall') {
      const list = (value: unknown) => (Array.isArray(value) ? value.length : 0);
      const names = namesIn(body.funcname);
      const schema = meanings.called(names, body.agg_within_group ? null : list(body.args));
      if (schema !== undefined) {
        this.splice.insert(Number(body.location), `${quoteIdentifier(schema)}.`);
        return { ...body, funcname: [{ String: { sval: schema } }, ...(body.funcname as Node[])] };
      }
    }
    if (kind === 'TypeName') meanings.type(namesIn(body.names));
    if (kind === 'A_Expr' && !/BETWEEN/.test(String(body.kind))) meanings.operator(namesIn(body.name));
    if (kind === 'SubLink' && body.operName) meanings.operator(namesIn(body.operName));
    if (kind === 'SortBy' && body.useOp) meanings.operator(namesIn(body.useOp));
    if (kind === 'ColumnRef') {
      const [first, ...tails] = (body.fields ?? []) as Node[];
      const before = first && 'String' in first && tails.length === 1 ? (first.String.sval ?? '') : null;
      for (const name of namesIn(tails)) meanings.tail(before, name);
    }
    if (kind === 'A_Indirection') for (const name of namesIn(body.indirection)) meanings.tail(null, name);
    if (kind === 'CollateClause' && namesIn(body.collname).length > 1 && namesIn(body.collname)[0] !== 'pg_catalog')
      throw this.#refuse('A collation of another schema');
    if (kind === 'SQLValueFunction' && !PERMITTED_VALUE_FUNCTIONS.has(String(body.op))) {
      throw new RefusedStatement('function', 'Who is connected and to what may not be asked through the gateway.');
    }
    const alias =
      (kind === 'RangeSubselect' || kind === 'RangeFunction' || kind === 'JoinExpr') &&
      ((body.alias ?? body.join_using_alias) as { aliasname?: string } | undefined);
    if (alias) meanings.range(alias.aliasname ?? '', null);
    return body;
  }

  #sampled(body: Body, names: CteNames): Node {
    this.#checkFields('RangeTableSample', body);
    const constant = (node: Node) => 'A_Const' in node;
    const method = namesIn(body.method);
    if (method.length !== 1 || !['bernoulli', 'system'].includes(method[0] ?? ''))
      throw this.#refuse(`Sampling by ${method.join('.')}`);
    if (!(body.args as Node[]).every(constant) || (body.repeatable && !constant(body.repeatable as Node)))
      throw this.#refuse('Sampling by anything but plain numbers');
    const relation = (body.relation as { RangeVar?: RangeVar }).RangeVar;
    if (!relation || (!relation.schemaname && names.has(relation.relname ?? '')))
      throw this.#refuse('Sampling of anything but a table');
    return this.#relation(relation, names, this.splice.takeSample(Number(body.location)));
  }

  #relation(range: RangeVar, names: CteNames, sample: string): Node {
    this.#checkFields('RangeVar', { ...range });
    const name = range.relname ?? '';
    const alias = range.alias ?? { aliasname: name };
    this.#checkFields('Alias', { ...alias });
    const aliasText = range.alias ? '' : ` AS ${quoteIdentifier(name)}`;
    const offset = range.location ?? -1;
    const renamed = range.schemaname ? undefined : names.get(name);
    if (renamed) {
      this.#meanings.range(alias.aliasname ?? '', null);
      this.splice.replaceRelation(offset, `${range.inh ? '' : 'ONLY '}${renamed}${aliasText}`);
      return { RangeVar: { ...range, relname: renamed, alias } };
    }
    const decision = this.#decided(range);
    const part = this.#permittedPart(decision, range.inh ? '' : 'ONLY ', sample, this.#counted.get(offset));
    this.#meanings.range(
      alias.aliasname ?? '',
      alias.colnames ? null : decision.columns.filter((column) => this.#isGiven(column)).map((column) => column.name),
    );
    this.splice.replaceRelation(offset, `(${part})${aliasText}`);
    return { RangeSubselect: { subquery: parseOne(part), alias } };
  }

  #decided(range: RangeVar): TableDecision {
    const written = [range.schemaname, range.relname].filter(Boolean).join('.');
    const decision = this.#lookup(range.schemaname, range.relname ?? '');
    if (decision === 'ambiguous')
      throw new RefusedStatement(
        'unknown-table',
        `Several schemas have a table ${written}: write the schema before it.`,
      );
    if (!decision) throw new RefusedStatement('unknown-table', `${written} is not a table or view in the catalog.`);
    this.used.set(decision.tableId, decision);
    if (decision.access === 'no')
      throw new RefusedStatement(
        'no-access',
        `${decision.schema}.${decision.name} may not be read${because(decision)}.`,
      );
    return decision;
  }

  #isGiven(column: ColumnDecision): boolean {
    return column.access !== 'refused' && this.#meanings.isSafeColumn(column.type);
  }

  #permittedPart(
    table: TableDecision,
    only: string,
    sample: string,
    counted: ReadonlyMap<string, string> | undefined,
  ): string {
    if (!counted && togetherIn(table).length > 0) throw this.#refuse(`${table.name} outside of FROM`);
    const columns = [
      ...table.columns
        .filter((column) => this.#isGiven(column))
        .map((column) => `${maskedExpression(column, INSIDE)} AS ${quoteIdentifier(column.name)}`),
      ...[...(counted ?? [])].map(
        ([column, name]) => `CAST(${INSIDE}.${quoteIdentifier(column)} AS text) AS ${quoteIdentifier(name)}`,
      ),
    ];
    const known = columnsOf(table);
    const limits = table.rowLimits.filter(({ least }) => least === undefined);
    // OFFSET 0 keeps PostgreSQL from moving a reader's condition below the row limit, where it would see rows that are not to be seen.
    const rows =
      limits.length > 0
        ? ` WHERE ${limits.map((limit) => (known.has(limit.column) ? rowCondition(limit, INSIDE) : 'FALSE')).join(' AND ')} OFFSET 0`
        : '';
    const { schema, name } = table.lies ?? table;
    return `SELECT ${columns.join(', ')} FROM ${only}${quoteIdentifier(schema)}.${quoteIdentifier(name)} AS ${INSIDE}${sample && ` ${sample}`}${rows}`;
  }
}

/** Names of all columns of a table, also of those of which nothing is told. */
const columnsOf = ({ columns, untold = [] }: TableDecision): ReadonlySet<string> =>
  new Set([...columns.map(({ name }) => name), ...untold]);

/** Tables and names of WITH that stand in an entry of FROM, in its joins too. */
function namedIn(node: Node): RangeVar[] {
  if ('RangeVar' in node) return [node.RangeVar];
  if ('RangeTableSample' in node) return node.RangeTableSample.relation ? namedIn(node.RangeTableSample.relation) : [];
  if ('JoinExpr' in node)
    return [node.JoinExpr.larg, node.JoinExpr.rarg].flatMap((side) => (side ? namedIn(side) : []));
  return [];
}

const namesIn = (nodes: unknown): string[] =>
  (Array.isArray(nodes) ? (nodes as Node[]) : []).flatMap((node) => ('String' in node ? [node.String.sval ?? ''] : []));

function because(decision: TableDecision): string {
  const policies = [...new Set(decision.columns.flatMap((column) => column.reasons.map((reason) => reason.policy)))];
  if (policies.length > 0) return `: denied by ${policies.map((name) => `“${name}”`).join(', ')}`;
  return decision.purposes.length > 0
    ? `: it is allowed only for a purpose, of ${decision.purposes.map((purpose) => `“${purpose}”`).join(', ')}`
    : ': no policy allows it';
}
