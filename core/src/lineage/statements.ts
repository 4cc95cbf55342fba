import type { Node, RangeVar } from '@pgsql/types';
import type { ParsedStatement } from '../sql/index.ts';
import { parseScript } from '../sql/index.ts';
import { applyDefinition } from './definitions.ts';
import { readAsInfluence, readExpression } from './expression.ts';
import { readFrom } from './from.ts';
import { textsOf } from './nodes.ts';
import { combineInfluences } from './provenance.ts';
import { addCtes, readQuery } from './query.ts';
import type { SchemaCatalog } from './schema.ts';
import { type Derived, Scope } from './scope.ts';
import type { Trace } from './trace.ts';
import { columnName, type Influence, type StatementLineage, type Unresolved, type ValueEdge } from './types.ts';

/** What a script says about lineage, in the order of its statements. */
export interface ScriptLineage {
  readonly statements: readonly StatementLineage[];
  readonly unresolved: readonly Unresolved[];
}

const shorten = (text: string) => (text.length > 200 ? `${text.slice(0, 199)}…` : text);

function newTrace(catalog: SchemaCatalog): Trace {
  const trace: Trace = {
    catalog,
    mentioned: new Set(),
    wholeRow: new Set(),
    problems: new Set(),
    query: (node, scope) => readQuery(trace, node, scope),
  };
  return trace;
}

type Made = Omit<StatementLineage, 'statement' | 'line'>;

/** Turns what a query reads into edges to the columns of a target. */
function toLineage(trace: Trace, derived: Derived, kind: Made['kind'], target: Made['target'], names: readonly string[]): Made {
  const edges: ValueEdge[] = [];
  const used = new Set<string>();
  const rowOnly = (id: string) => (trace.wholeRow.has(id) && !trace.mentioned.has(id) ? { wholeRow: true as const } : {});
  const columns = derived.columns.map((column, index) => names[index] ?? column.name);
  derived.columns.forEach((column, index) => {
    for (const [id, valueKind] of column.provenance.values) {
      used.add(id);
      edges.push({ from: columnName(id), to: columns[index] ?? column.name, kind: valueKind, ...rowOnly(id) });
    }
  });
  const influences: Influence[] = [];
  const decided = combineInfluences([derived.rows, ...derived.columns.map((column) => column.provenance.influences)]);
  for (const [id, kinds] of decided) {
    used.add(id);
    for (const influence of kinds) influences.push({ from: columnName(id), kind: influence, ...rowOnly(id) });
  }
  for (const id of trace.mentioned) if (!used.has(id)) influences.push({ from: columnName(id), kind: 'unused' });
  return { kind, target, columns, edges, influences };
}

function targetOf(catalog: SchemaCatalog, range: RangeVar | undefined): { schema: string; relation: string } {
  const name = range?.relname ?? '';
  return { schema: range?.schemaname ?? catalog.relation(undefined, name)?.schema ?? catalog.defaultSchema, relation: name };
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

function readStatement({ trace, catalog, nextQuery }: Reading, node: Node): Made | undefined {
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
  if ('InsertStmt' in node) return readInsert(trace, catalog, node.InsertStmt, scope);
  if ('UpdateStmt' in node) return readUpdate(trace, catalog, node.UpdateStmt, scope);
  return undefined;
}

function created(trace: Trace, catalog: SchemaCatalog, derived: Derived, kind: Made['kind'], range: RangeVar | undefined, names: string[]): Made {
  const target = newTarget(catalog, range);
  const made = toLineage(trace, derived, kind, target, names);
  catalog.addRelation({ schema: target.schema, name: target.relation, columns: made.columns });
  return made;
}

function readInsert(trace: Trace, catalog: SchemaCatalog, insert: Extract<Node, { InsertStmt: unknown }>['InsertStmt'], scope: Scope): Made | undefined {
  addCtes(trace, insert.withClause, scope);
  if (!insert.selectStmt) return undefined; // DEFAULT VALUES
  const target = targetOf(catalog, insert.relation);
  const listed = (insert.cols ?? []).flatMap((col) => ('ResTarget' in col && col.ResTarget.name ? [col.ResTarget.name] : []));
  const known = catalog.relation(target.schema, target.relation);
  if (listed.length === 0 && !known) trace.problems.add(`the columns of ${target.schema}.${target.relation} are not known: those of the query are taken`);
  return toLineage(trace, readQuery(trace, insert.selectStmt, scope), 'insert', target, listed.length > 0 ? listed : (known?.columns ?? []));
}

function readUpdate(trace: Trace, catalog: SchemaCatalog, update: Extract<Node, { UpdateStmt: unknown }>['UpdateStmt'], scope: Scope): Made {
  addCtes(trace, update.withClause, scope);
  const target = targetOf(catalog, update.relation);
  const own: Node[] = update.relation ? [{ RangeVar: update.relation }] : [];
  const rows = [readFrom(trace, [...own, ...(update.fromClause ?? [])], scope), readAsInfluence(trace, [update.whereClause], scope, 'filter')];
  const columns = (update.targetList ?? []).flatMap((node) => {
    if (!('ResTarget' in node) || !node.ResTarget.name) return [];
    const value = node.ResTarget.val;
    const source = value && 'MultiAssignRef' in value ? value.MultiAssignRef.source : value;
    return [{ name: node.ResTarget.name, provenance: readExpression(trace, source, scope) }];
  });
  return toLineage(trace, { columns, rows: combineInfluences(rows) }, 'update', target, []);
}

/** Statements that change data or define code, whose lineage is not read: they are said, not passed over. */
const NOT_READ: Readonly<Record<string, string>> = {
  MergeStmt: 'MERGE is not traced',
  DoStmt: 'the body of a DO block is not traced',
  CreateFunctionStmt: 'the body of a function is not traced',
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
  const { statements, rejected } = parseScript(sql);
  const unresolved: Unresolved[] = rejected.map((piece) => ({ statement: shorten(piece.text), line: piece.line, reason: piece.reason }));
  const read: StatementLineage[] = [];
  let queries = 0;
  for (const parsed of statements) {
    const outcome = readOne(parsed, catalog, () => {
      queries += 1;
      return queries;
    });
    if (outcome.lineage) read.push(outcome.lineage);
    unresolved.push(...outcome.unresolved);
  }
  return { statements: read, unresolved: unresolved.sort((a, b) => a.line - b.line) };
}

function readOne(parsed: ParsedStatement, catalog: SchemaCatalog, nextQuery: () => number): { lineage?: StatementLineage; unresolved: Unresolved[] } {
  const trace = newTrace(catalog);
  const say = (reason: string): Unresolved => ({ statement: shorten(parsed.text), line: parsed.line, reason });
  const kind = Object.keys(parsed.node)[0] ?? '';
  const notRead = NOT_READ[kind];
  if (notRead) return { unresolved: [say(notRead)] };
  if (applyDefinition(catalog, parsed.node)) return { unresolved: [] };
  const made = readStatement({ trace, catalog, nextQuery }, parsed.node);
  const unresolved = [...trace.problems].map(say);
  return made ? { lineage: { ...made, statement: parsed.text, line: parsed.line }, unresolved } : { unresolved };
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
  const [rejected] = parsed.rejected;
  if (rejected) throw new Error(rejected.reason);
  const [statement] = parsed.statements;
  if (!statement) throw new Error('the definition is empty');
  const trace = newTrace(catalog);
  const derived = readQuery(trace, statement.node, new Scope());
  const made = toLineage(trace, derived, target.kind, { schema: target.schema, relation: target.relation }, target.columns);
  return { lineage: { ...made, statement: statement.text, line: statement.line }, problems: [...trace.problems] };
}
