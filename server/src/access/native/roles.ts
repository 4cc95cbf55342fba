import type { MatchBody, NativeRoleAnswer, NativeRolesAnswer, NativeWayAnswer } from '@idrel/contract/access';
import { comesInto, limitedThere, loginOf, suggester, waysInto } from '@idrel/core/access';
import { say } from '../../journal/index.ts';
import type { Who } from '../../people/index.ts';
import type { Db } from '../../platform/database.ts';
import { invalid, mustBeCurrent, notFound } from '../../platform/problems.ts';
import { sourceFacts } from '../../sources/index.ts';
import { readPeople, type TableFacts } from '../facts.ts';
import { databaseGrants, IS_OURS, readLogins, readRoles, withGrants } from './rights.ts';

const MOST = 2000;

type Row = Omit<NativeRoleAnswer, 'suggestions' | 'said' | 'comesIn'> & {
  said: { by: string | null; at: string } | null;
};

const parties = (column: string, table: string) => `
  coalesce(
    (
      select json_agg(json_build_object('id', x.id, 'name', x.name) order by x.name)
      from native_match_party p
      join ${table} x on x.id = p.${column}
      where p.source_id = r.source_id and p.role = r.name
    ),
    '[]')`;

const ROLES = `
  select
    r.name, r.login, r.superuser, ${IS_OURS} as scans, r.member_of as "memberOf", ${parties('person_id', 'person')} as people,
    ${parties('group_id', 'person_group')} as groups, coalesce(m.program, false) as program,
    coalesce(m.version, 0) as version,
    case when m.role is not null then json_build_object('by', w.name, 'at', m.said_at) end as said
  from native_role r
  left join native_match m on m.source_id = r.source_id and m.role = r.name
  left join person w on w.id = m.said_by
  where r.source_id = $1`;

const toAnswer = (row: Row, comesIn: boolean, suggestions: NativeRoleAnswer['suggestions']): NativeRoleAnswer => ({
  ...row,
  comesIn,
  said: row.said && { ...row.said, at: new Date(row.said.at).toISOString() },
  suggestions,
});

/** Roles of a source, with who comes in as them. @throws 403, 404 */
export async function nativeRoles(db: Db, who: Who, sourceId: string): Promise<NativeRolesAnswer> {
  who.mustAnywhere('policy administrator');
  const source = await sourceFacts(db, who, sourceId);
  const read = await db.one<{ at: Date }>('select read_at as at from native_read where source_id = $1', [source.id]);
  const rows = await db.rows<Row>(
    `${ROLES} and r.name !~ '^pg_' order by r.login desc, r.scans, m.role is not null, r.name limit ${MOST}`,
    [source.id],
  );
  const people = await db.rows<{ id: string; name: string; email: string }>(
    'select id, name, email from person where left_at is null and partner_id is null order by name',
  );
  const groups = await db.rows<{ id: string; name: string }>(
    'select id, name from person_group where partner_id is null order by name',
  );
  const nameOf = new Map([...people, ...groups].map(({ id, name }) => [id, name]));
  const isGroup = new Set(groups.map(({ id }) => id));
  const suggest = suggester(people, groups);
  const all = await readRoles(db, source.id);
  const doors = await databaseGrants(db, source.id);
  return {
    readAt: read?.at.toISOString() ?? null,
    roles: rows.map((row) =>
      toAnswer(
        row,
        comesInto(doors, loginOf(row.name, all)),
        row.login && !row.scans && !row.program && row.people.length + row.groups.length === 0
          ? suggest(row.name).map(({ id, why }) => ({
              id,
              why,
              name: nameOf.get(id) ?? '',
              isGroup: isGroup.has(id),
            }))
          : [],
      ),
    ),
    mayMatch: who.is('policy administrator', source.domainId),
  };
}

async function getRole(db: Db, sourceId: string, name: string): Promise<NativeRoleAnswer> {
  const row = await db.one<Row>(`${ROLES} and r.name = $2`, [sourceId, name]);
  if (!row) throw notFound('The role');
  return toAnswer(row, comesInto(await databaseGrants(db, sourceId), loginOf(name, await readRoles(db, sourceId))), []);
}

/** Says who comes in as a role of a source. @throws 403, 404; 412 with what somebody else said meanwhile */
export async function matchRole(
  tx: Db,
  who: Who,
  sourceId: string,
  version: number,
  body: MatchBody,
): Promise<NativeRoleAnswer> {
  const source = await sourceFacts(tx, who, sourceId);
  if (body.program && (body.personIds.length > 0 || body.groupIds.length > 0))
    throw invalid(
      'Either a program comes in as it, or people do.',
      'Name people and groups, or say that it is a program’s.',
      [{ field: 'program', message: 'must not be set where people come in as it: nobody else does then' }],
    );
  const there = async (table: string, ids: readonly string[]) =>
    (
      await tx.one<{ n: number }>(
        `select count(*)::int as n from ${table} where id = any($1::uuid[]) and partner_id is null`,
        [ids],
      )
    )?.n === ids.length;
  if (!(await there('person', body.personIds)))
    throw invalid('One of the people is not there.', 'Choose from those who are.', [
      { field: 'personIds', message: 'holds a person who is not there' },
    ]);
  if (!(await there('person_group', body.groupIds)))
    throw invalid('One of the groups is not there.', 'Choose from those that are.', [
      { field: 'groupIds', message: 'holds a group that is not there' },
    ]);
  const key = [source.id, body.role];
  await say(tx, who, {
    action: 'matched',
    async held() {
      // The role itself is held: what was never said has no row of its own.
      await tx.rows('select from native_role where source_id = $1 and name = $2 for update', key);
      return getRole(tx, source.id, body.role);
    },
    may(before) {
      who.must('policy administrator', source.domainId);
      mustBeCurrent(version, before);
    },
    async write(before) {
      await tx.run(
        `
          insert into native_match (source_id, role, program, said_by)
          values ($1, $2, $3, $4)
          on conflict (source_id, role) do update
          set program = excluded.program, said_by = excluded.said_by, said_at = now(), version = native_match.version + 1`,
        [...key, body.program, who.id],
      );
      await tx.run('delete from native_match_party where source_id = $1 and role = $2', key);
      await tx.run(
        `
          insert into native_match_party (source_id, role, person_id, group_id)
          select $1::uuid, $2, p, null::uuid from unnest($3::uuid[]) p
          union all
          select $1::uuid, $2, null, g from unnest($4::uuid[]) g`,
        [...key, body.personIds, body.groupIds],
      );
      const after = await getRole(tx, source.id, body.role);
      const told = ({ people, groups, program }: NativeRoleAnswer) => ({
        people: people.map(({ name }) => name),
        groups: groups.map(({ name }) => name),
        program,
      });
      return [told(before), told(after)];
    },
    about: () => ({
      kind: 'native right',
      id: source.id,
      name: `${source.name}: ${body.role}`,
      domainId: null,
      domainIds: [source.domainId],
    }),
  });
  return getRole(tx, source.id, body.role);
}

/** By what rights at their source somebody reads tables, as the roles as which they come in. */
export async function nativeWays(
  db: Db,
  personId: string,
  tables: readonly TableFacts[],
): Promise<Map<string, NativeWayAnswer[]>> {
  const ways = new Map<string, NativeWayAnswer[]>();
  const people = await readPeople(db, [personId]);
  for (const sourceId of new Set(tables.map((table) => table.sourceId))) {
    const logins = await readLogins(db, sourceId, people);
    const mine = [...logins].flatMap(([role, { people: those }]) => (those.length > 0 ? [role] : []));
    if (mine.length === 0) continue;
    const roles = await readRoles(db, sourceId);
    for (const table of await withGrants(
      db,
      tables.filter((one) => one.sourceId === sourceId),
    )) {
      const name = new Map(table.columns.map((column) => [column.id, column.name]));
      const found = mine
        .filter((role) => roles.get(role)?.login)
        .flatMap((role) => {
          const login = loginOf(role, roles);
          return waysInto(table, login).map((way) => ({
            login: role,
            how: way.how,
            holder: way.holder,
            through: way.through,
            chain: way.chain,
            columns: way.columns?.flatMap((id) => name.get(id) ?? []) ?? null,
            since: way.since,
            limited: limitedThere(table, login, way),
          }));
        });
      if (found.length > 0) ways.set(table.id, found);
    }
  }
  return ways;
}
