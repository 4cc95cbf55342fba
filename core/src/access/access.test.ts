import { beforeAll, describe, expect, it } from 'vitest';
import { loadParser } from '../sql/index.ts';
import { decideTable, type Policy, type ReadableTable, RefusedStatement, reachOf, rewriteSelect } from './index.ts';

beforeAll(() => loadParser());

const table: ReadableTable = {
  id: 't1',
  schema: 'mart',
  name: 'traveller',
  ancestors: ['t1', 's1', 'db'],
  columns: [
    { id: 'c1', name: 'id', type: 'integer', classes: [] },
    { id: 'c2', name: 'email', type: 'text', classes: ['email'] },
    { id: 'c3', name: 'born', type: 'date', classes: ['date-of-birth'] },
    { id: 'c4', name: 'route', type: 'text', classes: [] },
  ],
};
const none: Omit<Policy, 'id' | 'name' | 'effect'> = { everyone: false, groups: [], people: [], exceptGroups: [], assets: [], classes: [], columns: null, mask: null, rows: null };
const policy = (id: string, effect: Policy['effect'], more: Partial<Policy>): Policy => ({ ...none, id, name: id, effect, ...more });
const allow = policy('allow', 'allow', { groups: ['fares'], assets: ['s1'] });
const mask = policy('mask', 'protect', { everyone: true, classes: ['email'], mask: 'partial', exceptGroups: ['privacy'] });
const deny = policy('deny', 'deny', { groups: ['fares'], classes: ['date-of-birth'] });
const bettina = { id: 'bettina', groups: ['fares'] };
const accessOf = (policies: Policy[], person = bettina) =>
  decideTable(policies, person, table)
    .columns.map((column) => column.access)
    .join(' ');

describe('decisions', () => {
  it.each([
    ['nothing without an allow', [mask], 'refused refused refused refused'],
    ['everything below an allowed schema', [allow], 'plain plain plain plain'],
    ['protect over allow', [allow, mask], 'plain masked plain plain'],
    ['deny over both, whatever the order', [deny, mask, allow], 'plain masked refused plain'],
    ['only chosen columns', [{ ...allow, columns: ['id', 'route'] }], 'plain refused refused plain'],
    ['classes only on the assets named', [allow, { ...mask, assets: ['elsewhere'] }], 'plain plain plain plain'],
  ])('%s', (_, policies, expected) => {
    expect(accessOf(policies)).toBe(expected);
  });

  it('leaves out the groups a policy is not for, and takes the strongest mask', () => {
    expect(accessOf([allow, mask], { id: 'emrys', groups: ['fares', 'privacy'] })).toBe('plain plain plain plain');
    const masks = decideTable([allow, mask, { ...mask, id: 'm2', mask: 'blank' }], bettina, table).columns.map((column) => column.mask);
    expect(masks).toEqual([null, 'blank', null, null]);
  });

  it('counts reach before a policy is saved', () => {
    const changes = reachOf([allow], [allow, mask, deny], [bettina, { id: 'maud', groups: [] }], [table]);
    expect(changes.map(({ personId, column, before, after }) => [personId, column, before, after])).toEqual([
      ['bettina', 'email', 'plain', 'masked'],
      ['bettina', 'born', 'plain', 'refused'],
    ]);
  });
});

describe('rewriting', () => {
  const decision = decideTable([allow, mask, deny], bettina, table);
  const lookup = (schema: string | undefined, name: string) => ((schema ?? 'mart') === 'mart' && name === 'traveller' ? decision : undefined);
  const flat = (sql: string) => sql.replace(/\s+/g, ' ').replaceAll('( ', '(').replaceAll(' )', ')');
  const rewrite = (sql: string) => rewriteSelect(sql, lookup, { salt: 's' });
  const refusal = (sql: string) => {
    try {
      rewrite(sql);
      return 'passed';
    } catch (error) {
      return error instanceof RefusedStatement ? error.code : `other: ${String(error)}`;
    }
  };

  it('puts the permitted part in the place of a table', () => {
    const { sql, tables } = rewrite('select email, route from mart.traveller t where id = 3');
    expect(flat(sql)).toBe(
      `SELECT email, route FROM (SELECT id AS id, CASE WHEN email IS NULL THEN NULL ELSE "left"(email::text, 1) || '•••' END AS email, route AS route FROM mart.traveller) AS t WHERE id = 3`,
    );
    expect(tables.map((entry) => entry.access)).toEqual(['partly']);
  });

  it('gives WITH names of its own, so that no name can reach a system table', () => {
    const { sql } = rewrite('with pg_authid as (select 1 as rolname) select rolname from pg_authid');
    expect(flat(sql)).toMatch(/WITH idrel_with_1 AS .*FROM idrel_with_1 AS pg_authid/);
    expect(refusal('select * from (with pg_authid as (select 1) select * from pg_authid) x, pg_authid')).toBe('unknown-table');
    expect(rewrite('with recursive n(i) as (select 1 union all select i + 1 from n where i < 3) select i from n').sql).toContain('idrel_with_1');
  });

  it('fences row limits', () => {
    const limited = decideTable([allow, policy('rows', 'protect', { everyone: true, assets: ['t1'], rows: { column: 'route', values: ["O'Hare", 'a\\b'] } })], bettina, table);
    const { sql } = rewriteSelect('select id from traveller', () => limited, { salt: 's' });
    expect(flat(sql)).toMatch(/WHERE route::text IN \('O''Hare', *E?'a\\\\?\\?b'\)\s+OFFSET 0/i);
  });

  it.each([
    ['insert into mart.traveller values (1)', 'statement'],
    ['select 1; select 2', 'statement'],
    ['selec 1', 'syntax'],
    ['copy mart.traveller to stdout', 'statement'],
    ['with x as (delete from mart.traveller returning *) select * from x', 'construct'],
    ['select * from mart.traveller for update', 'construct'],
    ['select * into y from mart.traveller', 'construct'],
    ["select pg_read_file('/etc/passwd')", 'function'],
    ["select 'pg_authid'::regclass", 'type'],
    ['select current_user', 'function'],
    ['select * from pg_catalog.pg_authid', 'unknown-table'],
    ['select 1 operator(public.+) 2', 'function'],
    ['select public.sum(id) from mart.traveller', 'function'],
    ['select * from only mart.traveller tablesample system (5)', 'construct'],
    ['explain select 1', 'statement'],
    ['select $1', 'construct'],
    ["select * from xmltable('/a' passing '<a/>' columns b text)", 'construct'],
  ])('refuses %s', (sql, code) => {
    expect(refusal(sql)).toBe(code);
  });

  it.each([
    "select count(*), max(id) filter (where route like 'T%') from mart.traveller group by grouping sets ((route), ()) having count(*) > 1 order by 1 desc nulls last limit 5",
    'select t.route, rank() over (partition by route order by id rows between 1 preceding and current row) from traveller t',
    "select distinct on (route) route, case when id > 3 then 'a' else 'b' end from traveller order by route, id",
    'select * from traveller a join traveller b using (id) left join lateral (select max(id) m from traveller c where c.id = a.id) q on true',
    "select id::text || 'x', array[id, 2], (select max(id) from traveller), id in (1, 2), exists (select 1), extract(year from now()), '2026-01-01'::date, interval '1 day' from traveller",
    'select x, n from unnest(array[1, 2]) with ordinality as u(x, n) union all select 1, 2 except select 3, 4 order by 1',
    "select row_to_json(t), t, t.* from traveller t where (id, route) = (1, 'a') and id between 1 and 9 and route similar to 'a%' and id is distinct from 4 and not (route is null)",
    "values (1, 'a'), (2, 'b')",
    "select substring(route from 1 for 2), trim(both ' ' from route), position('a' in route), route at time zone 'UTC', id % 2, -id, 1.5e3, null, true from traveller",
  ])('passes and writes back %s', (sql) => {
    expect(refusal(sql)).toBe('passed');
  });
});
