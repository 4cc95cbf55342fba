import type { CreateFunctionStmt, RuleStmt } from '@pgsql/types';
import type { ParsedStatement } from '../sql/index.ts';
import { parseScript, readMariaScript } from '../sql/index.ts';
import { applyDefinition, learnFunction } from './definitions.ts';
import { readAsInfluence } from './expression.ts';
import { type Made, toLineage } from './made.ts';
import { textsOf } from './nodes.ts';
import { readQuery } from './query.ts';
import { newTrace, type Reading, readStatement, shorten } from './reading.ts';
import { attachedBy, isTrigger, type RoutineLineage, readDo, readRoutine } from './routine.ts';
import type { SchemaCatalog } from './schema.ts';
import { relationColumn, relationColumns, Scope } from './scope.ts';
import { throughTemporary } from './temporary.ts';
import type { StatementLineage, Unresolved } from './types.ts';
import { readWrite } from './writes.ts';

/** What a script says about lineage, in the order of its statements. */
export interface ScriptLineage {
  readonly statements: readonly StatementLineage[];
  readonly unresolved: readonly Unresolved[];
  /** Statements of the script that were read, lineage or not. */
  readonly read: number;
}

/** Statements that change data or define code, whose lineage is not read: they are said, not passed over. */
const NOT_READ: Readonly<Record<string, string>> = {
  CopyStmt: 'COPY moves data between a table and a file; the file side is not known',
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
  const triggers = new Triggers(catalog);
  let queries = 0;
  for (const parsed of statements) {
    const outcome =
      triggers.take(parsed) ??
      readOne(parsed, catalog, () => {
        queries += 1;
        return queries;
      });
    read.push(...outcome.lineages);
    unresolved.push(...outcome.unresolved);
  }
  const left = triggers.unattached();
  return {
    statements: throughTemporary([...read, ...left.lineages]),
    unresolved: [...unresolved, ...left.unresolved].sort((a, b) => a.line - b.line),
    read: statements.length,
  };
}

interface Outcome {
  readonly lineages: StatementLineage[];
  readonly unresolved: Unresolved[];
}

/** What the body of a routine does, by the lines of the script in which it stands. */
function placed({ statements, unresolved }: RoutineLineage, { text, line }: ParsedStatement): Outcome {
  const at = <T extends { readonly line: number }>(one: T): T => ({ ...one, line: line + one.line - 1 });
  return {
    lineages: statements.map((one) => at({ ...one, statement: one.statement || text })),
    unresolved: unresolved.map(at),
  };
}

/** Functions that run as triggers: what they do is known once it is known on which table. */
class Triggers {
  readonly #catalog: SchemaCatalog;
  readonly #made: { readonly parsed: ParsedStatement; readonly create: CreateFunctionStmt; attached: boolean }[] = [];

  constructor(catalog: SchemaCatalog) {
    this.#catalog = catalog;
  }

  /** Takes a statement that makes or attaches such a function; undefined for any other. */
  take(parsed: ParsedStatement): Outcome | undefined {
    const { node } = parsed;
    if ('CreateFunctionStmt' in node && isTrigger(node.CreateFunctionStmt)) {
      learnFunction(this.#catalog, node);
      this.#made.push({ parsed, create: node.CreateFunctionStmt, attached: false });
      return { lineages: [], unresolved: [] };
    }
    if (!('CreateTrigStmt' in node)) return undefined;
    const { table, routine } = attachedBy(node.CreateTrigStmt, this.#catalog);
    const found = this.#made.findLast(({ create }) => {
      const names = textsOf(create.funcname);
      return names.at(-1) === routine.name && (routine.schema === undefined || names.at(-2) === routine.schema);
    });
    if (!found) return { lineages: [], unresolved: [] };
    found.attached = true;
    return placed(readRoutine(found.create, found.parsed.text, this.#catalog, [table]), found.parsed);
  }

  unattached(): Outcome {
    const outcomes = this.#made
      .filter(({ attached }) => !attached)
      .map(({ create, parsed }) => placed(readRoutine(create, parsed.text, this.#catalog), parsed));
    return {
      lineages: outcomes.flatMap(({ lineages }) => lineages),
      unresolved: outcomes.flatMap(({ unresolved }) => unresolved),
    };
  }
}

/** What a rule does for each row of its table: `new` is the row as it is to be, `old` as it is. A rule for SELECT makes its table a view. */
function readRule({ trace, catalog }: Reading, { relation, actions = [], event, whereClause }: RuleStmt): Made[] {
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
    if (!written) return [];
    // Whether the rule holds for a row decides whether anything is written for it.
    const rows = readAsInfluence(trace, [whereClause], around, 'filter');
    const { influences } = toLineage(trace, { columns: [], rows }, written.kind, written.target, []);
    const holds = influences.filter(({ kind }) => kind !== 'unused');
    return [{ ...written, influences: [...written.influences, ...holds] }];
  });
}

function readOne(parsed: ParsedStatement, catalog: SchemaCatalog, nextQuery: () => number): Outcome {
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
  if ('CreateFunctionStmt' in parsed.node)
    return placed(readRoutine(parsed.node.CreateFunctionStmt, parsed.text, catalog), parsed);
  if ('DoStmt' in parsed.node) return placed(readDo(parsed.node.DoStmt, parsed.text, catalog), parsed);
  if ('RuleStmt' in parsed.node)
    return {
      lineages: [...trace.written, ...readRule(reading, parsed.node.RuleStmt)].map((one) => ({
        ...one,
        statement: parsed.text,
        line: parsed.line,
      })),
      unresolved: [...trace.problems].map(say),
    };
  // Procedures of PostgreSQL are read where they are defined: who calls one does nothing of their own.
  const notRead =
    kind === 'CallStmt' && catalog.dialect !== 'postgresql' ? 'what a procedure does is not traced' : NOT_READ[kind];
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
