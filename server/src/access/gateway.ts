import type { TableExplained } from '@idrel/contract/access';
import {
  type Callables,
  decideTable,
  type LaidTable,
  laidOut,
  namedRelations,
  namesMeant,
  organisationOf,
  type Person,
  RefusedStatement,
  rewriteSelect,
  type TableDecision,
  toldAccess,
} from '@idrel/core/access';
import { loadParser } from '@idrel/core/sql';
import type { Db } from '../platform/database.ts';
import { ApiProblem } from '../platform/problems.ts';
import { type Asking, factsFor, type TableFacts, thereFor } from './facts.ts';
import { isNamed, namesIn } from './laidOut.ts';

export interface Prepared {
  readonly sql: string;
  readonly tables: readonly TableExplained[];
  /** Schemas in which the source looks names up. */
  readonly path: readonly string[];
  /** Whether the session needs the keys of digests. */
  readonly digests: boolean;
  /** Of the reader, by which digests of one organisation differ from those of another. */
  readonly organisation: string;
  /** Tables whose rows are laid out for it; none where it runs at the source. */
  readonly laid: readonly LaidTable[];
}

/** @param path as the table is called, where it is not by a schema and a name */
export function explained(decision: TableDecision, path = `${decision.schema}.${decision.name}`): TableExplained {
  return {
    tableId: decision.tableId,
    path,
    access: decision.access,
    columns: decision.columns.map((column) => ({
      name: column.name,
      access: toldAccess(column),
      mask: column.mask,
      instead: column.instead,
      reasons: column.reasons,
    })),
    purposes: decision.purposes,
    rowLimits: decision.rowLimits.map(({ column, values, through, least, reason }) => ({
      column,
      values: through ? [] : values,
      // Which table it is is told with the policy, to who may see it.
      byRights: through !== null,
      least: least ?? null,
      policy: reason.policy,
    })),
  };
}

/** A table as it is there for who is of a partner organisation: what they may not read is not told of either. */
function toldOutside(decision: TableDecision): TableDecision | undefined {
  const columns = decision.columns.filter(({ access }) => access !== 'refused');
  const untold = decision.columns.flatMap(({ name, access }) => (access === 'refused' ? [name] : []));
  return columns.length === 0 ? undefined : { ...decision, columns, untold };
}

/** What is told of a table without by which policies, and by which values of a limit: those are the giver's. */
const withoutPolicies = (table: TableExplained): TableExplained => ({
  ...table,
  columns: table.columns.map((column) => ({ ...column, instead: null, reasons: [] })),
  purposes: [],
  rowLimits: table.rowLimits.map((limit) => ({ ...limit, values: [], policy: '' })),
});

/**
 * Decides for every table that the person's statement names, and rewrites the statement accordingly.
 * @param parameters whether it may have some, whose values come beside it
 */
export async function prepare(
  db: Db,
  callables: Callables,
  asking: Asking,
  sourceId: string,
  sql: string,
  parameters = false,
): Promise<Prepared> {
  await loadParser();
  const there = thereFor(asking, 3);
  const facts = await factsFor(
    db,
    asking,
    `t.source_id = $1 and t.name = any($2::text[]) and (${there.condition})`,
    [sourceId, [...new Set(namedRelations(sql).flatMap(namesIn))], ...there.bind],
    'asked',
  );
  if (!facts) throw new ApiProblem('not-found', 'The person is not there.');
  const { person, policies, tables } = facts;
  const paths = new Map(tables.flatMap(({ id, here, path }) => (here ? [[id, path] as const] : [])));
  const said = (decision: TableDecision) => {
    const told = explained(decision, paths.get(decision.tableId));
    return person.outside ? withoutPolicies(told) : told;
  };
  const laid = new Map<string, LaidTable>();
  /** What is told of tables that are laid out: as it was decided, with all that limits them. */
  const told = new Map<string, TableDecision>();
  const meant = () => namesMeant(sql, new Set(tables.flatMap(({ columns }) => columns.map(({ name }) => name))));
  const decided = new Map<string, TableDecision>();
  const decide = (table: TableFacts): TableDecision => {
    const known = decided.get(table.id) ?? decideTable(policies, person satisfies Person, table);
    decided.set(table.id, known);
    return known;
  };
  const lookup = (schema: string | undefined, name: string) => {
    const named = tables.filter((table) => isNamed(table, schema, name));
    const whole = named.filter(({ here, path }) => here && path === name);
    const found = whole.length > 0 ? whole : named;
    const [only] = found;
    if (found.length > 1) return 'ambiguous' as const;
    const decision = only && (person.outside ? toldOutside(decide(only)) : decide(only));
    if (!only?.here || !decision) return decision;
    told.set(only.id, decision);
    const out = laidOut(decision, only, tables.indexOf(only) + 1, meant());
    laid.set(only.id, out.table);
    return out.decision;
  };
  try {
    const rewritten = rewriteSelect(sql, lookup, callables, parameters);
    return {
      sql: rewritten.sql,
      tables: rewritten.tables.map((table) => said(told.get(table.tableId) ?? table)),
      path: rewritten.path,
      digests: rewritten.digests,
      organisation: organisationOf(person),
      laid: rewritten.tables.flatMap(({ tableId }) => laid.get(tableId) ?? []),
    };
  } catch (error) {
    if (error instanceof RefusedStatement)
      throw refused(error, person.outside ? [] : [...decided.values()].map((table) => said(table)));
    throw error;
  }
}

const MENDS: Record<RefusedStatement['code'], string> = {
  syntax: 'Correct the statement at the place named.',
  statement: 'Send one SELECT.',
  construct: 'Write the query without it.',
  function: 'Write the query without it.',
  type: 'Use a plain type such as text, integer or date.',
  'unknown-table': 'Write schema and name as the catalog shows them.',
  'no-access': 'Ask the owner for access, or choose another table.',
  together: 'Ask for groups that are large enough.',
  source: 'Let the administrator of the source remove that conversion.',
};

const refused = (error: RefusedStatement, tables: readonly TableExplained[]) =>
  new ApiProblem(`refused-${error.code}`, error.message, {
    mend:
      error.code === 'no-access' && tables.some(({ access, purposes }) => access === 'no' && purposes.length > 0)
        ? 'State what you read for, if it is one of them: it is noted with the query.'
        : (error.mend ?? MENDS[error.code]),
    current: tables,
  });
