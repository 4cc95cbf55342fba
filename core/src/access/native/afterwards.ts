import type { ClosingWish } from './closing.ts';
import { hangingOn, takenAway } from './given.ts';
import { EVERYBODY, type NativeGrant, type NativeRole, type NativeTable, type NativeWay } from './types.ts';
import { loginOf, type NativeLogin, waysInto } from './ways.ts';

/** What a login would read otherwise when a plan has run. */
export interface Afterwards {
  readonly login: string;
  /** Columns that it would read no more, by table. */
  readonly loses: readonly { readonly tableId: string; readonly columnIds: readonly string[] }[];
  /** Tables that it reads by the right, that were to be closed, and that it would read all the same, with the ways that are left. */
  readonly still: readonly { readonly tableId: string; readonly ways: readonly NativeWay[] }[];
}

interface Place {
  readonly roles: ReadonlyMap<string, NativeRole>;
  readonly tables: readonly NativeTable[];
}

const granted = (holder: string): NativeGrant => ({ holder, how: 'grant', passesOn: false, by: '', since: '' });

/** The rights on a table when those of a holder were taken away, and what hung on them; some of its columns are given again. */
function closed(table: NativeTable, holder: string, kept: readonly string[]): NativeTable {
  const taken = takenAway(table, holder, kept);
  const hanging = new Set(hangingOn(table, taken).map(({ grant }) => grant));
  const isLeft = (grant: NativeGrant, column: string | null) => !taken({ grant, column }) && !hanging.has(grant);
  const columnGrants = new Map(
    [...table.columnGrants].map(([column, grants]) => [column, grants.filter((grant) => isLeft(grant, column))]),
  );
  for (const column of kept) columnGrants.set(column, [...(columnGrants.get(column) ?? []), granted(holder)]);
  return {
    ...table,
    grants: table.grants.filter((grant) => grant.how === 'owner' || isLeft(grant, null)),
    columnGrants,
  };
}

/** The roles and tables as they would be when the plan for this wish has run. */
export function afterClosing(wish: ClosingWish, { roles, tables }: Place): Place {
  const { how, holder, through } = wish;
  if (how === 'superuser' || how === 'owner') return { roles, tables };
  const toClose = new Set(wish.tables.map(({ id }) => id));
  const others = new Set(wish.others.map(({ id }) => id));
  const reaching = (table: NativeTable): readonly NativeGrant[] =>
    table.schemaGrants.some((grant) => grant.holder === holder || grant.holder === EVERYBODY)
      ? table.schemaGrants
      : [...table.schemaGrants, granted(holder)];
  if (how === 'reads all') {
    const keepsIn = new Set(
      [...wish.others, ...wish.tables.filter((table) => (wish.keep.get(table.id) ?? []).length > 0)].map(
        ({ schema }) => schema,
      ),
    );
    return {
      roles: new Map(
        [...roles].map(([name, role]) => [
          name,
          name === holder ? { ...role, memberOf: role.memberOf.filter((other) => other !== through) } : role,
        ]),
      ),
      tables: tables.map((table) => {
        const columns = wish.keep.get(table.id) ?? [];
        return {
          ...table,
          schemaGrants: keepsIn.has(table.schema) ? reaching(table) : table.schemaGrants,
          grants: others.has(table.id) ? [...table.grants, granted(holder)] : table.grants,
          columnGrants: toClose.has(table.id)
            ? new Map([
                ...table.columnGrants,
                ...columns.map(
                  (column) => [column, [...(table.columnGrants.get(column) ?? []), granted(holder)]] as const,
                ),
              ])
            : table.columnGrants,
        };
      }),
    };
  }
  return {
    roles,
    tables: tables.map((table) =>
      toClose.has(table.id) ? closed(table, holder, wish.keep.get(table.id) ?? []) : table,
    ),
  };
}

/** The columns that ways open of a table. */
function opened(table: NativeTable, ways: readonly NativeWay[]): Set<string> {
  if (ways.some(({ columns }) => columns === null)) return new Set(table.columns.map(({ id }) => id));
  return new Set(ways.flatMap(({ columns }) => columns ?? []));
}

/**
 * Who would read what no more when the plan for a wish has run, and who would read what was to be closed all the same.
 * @param place roles and all tables that the plan touches: those to be closed, and for a role that reads all the others
 */
export function loses(wish: ClosingWish, place: Place): Afterwards[] {
  const then = afterClosing(wish, place);
  const closed = new Set(wish.tables.map(({ id }) => id));
  return [...place.roles.values()]
    .filter(({ login, scans }) => login && !scans)
    .flatMap(({ name }): Afterwards[] => {
      const [was, will]: [NativeLogin, NativeLogin] = [loginOf(name, place.roles), loginOf(name, then.roles)];
      const lost: { tableId: string; columnIds: string[] }[] = [];
      const still: { tableId: string; ways: NativeWay[] }[] = [];
      for (const [at, table] of place.tables.entries()) {
        const read = waysInto(table, was);
        const before = opened(table, read);
        if (before.size === 0) continue;
        const ways = waysInto(then.tables[at] ?? table, will);
        const after = opened(table, ways);
        const columnIds = [...before].filter((column) => !after.has(column));
        if (columnIds.length > 0) lost.push({ tableId: table.id, columnIds });
        const meant = table.columns.filter(({ id }) => !(wish.keep.get(table.id) ?? []).includes(id));
        const byThis = read.some(
          (way) => way.how === wish.how && way.holder === wish.holder && way.through === wish.through,
        );
        if (byThis && closed.has(table.id) && meant.some(({ id }) => after.has(id)))
          still.push({ tableId: table.id, ways });
      }
      return lost.length > 0 || still.length > 0 ? [{ login: name, loses: lost, still }] : [];
    });
}
