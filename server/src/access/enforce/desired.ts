import { hash } from 'node:crypto';
import {
  comesInto,
  type EnforcingPlan,
  Engine,
  heldByDatabase,
  type KnownLogin,
  loginOf,
  type PlacedReaders,
  type Policy,
  type Readers,
  readersOfSource,
} from '@idrel/core/access';
import { kindsSql } from '../../catalog/index.ts';
import type { Db } from '../../platform/database.ts';
import { policiesKept, readPeople, readTables, type TableFacts } from '../facts.ts';
import { databaseGrants, readLogins, readRoles } from '../native/rights.ts';
import { type PolicyNames, policiesNamed } from '../policyNames.ts';

/** What the policies would have read at a source, by whom. */
export interface Desired {
  readonly readers: readonly Readers[];
  readonly tables: readonly TableFacts[];
  /** Who comes in as each login. */
  readonly people: ReadonlyMap<string, readonly { readonly id: string; readonly name: string }[]>;
  /** What whoever reads the plan should know of who is not in it. */
  readonly cautions: readonly string[];
  /** Policies that allow something of it at hours, for a purpose or for a preview only, which opens nothing there. */
  readonly timed: ReadonlySet<string>;
  /** Policies that allow something of it until a day. */
  readonly ending: ReadonlySet<string>;
  /** Policies by which rows of it are told only together, so that none is told there. */
  readonly together: ReadonlySet<string>;
}

/** What a plan says of policies that a database cannot hold as they are, as far as somebody may see them. */
export function policiesTold(
  { timed, ending, together }: Pick<Desired, 'timed' | 'ending' | 'together'>,
  seen: PolicyNames,
): string[] {
  const called = (ids: ReadonlySet<string>) =>
    policiesNamed(ids, seen)
      .map(({ id, name }) => (id === null ? name : `“${name}”`))
      .join(', ');
  return [
    ...(timed.size > 0
      ? [
          `What is allowed at hours, for a purpose or for a preview only opens nothing there, since a right of a database knows none of these: ${called(timed)}.`,
        ]
      : []),
    ...(together.size > 0
      ? [
          `What is told only in groups tells no rows there, since a database cannot count who each answer is about; the gateway does: ${called(together)}.`,
        ]
      : []),
    ...(ending.size > 0
      ? [`What ends by itself ends there when it is made anew, which the check asks for: ${called(ending)}.`]
      : []),
  ];
}

const names = (list: readonly string[]): string =>
  list.length > 5 ? `${list.slice(0, 5).join(', ')} and ${list.length - 5} more` : list.join(', ');

/** Works out what the policies would have read at a source by whoever comes into it. */
export async function desired(db: Db, sourceId: string): Promise<Desired> {
  const kept = await policiesKept(db);
  const policies = heldByDatabase(kept);
  const people = await readPeople(db, null);
  const tables = await readTables(
    db,
    `t.source_id = $1 and t.kind in (${kindsSql('queried')})`,
    [sourceId],
    policies,
    'any',
  );
  const roles = await readRoles(db, sourceId);
  const said = await readLogins(db, sourceId, people);
  const doors = await databaseGrants(db, sourceId);
  const logins = [...roles.values()].filter(
    ({ name, login, scans }) => login && !scans && comesInto(doors, loginOf(name, roles)),
  );
  const known = logins.flatMap(({ name, superuser }): KnownLogin[] => {
    const who = said.get(name);
    return !superuser && who && who.people.length > 0 ? [{ login: name, people: who.people }] : [];
  });
  const unsaid = logins.filter(({ name, superuser }) => !superuser && !said.has(name)).map(({ name }) => name);
  const above = logins.filter(({ superuser }) => superuser).map(({ name }) => name);
  // Only those that mean something of this source.
  const meaning = (those: readonly Policy[]): ReadonlySet<string> => {
    const engine = new Engine(those);
    return new Set(tables.flatMap((table) => engine.meaning(table).map(({ id }) => id)));
  };
  const allows = kept.filter(({ effect }) => effect === 'allow');
  return {
    readers: readersOfSource(policies, known, tables),
    tables,
    people: new Map(known.map(({ login }) => [login, said.get(login)?.people ?? []])),
    cautions: [
      ...(known.length === 0
        ? ['Nobody was said to come in as a role there: there is nobody to open anything to.']
        : []),
      ...(unsaid.length > 0 ? [`Of ${names(unsaid)} nobody said who comes in: nothing is opened to them.`] : []),
      ...(above.length > 0 ? [`${names(above)} reads everything as a superuser, whatever is made.`] : []),
    ],
    timed: meaning(
      allows.filter(({ hours, purposes, opens }) => hours !== null || purposes.length > 0 || opens === 'preview'),
    ),
    ending: meaning(allows.filter(({ until }) => until !== null)),
    together: meaning(kept.filter(({ rows }) => rows?.least !== undefined)),
  };
}

/** By what a plan is known: two plans of one digest make the same. */
export const digestOf = (readers: readonly PlacedReaders[]): string =>
  hash(
    'sha256',
    JSON.stringify(
      readers.map(({ role, logins, organisation, tables }) => [
        role,
        logins,
        organisation,
        tables.map(({ table, columns, limits, how, schema, name }) => [
          table.schema,
          table.name,
          columns,
          limits,
          how,
          schema,
          name,
        ]),
      ]),
    ),
    'hex',
  );

/** Readers as they are told. */
export const readersTold = ({ readers }: Pick<EnforcingPlan, 'readers'>, people: Desired['people']) =>
  readers.map(({ role, logins, tables }) => ({
    role,
    logins: [...logins],
    people: [
      ...new Map(
        logins.flatMap((login) => (people.get(login) ?? []).map(({ id, name }) => [id, { id, name }] as const)),
      ).values(),
    ],
    rights: tables.filter(({ how }) => how === 'right').length,
    views: tables.filter(({ how }) => how === 'view').length,
  }));
