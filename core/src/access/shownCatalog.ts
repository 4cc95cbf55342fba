import type { A_Const, FuncCall, Node, RangeVar, ResTarget } from '@pgsql/types';
import { Deparser } from 'pgsql-deparser';
import { namedIn, parseOne, parserReason } from '../sql/index.ts';
import { quoteText } from './masks.ts';
import { PERMITTED_NODES, PERMITTED_TYPES, PERMITTED_VALUE_FUNCTIONS } from './permitted.ts';
import { RefusedStatement } from './refused.ts';
import { Shown, type ShownCatalog } from './shownRows.ts';

/** Relations of which PostgreSQL's own rows are the same everywhere: those, and none of the source's. */
const BUILT_IN: ReadonlySet<string> = new Set([
  'pg_type',
  'pg_am',
  'pg_collation',
  'pg_operator',
  'pg_language',
  'pg_range',
  'pg_cast',
]);

/** What functions of the catalog are answered with, as SQL; whatever they are asked. */
const ANSWERED: ReadonlyMap<string, string> = new Map(
  Object.entries({
    ...Object.fromEntries(
      'pg_table_is_visible pg_type_is_visible pg_function_is_visible pg_operator_is_visible pg_opclass_is_visible pg_collation_is_visible has_table_privilege has_schema_privilege has_column_privilege has_any_column_privilege has_database_privilege'
        .split(' ')
        .map((name) => [name, 'true']),
    ),
    ...Object.fromEntries(
      'pg_is_in_recovery pg_relation_is_publishable has_sequence_privilege has_function_privilege pg_has_role pg_is_other_temp_schema row_security_active'
        .split(' ')
        .map((name) => [name, 'false']),
    ),
    ...Object.fromEntries(
      'pg_get_expr pg_get_indexdef pg_get_constraintdef pg_get_viewdef pg_get_functiondef pg_get_triggerdef pg_get_ruledef pg_get_partkeydef pg_get_statisticsobjdef obj_description col_description shobj_description pg_get_serial_sequence pg_tablespace_location pg_get_function_result pg_get_function_arguments pg_get_function_identity_arguments'
        .split(' ')
        .map((name) => [name, 'CAST(NULL AS text)']),
    ),
    ...Object.fromEntries(
      'pg_relation_size pg_total_relation_size pg_table_size pg_indexes_size pg_database_size'
        .split(' ')
        .map((name) => [name, 'CAST(NULL AS bigint)']),
    ),
    pg_encoding_to_char: "'UTF8'",
    version: "'PostgreSQL 15.0 (Idrel)'",
    pg_backend_pid: '0',
    pg_my_temp_schema: 'CAST(0 AS oid)',
    pg_postmaster_start_time: 'CAST(NULL AS timestamptz)',
    inet_server_addr: 'CAST(NULL AS inet)',
    inet_server_port: 'CAST(NULL AS integer)',
    txid_current: 'CAST(0 AS bigint)',
  }),
);
/** Functions that only compute with what they are given. */
const COMPUTES: ReadonlySet<string> = new Set(
  'format_type array_to_string array_agg string_agg array_length array_upper array_lower array_position cardinality unnest generate_series generate_subscripts quote_ident quote_literal format concat concat_ws lower upper length substring substr replace strpos position btrim trim ltrim rtrim split_part regexp_replace regexp_match regexp_matches count min max sum bool_or bool_and row_number rank nullif coalesce pg_size_pretty to_char int4 int8 text left right overlay json_agg json_build_object jsonb_agg jsonb_build_object array_cat array_append array_remove pg_char_to_encoding information_schema._pg_expandarray _pg_expandarray'.split(
    ' ',
  ),
);
/** Types whose texts are looked up in the source's catalog: they are told as texts instead. */
const LOOKED_UP = /^reg(class|type|proc|procedure|oper|operator|namespace|role|collation)$/;

/** A fragment of SQL as the node of an expression. */
function expression(sql: string): Node {
  const tree = parseOne(`SELECT ${sql}`);
  const target = 'SelectStmt' in tree ? tree.SelectStmt.targetList?.[0] : undefined;
  if (!target || !('ResTarget' in target) || !target.ResTarget.val) throw new Error(`${sql} is no expression`);
  return target.ResTarget.val;
}
const texts = (nodes: readonly Node[] | undefined): string[] =>
  (nodes ?? []).flatMap((node) => ('String' in node ? [node.String.sval ?? ''] : []));
const textIn = (node: Node | undefined): string | undefined =>
  node && 'A_Const' in node
    ? ((node.A_Const as A_Const & { sval?: { sval?: string } }).sval?.sval ?? undefined)
    : undefined;

/** Whether a name is one of the catalog's: of its schemas, or, without a schema, of its kind. */
const isOfCatalog = (schema: string | undefined, name: string): boolean =>
  schema === 'pg_catalog' || schema === 'information_schema' || (schema === undefined && /^pg_[a-z_]+$/.test(name));

/** Words without which a statement asks nothing of a catalog: a look at the text that saves one at its tree. */
/** Longer ones are no questions of programs about a catalog. */
const LONGEST = 20_000;
const MAY_ASK = /pg_|information_schema|version|current_|session_user|\buser\b|privilege|regclass/i;

/**
 * A statement that asks the catalog of a database (`pg_catalog`, `information_schema`, who is connected and to what), as it is answered: from what the reader is
 * shown, as constants in it. Of the source's own catalog nothing is read but what every PostgreSQL has.
 *
 * @param shown what the reader is shown; asked for where the statement asks for a catalog, with whether it asks for more than who is connected and to what
 * @returns SQL for the source, whose search path must be `pg_catalog` alone; null for a statement that asks nothing of a catalog
 * @throws {RefusedStatement} when it asks for more than is answered
 */
export async function rewriteCatalog(
  sql: string,
  shown: (tables: boolean) => Promise<ShownCatalog>,
): Promise<string | null> {
  if (sql.length > LONGEST || !MAY_ASK.test(sql)) return null;
  let tree: Node;
  try {
    tree = parseOne(sql);
  } catch {
    return null; // told by whoever reads statements
  }
  if (!('SelectStmt' in tree)) return null;
  const { relations, own } = namedIn(tree);
  const others = relations.filter(({ schema, name }) => schema !== undefined || !own.has(name));
  if (others.length === 0 ? !asksWho(tree) : !others.every(({ schema, name }) => isOfCatalog(schema, name)))
    return null;
  const asking = new Asking(new Shown(await shown(others.length > 0 || OF_TABLES.test(sql))), own, numbersIn(tree));
  try {
    const answered = asking.node(tree) as Node;
    const text = Deparser.deparse(answered, { pretty: false });
    // Read again: what was written must name the same relations and functions, and hold the same values.
    if (printed(parseOne(text)) !== printed(answered)) throw new Error('it cannot be written back without changing it');
    return text;
  } catch (error) {
    if (error instanceof RefusedStatement) throw error;
    throw new RefusedStatement('construct', `This question about the catalog is not answered: ${parserReason(error)}.`);
  }
}

/** All that a statement names and holds, in the order of its tree. */
function printed(tree: Node): string {
  const out: string[] = [];
  const look = (value: unknown): void => {
    if (Array.isArray(value)) for (const one of value) look(one);
    else if (value && typeof value === 'object')
      for (const [key, inner] of Object.entries(value)) {
        if (key === 'RangeVar')
          out.push(`relation ${(inner as RangeVar).schemaname ?? ''}.${(inner as RangeVar).relname}`);
        else if (key === 'funcname') out.push(`function ${texts(inner as Node[]).at(-1)}`);
        else if (key === 'sval' && typeof inner === 'object')
          out.push(`text ${(inner as { sval?: string }).sval ?? ''}`);
        look(inner);
      }
  };
  look(tree);
  return out.sort().join('\n');
}

/** Whether it asks who is connected and to what. */
function asksWho(tree: Node): boolean {
  let found = false;
  const look = (value: unknown): void => {
    if (found || value === null || typeof value !== 'object') return;
    if (Array.isArray(value)) {
      for (const one of value) look(one);
      return;
    }
    for (const [key, inner] of Object.entries(value)) {
      if (key === 'SQLValueFunction' && !PERMITTED_VALUE_FUNCTIONS.has(String((inner as { op?: string }).op)))
        found = true;
      if (key === 'FuncCall') {
        const name = texts((inner as FuncCall).funcname).at(-1) ?? '';
        if (ANSWERED.has(name) || OF_SESSION.has(name)) found = true;
      }
      look(inner);
    }
  };
  look(tree);
  return found;
}
const OF_SESSION: ReadonlySet<string> = new Set([
  'current_database',
  'current_schema',
  'current_schemas',
  'pg_get_userbyid',
  'current_setting',
  'to_regclass',
]);

/** Numbers of tables that a statement names: only columns of these are written into it. */
function numbersIn(tree: Node): ReadonlySet<number> | null {
  const found = new Set<number>();
  const look = (value: unknown): void => {
    if (Array.isArray(value)) for (const one of value) look(one);
    else if (value && typeof value === 'object')
      for (const [key, inner] of Object.entries(value)) {
        if (key === 'A_Const') {
          const { sval, fval, ival } = inner as {
            sval?: { sval?: string };
            fval?: { fval?: string };
            ival?: { ival?: number };
          };
          const number = Number(sval?.sval ?? fval?.fval ?? ival?.ival);
          if (number >= 0x8000_0000 && number <= 0xffff_ffff) found.add(number);
        } else look(inner);
      }
  };
  look(tree);
  return found.size > 0 ? found : null;
}

/** Words without which a question names no schema and no table. */
const OF_TABLES = /current_schema|regclass/i;

class Asking {
  readonly #shown: Shown;
  readonly #own: ReadonlySet<string>;
  readonly #only: ReadonlySet<number> | null;

  constructor(shown: Shown, own: ReadonlySet<string>, only: ReadonlySet<number> | null) {
    this.#shown = shown;
    this.#own = own;
    this.#only = only;
  }

  /** A node with what it asks answered in it. */
  node(value: unknown): unknown {
    if (value === null || typeof value !== 'object') return value;
    if (Array.isArray(value)) return value.map((one) => this.node(one));
    const entries = Object.entries(value);
    const [kind, body] = entries[0] ?? [];
    if (entries.length === 1 && kind && /^[A-Z]/.test(kind)) {
      if (!PERMITTED_NODES.has(kind) && kind !== 'ParamRef')
        throw new RefusedStatement('construct', `${kind} is not permitted in a question about the catalog.`);
      if (kind === 'ResTarget') return { ResTarget: this.#target(body as ResTarget) };
      if (kind === 'RangeVar') return this.#relation(body as RangeVar);
      if (kind === 'FuncCall') return this.#call(body as FuncCall);
      if (kind === 'SQLValueFunction') return this.#who(body as { op?: string });
      if (kind === 'TypeCast') return this.#cast(body as { arg?: Node; typeName?: { names?: Node[] } });
      if (kind === 'A_Expr') this.#mustBePlain(texts((body as { name?: Node[] }).name), 'operator');
    }
    return Object.fromEntries(entries.map(([key, inner]) => [key, this.node(inner)]));
  }

  /** What is shown keeps the name that it would have had. */
  #target(target: ResTarget): object {
    const { val } = target;
    const name =
      target.name ??
      (val && 'FuncCall' in val
        ? texts(val.FuncCall.funcname).at(-1)
        : val && 'SQLValueFunction' in val
          ? String(val.SQLValueFunction.op).replace('SVFOP_', '').toLowerCase()
          : val && 'TypeCast' in val && !('ColumnRef' in (val.TypeCast.arg ?? {}))
            ? texts(val.TypeCast.typeName?.names).at(-1)
            : undefined);
    return { ...target, ...(name === undefined ? {} : { name }), val: this.node(val) };
  }

  #mustBePlain(names: readonly string[], what: string): void {
    if (names.length > 1 && names[0] !== 'pg_catalog')
      throw new RefusedStatement('construct', `The ${what} ${names.join('.')} is none of PostgreSQL's own.`);
  }

  #relation(range: RangeVar): Node {
    const name = range.relname ?? '';
    if (range.schemaname === undefined && this.#own.has(name)) return { RangeVar: range };
    const schema = range.schemaname ?? 'pg_catalog';
    const full = `${schema}.${name}`;
    if (!/^[a-z_]+$/.test(name)) throw new RefusedStatement('unknown-table', `${full} is no relation of the catalog.`);
    const rows = this.#shown.rowsOf(full, this.#only);
    const query =
      rows !== null
        ? `SELECT * FROM json_populate_recordset(CAST(NULL AS ${schema}.${name}), ${quoteText(JSON.stringify(rows))})`
        : schema === 'pg_catalog' && BUILT_IN.has(name)
          ? `SELECT * FROM ${full} WHERE ${name === 'pg_range' ? 'rngtypid' : 'oid'} < 16384`
          : `SELECT * FROM ${full} WHERE false`;
    return { RangeSubselect: { subquery: parseOne(query), alias: range.alias ?? { aliasname: name } } };
  }

  #call(call: FuncCall): unknown {
    const names = texts(call.funcname);
    const name = names.at(-1) ?? '';
    if (names.length > 1 && names[0] !== 'pg_catalog' && names[0] !== 'information_schema')
      throw new RefusedStatement('function', `${names.join('.')} is none of PostgreSQL's own functions.`);
    const answered =
      ANSWERED.get(name) ?? (/^pg_get_\w+$/.test(name) && !OF_SESSION.has(name) ? 'CAST(NULL AS text)' : undefined);
    if (answered !== undefined) return expression(answered);
    switch (name) {
      case 'current_database':
        return expression(`CAST(${quoteText(this.#shown.database)} AS name)`);
      case 'current_schema':
        return expression(`CAST(${quoteText(this.#shown.schemas[0] ?? 'public')} AS name)`);
      case 'current_schemas':
        return expression(`CAST(ARRAY[${this.#shown.schemas.map(quoteText).join(', ') || "'public'"}] AS name[])`);
      case 'pg_get_userbyid':
        return expression("CAST('idrel' AS name)");
      case 'to_regclass':
        return this.#number(textIn(call.args?.[0]));
      case 'current_setting': {
        const setting = textIn(call.args?.[0])?.toLowerCase() ?? '';
        return expression(setting === 'server_version_num' ? "'150000'" : 'CAST(NULL AS text)');
      }
    }
    if (!COMPUTES.has(name))
      throw new RefusedStatement('function', `${name} is not answered in a question about the catalog.`);
    return {
      FuncCall: Object.fromEntries(
        Object.entries(call).map(([key, inner]) => [key, key === 'funcname' ? inner : this.node(inner)]),
      ),
    };
  }

  #who({ op = '' }: { op?: string }): unknown {
    if (PERMITTED_VALUE_FUNCTIONS.has(op)) return { SQLValueFunction: { op } };
    if (op === 'SVFOP_CURRENT_CATALOG') return expression(`CAST(${quoteText(this.#shown.database)} AS name)`);
    if (op === 'SVFOP_CURRENT_SCHEMA')
      return expression(`CAST(${quoteText(this.#shown.schemas[0] ?? 'public')} AS name)`);
    return expression(`CAST(${quoteText(this.#shown.user)} AS name)`);
  }

  #number(name: string | undefined): unknown {
    const number = name === undefined ? null : this.#shown.tableNumber(name);
    return expression(number === null ? 'CAST(NULL AS oid)' : `CAST(${number} AS oid)`);
  }

  #cast({ arg, typeName, ...rest }: { arg?: Node; typeName?: { names?: Node[] } }): unknown {
    const names = texts(typeName?.names);
    const type = names.at(-1) ?? '';
    this.#mustBePlain(names, 'type');
    if (LOOKED_UP.test(type)) {
      const constant = textIn(arg);
      if (type === 'regclass' && constant !== undefined && !/^\d+$/.test(constant)) return this.#number(constant);
      return { TypeCast: { arg: this.node(arg), typeName: { names: [{ String: { sval: 'text' } }], typemod: -1 } } };
    }
    if (!PERMITTED_TYPES.has(type)) throw new RefusedStatement('type', `The type ${type} is not permitted here.`);
    return { TypeCast: { ...rest, arg: this.node(arg), typeName } };
  }
}
