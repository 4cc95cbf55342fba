import { beforeAll, describe, expect, it } from 'vitest';
import { loadParser } from '../sql/index.ts';
import { readScript, SchemaCatalog } from './index.ts';

beforeAll(() => loadParser());

const DDL = `
create table s.a (id int, x text, y int, z text);
create table s.b (id int, a_id int, x text, w int);
create table s.tree (id int, parent int, label text);`;

/** Lineage of the last statement in short form: `s.a.x>v:copied` for values, `s.a.id:join` for rows. */
function trace(sql: string, ddl = DDL) {
  const catalog = new SchemaCatalog(['pg_catalog', 's', 'public']);
  readScript(ddl, catalog);
  const { statements, unresolved } = readScript(sql, catalog);
  const last = statements.at(-1);
  const name = (from: { schema: string; relation: string; column: string }) =>
    `${from.schema}.${from.relation}.${from.column}`;
  return {
    values: (last?.edges ?? []).map((edge) => `${name(edge.from)}>${edge.to}:${edge.kind}`).sort(),
    rows: (last?.influences ?? []).map((influence) => `${name(influence.from)}:${influence.kind}`).sort(),
    unresolved: unresolved.map((entry) => entry.reason),
  };
}

describe('what happens to values', () => {
  it.each([
    ['copies a bare column, also under an alias', 'select x as v from a', ['s.a.x>v:copied']],
    ['transforms in an expression', "select x || '!' as v from a", ['s.a.x>v:transformed']],
    ['transforms in a cast', 'select y::text as v from a', ['s.a.y>v:transformed']],
    ['aggregates', 'select sum(y) as v from a', ['s.a.y>v:aggregated']],
    ['keeps the strongest kind on the way', 'select sum(y) + 1 as v from a', ['s.a.y>v:aggregated']],
    ['aggregates in a window', 'select sum(y) over () as v from a', ['s.a.y>v:aggregated']],
    ['takes nothing for row_number', 'select row_number() over () as v from a', []],
    ['masks by digest', 'select md5(x) as v from a', ['s.a.x>v:masked']],
    [
      'does not mask what a union passes around it',
      'select md5(x) as v from a union all select x from a',
      ['s.a.x>v:copied'],
    ],
    [
      'does not mask what another branch passes',
      'select case when y > 1 then md5(x) else x end as v from a',
      ['s.a.x>v:transformed', 's.a.y>v:transformed'],
    ],
    ['does not mask what stands beside its mask', 'select md5(x) || x as v from a', ['s.a.x>v:transformed']],
    ['does not mask what stands in for a mask', 'select coalesce(md5(x), x) as v from a', ['s.a.x>v:transformed']],
    [
      'keeps a mask whose test looks at the value',
      "select case when x is null then '' else md5(x) end as v from a",
      ['s.a.x>v:masked'],
    ],
    ['masks by a part and asterisks', "select left(x, 1) || '***' as v from a", ['s.a.x>v:masked']],
    ['masks by replacement', "select regexp_replace(x, '.', '**', 'g') as v from a", ['s.a.x>v:masked']],
    ['does not take a plain separator for a mask', "select left(x, 1) || '-' as v from a", ['s.a.x>v:transformed']],
    [
      'reads conditions and results of CASE',
      'select case when y > 1 then x else z end as v from a',
      ['s.a.x>v:transformed', 's.a.y>v:transformed', 's.a.z>v:transformed'],
    ],
    [
      'expands a star in order',
      'select * from b',
      ['s.b.a_id>a_id:copied', 's.b.id>id:copied', 's.b.w>w:copied', 's.b.x>x:copied'],
    ],
    [
      'expands a qualified star',
      'select q.* from a, tree as q',
      ['s.tree.id>id:copied', 's.tree.label>label:copied', 's.tree.parent>parent:copied'],
    ],
    ['follows a subquery', 'select t.v from (select x as v from a) t', ['s.a.x>v:copied']],
    ['renames columns by the alias of a subquery', 'select t.q as v from (select x from a) t(q)', ['s.a.x>v:copied']],
    ['follows a scalar subquery', 'select (select x from b where b.id = a.id) as v from a', ['s.b.x>v:copied']],
    [
      'follows CTEs, each in the one before',
      'with p as (select x as v from a), q as (select v from p) select v from q',
      ['s.a.x>v:copied'],
    ],
    [
      'unites both arms of a union',
      'select x as v from a union all select upper(x) from b',
      ['s.a.x>v:copied', 's.b.x>v:transformed'],
    ],
    ['takes only the left arm of EXCEPT', 'select x as v from a except select x from b', ['s.a.x>v:copied']],
    [
      'reads functions in FROM',
      "select u.part as v from a, unnest(string_to_array(a.x, ',')) as u(part)",
      ['s.a.x>v:transformed'],
    ],
    [
      'names a scalar function by its alias',
      'select n as v from a cross join lateral generate_series(1, a.y) as n',
      ['s.a.y>v:transformed'],
    ],
    ['reads VALUES', "select v from a, lateral (values (a.x), ('k')) as t(v)", ['s.a.x>v:copied']],
    ['reads a column of a bracketed row', 'select (a).x as v from a', ['s.a.x>v:copied']],
    [
      'reads a whole row',
      'select row_to_json(t) as v from tree t',
      ['s.tree.id>v:transformed', 's.tree.label>v:transformed', 's.tree.parent>v:transformed'],
    ],
  ])('%s', (_, sql, expected) => {
    expect(trace(sql)).toEqual({ values: expected, rows: expect.any(Array), unresolved: [] });
  });
});

describe('what decides rows', () => {
  it.each([
    ['joins', 'select 1 from a join b on a.id = b.a_id', ['s.a.id:join', 's.b.a_id:join']],
    ['filters', 'select 1 from a where y > 1', ['s.a.y:filter']],
    ['filters after grouping', 'select 1 from a group by x having max(y) > 1', ['s.a.x:group', 's.a.y:filter']],
    [
      'groups by position and by output name',
      'select x as k, lower(z) as l from a group by 1, l',
      ['s.a.x:group', 's.a.z:group'],
    ],
    ['sorts by an output name', 'select y as k from a order by k', ['s.a.y:sort']],
    ['windows', 'select rank() over (partition by x order by y) from a', ['s.a.x:window', 's.a.y:window']],
    ['named windows', 'select rank() over w from a window w as (order by y)', ['s.a.y:window']],
    [
      'FILTER and ORDER BY of an aggregate',
      "select string_agg(x, ',' order by y) filter (where z is not null) from a",
      ['s.a.y:sort', 's.a.z:filter'],
    ],
    [
      'EXISTS',
      'select 1 from a where exists (select b.x from b where b.a_id = a.id)',
      ['s.a.id:filter', 's.b.a_id:filter', 's.b.x:unused'],
    ],
    ['IN', 'select 1 from a where id in (select a_id from b)', ['s.a.id:filter', 's.b.a_id:filter']],
    ['NATURAL JOIN', 'select 1 from a natural join b', ['s.a.id:join', 's.a.x:join', 's.b.id:join', 's.b.x:join']],
    ['a column of a subquery that nobody reads', 'select t.x from (select x, z from a) t', ['s.a.z:unused']],
    [
      'a CTE that nobody reads',
      'with c as (select x from b where w > 1) select id from a',
      ['s.b.w:unused', 's.b.x:unused'],
    ],
    ['DISTINCT ON', 'select distinct on (y) x from a', ['s.a.y:group']],
    ['grouping sets', 'select 1 from a group by rollup (x, y)', ['s.a.x:group', 's.a.y:group']],
  ])('%s', (_, sql, expected) => {
    expect(trace(sql).rows).toEqual(expected);
  });

  it('takes the merged column of USING from the side PostgreSQL takes it from', () => {
    expect(trace('select id from a join b using (id)').values).toEqual(['s.a.id>id:copied']);
    expect(trace('select id from a right join b using (id)').values).toEqual(['s.b.id>id:copied']);
    expect(trace('select id from a full join b using (id)').values).toEqual([
      's.a.id>id:transformed',
      's.b.id>id:transformed',
    ]);
    expect(trace('select * from a join b using (id, x)').values.map((value) => value.split('>')[1])).toHaveLength(6);
  });

  it('finds the fixpoint of a recursive query', () => {
    const sql = `with recursive up(id, parent, label, route) as (
        select id, parent, label, label from tree where parent is null
        union all
        select t.id, t.parent, t.label, up.route || '/' || t.label from tree t join up on t.parent = up.id)
      select route as v from up`;
    expect(trace(sql)).toEqual({
      values: ['s.tree.label>v:transformed'],
      rows: ['s.tree.id:join', 's.tree.parent:filter', 's.tree.parent:join'],
      unresolved: [],
    });
  });

  it('lets a correlated subquery see the query around it, and not its neighbours', () => {
    expect(trace('select 1 from a, lateral (select b.x from b where b.a_id = a.id) q').rows).toContain('s.a.id:filter');
    expect(trace('select 1 from a, (select b.x from b where b.a_id = y) q').unresolved).toEqual([
      'the column y is in none of the relations named',
    ]);
  });
});

describe('scripts', () => {
  it('knows what earlier statements made', () => {
    const result = trace(
      'create view s.v1 as select x as p from a; create table t2 as select p as q from v1; insert into b (x) select q from t2;',
    );
    expect(result.values).toEqual(['s.t2.q>x:copied']);
  });

  it('places INSERT by position where no columns are listed', () => {
    expect(trace('insert into b select id, y, z from a').values).toEqual([
      's.a.id>id:copied',
      's.a.y>a_id:copied',
      's.a.z>x:copied',
    ]);
  });

  it('reads UPDATE … FROM', () => {
    expect(trace('update b set x = a.z from a where a.id = b.a_id')).toEqual({
      values: ['s.a.z>x:copied'],
      rows: ['s.a.id:filter', 's.b.a_id:filter'],
      unresolved: [],
    });
  });

  it('assumes the one relation of unknown shape to have an unknown column, and says when a star hides columns', () => {
    expect(trace('select total from elsewhere.orders', '').values).toEqual(['elsewhere.orders.total>total:copied']);
    expect(trace('select * from elsewhere.orders', '').unresolved).toEqual([
      'the columns of elsewhere.orders are not known, so * cannot be expanded: give its definition',
    ]);
  });

  it('keeps what is right beside what is wrong, with line and reason', () => {
    const catalog = new SchemaCatalog();
    const { statements, unresolved } = readScript(
      'select 1;\n\nselec x from a;\nselect y from t;\ndo language plpython3u $$ pass $$;',
      catalog,
    );
    expect(statements.map((statement) => statement.line)).toEqual([1, 4]);
    expect(unresolved.map(({ line, reason }) => [line, reason])).toEqual([
      [3, 'syntax error at or near "selec" (at character 1)'],
      [5, 'a DO block in this language (plpython3u) is not read'],
    ]);
  });

  it('follows ALTER TABLE, RENAME and DROP', () => {
    const result = trace(
      'alter table a add column n int; alter table a rename column x to renamed; alter table a drop column z; create view v as select * from a',
    );
    expect(result.values.map((value) => value.split('>')[0])).toEqual(['s.a.id', 's.a.n', 's.a.renamed', 's.a.y']);
  });
});

describe('each output column', () => {
  it.each([
    [
      'of unnest with several lists comes from its own',
      "select u.x as p, u.y as q, u.n as r from a, unnest(string_to_array(a.x, ','), array[a.y]) with ordinality u(x, y, n)",
      ['s.a.x>p:transformed', 's.a.y>q:transformed'],
    ],
    [
      'of ROWS FROM comes from its own function',
      "select r.* from a, rows from (generate_series(1, a.y), string_to_table(a.x, ' ')) with ordinality as r(i, w, n)",
      ['s.a.x>w:transformed', 's.a.y>i:transformed'],
    ],
    [
      'of a number beside rows comes from nothing',
      "select t.w, t.n from a, string_to_table(a.x, ' ') with ordinality t(w, n)",
      ['s.a.x>w:transformed'],
    ],
    [
      'of a function whose columns are not known may come from all it is given',
      'select f.p, f.q, f.n from a, whatever(a.x) with ordinality f(p, q, n)',
      ['s.a.x>p:transformed', 's.a.x>q:transformed'],
    ],
    [
      'of SEARCH and CYCLE comes from what they order by',
      'with recursive t as (select id, parent from tree union all select c.id, c.parent from tree c join t on c.parent = t.id) search depth first by id set o cycle parent set m using w select o, m, w from t',
      ['s.tree.id>o:transformed', 's.tree.parent>m:transformed', 's.tree.parent>w:transformed'],
    ],
    [
      'of UPDATE (a, b) = (x, y) gets its own',
      'update a set (x, z) = (b.x, upper(b.x || b.w)) from b where b.a_id = a.id',
      ['s.b.w>z:transformed', 's.b.x>x:copied', 's.b.x>z:transformed'],
    ],
    [
      'of UPDATE (a, b) = (SELECT …) gets its own',
      'update a set (z, y) = (select label, parent from tree t where t.id = a.id)',
      ['s.tree.label>z:copied', 's.tree.parent>y:copied'],
    ],
    [
      'of ON CONFLICT gets what it is set to',
      'insert into a (id, x, y) select id, x, w from b on conflict (id) do update set x = excluded.x, z = a.z || excluded.y',
      ['s.a.z>z:transformed', 's.b.id>id:copied', 's.b.w>y:copied', 's.b.w>z:transformed', 's.b.x>x:copied'],
    ],
    [
      'of MERGE gets what its branches say',
      'merge into a using b on b.a_id = a.id when matched and b.w > 1 then update set x = b.x, y = a.y + b.w when not matched then insert (id, x) values (b.id, upper(b.x))',
      ['s.a.y>y:transformed', 's.b.id>id:copied', 's.b.w>y:transformed', 's.b.x>x:copied', 's.b.x>x:transformed'],
    ],
    [
      'of a table gets what it is generated from',
      'create table g (p int, q int, r int generated always as (p + q) stored)',
      ['s.g.p>r:transformed', 's.g.q>r:transformed'],
    ],
    [
      'of a parent comes from its partitions',
      'create table part (id int, d date) partition by range (d); create table part_1 partition of part for values from (minvalue) to (maxvalue)',
      ['s.part_1.d>d:copied', 's.part_1.id>id:copied'],
    ],
    [
      'of a parent comes from what is attached',
      'create table old (id int, x text, y int, z text); alter table a attach partition old default',
      ['s.old.id>id:copied', 's.old.x>x:copied', 's.old.y>y:copied', 's.old.z>z:copied'],
    ],
    ['is told of the query of EXPLAIN', 'explain (analyze) select x as v from a', ['s.a.x>v:copied']],
    ['is told of a cursor', 'declare c cursor for select x as v from a', ['s.a.x>v:copied']],
    ['is told of a prepared statement', 'prepare p (int) as select x as v from a where id = $1', ['s.a.x>v:copied']],
  ])('%s', (_, sql, expected) => expect(trace(sql).values).toEqual(expected));

  it('nothing gets a value by DELETE, and what decides it is told', () => {
    expect(trace('delete from a using b where b.a_id = a.id and b.w > 3')).toEqual({
      values: [],
      rows: ['s.a.id:filter', 's.b.a_id:filter', 's.b.w:filter'],
      unresolved: [],
    });
  });
});

describe('rows that are taken apart', () => {
  const made = `${DDL}
    create type s.pair as (l int, r text);
    create function s.parted(t text) returns s.pair language sql as $$ select 1, t $$;
    create function s.out(i int, out p int, out q text) language sql as $$ select i, 'x' $$;
    create function s.listed(t text) returns table (word text, place int) language sql as $$ select t, 1 $$;
    create function s.trees(i int) returns setof s.tree language sql as $$ select * from s.tree $$;`;
  it.each([
    ['of a composite type', 'select (parted(x)).* from a', ['s.a.x>l:transformed', 's.a.x>r:transformed']],
    [
      'of OUT parameters',
      'select id, (s.out(y)).*, z from a',
      ['s.a.id>id:copied', 's.a.y>p:transformed', 's.a.y>q:transformed', 's.a.z>z:copied'],
    ],
    [
      'of RETURNS TABLE in FROM',
      'select l.place, l.word from a, listed(a.x) l',
      ['s.a.x>place:transformed', 's.a.x>word:transformed'],
    ],
    [
      'of the rows of a table',
      'select (trees(y)).* from a',
      ['s.a.y>id:transformed', 's.a.y>label:transformed', 's.a.y>parent:transformed'],
    ],
  ])('%s', (_, sql, expected) => expect(trace(sql, made)).toMatchObject({ values: expected, unresolved: [] }));

  it('of what is not known are said, and no column is made up', () => {
    expect(trace('select id, (mystery(x)).* from a')).toMatchObject({
      values: ['s.a.id>id:copied'],
      unresolved: [expect.stringContaining('(mystery(…)).* are not known')],
    });
  });
});

describe('the path along which names are looked up', () => {
  it('is set by the script, taken back, and emptied by dumps', () => {
    const ddl = `${DDL} create table other.a (id int, x text);`;
    expect(trace('set search_path = other, s; select x as v from a', ddl).values).toEqual(['other.a.x>v:copied']);
    expect(trace('set search_path to other; reset search_path; select x as v from a', ddl).values).toEqual([
      's.a.x>v:copied',
    ]);
    expect(
      trace("select pg_catalog.set_config('search_path', 'other', false); select x as v from a", ddl).values,
    ).toEqual(['other.a.x>v:copied']);
    expect(
      trace('set search_path = other; create table made as select id from s.b; select id as v from made', ddl).values,
    ).toEqual(['other.made.id>v:copied']);
  });

  it('follows a table into another schema', () => {
    expect(trace('alter table s.a set schema elsewhere; select x as v from elsewhere.a').values).toEqual([
      'elsewhere.a.x>v:copied',
    ]);
  });
});

describe('a WITH that writes', () => {
  it('does what it says, and hands on what it returns', () => {
    const catalog = new SchemaCatalog(['pg_catalog', 's', 'public']);
    readScript(DDL, catalog);
    const { statements, unresolved } = readScript(
      'with gone as (delete from b where w > 3 returning id, x), moved as (insert into a (id, x) select id, upper(x) from gone returning x as kept) update tree t set label = moved.kept from moved where t.id = 1',
      catalog,
    );
    const told = statements.map(({ kind, target, edges }) => [
      kind,
      target.relation,
      edges.map(({ from, to, kind: how }) => `${from.relation}.${from.column}>${to}:${how}`),
    ]);
    expect(told).toEqual([
      ['delete', 'b', []],
      ['insert', 'a', ['b.id>id:copied', 'b.x>x:transformed']],
      ['update', 'tree', ['a.x>label:copied']],
    ]);
    expect(unresolved).toEqual([]);
  });
});

describe('a function in SQL', () => {
  it.each([
    [
      'gives what its last query gives',
      'create function f(n int) returns table (name text, size int) language sql as $$ select 1; select x, y + n from a where id = n $$',
      ['s.a.x>name:copied', 's.a.y>size:transformed'],
    ],
    [
      'with an atomic body too',
      'create function f() returns text begin atomic select upper(x) from a; end',
      ['s.a.x>f:transformed'],
    ],
    [
      'with RETURN too',
      'create function f(n int) returns int return (select max(y) from a where id = n)',
      ['s.a.y>f:aggregated'],
    ],
    [
      'writes what its statements write',
      'create procedure p(n int) language sql as $$ insert into a (id, x) select id, x from b where w > n $$',
      ['s.b.id>id:copied', 's.b.x>x:copied'],
    ],
  ])('%s', (_, sql, expected) => expect(trace(sql)).toMatchObject({ values: expected, unresolved: [] }));

  it('in another language is told', () => {
    expect(trace('create function f() returns int language plpython3u as $$ return 1 $$').unresolved).toEqual([
      'the body of a function in this language (plpython3u) is not read',
    ]);
  });
});

describe('rules', () => {
  it.each([
    [
      'carry what is inserted on',
      'create rule r as on insert to a do also insert into b (id, x) values (new.id, upper(new.x))',
      ['s.a.id>id:copied', 's.a.x>x:transformed'],
    ],
    [
      'carry old rows, decided by them',
      'create rule r as on update to a do instead update b set x = new.x where b.a_id = old.id',
      ['s.a.x>x:copied'],
    ],
    [
      'read other tables in between',
      'create rule r as on delete to a do insert into tree (id, label) select old.id, b.x from b where b.id = old.id',
      ['s.a.id>id:copied', 's.b.x>label:copied'],
    ],
    [
      'make a table a view',
      'create rule "_RETURN" as on select to a do instead select id, x, w, x from b',
      ['s.b.id>id:copied', 's.b.w>y:copied', 's.b.x>x:copied', 's.b.x>z:copied'],
    ],
    ['do nothing', 'create rule r as on delete to a do instead nothing', []],
  ])('%s', (_, sql, values) => {
    const traced = trace(sql);
    expect(traced.values).toEqual(values);
    expect(traced.unresolved).toEqual([]);
  });

  it('tell which rows decide', () => {
    expect(
      trace('create rule r as on update to a do instead update b set x = new.x where b.a_id = old.id').rows,
    ).toEqual(expect.arrayContaining(['s.a.id:filter', 's.b.a_id:filter']));
  });
});
