import { readDefinition } from '@idrel/core/lineage';
import { loadParser } from '@idrel/core/sql';
import pg from 'pg';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { readSchemaCatalog, readViews } from '../../readers/src/connectors/postgresql/lineageFacts.ts';

/**
 * The measure of truth for lineage: PostgreSQL records in pg_depend which columns the rule of a view reads.
 * What Idrel says a view uses, for values, for rows or without effect, must be the same set.
 */
const RECORDED = `
  select distinct r.ev_class::int as view, n.nspname as schema, c.relname as relation, a.attname as column
  from pg_rewrite r
  join pg_depend d on d.classid = 'pg_rewrite'::regclass and d.objid = r.oid and d.refclassid = 'pg_class'::regclass and d.refobjsubid <> 0
  join pg_class c on c.oid = d.refobjid
  join pg_namespace n on n.oid = c.relnamespace
  join pg_attribute a on a.attrelid = c.oid and a.attnum = d.refobjsubid
  where d.refobjid <> r.ev_class`;

/** Views made to be hard: each construct that the system's own views do not show. */
const HARD = `
  create schema hard;
  create table hard.a (id int primary key, x text, y int, z text);
  create table hard.b (id int, a_id int, x text, w int);
  create type hard.pair as (l int, r int);
  create function hard.some_a(n int) returns setof hard.a language sql as 'select * from hard.a limit n';
  create view hard.v01 as select * from hard.a join hard.b using (id, x);
  create view hard.v02 as select * from hard.a natural full join hard.b;
  create view hard.v03 as select id, x from hard.a right join hard.b using (id, x);
  create view hard.v04 as with recursive t(n, p) as (select id, x from hard.a union all select b.id, b.x || t.p from hard.b b join t on b.a_id = t.n) select n from t;
  create view hard.v05 as select q.x from hard.a, lateral (select b.x, b.w from hard.b b where b.a_id = a.id order by b.w limit 1) q;
  create view hard.v06 as select row_to_json(t) as j from hard.a t;
  create view hard.v07 as select f.x from hard.some_a(3) f;
  create view hard.v08 as select rank() over w as r, sum(y) filter (where z is null) over w as s from hard.a window w as (partition by x order by y);
  create view hard.v09 as select x, count(*) c from hard.a group by grouping sets ((x), (y), ()) having max(z) > 'a';
  create view hard.v10 as select t.c1 from (values ((select max(y) from hard.a), 1), (2, (select min(w) from hard.b))) t(c1, c2);
  create view hard.v11 as select distinct on (y) x from hard.a order by y, z;
  create view hard.v12 as select x from hard.a except select x from hard.b where w > 1;
  create view hard.v13 as select case when exists (select 1 from hard.b where b.a_id = a.id) then x else coalesce(z, 'n') end as v from hard.a;
  create view hard.v14 as select id, x from hard.a group by id;
  create view hard.v15 as select v.id as one, u.e from hard.v01 v, unnest(string_to_array(v.x, ',')) with ordinality u(e, n) where n > 1;
  create view hard.v16 as select j.id from (hard.a a1 join hard.a a2 on a1.id = a2.y) as j(id, p, q, r, s, t, u, v);
  create view hard.v17 as select a.ctid, a.tableoid::regclass as t from hard.a where a.xmin::text <> '1';
  create view hard.v18 as select xt.n from hard.a, xmltable('/r/i' passing xmlparse(document a.z) columns n int path '@n') xt;
  create view hard.v19 as select array(select w from hard.b where b.id = a.id) arr, a.id in (select a_id from hard.b) as known from hard.a;
  create view hard.v20 as select string_agg(x, ',' order by y) s, percentile_cont(0.5) within group (order by y) m from hard.a;
  create view hard.v21 as with unread as (select z from hard.a), t as materialized (select x from hard.b) select 1 as one from t;
  create view hard.v22 as select f.l, f.r from hard.b, rows from (jsonb_to_recordset(to_jsonb(b.x)) as (l int, r text), generate_series(1, b.w)) f(l, r, s);
  create materialized view hard.m01 as select a.x, t.w from hard.a tablesample system (50), hard.b t where a.y = any (array[t.w, t.id]);`;

/**
 * PostgreSQL does not record dependencies on its own pinned catalog tables. So the system's tables are made again, empty, in schemas of
 * our own, and the system's views from their own definitions over them: for these everything is recorded.
 */
async function shadowSystemViews(client: pg.Client): Promise<void> {
  await client.query('create schema shadow_catalog; create schema shadow_information');
  const tables = await client.query<{ schema: string; name: string; columns: string; key: string | null }>(`
    select n.nspname as schema, c.relname as name,
           string_agg(format('%I %s', a.attname, case a.atttypid when 'anyarray'::regtype then 'text[]' when 'pg_statistic[]'::regtype then 'shadow_catalog.pg_statistic[]' else format_type(a.atttypid, a.atttypmod) end), ', ' order by a.attnum) as columns,
           (select string_agg(quote_ident(k.attname), ', ') from pg_index i join pg_attribute k on k.attrelid = i.indrelid and k.attnum = any(i.indkey)
            where i.indrelid = c.oid and i.indisprimary) as key
    from pg_class c join pg_namespace n on n.oid = c.relnamespace join pg_attribute a on a.attrelid = c.oid and a.attnum > 0 and not a.attisdropped
    where c.relkind = 'r' and n.nspname in ('pg_catalog', 'information_schema') group by 1, 2, c.oid order by c.relname = 'pg_statistic' desc`);
  const shadow = (schema: string) => (schema === 'pg_catalog' ? 'shadow_catalog' : 'shadow_information');
  for (const table of tables.rows) {
    const key = table.key ? `, primary key (${table.key})` : '';
    await client.query(`create table ${shadow(table.schema)}."${table.name}" (${table.columns}${key})`);
  }
  // Functions that take a row of a system table get twins that take a row of its copy.
  await client.query(`
    do $$ declare f record; begin
      for f in select p.proname, string_agg('shadow_catalog.' || t.typname, ', ' order by a.i) as args, format_type(p.prorettype, null) as result
               from pg_proc p, unnest(p.proargtypes) with ordinality a(type, i) join pg_type t on t.oid = a.type
               where p.pronamespace = 'information_schema'::regnamespace group by p.oid, p.proname, p.prorettype having bool_and(t.typtype = 'c')
      loop execute format('create function shadow_information.%I(%s) returns %s language sql as %L', f.proname, f.args, f.result, 'select null::' || f.result); end loop;
    end $$`);
  await client.query('set search_path = pg_catalog, information_schema');
  const views = await client.query<{ schema: string; name: string; definition: string }>(`
    select n.nspname as schema, c.relname as name, pg_get_viewdef(c.oid) as definition from pg_class c join pg_namespace n on n.oid = c.relnamespace
    where c.relkind = 'v' and n.nspname in ('pg_catalog', 'information_schema') order by c.oid`);
  await client.query('set search_path = shadow_catalog, shadow_information, pg_catalog, information_schema');
  for (const view of views.rows)
    await client.query(
      `create view ${shadow(view.schema)}."${view.name}" as ${view.definition.replaceAll('NULL::anyarray', 'NULL::text[]')}`,
    );
}

let client: pg.Client;
let admin: pg.Client;
const database = `depend_${process.pid}`;

beforeAll(async () => {
  await loadParser();
  const url = new URL(process.env.IDREL_TEST_DATABASE_URL ?? '');
  admin = new pg.Client(url.href);
  await admin.connect();
  await admin.query(`create database ${database}`);
  url.pathname = `/${database}`;
  client = new pg.Client(url.href);
  await client.connect();
  await client.query(HARD);
  await shadowSystemViews(client);
});

afterAll(async () => {
  await client?.end();
  await admin?.query(`drop database if exists ${database} with (force)`);
  await admin?.end();
});

describe('lineage of views against pg_depend', () => {
  it('agrees for every system view and for views made to be hard', async () => {
    const catalog = await readSchemaCatalog(client);
    const views = await readViews(client, { system: true });
    const recorded = new Map<number, Set<string>>();
    for (const row of (await client.query(RECORDED)).rows) {
      const known = recorded.get(row.view) ?? new Set<string>();
      recorded.set(row.view, known.add(`${row.schema}.${row.relation}.${row.column}`));
    }
    // The originals are compared as well, on the part that PostgreSQL records for them: relations that are not pinned.
    const pinned = new Set(
      (
        await client.query(
          "select n.nspname || '.' || c.relname as name from pg_class c join pg_namespace n on n.oid = c.relnamespace where c.oid < 12000",
        )
      ).rows.map((row) => row.name),
    );
    const differing: string[] = [];
    let pairs = 0;
    for (const view of views) {
      const { lineage, problems } = readDefinition(
        view.definition,
        {
          schema: view.schema,
          relation: view.name,
          columns: view.columns,
          kind: view.materialised ? 'materialised view' : 'view',
        },
        catalog,
      );
      const uses = [...lineage.edges, ...lineage.influences].filter(
        (use) => !use.wholeRow && !pinned.has(`${use.from.schema}.${use.from.relation}`),
      );
      const said = new Set(uses.map(({ from }) => `${from.schema}.${from.relation}.${from.column}`));
      const truth = recorded.get(view.oid) ?? new Set<string>();
      pairs += truth.size;
      const missing = [...truth].filter((id) => !said.has(id));
      const extra = [...said].filter((id) => !truth.has(id));
      if (missing.length + extra.length + problems.length > 0) {
        differing.push(
          `${view.schema}.${view.name}: missing ${missing.join(', ') || '-'}; extra ${extra.join(', ') || '-'}; ${problems.join('; ')}`,
        );
      }
    }
    console.info(
      `${views.length - differing.length} of ${views.length} views agree exactly with pg_depend (${pairs} pairs of table and column)`,
    );
    expect(views.filter((view) => view.schema.startsWith('shadow_')).length).toBeGreaterThan(130);
    expect(pairs).toBeGreaterThan(1500);
    expect(differing).toEqual([]);
  });
});
