import { EVERYBODY, type NativeGrant, type NativeRole, type NativeTable, type NativeWay } from './types.ts';

/**
 * Roles of PostgreSQL itself whose members read whatever there is: directly, or since they may read the files of the server or run programs there.
 * https://www.postgresql.org/docs/current/predefined-roles.html
 */
const READS_ALL: ReadonlySet<string> = new Set([
  'pg_read_all_data',
  'pg_read_server_files',
  'pg_write_server_files',
  'pg_execute_server_program',
]);

/** Roles that one is or can take, each with the shortest way to it: from the role itself to that one, both in it. */
export function rolesOf(name: string, roles: ReadonlyMap<string, NativeRole>): Map<string, readonly string[]> {
  const found = new Map<string, readonly string[]>([[name, [name]]]);
  // A map is walked in the order in which it grows: nearer roles come first.
  for (const [role, chain] of found)
    for (const next of roles.get(role)?.memberOf ?? []) if (!found.has(next)) found.set(next, [...chain, next]);
  return found;
}

type Held = ReadonlyMap<string, readonly string[]>;
const holding = (held: Held, { holder }: NativeGrant) => holder === EVERYBODY || held.has(holder);

/** What a login is whatever table it asks: computed once for all of them. */
export interface NativeLogin {
  readonly name: string;
  readonly held: Held;
  /** Whether row policies of tables do not hold for it. */
  readonly bypassesRows: boolean;
  /** Ways by which it reads everything. */
  readonly all: readonly NativeWay[];
  /** Whether it is a superuser itself: to be one by taking another role comes too late for coming in. */
  readonly superuser: boolean;
}

/** @throws when there is no such role */
export function loginOf(name: string, roles: ReadonlyMap<string, NativeRole>): NativeLogin {
  if (!roles.has(name)) throw new Error(`There is no role ${name}.`);
  const held = rolesOf(name, roles);
  const ways = [...held].flatMap(([role, chain]): NativeWay[] => {
    const facts = roles.get(role);
    const rest = { columns: null, since: null };
    const by = chain.at(-2);
    if (facts?.superuser) return [{ how: 'superuser', holder: role, through: null, chain, ...rest }];
    // What can be taken away is the membership: it is held by whoever is a member.
    if (READS_ALL.has(role) && by !== undefined)
      return [{ how: 'reads all', holder: by, through: role, chain: chain.slice(0, -1), ...rest }];
    return [];
  });
  return {
    name,
    held,
    bypassesRows: [...held.keys()].some((role) => roles.get(role)?.bypassesRows || roles.get(role)?.superuser),
    all: ways,
    superuser: roles.get(name)?.superuser ?? false,
  };
}

/** Whether a login may come into a database. @param grants those on the database */
export const comesInto = (grants: readonly NativeGrant[], { held, superuser }: NativeLogin): boolean =>
  superuser || grants.some((grant) => holding(held, grant));

/**
 * By what ways a login reads a table at its source, each on its own enough: all must go for it to be closed.
 * Whether the login can reach the server at all is not known: rules about addresses and methods of signing in stand outside the database.
 */
export function waysInto(table: NativeTable, login: NativeLogin): NativeWay[] {
  const { held } = login;
  if (!comesInto(table.databaseGrants, login)) return [];
  const all = login.all;
  // For a superuser no other right matters.
  const above = all.filter(({ how }) => how === 'superuser');
  if (above.length > 0) return above;
  // Whoever reads all passes into each schema; else that takes a right of its own.
  if (!all.length && !table.schemaGrants.some((grant) => holding(held, grant))) return [];
  const inSchema = table.schemaGrants.some((grant) => holding(held, grant));
  const given = inSchema
    ? table.grants.filter((grant) => holding(held, grant)).map((grant) => wayBy(login, grant, null))
    : [];
  const byColumn = new Map<string, { grant: NativeGrant; columns: string[] }>();
  if (inSchema)
    for (const [column, grants] of table.columnGrants)
      for (const grant of grants) {
        if (!holding(held, grant)) continue;
        const known = byColumn.get(grant.holder);
        if (known) known.columns.push(column);
        else byColumn.set(grant.holder, { grant, columns: [column] });
      }
  const ways = [...all, ...given, ...[...byColumn.values()].map(({ grant, columns }) => wayBy(login, grant, columns))];
  // The same right may have been given by several: it is told once.
  const distinct = new Map<string, NativeWay>();
  for (const way of ways) {
    const key = JSON.stringify([way.how, way.holder, way.through, way.columns !== null]);
    if (!distinct.has(key)) distinct.set(key, way);
  }
  return [...distinct.values()];
}

function wayBy({ name, held }: NativeLogin, grant: NativeGrant, columns: readonly string[] | null): NativeWay {
  const chain = grant.holder === EVERYBODY ? [name] : (held.get(grant.holder) ?? [name]);
  return { how: grant.how, holder: grant.holder, through: null, chain, columns, since: grant.since };
}

/** Whether row policies of the table itself limit what comes by a way. */
export const limitedThere = (table: NativeTable, login: NativeLogin, way: NativeWay): boolean =>
  !login.bypassesRows && (table.ownRows === 'forced' || (table.ownRows === 'on' && way.how !== 'owner'));

/** Of many logins those that may read a table: who holds no right on it, and none over everything, is not asked. */
export function loginsNear<L extends NativeLogin>(logins: readonly L[]): (table: NativeTable) => readonly L[] {
  const byRole = new Map<string, L[]>();
  for (const login of logins)
    for (const role of login.held.keys()) {
      const known = byRole.get(role);
      if (known) known.push(login);
      else byRole.set(role, [login]);
    }
  const overAll = logins.filter(({ all }) => all.length > 0);
  return (table) => {
    const holders = new Set([...table.grants, ...[...table.columnGrants.values()].flat()].map(({ holder }) => holder));
    return holders.has(EVERYBODY)
      ? logins
      : [...new Set([...overAll, ...[...holders].flatMap((holder) => byRole.get(holder) ?? [])])];
  };
}
