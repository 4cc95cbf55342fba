import { beforeAll, describe, expect, it } from 'vitest';
import { loadParser } from '../sql/index.ts';
import { policyOf, readerOf, tableOf } from '../testing/policies.ts';
import decided from './data/callables.json' with { type: 'json' };
import { Callables, decideTable, type FunctionFact, type Policy, RefusedStatement, rewriteSelect } from './index.ts';

beforeAll(() => loadParser());

const policies: readonly Policy[] = [
  policyOf({ id: 'reads', name: 'reads', effect: 'allow', assets: ['guest', 'visit'] }),
  policyOf({ id: 'keeps', name: 'keeps', effect: 'deny', assets: ['guest'], columns: ['mail'] }),
  policyOf({
    id: 'together',
    name: 'together',
    effect: 'protect',
    assets: ['guest'],
    rows: { column: 'guest_id', values: [], attribute: null, through: null, least: 5 },
  }),
];
const tables = [
  tableOf('guest', { guest_id: 'integer', mail: 'text', port: 'text', age: 'integer', fare: 'numeric', born: 'date' }),
  tableOf('visit', {
    id: 'integer',
    guest_id: 'integer',
    port: 'text',
    at: 'timestamp with time zone',
    span: 'interval',
  }),
];
const person = readerOf();
const decisions = tables.map((one) => decideTable(policies, person, one));
const lookup = (schema: string | undefined, name: string) =>
  decisions.find((one) => one.name === name && (schema ?? 's') === one.schema);

const functions = Object.entries(decided.allowed as Record<string, string[]>).flatMap(([name, all]) =>
  all.map((args): FunctionFact => {
    const count = args === '' ? 0 : args.split(',').length;
    const variadic = args.endsWith('any');
    return {
      schema: 'pg_catalog',
      name,
      args,
      result: 'text',
      required: count,
      most: count,
      variadic,
      volatility: 'i',
      extension: null,
    };
  }),
);
const textcat = {
  schema: 'pg_catalog',
  name: 'textcat',
  args: 'text,text',
  result: 'text',
  volatility: 'i',
  extension: null,
};
const callables = new Callables({
  functions,
  operators: [
    '+',
    '-',
    '*',
    '/',
    '%',
    '||',
    '=',
    '<>',
    '<',
    '>',
    '<=',
    '>=',
    '~~',
    '!~~',
    '~~*',
    '!~~*',
    '~',
    '!~',
  ].map((name) => ({
    schema: 'pg_catalog',
    name,
    function: textcat,
  })),
  types: [],
  typeNames: ['text', 'int4', 'date'].map((name) => ({ schema: 'pg_catalog', name })),
});
const rewrite = (sql: string) => rewriteSelect(sql, lookup, callables, true).sql;
const refused = (sql: string): string => {
  try {
    return `passed: ${rewrite(sql)}`;
  } catch (error) {
    if (!(error instanceof RefusedStatement)) throw error;
    return `${error.code}: ${error.message} ${error.mend}`;
  }
};

const GUEST =
  '(SELECT idrel_row."guest_id" AS "guest_id", idrel_row."port" AS "port", idrel_row."age" AS "age", idrel_row."fare" AS "fare", idrel_row."born" AS "born", CAST(idrel_row."guest_id" AS text) AS "idrel_counted_1" FROM "s"."guest" AS idrel_row)';
const ENOUGH = (of = 'guest', n = 1) => `pg_catalog.count(DISTINCT "${of}"."idrel_counted_${n}") >= 5`;

describe('a table of which only groups are told', () => {
  it('has each group counted, before anything else is asked of it', () => {
    expect(rewrite('select port, count(*) from s.guest group by port order by 2')).toBe(
      `select port, count(*) from ${GUEST} AS "guest" group by port HAVING ${ENOUGH()} order by 2`,
    );
    expect(rewrite('select avg(fare) from guest g')).toBe(`select avg(fare) from ${GUEST} g HAVING ${ENOUGH('g')}`);
    expect(rewrite('select port from guest group by 1 having sum(fare) / 2 > 10 limit 3')).toBe(
      `select port from ${GUEST} AS "guest" group by 1 having CASE WHEN ${ENOUGH()} THEN ( sum(fare) / 2 > 10) ELSE FALSE END limit 3`,
    );
  });

  it('is counted in each part of a statement that names it', () => {
    const both = rewrite(
      'with a as (select port, count(*) as order from guest group by port), b as (select count(*) as having from guest where age > 30) select * from a, b union all select port, 1, count(*) from guest group by port',
    );
    expect(both.match(/HAVING pg_catalog\.count\(DISTINCT "guest"\."idrel_counted_\d"\) >= 5/g)).toHaveLength(3);
    expect(rewrite('select v.port, (select avg(g.age) from guest g where g.port = v.port) from visit v')).toContain(
      `HAVING ${ENOUGH('g')}) from`,
    );
  });

  it.each([
    "select date_trunc('month', v.at) as m, count(distinct g.guest_id) from guest g join visit v on v.guest_id = g.guest_id where v.at >= '2026-01-01' and g.age between 18 and 65 group by m",
    'select port, sum(fare), avg(fare), stddev(fare), rank() over (order by sum(fare) desc) from guest group by port',
    'select age / 10 * 10 as decade, count(*) from guest group by age / 10 order by 1',
    "select case when age < 18 then 'child' else 'adult' end as k, count(*) from guest group by k",
    'select extract(year from born), count(*) from guest group by 1',
    'select g.port, count(*) from guest g left join visit v using (guest_id) group by g.port',
    "select lower(port), count(*) from guest where port ilike 'u%' and born > current_date - 9000 and not (age in (1, 2) or fare is null) group by lower(port)",
    'select upper(port) || $1, round(100 * sum(fare) / count(*)) from guest where age = any($2) group by port',
    "select to_char(v.at, 'YYYY-MM'), count(*) from visit v natural join guest g where v.at > now() - interval '30 days' group by 1",
    'select sum(count(*)) over () from guest group by left(port, 2)',
    'select count(*) from guest',
    'select count(1), port, sum(age) over (order by count(*)) from guest group by port, age',
    'select port from guest group by port union select port from guest group by port',
    'select case when count(*) > 10 then upper(port) else coalesce(port, lower(port)) end from guest group by port',
  ])('may be asked: %s', (sql) => {
    expect(rewrite(sql)).toContain('pg_catalog.count(DISTINCT');
  });

  it.each([
    ['select * from guest', 'counts, sums or averages'],
    ['select port, age from guest', 'counts, sums or averages'],
    ['table guest', 'counts, sums or averages'],
    ['select distinct port from guest', 'counts, sums or averages'],
    ['select sum(fare) over () from guest', 'counts, sums or averages'],
    ['select from guest group by port', 'nothing is asked'],
    ['select max(fare) from guest having true', 'max is asked'],
    ['select port, array_agg(age), count(*) from guest group by port', 'array_agg is asked'],
    ["select string_agg(port, ',' order by age), count(*) from guest group by port", 'string_agg is asked'],
    ['select percentile_cont(0.5) within group (order by fare), count(*) from guest', 'percentile_cont is asked'],
    ['select count(*), sum(fare) filter (where age = 44) from guest', 'sum is asked'],
    ['select count(*), sum(case when age = 44 then fare end) from guest', 'sum is asked'],
    ['select count(*), sum(fare * age) from guest', 'sum is asked'],
    ['select age, max(1 / (age - 44)) from guest group by age', 'max is asked'],
    ['select age, sum(1 / (age - 44)) from guest group by age', 'sum is asked'],
    ['select age, count(*) filter (where 1 / (age - 44) = 0) from guest group by age', 'count is asked'],
    ['select sum(1 / (extract(year from now()) - $1)), count(*) from guest', 'sum is asked'],
    ['select count(*) from guest order by max(fare)', 'max is asked'],
    ['select count(*) from guest having max(fare) > 3', 'max is asked'],
    ['select count(*) from guest where guest_id <> 7', 'asks for guest_id'],
    ['select count(*) from guest group by guest_id', 'asks for guest_id'],
    ['select count(*) from guest where idrel_counted_1 = $1', 'no column of it'],
    ["select count(*) from guest g where g::text like '%(7,%'", 'comparisons of columns'],
    ['select count(*) from guest g group by g', 'something else than columns'],
    ['select count(*) from guest where 1 / (age - 44) = 1', 'comparisons of columns'],
    ['select count(*) from guest where age = 44 and 1 / $1 = 1', 'comparisons of columns'],
    ['select count(*) from guest where age = 44 and born > current_date - 999999999', 'comparisons of columns'],
    ["select count(*) from guest where born < now() - interval '999999999 years'", 'comparisons of columns'],
    ["select count(*) from guest where port like 'U\\'", 'comparisons of columns'],
    ['select count(*) from guest where port like $1', 'comparisons of columns'],
    ['select count(*) from guest where port::int = 1', 'comparisons of columns'],
    ["select count(*) from guest where 'x'::text::date = born", 'comparisons of columns'],
    ['select count(*) from guest where random() < 0.5', 'comparisons of columns'],
    ['select count(*) from guest where age * 100000 > 5', 'comparisons of columns'],
    ["select date_trunc('odd', born), count(*) from guest group by 1", 'something else than columns'],
    ["select date_trunc('month', port), count(*) from guest group by 1", 'something else than columns'],
    ['select extract(hour from born), count(*) from guest group by 1', 'something else than columns'],
    ["select to_char(born, 'TZ'), count(*) from guest group by 1", 'something else than columns'],
    ['select 1 / (age - 44), count(*) from guest group by 1', 'something else than columns'],
    ['select age / 0, count(*) from guest group by 1', 'something else than columns'],
    ['select port, count(*) from guest group by rollup (port)', 'several kinds'],
    ['select port, count(*) from guest group by grouping sets ((port), (age))', 'several kinds'],
    ['select count(*) from guest where age in (select age from visit)', 'a subquery'],
    ['select (select sum(guest.fare) from visit), count(*) from guest', 'a subquery'],
    ['select avg(g.fare) from guest g, (values (7, 1), (7, 2)) v(id, n) where v.id = g.guest_id', 'no table'],
    ['with v as (select 7 as id) select avg(g.fare) from guest g join v on v.id = g.guest_id', 'is no table'],
    ['select avg(g.fare) from guest g, generate_series(1, 100)', 'no table'],
    ['select avg(g.fare) from guest g, lateral (select g.fare) x', 'no table'],
    ['select avg(g.fare) from guest g tablesample system (10)', 'a sample'],
    ['select avg(g.f) from guest g(a, b, c, d, e, f)', 'other names'],
    ['select avg(fare) from (guest g join visit v on v.guest_id = g.guest_id) as j', 'given a name'],
    ['select avg(g.fare) from guest g join visit v on g.age = 44 or v.id = 1', 'two tables'],
    ['select avg(g.fare) from guest g, visit v where g.age = 44 or v.id = 1', 'two tables'],
    ['select avg(g.fare) from guest g join visit v on g.age < v.id', 'two tables'],
    ['select avg(g.fare) from guest g left join visit v on g.age = 44', 'outer join'],
    ['select avg(g.fare) from guest g left join visit v on g.port = v.port and g.age = 44', 'outer join'],
    ['select avg(g.fare) from guest g join visit v using (guest_id) where guest_id = 7', 'several tables'],
    ['select case when g.age = 44 or v.id = 1 then 1 end, avg(g.fare) from guest g, visit v group by 1', 'two tables'],
    ['select s.guest.port, count(*) from s.guest group by 1', 'with its schema'],
    ['select mail, count(*) from guest group by mail having count(mail) > 1 and max(fare) > 1', 'max is asked'],
  ])('may not be asked: %s', (sql, why) => {
    expect(refused(sql)).toMatch(/^together: Of s\.guest only what holds of groups may be told, each with at least 5 /);
    expect(refused(sql)).toContain(why);
    // With what may be asked instead.
    expect(refused(sql)).toMatch(/\. [A-Z][^.]+\.$/);
  });

  it('tells nothing where what is counted is not there', () => {
    const odd = {
      ...policies[2],
      rows: { column: 'gone', values: [], attribute: null, through: null, least: 5 },
    } as Policy;
    const decision = decideTable([policies[0] as Policy, odd], person, tables[0] as (typeof tables)[number]);
    expect(rewriteSelect('select count(*) from guest', () => decision, callables).sql).toContain('HAVING FALSE');
  });

  it('is counted by a column that the reader may not read, or is not told of', () => {
    const [all] = policies as [Policy];
    const hidden = decideTable(
      [{ ...all, columns: ['port'] }, policies[2] as Policy],
      person,
      tables[0] as (typeof tables)[number],
    );
    const told = {
      ...hidden,
      columns: hidden.columns.filter(({ access }) => access !== 'refused'),
      untold: ['guest_id'],
    };
    for (const decision of [hidden, told])
      expect(rewriteSelect('select count(port) from guest', () => decision, callables).sql).toBe(
        `select count(port) from (SELECT idrel_row."port" AS "port", CAST(idrel_row."guest_id" AS text) AS "idrel_counted_1" FROM "s"."guest" AS idrel_row) AS "guest" HAVING ${ENOUGH()}`,
      );
  });
});
