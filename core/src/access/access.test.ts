import { beforeAll, describe, expect, it } from 'vitest';
import type { FilterError } from '../catalog/index.ts';
import { loadParser } from '../sql/index.ts';
import { policyOf, readerOf } from '../testing/policies.ts';
import decided from './data/callables.json' with { type: 'json' };
import {
  appliedMask,
  Callables,
  checkPolicies,
  decideTable,
  decisionOn,
  type FunctionFact,
  hasFewValues,
  holdsAt,
  hoursInWords,
  isOfColumns,
  isWithin,
  type Mask,
  maskInWords,
  masksTogether,
  namedRelations,
  type Person,
  type Policy,
  type ReadableTable,
  RefusedStatement,
  reachOf,
  readPolicyFilter,
  rewriteSelect,
} from './index.ts';
import { rowCondition } from './masks.ts';

beforeAll(() => loadParser());

const column = (id: string, name: string, type: string, classes: string[] = []) => ({
  id,
  name,
  type,
  classes,
  held: [] as string[],
  fewValues: false,
  origins: [],
});
const table: ReadableTable = {
  id: 't1',
  sourceId: 'warehouse',
  schema: 'mart',
  name: 'traveller',
  ancestors: ['t1', 's1', 'db'],
  columns: [
    column('c1', 'id', 'integer', []),
    column('c2', 'email', 'text', ['email']),
    column('c3', 'born', 'date', ['date-of-birth']),
    column('c4', 'route', 'text', []),
  ],
};
const policy = (id: string, effect: Policy['effect'], more: Partial<Policy>): Policy =>
  policyOf({ id, name: id, effect, everyone: false, ...more });
const allow = policy('allow', 'allow', { groups: ['fares'], assets: ['s1'] });
const mask = policy('mask', 'protect', {
  everyone: true,
  classes: ['email'],
  mask: { kind: 'partial', first: 1, last: 0 },
  exceptGroups: ['privacy'],
});
const deny = policy('deny', 'deny', { groups: ['fares'], classes: ['date-of-birth'] });
const someone = (id: string, groups: string[] = [], more: Partial<Person> = {}): Person =>
  readerOf({ id, groups, email: `${id}@tarnholm.example`, ...more });
const bettina = someone('bettina', ['fares']);
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

  it('allows those of a partner nothing that everyone is allowed, and protects from them as from all', () => {
    const partner = someone('ines', ['harbour'], { outside: true });
    const forAll = { ...allow, everyone: true, groups: [] };
    expect(accessOf([forAll])).toBe('plain plain plain plain');
    expect(accessOf([forAll], partner)).toBe('refused refused refused refused');
    const shared = { ...allow, id: 'shared', groups: ['harbour'], columns: ['id', 'email', 'born'] };
    // What a share opens and limits holds for what is read by it alone.
    const byShare = { ...shared, id: 'by share', share: 'berths' };
    expect(accessOf([byShare], partner)).toBe('refused refused refused refused');
    expect(accessOf([byShare], { ...partner, share: 'tides' })).toBe('refused refused refused refused');
    expect(accessOf([byShare], { ...partner, share: 'berths' })).toBe('plain plain plain refused');
    const denied = { ...deny, everyone: true };
    expect(accessOf([forAll, shared, mask, denied], partner)).toBe('plain masked refused refused');
  });

  it('leaves out the groups a policy is not for, and takes the strongest mask', () => {
    expect(accessOf([allow, mask], someone('emrys', ['fares', 'privacy']))).toBe('plain plain plain plain');
    const masks = decideTable(
      [allow, mask, { ...mask, id: 'm2', mask: { kind: 'blank' } }],
      bettina,
      table,
    ).columns.map((column) => column.mask);
    expect(masks).toEqual([null, { kind: 'blank' }, null, null]);
  });

  it('counts reach before a policy is saved', () => {
    const changes = reachOf([allow], [allow, mask, deny], [bettina, someone('maud')], [table]);
    expect(changes.map(({ personId, column, before, after }) => [personId, column, before, after])).toEqual([
      ['bettina', 'email', 'plain', 'masked'],
      ['bettina', 'born', 'plain', 'refused'],
    ]);
  });
});

/** A server that has what is decided on, with operators that stand for the same few functions, and two extensions: one that is known, one that is not. */
const fact = (name: string, args: string, more: Partial<FunctionFact> = {}): FunctionFact => {
  const types = args === '' ? [] : args.split(',');
  return {
    schema: 'pg_catalog',
    name,
    args,
    result: 'text',
    required: types.length,
    most: types.length,
    variadic: /any$|_text$/.test(args),
    volatility: 'i',
    extension: null,
    ...more,
  };
};
const functions = [decided.allowed, decided.refused].flatMap((names) =>
  Object.entries(names as Record<string, string[]>).flatMap(([name, all]) => all.map((args) => fact(name, args))),
);
const trigram = fact('similarity', 'text,text', { schema: 'public', extension: 'pg_trgm' });
const plus = {
  schema: 'pg_catalog',
  name: 'int4pl',
  args: 'int4,int4',
  result: 'int4',
  volatility: 'i',
  extension: null,
};
const callables = new Callables({
  functions: [
    ...functions,
    trigram,
    fact('sum', 'text', { schema: 'public' }),
    fact('crosstab', 'text', { schema: 'public', extension: 'tablefunc' }),
  ],
  operators: [
    ...['+', '-', '*', '/', '%', '||', '=', '<>', '<', '>', '<=', '>=', '~~', '~~*', '~', '->', '->>', '@>', '&&'].map(
      (name) => ({ schema: 'pg_catalog', name, function: plus }),
    ),
    { schema: 'public', name: '<%', function: trigram },
  ],
  types: [
    { schema: 'public', name: 'citext', written: 'public.citext', extension: 'citext', convertedBy: null },
    { schema: 'shop', name: 'odd', written: 'shop.odd', extension: null, convertedBy: 'shop.leak' },
  ],
  typeNames: ['text', 'int4', 'regclass', 'regrole', 'name', 'pg_class', 'date'].map((name) => ({
    schema: 'pg_catalog',
    name,
  })),
});

describe('rewriting', () => {
  const decision = decideTable([allow, mask, deny], bettina, table);
  const lookup = (schema: string | undefined, name: string) =>
    (schema ?? 'mart') === 'mart' && name === 'traveller' ? decision : undefined;
  const flat = (sql: string) => sql.replace(/\s+/g, ' ').replaceAll('( ', '(').replaceAll(' )', ')');
  const rewrite = (sql: string) => rewriteSelect(sql, lookup, callables);
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
      `select email, route from (SELECT idrel_row."id" AS "id", CASE WHEN idrel_row."email" IS NULL THEN NULL WHEN length(CAST(idrel_row."email" AS text)) < 4 THEN '•••' ELSE "left"(CAST(idrel_row."email" AS text), 1) || '•••' END AS "email", idrel_row."route" AS "route" FROM "mart"."traveller" AS idrel_row) t where id = 3`,
    );
    expect(tables.map((entry) => entry.access)).toEqual(['partly']);
  });

  it('gives WITH names of its own, so that no name can reach a system table', () => {
    const { sql } = rewrite('with pg_authid as (select 1 as rolname) select rolname from pg_authid');
    expect(sql).toBe('with idrel_with_1 as (select 1 as rolname) select rolname from idrel_with_1 AS "pg_authid"');
    expect(refusal('select * from (with pg_authid as (select 1) select * from pg_authid) x, pg_authid')).toBe(
      'unknown-table',
    );
    expect(
      rewrite('with recursive n(i) as (select 1 union all select i + 1 from n where i < 3) select i from n').sql,
    ).toContain('idrel_with_1');
  });

  it('fences row limits', () => {
    const limited = decideTable(
      [
        allow,
        policy('rows', 'protect', {
          everyone: true,
          assets: ['t1'],
          rows: { column: 'route', values: ["O'Hare", 'a\\b'], attribute: null, through: null },
        }),
      ],
      bettina,
      table,
    );
    const { sql } = rewriteSelect('select id from traveller', () => limited, callables);
    expect(sql).toContain(`WHERE CAST(idrel_row."route" AS text) IN ('O''Hare',  E'a\\\\b') OFFSET 0`);
  });

  it('takes no row where the limiting column is missing, from wherever it could be taken', () => {
    const rows = policy('rows', 'protect', {
      everyone: true,
      assets: ['t1'],
      rows: { column: 'town', values: ['Ulvey'], attribute: null, through: null },
    });
    const limited = decideTable([allow, rows], bettina, table);
    expect(
      rewriteSelect("select (select id from traveller) from (select 'Ulvey' as town) o", () => limited, callables).sql,
    ).toContain('WHERE FALSE OFFSET 0');
  });

  it('limits rows also where the policy lists one of the columns', () => {
    expect(
      decideTable(
        [
          allow,
          policy('rows', 'protect', {
            everyone: true,
            assets: ['c4'],
            columns: ['route'],
            rows: { column: 'route', values: ['x'], attribute: null, through: null },
          }),
        ],
        bettina,
        table,
      ).rowLimits,
    ).toHaveLength(1);
    expect(
      decideTable(
        [
          allow,
          policy('rows', 'protect', {
            everyone: true,
            assets: ['t2'],
            rows: { column: 'route', values: ['x'], attribute: null, through: null },
          }),
        ],
        bettina,
        table,
      ).rowLimits,
    ).toHaveLength(0);
  });

  it('changes nothing but names of tables and of WITH, and samples and reads ONLY the table itself', () => {
    const part = 'SELECT idrel_row."id" AS "id"';
    const narrow = decideTable([{ ...allow, columns: ['id'] }], bettina, table);
    const written = (sql: string) => rewriteSelect(sql, () => narrow, callables).sql;
    expect(
      written(
        'select /* ü */ (array[id, 2])[1],  t.id from only (mart . traveller) as t tablesample bernoulli (10) repeatable (3) ;',
      ),
    ).toBe(
      `select /* ü */ (array[id, 2])[1],  t.id from (${part} FROM ONLY "mart"."traveller" AS idrel_row tablesample bernoulli (10) repeatable (3)) as t`,
    );
    expect(written('table traveller')).toBe(
      `select * from (${part} FROM "mart"."traveller" AS idrel_row) AS "traveller"`,
    );
    expect(written('select * from traveller *, traveller b')).toBe(
      `select * from (${part} FROM "mart"."traveller" AS idrel_row) AS "traveller", (${part} FROM "mart"."traveller" AS idrel_row) b`,
    );
    expect(written("select similarity('a', 'b') from traveller")).toContain('select "public".similarity(');
  });

  it('looks names up where known extensions lie only when a statement needs them', () => {
    const path = (sql: string) => rewriteSelect(sql, lookup, callables).path;
    expect(path('select sum(id) from traveller')).toEqual(['pg_catalog']);
    expect(path("select 'a' <% 'b'")).toEqual(['pg_catalog', 'public']);
    expect(refusal("select sum('a') from traveller where 'a' <% 'b'")).toBe('function');
  });

  it('leaves out columns whose type is turned into others by a function of the source', () => {
    const own = decideTable([allow], bettina, {
      ...table,
      columns: [...table.columns, column('c5', 'odd', 'shop.odd[]')],
    });
    expect(rewriteSelect('select * from traveller', () => own, callables).sql).not.toContain('odd');
  });

  it('refuses what is nested too deeply, in words', () => {
    expect(refusal(`select ${'(select '.repeat(2500)}1${')'.repeat(2500)}`)).toBe('construct');
  });

  it('tells which relations a statement names', () => {
    expect(
      namedRelations(
        'with a as (select 1) select * from a, b.c tablesample system (1) where exists (select 1 from d)',
      ).sort(),
    ).toEqual(['a', 'c', 'd']);
    expect(namedRelations('selec')).toEqual([]);
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
    ['explain select 1', 'statement'],
    ["select (('select 1'::text).ts_stat).word", 'construct'],
    ['select (4242::int8).lo_get', 'construct'],
    ["select ('x'::text).regclass", 'construct'],
    ["select ('x'::text).pg_class", 'construct'],
    ['select t.current_setting from (select 1) t', 'construct'],
    ["select ('x'::text).pg_read_file", 'construct'],
    ["select regrole('x')", 'function'],
    ["select crosstab('select 1')", 'function'],
    ["select ts_rewrite('a'::tsquery, 'select 1')", 'function'],
    ['select * from mart.traveller tablesample own (5)', 'construct'],
    ['select * from mart.traveller tablesample bernoulli ((select 5))', 'construct'],
    ['select 1 order by 1 using operator(public.<)', 'function'],
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
    'select t.id, (t).route from mart.traveller t',
    "select x.name, x.text, x.date, x.count from (select 'a' as name, 'b' as text, current_date as date, 1 as count) x",
    "select ts_rewrite('a'::tsquery, 'b'::tsquery, 'c'::tsquery), uuid('x'), '[1,2]'::int4range, jsonb_path_query('{}', '$.a', '{}', false)",
    "select * from json_to_record('{}') as x(a int, b text), rows from (generate_series(1, 2), unnest(array[1])) with ordinality as y(p, q, r)",
    'select route from traveller order by id using < fetch first 2 rows with ties',
    'with recursive s(a) as (select 1 union all select a from s) search depth first by a set o cycle a set c to 1 default 0 using p select * from s',
    "select substring(route from 1 for 2), trim(both ' ' from route), position('a' in route), route at time zone 'UTC', id % 2, -id, 1.5e3, null, true from traveller",
  ])('passes and writes back %s', (sql) => {
    expect(refusal(sql)).toBe('passed');
  });
});

const MASKS: Readonly<Record<string, Mask>> = {
  blank: { kind: 'blank' },
  fixed: { kind: 'fixed', text: 'withheld' },
  partial: { kind: 'partial', first: 1, last: 0 },
  digest: { kind: 'digest', keyed: 'installation' },
  substitute: { kind: 'substitute', keyed: 'installation' },
  year: { kind: 'general', to: 'year', step: null },
  month: { kind: 'general', to: 'month', step: null },
  age: { kind: 'general', to: 'age', step: 10 },
  district: { kind: 'general', to: 'district', step: 3 },
  host: { kind: 'general', to: 'host', step: null },
  rounded: { kind: 'general', to: 'rounded', step: 100 },
  noise: { kind: 'noise', spread: 5, of: 'percent' },
};

describe('masks', () => {
  const applied = (mask: Mask, type: string) => appliedMask(mask, { type, fewValues: false });
  it.each([
    ['year', 'date', true],
    ['year', 'timestamp with time zone', true],
    ['year', 'integer', false],
    ['year', 'boolean', false],
    ['year', 'date[]', false],
    ['month', 'date', true],
    ['month', 'text', false],
    ['partial', 'text', true],
    ['partial', 'character varying(40)', true],
    ['partial', 'bigint', true],
    ['partial', 'character(1)', false],
    ['partial', 'character', false],
    ['partial', 'date', false],
    ['partial', 'shop.mood', false],
    ['digest', 'boolean', false],
    ['digest', 'shop.mood', false],
    ['digest', 'character varying(2)', false],
    ['digest', 'uuid', true],
    ['digest', 'date', true],
    ['substitute', 'text', true],
    ['substitute', 'date', false],
    ['age', 'date', true],
    ['age', 'smallint', true],
    ['age', 'text', false],
    ['district', 'character varying(12)', true],
    ['district', 'date', false],
    ['host', 'text', true],
    ['host', 'integer', false],
    ['rounded', 'numeric(10,2)', true],
    ['rounded', 'text', false],
    ['noise', 'double precision', true],
    ['noise', 'text', false],
    ['fixed', 'boolean', true],
    ['blank', 'boolean', true],
  ] as const)('%s of a %s: %s', (name, type, hides) => {
    const mask = MASKS[name] as Mask;
    expect(applied(mask, type).mask).toEqual(hides ? mask : { kind: 'blank' });
    expect(applied(mask, type).instead === null).toBe(hides);
  });

  it('give way where counting would tell the values, and say why', () => {
    for (const name of ['partial', 'digest', 'substitute'] as const)
      expect(appliedMask(MASKS[name] as Mask, { type: 'text', fewValues: true })).toEqual({
        mask: { kind: 'blank' },
        instead: 'the column has so few different values that counting tells them',
      });
    expect(appliedMask(MASKS.noise as Mask, { type: 'integer', fewValues: true }).mask.kind).toBe('blank');
    expect(hasFewValues({ rows: 1000, nulls: 0, distinct: 3 })).toBe(true);
    expect(hasFewValues({ rows: 20, nulls: 0, distinct: 20 })).toBe(false);
    expect(hasFewValues({ rows: 1000, nulls: 990, distinct: 5 })).toBe(false);
    expect(hasFewValues(null)).toBe(false);
    const flag: ReadableTable = { ...table, columns: [column('c9', 'flag', 'boolean', ['email'])] };
    const [decided] = decideTable([allow, { ...mask, mask: MASKS.digest as Mask }], bettina, flag).columns;
    expect([decided?.mask, decided?.instead]).toEqual([
      { kind: 'blank' },
      'a boolean has so few values that equal digests tell them',
    ]);
  });

  it.each<[string, Mask[], Mask | null]>([
    ['nothing', [], null],
    ['the same twice', [MASKS.year as Mask, MASKS.year as Mask], MASKS.year as Mask],
    ['blank with anything', [MASKS.noise as Mask, MASKS.blank as Mask, MASKS.digest as Mask], MASKS.blank as Mask],
    ['a fixed text tells nothing either', [MASKS.partial as Mask, MASKS.fixed as Mask], MASKS.fixed as Mask],
    ['the coarser of two', [MASKS.month as Mask, MASKS.year as Mask], MASKS.year as Mask],
    ['a digest rather than a substitute', [MASKS.substitute as Mask, MASKS.digest as Mask], MASKS.digest as Mask],
    [
      'equal for the fewer readers',
      [MASKS.digest as Mask, { kind: 'substitute', keyed: 'organisation' }],
      { kind: 'digest', keyed: 'organisation' },
    ],
    [
      'only characters that both show',
      [
        { kind: 'partial', first: 1, last: 4 },
        { kind: 'partial', first: 3, last: 0 },
      ],
      { kind: 'partial', first: 1, last: 0 },
    ],
    [
      'bands made of bands',
      [
        { kind: 'general', to: 'rounded', step: 0.1 },
        { kind: 'general', to: 'rounded', step: 0.3 },
      ],
      { kind: 'general', to: 'rounded', step: 0.3 },
    ],
    [
      'the wider noise',
      [
        { kind: 'noise', spread: 1, of: 'unit' },
        { kind: 'noise', spread: 3, of: 'unit' },
      ],
      { kind: 'noise', spread: 3, of: 'unit' },
    ],
  ])('that meet: %s', (_, masks, expected) => {
    expect(masksTogether(masks)).toEqual({ mask: expected, clash: false });
    expect(masksTogether([...masks].reverse()).mask).toEqual(expected);
  });

  it.each<[string, Mask[]]>([
    ['what is equal, and how it begins', [MASKS.digest as Mask, MASKS.partial as Mask]],
    ['the beginning and the end', [MASKS.partial as Mask, { kind: 'partial', first: 0, last: 2 }]],
    ['a year and a band of ages', [MASKS.year as Mask, MASKS.age as Mask]],
    [
      'bands that cut each other',
      [
        { kind: 'general', to: 'rounded', step: 2 },
        { kind: 'general', to: 'rounded', step: 3 },
      ],
    ],
    ['noise in percent and in units', [MASKS.noise as Mask, { kind: 'noise', spread: 5, of: 'unit' }]],
    ['a step and noise', [MASKS.rounded as Mask, MASKS.noise as Mask]],
  ])('that meet and tell different things tell nothing: %s', (_, masks) => {
    expect(masksTogether(masks)).toEqual({ mask: { kind: 'blank' }, clash: true });
  });

  it('of two policies say why nothing is told', () => {
    const second = { ...mask, id: 'm2', name: 'm2', mask: MASKS.digest as Mask };
    const [, email] = decideTable([allow, mask, second], bettina, table).columns;
    expect([email?.mask, email?.instead]).toEqual([
      { kind: 'blank' },
      'several policies mask it, and what one tells another hides',
    ]);
  });

  it('say what they do in words', () => {
    expect(Object.values(MASKS).map(maskInWords)).toEqual([
      'empty',
      '“withheld”',
      'its first character',
      'a digest',
      'a substitute of the same shape',
      'its year',
      'its year and month',
      'an age within 10 years',
      'its first 3 characters, as a district',
      'what follows its @',
      'rounded to 100',
      'off by up to 5 %',
    ]);
    expect(maskInWords({ kind: 'partial', first: 2, last: 4 })).toBe('its first 2 and last 4 characters');
    expect(maskInWords({ kind: 'digest', keyed: 'organisation' })).toBe('a digest, another for each organisation');
  });
});

describe('a check of all policies', () => {
  const check = (policies: Policy[], people: Person[] = [bettina, someone('maud')]) =>
    checkPolicies(policies, people, [table]);
  const why = (policies: Policy[], people?: Person[]) => Object.fromEntries(check(policies, people).idle);

  it('names those that change nothing, and why', () => {
    expect(why([allow, mask, deny])).toEqual({});
    expect(why([policy('gone', 'allow', { everyone: true, assets: ['elsewhere'] })])).toEqual({
      gone: { because: 'nothing' },
    });
    expect(why([policy('empty', 'allow', { groups: ['nobody is in it'], assets: ['s1'] })])).toEqual({
      empty: { because: 'nobody' },
    });
    expect(why([mask, deny])).toEqual({ mask: { because: 'not allowed' }, deny: { because: 'not allowed' } });
    const all = policy('all', 'deny', { everyone: true, assets: ['db'] });
    expect(why([allow, mask, all])).toEqual({
      allow: { because: 'denied', by: ['all'] },
      mask: { because: 'not allowed' },
    });
    // What is allowed in part is no reason to name it.
    expect(why([allow, policy('most', 'deny', { everyone: true, assets: ['c1', 'c2', 'c3'] })])).toEqual({});
    expect(why([allow], [someone('maud')])).toEqual({ allow: { because: 'nobody' } });
  });

  it('a limit of rows changes something as soon as somebody reads the table', () => {
    const limit = policy('limit', 'protect', {
      everyone: true,
      assets: ['t1'],
      rows: { column: 'route', values: ['x'], attribute: null, through: null },
    });
    expect(why([limit])).toEqual({ limit: { because: 'not allowed' } });
    expect(why([limit, allow])).toEqual({});
  });

  it('names masks that clash, with how many columns they leave empty', () => {
    const second = { ...mask, id: 'm2', name: 'm2', mask: MASKS.digest as Mask };
    expect(check([allow, mask, second]).clashes).toEqual([
      { policies: ['mask', 'm2'], columns: 1, example: ['mart', 'traveller', 'email'] },
    ]);
    expect(check([allow, mask, { ...second, mask: { kind: 'blank' } }]).clashes).toEqual([]);
  });
});

describe('a filter', () => {
  const found = (effect: Policy['effect'], matched: string[], more: Partial<Policy> = {}) =>
    policy('found', effect, { everyone: true, matched: new Set(matched), ...more });

  it('holds for what it finds and everything below it, and for nothing when it finds nothing', () => {
    expect(accessOf([found('allow', ['t1'])])).toBe('plain plain plain plain');
    expect(accessOf([found('allow', ['db'])])).toBe('plain plain plain plain');
    expect(accessOf([found('allow', ['c2'])])).toBe('refused plain refused refused');
    expect(accessOf([found('allow', [])])).toBe('refused refused refused refused');
    expect(accessOf([allow, found('deny', ['c1', 'c3'])])).toBe('refused plain refused plain');
  });

  it('narrows what is said beside it', () => {
    expect(accessOf([found('allow', ['c2', 'c3'], { assets: ['s1'] })])).toBe('refused plain plain refused');
    expect(accessOf([found('allow', ['c2', 'c3'], { assets: ['elsewhere'] })])).toBe('refused refused refused refused');
    expect(accessOf([allow, found('deny', ['t1'], { classes: ['email'] })])).toBe('plain refused plain plain');
    const limit = { column: 'route', values: ['x'], attribute: null, through: null };
    const limits = (matched: string[]) =>
      decideTable([allow, found('protect', matched, { assets: ['t1'], rows: limit })], bettina, table).rowLimits.length;
    expect([limits(['t1']), limits(['c2']), limits([])]).toEqual([1, 1, 0]);
  });

  it('is one that a right may rest on, and says why not', () => {
    const wrong = (text: string) => {
      try {
        readPolicyFilter(text);
        return undefined;
      } catch (error) {
        const { message, position } = error as FilterError;
        return `${position}: ${message}`;
      }
    };
    for (const text of ['tag:personal', 'not standing:trusted or level>=guarded', 'kind:table owner:none name:pax_*'])
      expect(wrong(text)).toBeUndefined();
    expect(wrong('tag:a passenger')).toMatch(/^6: A policy does not hold by words/);
    expect(wrong('tag:a not "whole words"')).toMatch(/does not hold by words/);
    for (const key of [
      'used:yes',
      'asked:-30d',
      'fresh:-7d',
      'changed:-7d',
      'gone:yes',
      'size>=1GB',
      'lineage:any',
      'upstream:core.*',
      'downstream:x',
    ])
      expect(wrong(`tag:a ${key}`)).toMatch(/^6: A policy does not hold by/);
    expect(wrong('')).toMatch(/finds everything/);
    expect(wrong('tag:')).toBeTruthy();
  });

  it('by classes or levels is one of columns, unless it says what it finds', () => {
    const of = (text: string) => isOfColumns(readPolicyFilter(text));
    expect(['class:email', 'not level>=guarded', 'tag:a (arrived:email or name:x)'].map(of)).toEqual([
      true,
      true,
      true,
    ]);
    expect(['tag:a', 'kind:table class:email', 'under:core'].map(of)).toEqual([false, false, false]);
  });
});

describe('conditions', () => {
  const by = (more: Partial<Policy>) => policy('by', 'allow', { groups: ['fares'], assets: ['s1'], ...more });

  it('all columns but some, also those that come later', () => {
    expect(accessOf([by({ columns: ['email', 'born'], columnsBut: true })])).toBe('plain refused refused plain');
  });

  it('a purpose opens only to who states it, and who does not is told which', () => {
    const audit = by({ purposes: ['Audit', 'Complaint'] });
    expect(accessOf([audit], bettina)).toBe('refused refused refused refused');
    expect(accessOf([audit], { ...bettina, purpose: 'Marketing' })).toBe('refused refused refused refused');
    expect(accessOf([audit], { ...bettina, purpose: 'Audit' })).toBe('plain plain plain plain');
    expect(decideTable([audit], bettina, table).purposes).toEqual(['Audit', 'Complaint']);
    expect(decideTable([audit], { ...bettina, purpose: 'Audit' }, table).purposes).toEqual([]);
    expect(decideTable([audit], someone('maud'), table).purposes).toEqual([]);
  });

  it('rows by what is known of the reader, and none of who has nothing', () => {
    const limited = (reader: Person) =>
      decideTable(
        [
          by({}),
          policy('own port', 'protect', {
            everyone: true,
            assets: ['t1'],
            rows: { column: 'route', values: [], attribute: 'port', through: null },
          }),
        ],
        reader,
        table,
      ).rowLimits.map(({ column, values }) => [column, values]);
    expect(limited({ ...bettina, attributes: { port: ['Ulvey', 'Skarn'] } })).toEqual([['route', ['Ulvey', 'Skarn']]]);
    expect(limited(bettina)).toEqual([['route', []]]);
    // Keys that every object has are nobody's attributes.
    const odd = policy('odd', 'protect', {
      everyone: true,
      assets: ['t1'],
      rows: { column: 'route', values: [], attribute: 'constructor', through: null },
    });
    expect(decideTable([by({}), odd], bettina, table).rowLimits[0]?.values).toEqual([]);
  });

  it('rows by a table of rights of the same source, and none where it is not there', () => {
    const through = (at: { sourceId: string; schema: string; name: string } | null) =>
      policy('rights', 'protect', {
        everyone: true,
        assets: ['t1'],
        rows: {
          column: 'route',
          values: [],
          attribute: null,
          through: { tableId: 'r', column: 'route', reader: 'login', by: 'email', at },
        },
      });
    const limits = (at: Parameters<typeof through>[0]) => decideTable([by({}), through(at)], bettina, table).rowLimits;
    expect(limits({ sourceId: 'warehouse', schema: 'ops', name: 'rights' })[0]).toMatchObject({
      values: ['bettina@tarnholm.example'],
      through: { schema: 'ops', name: 'rights', column: 'route', reader: 'login' },
    });
    expect(limits({ sourceId: 'elsewhere', schema: 'ops', name: 'rights' })[0]).toMatchObject({
      values: [],
      through: null,
    });
    expect(limits(null)[0]).toMatchObject({ values: [], through: null });
  });

  it('an end, and hours of the week where it is then', () => {
    const at = (text: string) => Date.parse(text);
    expect(holdsAt({ until: '2026-12-01T00:00:00Z', hours: null }, at('2026-11-30T23:59:59Z'))).toBe(true);
    expect(holdsAt({ until: '2026-12-01T00:00:00Z', hours: null }, at('2026-12-01T00:00:00Z'))).toBe(false);
    const office = { days: [1, 2, 3, 4, 5], from: '08:00', to: '18:00', zone: 'Europe/Oslo' };
    const within = (text: string, hours = office) => isWithin(hours, at(text));
    // In winter it is an hour later there, in summer two.
    expect(within('2026-11-27T07:00:00Z')).toBe(true);
    expect(within('2026-11-27T06:59:59Z')).toBe(false);
    expect(within('2026-11-27T17:00:00Z')).toBe(false);
    expect(within('2026-07-03T06:00:00Z')).toBe(true);
    expect(within('2026-11-28T10:00:00Z')).toBe(false);
    // Hours over midnight are those of the day on which they begin.
    const night = { days: [5], from: '22:00', to: '06:00', zone: 'UTC' };
    expect(within('2026-11-27T22:00:00Z', night)).toBe(true);
    expect(within('2026-11-28T05:59:00Z', night)).toBe(true);
    expect(within('2026-11-27T05:00:00Z', night)).toBe(false);
    expect(within('2026-11-28T22:30:00Z', night)).toBe(false);
    const sunday = { ...night, days: [7] };
    expect(within('2026-11-30T03:00:00Z', sunday)).toBe(true);
    expect(hoursInWords(office)).toBe('Monday to Friday, 08:00 to 18:00 (Europe/Oslo)');
    expect(hoursInWords({ ...night, days: [1, 2, 5] })).toBe(
      'Monday, Tuesday, Friday, 22:00 to 06:00 of the next day (UTC)',
    );
  });

  it('a table of rights is asked in the statement, with names quoted and readers as texts', () => {
    const limit = {
      column: 'ro"ute',
      values: ["o'hare@tarnholm.example"],
      through: { schema: 'ops', name: 'ri"ghts', column: 'route', reader: 'login' },
    };
    expect(rowCondition(limit, 'idrel_row')).toBe(
      `EXISTS (SELECT 1 FROM "ops"."ri""ghts" AS idrel_right WHERE CAST(idrel_right."route" AS text) = CAST(idrel_row."ro""ute" AS text) AND CAST(idrel_right."login" AS text) IN ('o''hare@tarnholm.example'))`,
    );
  });
});

describe('what protects on', () => {
  const held: ReadableTable = { ...table, columns: [{ ...column('c2', 'email', 'text'), held: ['email'] }] };
  it('a class that is gone protects until it is let go, and allows nothing', () => {
    expect(decideTable([allow, mask], bettina, held).columns[0]?.access).toBe('masked');
    expect(
      decideTable([policy('by class', 'allow', { everyone: true, classes: ['email'] })], bettina, held).columns[0]
        ?.access,
    ).toBe('refused');
  });

  it('a policy that follows the values holds where they are carried on, and only then', () => {
    const view: ReadableTable = {
      ...table,
      id: 'v1',
      ancestors: ['v1', 's1'],
      columns: [
        { ...column('v2', 'contact', 'text'), origins: [{ id: 'c2', name: 'email', ancestors: ['t9'], classes: [] }] },
      ],
    };
    const deny = policy('no mail', 'deny', { everyone: true, assets: ['c2'] });
    expect(decideTable([allow, deny], bettina, view).columns[0]?.access).toBe('plain');
    expect(decideTable([allow, { ...deny, carried: true }], bettina, view).columns[0]?.access).toBe('refused');
    expect(decideTable([{ ...allow, assets: ['t9'], carried: true }], bettina, view).columns[0]?.access).toBe(
      'refused',
    );
    expect(
      decideTable(
        [
          allow,
          policy('rows', 'protect', {
            everyone: true,
            assets: ['t9'],
            carried: true,
            rows: { column: 'town', values: [], attribute: null, through: null },
          }),
        ],
        bettina,
        view,
      ).rowLimits,
    ).toHaveLength(1);
  });
});

describe('the list of what may be called', () => {
  it('has no function twice, and takes nothing that is not on it', () => {
    const both = Object.entries(decided.allowed as Record<string, string[]>).flatMap(([name, all]) =>
      all
        .filter((args) => (decided.refused as Record<string, string[]>)[name]?.includes(args))
        .map((args) => `${name}(${args})`),
    );
    expect(both).toEqual([]);
    expect(decisionOn(fact('of_a_later_server', 'int4'))).toBe('undecided');
    expect(decisionOn(fact('some_input', 'cstring'))).toBe('refused');
    for (const name of [
      'pg_read_file',
      'set_config',
      'current_setting',
      'query_to_xml',
      'lo_get',
      'ts_stat',
      'pg_sleep',
      'nextval',
      'pg_terminate_backend',
      'pg_ls_dir',
      'obj_description',
      'to_regclass',
    ])
      expect((decided.allowed as Record<string, string[]>)[name], name).toBeUndefined();
  });
});
