import type { ClosingWish } from './closing.ts';
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

/** Grants that hang on one that somebody gave on go with it. */
function without(grants: readonly NativeGrant[], holder: string): NativeGrant[] {
  return grants.filter(
    (grant) => grant.how === 'owner' || (grant.holder !== holder && (holder === EVERYBODY || grant.by !== holder)),
  );
}

/** The roles and tables as they would be when the plan for this wish has run. */
export function afterClosing(wish: ClosingWish, { roles, tables }: Place): Place {
  const { how, holder, through } = wish;
  if (how === 'superuser' || how === 'owner') return { roles, tables };
  const closed = new Set(wish.tables.map(({ id }) => id));
  const others = new Set(wish.others.map(({ id }) => id));
  const keeping = (table: NativeTable): ReadonlyMap<string, readonly NativeGrant[]> => {
    const kept = new Map([...table.columnGrants].map(([column, grants]) => [column, without(grants, holder)]));
    for (const column of wish.keep.get(table.id) ?? [])
      kept.set(column, [...(kept.get(column) ?? []), granted(holder)]);
    return kept;
  };
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
          columnGrants: closed.has(table.id)
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
      closed.has(table.id) ? { ...table, grants: without(table.grants, holder), columnGrants: keeping(table) } : table,
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
