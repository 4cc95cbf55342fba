import { beforeAll, describe, expect, it } from 'vitest';
import { loadParser } from '../sql/index.ts';
import { readScript, SchemaCatalog } from './index.ts';

beforeAll(() => loadParser());

const DDL = `
create table s.a (id int, x text, y int, z text);
create table s.b (id int, a_id int, x text, w int);
create table s.tree (id int, parent int, label text);`;

/**
 * What each output column gets, worked out by hand: column = its sources, `*` for a value that was changed, `+` for one that was aggregated, `#` for one
 * that was masked. A test against what a database records of a view cannot see when columns are crossed.
 */
function outputs(sql: string): string[] {
  const catalog = new SchemaCatalog(['pg_catalog', 's', 'public']);
  readScript(DDL, catalog);
  const { statements } = readScript(sql, catalog);
  const last = statements.at(-1);
  const marks = { copied: '', transformed: '*', aggregated: '+', masked: '#' };
  return (last?.columns ?? []).map((column) => {
    const from = (last?.edges ?? [])
      .filter((edge) => edge.to === column)
      .map((edge) => `${edge.from.relation}.${edge.from.column}${marks[edge.kind]}`);
    return `${column} = ${from.sort().join(' ')}`.trim();
  });
}

describe('each output column gets its own', () => {
  it.each([
    [
      'select * from a join b using (id)',
      ['id = a.id', 'x = a.x b.x', 'y = a.y', 'z = a.z', 'a_id = b.a_id', 'w = b.w'],
    ],
    [
      'select * from a right join b using (id)',
      ['id = b.id', 'x = a.x b.x', 'y = a.y', 'z = a.z', 'a_id = b.a_id', 'w = b.w'],
    ],
    [
      'select * from a full join b using (id, x)',
      ['id = a.id* b.id*', 'x = a.x* b.x*', 'y = a.y', 'z = a.z', 'a_id = b.a_id', 'w = b.w'],
    ],
    ['select * from a natural join b', ['id = a.id', 'x = a.x', 'y = a.y', 'z = a.z', 'a_id = b.a_id', 'w = b.w']],
    [
      'select j.* from (a join b using (id)) as j(k, p, q, r, s, t, u)',
      ['k = a.id', 'p = a.x', 'q = a.y', 'r = a.z', 's = b.a_id', 't = b.x', 'u = b.w'],
    ],
    ['select j.id from a join b using (id) as j', ['id = a.id']],
    ['select b.*, a.* from a, b', ['id = a.id b.id', 'a_id = b.a_id', 'x = a.x b.x', 'w = b.w', 'y = a.y', 'z = a.z']],
    [
      'select q.* from (values (1, (select max(y) from a)), (2, (select min(w) from b))) q(n, m)',
      ['n =', 'm = a.y+ b.w+'],
    ],
    ['select v.p, v.q from a, lateral (values (a.x, a.y), (a.z, 0)) v(p, q)', ['p = a.x a.z', 'q = a.y']],
    ['select x as p, y as q from a union all select x, w from b', ['p = a.x b.x', 'q = a.y b.w']],
    ['(select x, y from a) except (select x, w from b)', ['x = a.x', 'y = a.y']],
    ['select x, y from a intersect select x, w from b', ['x = a.x', 'y = a.y']],
    ['with t(p, q) as (select x, y from a) select q, p from t', ['q = a.y', 'p = a.x']],
    ['with t as (select x from a), u as (select x from b) select t.x as p, u.x as q from t, u', ['p = a.x', 'q = b.x']],
    ['with a as (select label as x from tree) select x from a', ['x = tree.label']],
    [
      'with recursive t(n, p) as (select id, label from tree union all select tree.id, t.p || tree.label from t join tree on tree.parent = t.n) select n, p from t',
      ['n = tree.id', 'p = tree.label*'],
    ],
    ['select t.l from (select label as l, id from tree) t where t.id in (select parent from tree)', ['l = tree.label']],
    [
      'select (select x from b where b.a_id = a.id limit 1) as p, (select count(*) from b) as q from a',
      ['p = b.x', 'q ='],
    ],
    ['select array(select x from b order by w) as p from a', ['p = b.x+']],
    [
      'select exists (select 1 from b where b.x = a.x) as p, x in (select x from b) as q from a',
      ['p =', 'q = a.x* b.x*'],
    ],
    [
      "select coalesce(x, z, 'none') as p, nullif(x, z) as q, greatest(y, id) as r from a",
      ['p = a.x* a.z*', 'q = a.x* a.z*', 'r = a.id* a.y*'],
    ],
    [
      'select case when y > 1 then x else z end as p, case id when 1 then y end as q from a',
      ['p = a.x* a.y* a.z*', 'q = a.id* a.y*'],
    ],
    ['select x::varchar(3) as p, cast(y as text) as q, (x) as r from a', ['p = a.x*', 'q = a.y*', 'r = a.x']],
    ['select x collate "C" as p, -y as q, not (y > 1) as r from a', ['p = a.x', 'q = a.y*', 'r = a.y*']],
    [
      'select string_agg(x, z order by y) as p, array_agg(distinct x) as q, sum(y) filter (where id > 1) as r from a',
      ['p = a.x+ a.z+', 'q = a.x+', 'r = a.y+'],
    ],
    [
      'select first_value(x) over w as p, lag(y, id) over w as q, row_number() over w as r from a window w as (partition by z order by id)',
      ['p = a.x*', 'q = a.id* a.y*', 'r ='],
    ],
    [
      'select percentile_cont(0.5) within group (order by y) as p, mode() within group (order by x) as q from a',
      ['p = a.y+', 'q = a.x+'],
    ],
    [
      "select md5(x) as p, encode(sha256(x::bytea), 'hex') as q, left(x, 1) || '***' as r from a",
      ['p = a.x#', 'q = a.x#', 'r = a.x#'],
    ],
    [
      'select row(x, y) as p, array[x, z] as q, (array[x, z])[y] as r from a',
      ['p = a.x* a.y*', 'q = a.x* a.z*', 'r = a.x* a.y* a.z*'],
    ],
    [
      "select jsonb_build_object('k', x) ->> 'k' as p, to_jsonb(tree) as q from a, tree",
      ['p = a.x*', 'q = tree.id* tree.label* tree.parent*'],
    ],
    ['select r.x as p, r.y as q from (select array_agg(a) as l from a) t, unnest(t.l) r', ['p = a.x+', 'q = a.y+']],
    ['select (u).x as p, (u).id as q from (select unnest(array_agg(a)) as u from a) t', ['p = a.x+', 'q = a.id+']],
    [
      'select (u).* from (select unnest(array_agg(b order by w)) as u from b) t',
      ['id = b.id+', 'a_id = b.a_id+', 'x = b.x+', 'w = b.w+'],
    ],
    ['select ((array_agg(a order by y))[1]).x as p from a group by z', ['p = a.x+']],
    ['select (t.r).f2 as p, (t.r).f1 as q from (select row(x, y + 1) as r from a) t', ['p = a.y*', 'q = a.x']],
    ['select (row(a.*, 1)).f2 as p from a', ['p = a.x']],
    ['select u.n, u.k from unnest((select array_agg(row(x, w)) from b)) as u(n, k)', ['n = b.x+', 'k = b.w+']],
    ['select r.label as p from unnest(array(select t from tree t)) with ordinality r', ['p = tree.label+']],
    [
      'select (lag(a) over (order by id)).x as p, (first_value(a) over (order by id)).* from a',
      ['p = a.x*', 'id = a.id*', 'x = a.x*', 'y = a.y*', 'z = a.z*'],
    ],
    ['select (l.c).y as p from (select a as c from a union all select a from a where y > 1) l', ['p = a.y']],
    [
      'with c as (select b as whole from b) select d.part from c, lateral (select (c.whole).w as part) d',
      ['part = b.w'],
    ],
    ['select (select a from a limit 1).z as p', ['p = a.z']],
    ['select (coalesce(a, a)).x as p from a', ['p = a.x*']],
    [
      'select r.i, r.x as p from (select array_agg(a) as l from a) t, unnest(t.l, array[1]) r(i, x, q, s, k)',
      ['i = a.id+', 'p = a.x+'],
    ],
    ['select g.n, a.x from a, generate_series(1, a.y) as g(n)', ['n = a.y*', 'x = a.x']],
    ['select e.key, e.value from a, jsonb_each_text(a.x::jsonb) e(key, value)', ['key = a.x*', 'value = a.x*']],
    ['select r.p, r.q from a, jsonb_to_record(a.x::jsonb) as r(p int, q text)', ['p = a.x*', 'q = a.x*']],
    ['select x, count(*) as n, grouping(x) as g from a group by rollup (x)', ['x = a.x', 'n =', 'g = a.x*']],
    ['select distinct on (z) x, y from a order by z, id desc', ['x = a.x', 'y = a.y']],
    ['select t.* from tree t tablesample system (10)', ['id = tree.id', 'parent = tree.parent', 'label = tree.label']],
    ['table tree', ['id = tree.id', 'parent = tree.parent', 'label = tree.label']],
    ['create view v(p, q) as select y, x from a', ['p = a.y', 'q = a.x']],
    ['create table t as select x as p, y + 1 as q from a', ['p = a.x', 'q = a.y*']],
    ['select x as p, upper(z) as q into made from a', ['p = a.x', 'q = a.z*']],
    ['insert into b (x, id) select z, y from a', ['x = a.z', 'id = a.y']],
    ['insert into tree select id, y, x from a', ['id = a.id', 'parent = a.y', 'label = a.x']],
    ['update b set x = a.z, w = b.w + a.y from a where a.id = b.a_id', ['x = a.z', 'w = a.y* b.w*']],
    [
      'select t.label as p, u.label as q from tree t left join tree u on u.id = t.parent',
      ['p = tree.label', 'q = tree.label'],
    ],
    ['select q.n from (select x || z as n from a group by x, z having count(*) > 1) q', ['n = a.x* a.z*']],
    [
      'select extract(year from current_date) + y as p, now() as q, x || current_user as r from a',
      ['p = a.y*', 'q =', 'r = a.x*'],
    ],
  ])('%s', (sql, expected) => expect(outputs(sql)).toEqual(expected));
});

describe('what decides which row it is', () => {
  it.each([
    [
      'select ((array_agg(a order by y) filter (where id > 1))[1]).x as p from a group by z',
      ['a.id filter', 'a.y sort', 'a.z group'],
    ],
    ['select (lag(a) over (partition by z order by id)).x as p from a', ['a.id window', 'a.z window']],
    ['select (select a from a where y > 1 limit 1).x as p', ['a.y filter']],
    ['select (l.rows)[l.at].x as p from (select array_agg(b) as rows, max(w) as at from b) l', ['b.w filter']],
  ])('%s', (sql, expected) => {
    const catalog = new SchemaCatalog(['pg_catalog', 's', 'public']);
    readScript(DDL, catalog);
    const influences = readScript(sql, catalog).statements.at(-1)?.influences ?? [];
    expect(
      influences
        .filter(({ kind }) => kind !== 'unused')
        .map(({ from, kind }) => `${from.relation}.${from.column} ${kind}`)
        .sort(),
    ).toEqual(expected);
  });
});
