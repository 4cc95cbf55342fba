import {
  KEYS_SCHEMA,
  MADE_BY,
  type Made,
  type MadeBefore,
  numberOfReaders,
  quoteIdentifier,
  roleOfReaders,
  type TableMeans,
  tableKey,
} from '@idrel/core/access';
import { type ConnectorInput, connectToPostgres } from '@idrel/readers/connectors';
import pg from 'pg';
import { ApiProblem } from '../../platform/problems.ts';

const STATEMENT_MS = 30_000;

/**
 * Opens a source as the role that makes policies hold there, for one piece of work.
 * @throws 409 when it cannot be reached, 502 with what the source says when a statement fails
 */
export async function withEnforcer<T>(input: ConnectorInput, work: (client: pg.Client) => Promise<T>): Promise<T> {
  const client = await connectToPostgres(input, { statementTimeout: STATEMENT_MS, writes: true }).catch(
    (error: Error & { mend?: string }) => {
      throw new ApiProblem('source-unreachable', error.message, {
        mend: error.mend ?? 'Test the connection of the source.',
      });
    },
  );
  let lost = false;
  client.on('error', () => {
    lost = true;
  });
  try {
    return await work(client);
  } catch (error) {
    if (error instanceof pg.DatabaseError) throw asProblem(error);
    if (lost)
      throw new ApiProblem('source-error', 'The source ended the connection.', {
        mend: 'Look at what it says of that in its log, then try again.',
      });
    throw error;
  } finally {
    await client.end().catch(() => undefined);
  }
}

/** What the source says of a statement that makes or takes away: of names and rights alone, never of values. */
function asProblem({ code, message, detail }: pg.DatabaseError): ApiProblem {
  const said = `${message}${detail ? ` (${detail.replaceAll('\n', '; ')})` : ''}`;
  if (code === '2BP01')
    return new ApiProblem('still-used', `Something at the source is built upon what Idrel made there: ${said}.`, {
      mend: 'Let it go there first. Nothing was changed.',
    });
  return new ApiProblem('source-error', `The source says: ${said}.`, {
    mend:
      code === '42501'
        ? 'The role lacks a right: the plan says which. Nothing was changed.'
        : 'Scan the source, and plan again. Nothing was changed.',
  });
}

export interface TableThere extends TableMeans {
  readonly schema: string;
  readonly name: string;
}

/** What the role may do there, and what it made. */
export interface There {
  readonly role: string;
  readonly database: string;
  readonly superuser: boolean;
  readonly makesRoles: boolean;
  readonly makesSchemas: boolean;
  /** The server is too old to draw keys. */
  readonly tooOld: boolean;
  readonly tables: readonly TableThere[];
  readonly before: MadeBefore;
  readonly made: readonly Made[];
}

const OF_PEOPLE = `n.nspname !~ '^pg_' and n.nspname <> 'information_schema'`;

/** Roles that Idrel made, for whichever database: by what they say of themselves. */
const ROLES = `
  select
    r.oid, r.rolname as name,
    concat_ws(' ', r.rolsuper, r.rolcanlogin, r.rolbypassrls, r.rolcreaterole, r.rolcreatedb, r.rolreplication) as attributes,
    array(
      select m.rolname::text
      from pg_auth_members a
      join pg_roles m on m.oid = a.member
      where a.roleid = r.oid and m.rolname <> current_user
      order by 1
    ) as logins,
    array(
      select o.rolname::text
      from pg_auth_members a
      join pg_roles o on o.oid = a.roleid
      where a.member = r.oid
      order by 1
    ) as takes
  from pg_roles r
  where starts_with(r.rolname, 'idrel_') and shobj_description(r.oid, 'pg_authid') = $1
  order by r.rolname`;

const SCHEMAS = `
  select n.oid, n.nspname as name, n.nspacl::text as acl, n.nspowner = (select oid from pg_roles where rolname = current_user) as mine
  from pg_namespace n
  where n.nspname ~ '^idrel_' and obj_description(n.oid, 'pg_namespace') = $1
  order by n.nspname`;

/** Whatever lies in the schemas that Idrel made. */
const INSIDE = `
  select
    n.nspname as schema, c.relname as name, c.relkind::text as kind,
    md5(concat_ws(
      ' ', c.relkind, pg_get_userbyid(c.relowner), c.reloptions::text, c.relacl::text,
      case when c.relkind = 'v' then pg_get_viewdef(c.oid) end,
      (select string_agg(a.attacl::text, ' ' order by a.attnum) from pg_attribute a where a.attrelid = c.oid and a.attacl is not null))) as state
  from pg_class c
  join pg_namespace n on n.oid = c.relnamespace
  where n.oid = any($1::oid[]) and c.relkind not in ('i', 't', 'c')
  union all
  select n.nspname, p.proname, 'f', md5(pg_get_functiondef(p.oid))
  from pg_proc p
  join pg_namespace n on n.oid = p.pronamespace
  where n.oid = any($1::oid[]) and p.prokind <> 'a'
  order by 1, 2`;

/** Rights of these roles outside of what Idrel made. */
const RIGHTS = `
  select
    g.rolname as holder, n.nspname as schema, c.relname as name, null as "column",
    string_agg(x.privilege_type || case when x.is_grantable then '*' else '' end, ' ' order by x.privilege_type) as state
  from pg_class c
  join pg_namespace n on n.oid = c.relnamespace
  cross join lateral aclexplode(c.relacl) x
  join pg_roles g on g.oid = x.grantee
  where x.grantee = any($1::oid[]) and n.oid <> all($2::oid[])
  group by 1, 2, 3
  union all
  select
    g.rolname, n.nspname, c.relname, a.attname,
    string_agg(x.privilege_type || case when x.is_grantable then '*' else '' end, ' ' order by x.privilege_type)
  from pg_attribute a
  join pg_class c on c.oid = a.attrelid
  join pg_namespace n on n.oid = c.relnamespace
  cross join lateral aclexplode(a.attacl) x
  join pg_roles g on g.oid = x.grantee
  where x.grantee = any($1::oid[]) and n.oid <> all($2::oid[]) and not a.attisdropped
  group by 1, 2, 3, 4
  union all
  select
    g.rolname, n.nspname, null, null,
    string_agg(x.privilege_type || case when x.is_grantable then '*' else '' end, ' ' order by x.privilege_type)
  from pg_namespace n
  cross join lateral aclexplode(n.nspacl) x
  join pg_roles g on g.oid = x.grantee
  where x.grantee = any($1::oid[]) and n.oid <> all($2::oid[])
  group by 1, 2
  order by 1, 2, 3, 4`;

const TABLES = `
  select
    n.nspname as schema, c.relname as name, c.relrowsecurity as "ownRows",
    has_schema_privilege(n.oid, 'USAGE') and has_table_privilege(c.oid, 'SELECT') as reads,
    has_schema_privilege(n.oid, 'USAGE WITH GRANT OPTION') and has_table_privilege(c.oid, 'SELECT WITH GRANT OPTION') as "passesOn"
  from pg_class c
  join pg_namespace n on n.oid = c.relnamespace
  where c.relkind in ('r', 'p', 'v', 'm', 'f') and ${OF_PEOPLE}`;

/** The role whose readers find what lies in a schema that Idrel made. */
const readersOf = (database: string, schema: string): string | null => {
  const number = Number(/^idrel_(\d+)_/.exec(schema)?.[1]);
  return number > 0 ? roleOfReaders(database, number) : null;
};

interface RoleRow {
  oid: number;
  name: string;
  attributes: string;
  logins: string[];
  takes: string[];
}

/** Reads what the role may do at a source, and what it made there. */
export async function readThere(client: pg.Client): Promise<There> {
  const rows = async <T>(sql: string, bind: unknown[] = []): Promise<T[]> =>
    (await client.query(sql, bind)).rows as T[];
  const [me] = await rows<Omit<There, 'tables' | 'before' | 'made'>>(`
    select
      r.rolname as role, current_database() as database, r.rolsuper as superuser, r.rolcreaterole or r.rolsuper as "makesRoles",
      has_database_privilege(current_database(), 'CREATE') as "makesSchemas",
      current_setting('server_version_num')::int < 130000 as "tooOld"
    from pg_roles r
    where r.rolname = current_user`);
  if (!me) throw new ApiProblem('source-error', 'The source does not say as whom it was reached.');
  // Roles stand beside those of the other databases of the server: these are told by the whole of their names.
  const roles = (await rows<RoleRow>(ROLES, [MADE_BY])).filter(
    ({ name }) => numberOfReaders(me.database, name) !== null,
  );
  const schemas = await rows<{ oid: number; name: string; acl: string | null; mine: boolean }>(SCHEMAS, [MADE_BY]);
  const mine = schemas.filter((schema) => schema.mine);
  const oids = mine.map(({ oid }) => oid);
  const inside = await rows<{ schema: string; name: string; kind: string; state: string }>(INSIDE, [oids]);
  const rights = await rows<{
    holder: string;
    schema: string;
    name: string | null;
    column: string | null;
    state: string;
  }>(RIGHTS, [roles.map(({ oid }) => oid), oids]);
  return {
    ...me,
    tables: await rows<TableThere>(TABLES),
    before: {
      roles: roles.map(({ name, logins }) => ({ name, logins })),
      schemas: mine.filter(({ name }) => name !== KEYS_SCHEMA).map(({ name }) => name),
      views: inside.filter(({ kind }) => kind === 'v').map(({ schema, name }) => ({ schema, name })),
      keys: mine.some(({ name }) => name === KEYS_SCHEMA),
    },
    made: [
      ...roles.flatMap(({ name, attributes, logins, takes }): Made[] => [
        { key: `role ${name}`, by: name, words: `the role ${name}`, state: attributes },
        ...logins.map((login) => ({
          key: `member ${name}\u001f${login}`,
          by: login,
          words: `${login} in ${name}`,
          state: '',
        })),
        ...takes.map((taken) => ({ key: `takes ${name} ${taken}`, by: name, words: `${name} in ${taken}`, state: '' })),
      ]),
      ...schemas.map(
        (schema): Made =>
          schema.mine
            ? { key: `schema ${schema.name}`, by: null, words: `the schema ${schema.name}`, state: schema.acl ?? '' }
            : {
                key: `foreign ${schema.name}`,
                by: null,
                words: `the schema ${schema.name}, which says that Idrel made it and is somebody else’s: what lies in it is in no catalog`,
                state: '',
              },
      ),
      ...inside.map(({ schema, name, kind, state }) => ({
        key: `${kind} ${schema}.${name}`,
        by: readersOf(me.database, schema),
        words: `${kind === 'v' ? 'the view ' : kind === 'f' ? 'the function ' : ''}${schema}.${name}`,
        state,
      })),
      ...rights.map(({ holder, schema, name, column, state }) => ({
        key: JSON.stringify([holder, schema, name, column]),
        by: holder,
        words: `a right of ${holder} on ${[schema, name, column].filter((part) => part !== null).join('.')}`,
        state,
      })),
    ],
  };
}

/** What the role lacks, each with the statement that mends it. */
export function lacks(there: There, tables: readonly { readonly schema: string; readonly name: string }[]) {
  const role = quoteIdentifier(there.role);
  const known = new Map(there.tables.map((table) => [tableKey(table.schema, table.name), table]));
  const closed = new Set<string>();
  const kept = new Set<string>();
  for (const { schema, name } of tables) {
    const can = known.get(tableKey(schema, name));
    if (can && !can.reads) closed.add(schema);
    else if (can && !can.passesOn) kept.add(schema);
  }
  const inSchemas = (schemas: ReadonlySet<string>, option: string) =>
    [...schemas]
      .sort()
      .flatMap((schema) => [
        `GRANT USAGE ON SCHEMA ${quoteIdentifier(schema)} TO ${role}${option};`,
        `GRANT SELECT ON ALL TABLES IN SCHEMA ${quoteIdentifier(schema)} TO ${role}${option};`,
      ])
      .join('\n');
  return {
    needs: [
      ...(there.tooOld ? [{ what: 'The server is older than PostgreSQL 13, which draws no keys.', sql: '' }] : []),
      ...(there.makesRoles ? [] : [{ what: 'It may make no roles.', sql: `ALTER ROLE ${role} CREATEROLE;` }]),
      ...(there.makesSchemas
        ? []
        : [
            {
              what: 'It may make no schemas.',
              sql: `GRANT CREATE ON DATABASE ${quoteIdentifier(there.database)} TO ${role};`,
            },
          ]),
    ],
    wants: [
      ...(closed.size > 0
        ? [
            {
              what: `It cannot read all that policies open in ${[...closed].sort().join(', ')}.`,
              sql: inSchemas(closed, ''),
            },
          ]
        : []),
      ...(kept.size > 0
        ? [
            {
              what: `It may not pass on what it reads in ${[...kept].sort().join(', ')}: tables that are seen as they stand are shown by views as well, under other names.`,
              sql: inSchemas(kept, ' WITH GRANT OPTION'),
            },
          ]
        : []),
    ],
  };
}
