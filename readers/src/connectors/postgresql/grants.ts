import type { ClientBase } from 'pg';
import { type FoundGrant, type FoundRights, keyOf } from '../types.ts';
import { NOT_OF_EXTENSION, OURS } from './columns.ts';

/**
 * Roles with what they are members of. Before PostgreSQL 16 a membership says nothing of its own: whoever is a member can take the other role.
 * A membership that is neither inherited nor can be taken gives nothing to read with.
 */
const ROLES = `
  select
    r.rolname as name, r.rolcanlogin and (r.rolvaliduntil is null or r.rolvaliduntil > now()) as login,
    r.rolsuper as superuser, r.rolbypassrls as "bypassesRows", r.rolname = session_user as scans,
    coalesce(
      (
        select array_agg(g.rolname::text order by g.rolname)
        from pg_auth_members m
        join pg_roles g on g.oid = m.roleid
        where m.member = r.oid
          and (coalesce((to_jsonb(m) ->> 'inherit_option')::boolean, true)
            or coalesce((to_jsonb(m) ->> 'set_option')::boolean, true))
      ),
      '{}'
    ) as "memberOf"
  from pg_roles r
  order by r.rolname`;

/** A right beside what its owner has by being it; one that somebody gave the owner hangs on theirs. */
const besidesOwnership = (owner: string) => `(x.grantee <> ${owner} or x.grantor <> ${owner})`;

/** Where nothing was ever granted, nobody but the owner has a right; of a database everybody has. */
const given = (list: string) => `${list} is not null`;

/** An access list as rows of who may, with the owner's own right apart. @param of SQL: schema, name and column of what it is of; null where there is none */
const listed = (of: string, list: string, kind: string, owner: string, privilege: string, from: string) => `
  select ${of}, coalesce(g.rolname, '') as holder, 'grant' as how, x.is_grantable as "passesOn", pg_get_userbyid(x.grantor) as "by"
  from ${from}
  cross join lateral aclexplode(coalesce(${list}, acldefault('${kind}', ${owner}))) x
  left join pg_roles g on g.oid = x.grantee
  where x.privilege_type = '${privilege}' and ${besidesOwnership(owner)}`;
const owned = (of: string, owner: string, from: string) => `
  select ${of}, pg_get_userbyid(${owner}) as holder, 'owner' as how, false as "passesOn", '' as "by"
  from ${from}
  where true`;

const DATABASE = 'pg_database d';
const SCHEMAS = 'pg_namespace n';
const RELATIONS = 'pg_class c join pg_namespace n on n.oid = c.relnamespace';
const READ = `c.relkind in ('r', 'p', 'v', 'm', 'f') and not c.relispartition and ${OURS} and ${NOT_OF_EXTENSION}`;
const NOWHERE = 'null::text as schema, null::text as name, null::text as "column"';
const SCHEMA = 'n.nspname::text as schema, null::text as name, null::text as "column"';
const RELATION = 'n.nspname::text as schema, c.relname::text as name, null::text as "column"';

/** A view that asks with the rights of who asks it gives nothing that these do not give by themselves. */
const OF_ITS_OWN = `not (c.relkind = 'v' and coalesce(c.reloptions::text[] && array['security_invoker=true', 'security_invoker=on', 'security_invoker=1', 'security_invoker=yes'], false))`;

const GRANTS = `
  ${listed(NOWHERE, 'd.datacl', 'd', 'd.datdba', 'CONNECT', DATABASE)} and d.datname = current_database()
  union all
  ${owned(NOWHERE, 'd.datdba', DATABASE)} and d.datname = current_database()
  union all
  ${listed(SCHEMA, 'n.nspacl', 'n', 'n.nspowner', 'USAGE', SCHEMAS)} and ${given('n.nspacl')} and ${OURS}
  union all
  ${owned(SCHEMA, 'n.nspowner', SCHEMAS)} and ${OURS}
  union all
  ${listed(RELATION, 'c.relacl', 'r', 'c.relowner', 'SELECT', RELATIONS)} and ${given('c.relacl')} and ${READ} and ${OF_ITS_OWN}
  union all
  ${owned(RELATION, 'c.relowner', RELATIONS)} and ${READ} and ${OF_ITS_OWN}
  union all
  select
    n.nspname, c.relname, a.attname::text, coalesce(g.rolname, ''), 'grant', x.is_grantable, pg_get_userbyid(x.grantor)
  from pg_attribute a
  join pg_class c on c.oid = a.attrelid
  join pg_namespace n on n.oid = c.relnamespace
  cross join lateral aclexplode(a.attacl) x
  left join pg_roles g on g.oid = x.grantee
  where a.attacl is not null and a.attnum > 0 and not a.attisdropped
    and x.privilege_type = 'SELECT' and ${besidesOwnership('c.relowner')} and ${READ} and ${OF_ITS_OWN}`;

/** What tables that are made later open, by who makes them and where. */
const LATER = `
  select pg_get_userbyid(f.defaclrole) as maker, n.nspname::text as schema, coalesce(g.rolname, '') as holder
  from pg_default_acl f
  left join pg_namespace n on n.oid = f.defaclnamespace
  cross join lateral aclexplode(f.defaclacl) x
  left join pg_roles g on g.oid = x.grantee
  where f.defaclobjtype = 'r' and x.privilege_type = 'SELECT' and x.grantee <> f.defaclrole
  order by 1, 2, 3`;

/** Tables with row policies of their own, which hold for who is neither their owner nor passes them by. */
const OWN_ROWS = `
  select n.nspname as schema, c.relname as name, c.relforcerowsecurity as forced
  from ${RELATIONS}
  where c.relrowsecurity and ${READ}`;

interface GrantRow {
  schema: string | null;
  name: string | null;
  column: string | null;
  holder: string;
  how: FoundGrant['how'];
  passesOn: boolean;
  by: string;
}

/** Who can read what of a database, as its own catalog says: nothing of it is hidden from a role that may connect. */
export async function readRights(client: ClientBase, database: string): Promise<FoundRights> {
  await client.query('set search_path = pg_catalog');
  const roles = (await client.query<FoundRights['roles'][number]>(ROLES)).rows;
  const grants = new Map<string, { grant: Omit<FoundGrant, 'keys'>; keys: string[] }>();
  for (const { schema, name, column, ...grant } of (await client.query<GrantRow>(GRANTS)).rows) {
    const key = keyOf(database, ...[schema, name, column].filter((part) => part !== null));
    const same = JSON.stringify([grant.holder, grant.how, grant.passesOn, grant.by]);
    const known = grants.get(same);
    if (known) known.keys.push(key);
    else grants.set(same, { grant, keys: [key] });
  }
  const later = (await client.query<{ maker: string; schema: string | null; holder: string }>(LATER)).rows;
  const ownRows = (await client.query<{ schema: string; name: string; forced: boolean }>(OWN_ROWS)).rows;
  return {
    roles,
    grants: [...grants.values()].map(({ grant, keys }) => ({ ...grant, keys })),
    later: later.map(({ schema, ...rest }) => ({ ...rest, key: schema === null ? null : keyOf(database, schema) })),
    ownRows: ownRows.map(({ schema, name, forced }) => ({ key: keyOf(database, schema, name), forced })),
  };
}
