import type { CreateFunctionStmt, CreateTrigStmt, DoStmt, Node } from '@pgsql/types';
import { optionOf, parseBody, parseOne, parseScript } from '../sql/index.ts';
import { type ReadBody, readBody, type Setting } from './body.ts';
import { toLineage } from './made.ts';
import { textOf, textsOf } from './nodes.ts';
import { nothing } from './provenance.ts';
import { readQuery } from './query.ts';
import { newTrace, readStatement, shorten } from './reading.ts';
import type { RelationName, SchemaCatalog } from './schema.ts';
import { Scope } from './scope.ts';
import { throughTemporary } from './temporary.ts';
import type { StatementLineage, Unresolved } from './types.ts';

/** What the body of a function, procedure or DO block does. Lines are those of the whole statement. */
export interface RoutineLineage extends ReadBody {
  /** How much of it could be read: all of its statements, or none of them since its language is not read. */
  readonly language: string;
}

const languageOf = (options: readonly Node[] | undefined): string =>
  (textOf(optionOf(options, 'language')) ?? 'plpgsql').toLowerCase();

/** The schemas in which a body looks for names: those it sets itself, else those given, then its own. */
function pathOf(create: CreateFunctionStmt, catalog: SchemaCatalog): readonly string[] {
  const own = textsOf(create.funcname).at(-2);
  const set = (create.options ?? []).flatMap((entry) =>
    'DefElem' in entry && entry.DefElem.defname === 'set' && entry.DefElem.arg && 'VariableSetStmt' in entry.DefElem.arg
      ? [entry.DefElem.arg.VariableSetStmt]
      : [],
  );
  const written = set.find((one) => one.name === 'search_path');
  const named = (written?.args ?? []).flatMap((arg) =>
    'A_Const' in arg && arg.A_Const.sval
      ? (arg.A_Const.sval.sval ?? '').split(',').map((name) => name.trim().replace(/^"(.*)"$/, '$1'))
      : [],
  );
  const path = named.length > 0 ? ['pg_catalog', ...named.filter((name) => name !== '')] : catalog.searchPath;
  return own === undefined || path.includes(own) ? path : [...path, own];
}

const targetOf = (create: CreateFunctionStmt, catalog: SchemaCatalog): RelationName => {
  const names = textsOf(create.funcname);
  return { schema: names.at(-2) ?? catalog.defaultSchema, relation: names.at(-1) ?? '' };
};

/** Whether it is written to run as a trigger. */
export const isTrigger = ({ returnType }: CreateFunctionStmt): boolean =>
  ['trigger', 'event_trigger'].includes(textsOf(returnType?.names).at(-1) ?? '');

/** The columns that a function gives, as far as they are known. */
function givesOf(catalog: SchemaCatalog, target: RelationName): readonly string[] {
  const given = catalog.functions(target.schema, target.relation).at(-1);
  return (
    given?.columns ??
    (given?.returns ? catalog.relation(given.returns.schema, given.returns.relation)?.columns : undefined) ??
    []
  );
}

/** Parameters of the type of a row. */
function rowsOf(create: CreateFunctionStmt, catalog: SchemaCatalog): Map<string, RelationName> {
  const rows = new Map<string, RelationName>();
  for (const node of create.parameters ?? []) {
    if (!('FunctionParameter' in node) || !node.FunctionParameter.name) continue;
    const names = textsOf(node.FunctionParameter.argType?.names);
    const known = catalog.relation(names.at(-2), names.at(-1) ?? '');
    if (known) rows.set(node.FunctionParameter.name, { schema: known.schema, relation: known.name });
  }
  return rows;
}

/**
 * What a function or procedure does when it runs: which columns its statements write from which, what decides their rows, and what comes back of it.
 * Bodies in SQL and PL/pgSQL are read; one in another language is said not to be.
 *
 * @param text the CREATE FUNCTION or CREATE PROCEDURE that was parsed
 * @param tables the tables on which it runs as a trigger
 */
export function readRoutine(
  create: CreateFunctionStmt,
  text: string,
  catalog: SchemaCatalog,
  tables: readonly RelationName[] = [],
): RoutineLineage {
  const language = languageOf(create.options);
  const inner = catalog.within(pathOf(create, catalog));
  const say = (reason: string): RoutineLineage => ({
    language,
    statements: [],
    unresolved: [{ statement: shorten(text), line: 1, reason, lost: true }],
    read: 0,
  });
  if (language === 'sql' || create.sql_body) return { language, ...readSqlBody(create, text, inner) };
  if (language !== 'plpgsql') return say(`the body of a function in this language (${language}) is not read`);
  const setting = {
    target: targetOf(create, catalog),
    gives: givesOf(inner, targetOf(create, catalog)),
    rows: rowsOf(create, inner),
  };
  return { language, ...readProcedural(text, inner, setting, tables) };
}

/** Reads a statement that defines a routine, as a database gives it. @throws the parser's error when it is none */
export function readRoutineText(
  text: string,
  catalog: SchemaCatalog,
  tables: readonly RelationName[] = [],
): RoutineLineage {
  const node = parseOne(text);
  if (!('CreateFunctionStmt' in node)) throw new Error('it is no function and no procedure');
  return readRoutine(node.CreateFunctionStmt, text, catalog, tables);
}

/** A block that is run as it stands. */
export function readDo({ args }: DoStmt, text: string, catalog: SchemaCatalog): RoutineLineage {
  const language = languageOf(args);
  if (language !== 'plpgsql')
    return {
      language,
      statements: [],
      unresolved: [
        {
          statement: shorten(text),
          line: 1,
          reason: `a DO block in this language (${language}) is not read`,
          lost: true,
        },
      ],
      read: 0,
    };
  const setting = { target: { schema: '', relation: '' }, gives: [], rows: new Map<string, RelationName>() };
  return { language, ...readProcedural(text, catalog.within(), setting) };
}

function readProcedural(
  text: string,
  catalog: SchemaCatalog,
  setting: Omit<Setting, 'table'>,
  tables: readonly RelationName[] = [],
): ReadBody {
  try {
    const body = parseBody(text);
    const parts =
      tables.length > 0
        ? tables.map((table) => readBody(body, catalog, { ...setting, table }))
        : [readBody(body, catalog, setting)];
    return together(parts);
  } catch (error) {
    const reason = error instanceof Error ? error.message : String(error);
    return {
      statements: [],
      unresolved: [{ statement: shorten(text), line: 1, reason: `the body cannot be read: ${reason}`, lost: true }],
      read: 0,
    };
  }
}

/** The same body read for several tables: what it says each time is said once. */
function together(parts: readonly ReadBody[]): ReadBody {
  const once = <T>(all: readonly T[]): T[] => [...new Map(all.map((one) => [JSON.stringify(one), one])).values()];
  return {
    statements: once(throughTemporary(parts.flatMap((part) => part.statements))),
    unresolved: once(parts.flatMap((part) => part.unresolved)),
    read: parts[0]?.read ?? 0,
  };
}

/** The statements in the body of an SQL function, and the line on which each stands. */
function bodyOf(
  { options, sql_body: body }: CreateFunctionStmt,
  text: string,
): { nodes: { node: Node; text: string; line: number }[]; rejected: Unresolved[] } {
  if (body) {
    const inside =
      'ReturnStmt' in body && body.ReturnStmt.returnval
        ? [
            {
              SelectStmt: {
                targetList: [{ ResTarget: { val: body.ReturnStmt.returnval } }],
                op: 'SETOP_NONE',
                limitOption: 'LIMIT_OPTION_DEFAULT',
              },
            } satisfies Node,
          ]
        : ('List' in body ? (body.List.items ?? []) : []).flatMap((item) =>
            'List' in item ? (item.List.items ?? []) : [item],
          );
    return { nodes: inside.map((node) => ({ node, text, line: 1 })), rejected: [] };
  }
  const as = optionOf(options, 'as');
  const own = as && 'List' in as ? (textsOf(as.List.items)[0] ?? '') : '';
  const at = text.indexOf(own);
  const first = at < 0 ? 1 : text.slice(0, at).split('\n').length;
  const { statements, rejected } = parseScript(own);
  return {
    nodes: statements.map(({ node, text: inner, line }) => ({ node, text: inner, line: first + line - 1 })),
    rejected: rejected.map(({ text: inner, line, reason, lost }) => ({
      statement: shorten(inner),
      line: first + line - 1,
      reason,
      lost,
    })),
  };
}

/** What an SQL function does: what its statements write, and what its last query gives as its own columns. Values of parameters come from nowhere here. */
function readSqlBody(create: CreateFunctionStmt, text: string, catalog: SchemaCatalog): ReadBody {
  const target = targetOf(create, catalog);
  const around = new Scope();
  const parameters = (create.parameters ?? []).flatMap((parameter) =>
    'FunctionParameter' in parameter && parameter.FunctionParameter.name ? [parameter.FunctionParameter.name] : [],
  );
  const columns = parameters.map((name) => ({ name, provenance: nothing, base: [] }));
  around.namespace = { items: [{ alias: target.relation, columns }], columns };
  const named = givesOf(catalog, target);
  const { nodes, rejected } = bodyOf(create, text);
  const statements: StatementLineage[] = [];
  const unresolved: Unresolved[] = [...rejected];
  for (const [index, { node, text: own, line }] of nodes.entries()) {
    const trace = newTrace(catalog);
    const isLast = index === nodes.length - 1;
    const made =
      'SelectStmt' in node && !node.SelectStmt.intoClause
        ? isLast
          ? toLineage(
              trace,
              readQuery(trace, node, around),
              'function',
              target,
              named.length > 0 ? named : [target.relation],
            )
          : undefined
        : readStatement({ trace, catalog, nextQuery: () => 0 }, node, around);
    for (const one of [...trace.written, ...(made ? [made] : [])]) statements.push({ ...one, statement: own, line });
    for (const reason of trace.problems) unresolved.push({ statement: shorten(own), line, reason, lost: false });
  }
  return { statements: throughTemporary(statements), unresolved, read: nodes.length };
}

/** The table and the function of a trigger. */
export function attachedBy(
  { relation, funcname }: CreateTrigStmt,
  catalog: SchemaCatalog,
): { readonly table: RelationName; readonly routine: { readonly schema: string | undefined; readonly name: string } } {
  const known = catalog.relation(relation?.schemaname, relation?.relname ?? '');
  const names = textsOf(funcname);
  return {
    table: {
      schema: known?.schema ?? relation?.schemaname ?? catalog.defaultSchema,
      relation: relation?.relname ?? '',
    },
    routine: { schema: names.at(-2), name: names.at(-1) ?? '' },
  };
}
