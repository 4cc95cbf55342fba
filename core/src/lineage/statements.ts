import type { CreateFunctionStmt, Node, RangeVar, RuleStmt } from '@pgsql/types';
import type { ParsedStatement } from '../sql/index.ts';
import { parseScript, readMariaScript } from '../sql/index.ts';
import { applyDefinition, learnFunction } from './definitions.ts';
import { type Made, toLineage } from './made.ts';
import { textOf, textsOf } from './nodes.ts';
import { nothing } from './provenance.ts';
import { readQuery } from './query.ts';
import type { SchemaCatalog } from './schema.ts';
import { type Derived, relationColumn, relationColumns, Scope } from './scope.ts';
import type { Trace } from './trace.ts';
import type { StatementLineage, Unresolved } from './types.ts';
import { readAttached, readTableOf, readWithin, readWrite } from './writes.ts';

/** What a script says about lineage, in the order of its statements. */
export interface ScriptLineage {
  readonly statements: readonly StatementLineage[];
  readonly unresolved: readonly Unresolved[];
  /** Statements of the script that were read, lineage or not. */
  readonly read: number;
}

const shorten = (text: string) => (text.length > 200 ? `${text.slice(0, 199)}…` : text);

function newTrace(catalog: SchemaCatalog): Trace {
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

/** A new relation goes to its own schema or to the default one, whatever else has its name. */
const newTarget = (catalog: SchemaCatalog, range: RangeVar | undefined) => ({
  schema: range?.schemaname ?? catalog.defaultSchema,
  relation: range?.relname ?? '',
});

interface Reading {
  readonly trace: Trace;
  readonly catalog: SchemaCatalog;
  /** Number of plain SELECTs so far: they have no target of their own and are named after it. */
  readonly nextQuery: () => number;
}

function readStatement(reading: Reading, node: Node): Made | undefined {
  const { trace, catalog, nextQuery } = reading;
  const scope = new Scope();
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
  if ('ExplainStmt' in node && node.ExplainStmt.query) return readStatement(reading, node.ExplainStmt.query);
  if ('PrepareStmt' in node && node.PrepareStmt.query) return readStatement(reading, node.PrepareStmt.query);
  if ('DeclareCursorStmt' in node && node.DeclareCursorStmt.query)
    return readStatement(reading, node.DeclareCursorStmt.query);
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
  const target = newTarget(catalog, range);
  const made = toLineage(trace, derived, kind, target, names);
  catalog.addRelation({ schema: target.schema, name: target.relation, columns: made.columns });
  return made;
}

/** Statements that change data or define code, whose lineage is not read: they are said, not passed over. */
const NOT_READ: Readonly<Record<string, string>> = {
  DoStmt: 'the body of a DO block is not traced',
  CreateFunctionStmt: 'the body of a function in this language is not traced',
  CopyStmt: 'COPY moves data between a table and a file; the file side is not known',
  CallStmt: 'what a procedure does is not traced',
  ExecuteStmt: 'what a prepared statement does is not traced',
};

/**
 * Reads a script: every SELECT, CREATE VIEW, CREATE [MATERIALIZED VIEW | TABLE] AS, SELECT INTO, INSERT … SELECT and UPDATE gives its lineage;
 * CREATE TABLE, ALTER TABLE and DROP keep the catalog as the script goes, so that later statements know what earlier ones made.
 *
 * @param sql the script; {@link loadParser} must have finished
 * @param catalog relations known before the script; it is added to
 */
export function readScript(sql: string, catalog: SchemaCatalog): ScriptLineage {
  const { statements, rejected } = parseScript(sql, catalog.dialect === 'mariadb' ? readMariaScript : undefined);
  const unresolved: Unresolved[] = rejected.map((piece) => ({
    statement: shorten(piece.text),
    line: piece.line,
    reason: piece.reason,
    lost: piece.lost,
  }));
  const read: StatementLineage[] = [];
  let queries = 0;
  for (const parsed of statements) {
    const outcome = readOne(parsed, catalog, () => {
      queries += 1;
      return queries;
    });
    read.push(...outcome.lineages);
    unresolved.push(...outcome.unresolved);
  }
  return { statements: read, unresolved: unresolved.sort((a, b) => a.line - b.line), read: statements.length };
}

/** The statements in the body of an SQL function; undefined for one in another language, whose body is not read. */
function bodyOf({ options = [], sql_body: body }: CreateFunctionStmt): readonly Node[] | undefined {
  if (body) {
    if ('ReturnStmt' in body && body.ReturnStmt.returnval)
      return [
        {
          SelectStmt: {
            targetList: [{ ResTarget: { val: body.ReturnStmt.returnval } }],
            op: 'SETOP_NONE',
            limitOption: 'LIMIT_OPTION_DEFAULT',
          },
        },
      ];
    const lists = 'List' in body ? (body.List.items ?? []) : [];
    return lists.flatMap((item) => ('List' in item ? (item.List.items ?? []) : [item]));
  }
  const option = (name: string) =>
    options.flatMap((entry) =>
      'DefElem' in entry && entry.DefElem.defname === name && entry.DefElem.arg ? [entry.DefElem.arg] : [],
    )[0];
  const language = textOf(option('language'));
  const text = option('as');
  if (language?.toLowerCase() !== 'sql' || !text || !('List' in text)) return undefined;
  const { statements, rejected } = parseScript(textsOf(text.List.items)[0] ?? '');
  return rejected.some((piece) => piece.lost) ? undefined : statements.map((statement) => statement.node);
}

/** What an SQL function does: what its statements write, and what its last query gives as its own columns. Values of parameters come from nowhere here. */
function readFunction(reading: Reading, create: CreateFunctionStmt, body: readonly Node[]): Made[] {
  const { trace, catalog } = reading;
  const names = textsOf(create.funcname);
  const target = { schema: names.at(-2) ?? catalog.defaultSchema, relation: names.at(-1) ?? '' };
  const around = new Scope();
  const parameters = (create.parameters ?? []).flatMap((parameter) =>
    'FunctionParameter' in parameter && parameter.FunctionParameter.name ? [parameter.FunctionParameter.name] : [],
  );
  const columns = parameters.map((name) => ({ name, provenance: nothing, base: [] }));
  around.namespace = { items: [{ alias: target.relation, columns }], columns };
  const given = catalog.functions(target.schema, target.relation).at(-1);
  const named =
    given?.columns ?? (given?.returns && catalog.relation(given.returns.schema, given.returns.relation)?.columns);
  return body.flatMap((node, index): Made[] => {
    if ('SelectStmt' in node && !node.SelectStmt.intoClause)
      return index < body.length - 1
        ? []
        : [toLineage(trace, readQuery(trace, node, around), 'function', target, named ?? [target.relation])];
    const written = readWrite(trace, node, new Scope(around));
    return written ? [written] : [];
  });
}

/** What a rule does for each row of its table: `new` is the row as it is to be, `old` as it is. A rule for SELECT makes its table a view. */
function readRule({ trace, catalog }: Reading, { relation, actions = [], event }: RuleStmt): Made[] {
  const name = relation?.relname ?? '';
  const known = catalog.relation(relation?.schemaname, name);
  const schema = known?.schema ?? relation?.schemaname ?? catalog.defaultSchema;
  const row = {
    columns: known ? relationColumns(known) : [],
    relation: { schema, name },
    ...(known ? {} : { other: (column: string) => relationColumn(schema, name, column) }),
  };
  const around = new Scope();
  around.namespace = { items: ['old', 'new'].map((alias) => ({ alias, ...row })), columns: [] };
  return actions.flatMap((node): Made[] => {
    if ('SelectStmt' in node)
      return event === 'CMD_SELECT'
        ? [
            toLineage(trace, readQuery(trace, node, around), 'view', { schema, relation: name }, [
              ...(known?.columns ?? []),
            ]),
          ]
        : [];
    const written = readWrite(trace, node, new Scope(around));
    return written ? [written] : [];
  });
}

function readOne(
  parsed: ParsedStatement,
  catalog: SchemaCatalog,
  nextQuery: () => number,
): { lineages: StatementLineage[]; unresolved: Unresolved[] } {
  const trace = newTrace(catalog);
  const say = (reason: string): Unresolved => ({
    statement: shorten(parsed.text),
    line: parsed.line,
    reason,
    lost: false,
  });
  const kind = Object.keys(parsed.node)[0] ?? '';
  learnFunction(catalog, parsed.node);
  const reading: Reading = { trace, catalog, nextQuery };
  if ('CreateFunctionStmt' in parsed.node) {
    const body = bodyOf(parsed.node.CreateFunctionStmt);
    const made = body && readFunction(reading, parsed.node.CreateFunctionStmt, body);
    if (made)
      return {
        lineages: [...trace.written, ...made].map((one) => ({ ...one, statement: parsed.text, line: parsed.line })),
        unresolved: [...trace.problems].map(say),
      };
  }
  if ('RuleStmt' in parsed.node)
    return {
      lineages: [...trace.written, ...readRule(reading, parsed.node.RuleStmt)].map((one) => ({
        ...one,
        statement: parsed.text,
        line: parsed.line,
      })),
      unresolved: [...trace.problems].map(say),
    };
  const notRead = NOT_READ[kind];
  if (notRead) return { lineages: [], unresolved: [say(notRead)] };
  if (applyDefinition(catalog, parsed.node) && !('CreateStmt' in parsed.node || 'AlterTableStmt' in parsed.node))
    return { lineages: [], unresolved: [] };
  const made = readStatement(reading, parsed.node);
  const unresolved = [...trace.problems].map(say);
  return {
    lineages: [...trace.written, ...(made ? [made] : [])].map((one) => ({
      ...one,
      statement: parsed.text,
      line: parsed.line,
    })),
    unresolved,
  };
}

/**
 * Lineage of one query that defines a relation whose column names are already known (a view read from a database's own catalog).
 *
 * @returns the lineage and what could not be settled; throws the parser's error when the text is not SQL
 */
export function readDefinition(
  sql: string,
  target: { schema: string; relation: string; columns: readonly string[]; kind: 'view' | 'materialised view' },
  catalog: SchemaCatalog,
): { lineage: StatementLineage; problems: readonly string[] } {
  const parsed = parseScript(sql);
  const [rejected] = parsed.rejected.filter((piece) => piece.lost);
  if (rejected) throw new Error(rejected.reason);
  const [statement] = parsed.statements;
  if (!statement) throw new Error('the definition is empty');
  const trace = newTrace(catalog);
  const derived = readQuery(trace, statement.node, new Scope());
  const made = toLineage(
    trace,
    derived,
    target.kind,
    { schema: target.schema, relation: target.relation },
    target.columns,
  );
  return { lineage: { ...made, statement: statement.text, line: statement.line }, problems: [...trace.problems] };
}
