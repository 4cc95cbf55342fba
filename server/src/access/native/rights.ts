import type { NativeGrant, NativeRole, NativeTable, Person } from '@idrel/core/access';
import type { Db } from '../../platform/database.ts';
import type { TableFacts } from '../facts.ts';

/** Whether a role `r` is Idrel's own: the one that scans, or the one that makes policies hold there. */
export const IS_OURS = `(r.scans or exists (
  select from enforcement e join credential k on k.id = e.credential_id where e.source_id = r.source_id and k.username = r.name))`;

/** Roles of a source by name, as its last scan found them. */
export async function readRoles(db: Db, sourceId: string): Promise<Map<string, NativeRole>> {
  const roles = await db.rows<NativeRole>(
    `
      select
        name, login, superuser, bypasses_rows as "bypassesRows",
        ${IS_OURS} as scans, member_of as "memberOf"
      from native_role r
      where source_id = $1
      order by name`,
    [sourceId],
  );
  return new Map(roles.map((role) => [role.name, role]));
}

/** Who comes in as a role, as it was said. */
export interface SaidLogin<P extends Person> {
  readonly people: readonly P[];
  readonly program: boolean;
}

/** Who comes in as the roles of a source, where that was said: people, those of groups, or a program. */
export async function readLogins<P extends Person>(
  db: Db,
  sourceId: string,
  people: readonly P[],
): Promise<Map<string, SaidLogin<P>>> {
  const rows = await db.rows<{ role: string; program: boolean; people: string[]; groups: string[] }>(
    `
      select
        m.role, m.program,
        array(select p.person_id from native_match_party p where p.source_id = m.source_id and p.role = m.role and p.person_id is not null) as people,
        array(select p.group_id from native_match_party p where p.source_id = m.source_id and p.role = m.role and p.group_id is not null) as groups
      from native_match m
      where m.source_id = $1`,
    [sourceId],
  );
  return new Map(
    rows.map(({ role, program, people: ids, groups }) => [
      role,
      {
        program,
        people: people.filter(
          (person) => ids.includes(person.id) || person.groups.some((group) => groups.includes(group)),
        ),
      },
    ]),
  );
}

interface GrantRow extends Omit<NativeGrant, 'since'> {
  assetId: string;
  since: Date;
}

/** Rights at the source on these things, by the id of each. */
async function grantsOn(
  db: Db,
  condition: string,
  ids: readonly string[] | string,
): Promise<Map<string, NativeGrant[]>> {
  const rows = await db.rows<GrantRow>(
    `
      select g.asset_id as "assetId", g.holder, g.how, g.passes_on as "passesOn", g.given_by as by, g.found_at as since
      from native_grant g
      where ${condition}
      order by g.holder`,
    [ids],
  );
  const found = new Map<string, NativeGrant[]>();
  for (const { assetId, since, ...grant } of rows) {
    const list = found.get(assetId) ?? [];
    list.push({ ...grant, since: since.toISOString() });
    found.set(assetId, list);
  }
  return found;
}

/** Rights to come into the database that a source is. */
export async function databaseGrants(db: Db, sourceId: string): Promise<NativeGrant[]> {
  const on = await grantsOn(
    db,
    "g.asset_id in (select id from asset where source_id = $1 and kind = 'database' and gone_at is null)",
    sourceId,
  );
  return [...on.values()].flat();
}

/** The tables with the rights at their source. */
export async function withGrants<T extends Pick<TableFacts, 'id' | 'ancestors' | 'columns'>>(
  db: Db,
  tables: readonly T[],
): Promise<(T & Omit<NativeTable, keyof TableFacts>)[]> {
  const above = [...new Set(tables.flatMap(({ ancestors }) => ancestors))];
  const on = await grantsOn(db, 'g.asset_id = any($1::uuid[])', above);
  const ids = tables.map(({ id }) => id);
  const onColumns = await grantsOn(
    db,
    "g.asset_id in (select c.id from asset c where c.parent_id = any($1::uuid[]) and c.kind = 'column')",
    ids,
  );
  const kinds = new Map(
    (
      await db.rows<{ id: string; kind: string }>(
        "select id, kind from asset where id = any($1::uuid[]) and kind in ('database', 'schema')",
        [above],
      )
    ).map(({ id, kind }) => [id, kind]),
  );
  const ownRows = new Map(
    (
      await db.rows<{ id: string; forced: boolean }>(
        'select asset_id as id, forced from native_own_rows where asset_id = any($1::uuid[])',
        [ids],
      )
    ).map(({ id, forced }) => [id, forced ? ('forced' as const) : ('on' as const)]),
  );
  const ofKind = (table: T, kind: string) =>
    table.ancestors.flatMap((id) => (kinds.get(id) === kind ? (on.get(id) ?? []) : []));
  return tables.map((table) => ({
    ...table,
    databaseGrants: ofKind(table, 'database'),
    schemaGrants: ofKind(table, 'schema'),
    grants: on.get(table.id) ?? [],
    columnGrants: new Map(
      table.columns.flatMap(({ id }) => {
        const grants = onColumns.get(id);
        return grants ? [[id, grants] as const] : [];
      }),
    ),
    ownRows: ownRows.get(table.id) ?? 'none',
  }));
}
