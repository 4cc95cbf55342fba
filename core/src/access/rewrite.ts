import type { Node, RangeVar, SelectStmt } from '@pgsql/types';
import { deparseSync } from 'pgsql-deparser';
import { parseOne, parserReason } from '../sql/index.ts';
import { maskedExpression, quoteIdentifier, rowCondition } from './masks.ts';
import { PERMITTED_FUNCTIONS, PERMITTED_NODES, PERMITTED_TYPES, PERMITTED_VALUE_FUNCTIONS, UNWRAPPED } from './permitted.ts';
import type { TableDecision } from './types.ts';

/** Why a statement does not pass; `code` is stable, the text is for people. */
export class RefusedStatement extends Error {
  readonly code: 'syntax' | 'statement' | 'construct' | 'function' | 'type' | 'unknown-table' | 'no-access';
  constructor(code: RefusedStatement['code'], message: string) {
    super(message);
    this.name = 'RefusedStatement';
    this.code = code;
  }
}

export interface Rewritten {
  readonly sql: string;
  /** What was decided for each table that the statement names. */
  readonly tables: readonly TableDecision[];
}

/** Finds the decision for a table by the names a statement uses; undefined when the catalog has no such table. */
export type TableLookup = (schema: string | undefined, name: string) => TableDecision | 'ambiguous' | undefined;

type Body = Record<string, unknown>;
type CteNames = ReadonlyMap<string, string>;

/**
 * Rewrites a SELECT so that it can give nothing that the decisions refuse: each table becomes a subquery of its permitted columns, masks
 * applied, rows limited. Works on the syntax tree, and permits only what {@link PERMITTED_NODES} and its fellows list.
 *
 * @throws {RefusedStatement} when the statement is not one SELECT of permitted parts over permitted tables
 */
export function rewriteSelect(sql: string, lookup: TableLookup, options: { salt: string }): Rewritten {
  const tree = parse(sql);
  if (!('SelectStmt' in tree)) throw new RefusedStatement('statement', `Only SELECT passes; this is ${kindInWords(tree)}.`);
  const rewriting = new Rewriting(lookup, options.salt);
  const rewritten: Node = { SelectStmt: rewriting.select(tree.SelectStmt, new Map()) };
  const text = deparseSync(rewritten);
  // The text is read again: had the writer of SQL changed its meaning, the two trees would differ, and nothing is run.
  if (withoutPlaces(parse(text)) !== withoutPlaces(rewritten)) throw new RefusedStatement('construct', 'This statement cannot be written back without changing it. Simplify it.');
  return { sql: text, tables: [...rewriting.used.values()] };
}

function parse(sql: string): Node {
  try {
    return parseOne(sql);
  } catch (error) {
    const reason = parserReason(error);
    throw new RefusedStatement(reason.startsWith('Exactly one') ? 'statement' : 'syntax', reason);
  }
}

const kindInWords = (tree: Node): string =>
  (Object.keys(tree)[0] ?? 'nothing')
    .replace(/Stmt$/, '')
    .replace(/(?<=[a-z])([A-Z])/g, ' $1')
    .toUpperCase();

/** The tree as text, without the places in the text that parsers note and writers cannot keep. */
function withoutPlaces(tree: Node): string {
  return JSON.stringify(tree, (key, value: unknown) => {
    if (['location', 'list_start', 'list_end', 'rexpr_list_start', 'rexpr_list_end', 'stmt_location', 'stmt_len', 'funcformat', 'typemod'].includes(key)) return undefined;
    if (value && typeof value === 'object' && !Array.isArray(value)) {
      return Object.fromEntries(Object.entries(value).sort(([a], [b]) => (a < b ? -1 : 1)));
    }
    return value;
  });
}

class Rewriting {
  readonly used = new Map<string, TableDecision>();
  readonly #lookup: TableLookup;
  readonly #salt: string;
  #ctes = 0;

  constructor(lookup: TableLookup, salt: string) {
    this.#lookup = lookup;
    this.#salt = salt;
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
      const query = cte.ctequery;
      if (!query || !('SelectStmt' in query)) throw new RefusedStatement('construct', 'Only SELECT may stand in WITH.');
      this.#checkFields('CommonTableExpr', { ...cte });
      ctes.push({ CommonTableExpr: { ...cte, ctename: renamed, ctequery: { SelectStmt: this.select(query.SelectStmt, names) } } });
      names.set(cte.ctename ?? '', renamed);
    }
    const body = this.#fields('SelectStmt', { ...rest }, names);
    return { ...body, ...(withClause ? { withClause: { ...withClause, ctes } } : {}) } as SelectStmt;
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
    this.#checkMeaning(kind, body);
    return Object.fromEntries(Object.entries(body).map(([key, value]) => [key, this.#value(kind, key, value, names)]));
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
    if (kind === 'RangeVar') return this.#relation(body as RangeVar, names);
    return { [kind]: this.#fields(kind, body, names) } as unknown as Node;
  }

  #checkMeaning(kind: string, body: Body): void {
    if (kind === 'FuncCall') {
      const called = namesIn(body.funcname);
      const name = called.at(-1) ?? '';
      const plain = called.length === 1 || (called.length === 2 && called[0] === 'pg_catalog');
      if (!plain || !PERMITTED_FUNCTIONS.has(name)) throw new RefusedStatement('function', `The function ${called.join('.')} may not be called through the gateway.`);
    }
    if (kind === 'TypeName') {
      const named = namesIn(body.names);
      const plain = named.length === 1 || (named.length === 2 && named[0] === 'pg_catalog');
      if (!plain || !PERMITTED_TYPES.has(named.at(-1) ?? '')) throw new RefusedStatement('type', `Values may not be turned into ${named.join('.')} through the gateway.`);
    }
    if ((kind === 'A_Expr' || kind === 'SubLink') && namesIn(body.name ?? body.operName).length > 1 && namesIn(body.name ?? body.operName)[0] !== 'pg_catalog') {
      throw new RefusedStatement('function', 'Operators of other schemas may not be used through the gateway.');
    }
    if (kind === 'CollateClause' && namesIn(body.collname).length > 1 && namesIn(body.collname)[0] !== 'pg_catalog') throw this.#refuse('A collation of another schema');
    if (kind === 'SQLValueFunction' && !PERMITTED_VALUE_FUNCTIONS.has(String(body.op))) {
      throw new RefusedStatement('function', 'Who is connected and to what may not be asked through the gateway.');
    }
  }

  #relation(range: RangeVar, names: CteNames): Node {
    this.#checkFields('RangeVar', { ...range });
    const name = range.relname ?? '';
    const alias = range.alias ?? { aliasname: name };
    this.#checkFields('Alias', { ...alias });
    const renamed = range.schemaname ? undefined : names.get(name);
    if (renamed) return { RangeVar: { ...range, relname: renamed, alias } };
    const written = [range.schemaname, name].filter(Boolean).join('.');
    const decision = this.#lookup(range.schemaname, name);
    if (decision === 'ambiguous') throw new RefusedStatement('unknown-table', `Several schemas have a table ${written}: write the schema before it.`);
    if (!decision) throw new RefusedStatement('unknown-table', `${written} is not a table or view in the catalog.`);
    this.used.set(decision.tableId, decision);
    if (decision.access === 'no') throw new RefusedStatement('no-access', `${decision.schema}.${decision.name} may not be read${because(decision)}.`);
    return { RangeSubselect: { subquery: this.#permittedPart(decision), alias } };
  }

  #permittedPart(table: TableDecision): Node {
    const columns = table.columns.filter((column) => column.access !== 'refused').map((column) => `${maskedExpression(column, this.#salt)} AS ${quoteIdentifier(column.name)}`);
    // OFFSET 0 keeps PostgreSQL from moving a reader's condition below the row limit, where it would see rows that are not to be seen.
    const rows = table.rowLimits.length > 0 ? ` WHERE ${table.rowLimits.map(rowCondition).join(' AND ')} OFFSET 0` : '';
    return parseOne(`SELECT ${columns.join(', ')} FROM ${quoteIdentifier(table.schema)}.${quoteIdentifier(table.name)}${rows}`);
  }
}

const namesIn = (nodes: unknown): string[] => (Array.isArray(nodes) ? (nodes as Node[]) : []).flatMap((node) => ('String' in node ? [node.String.sval ?? ''] : []));

function because(decision: TableDecision): string {
  const policies = [...new Set(decision.columns.flatMap((column) => column.reasons.map((reason) => reason.policy)))];
  return policies.length > 0 ? `: denied by ${policies.map((name) => `“${name}”`).join(', ')}` : ': no policy allows it';
}
