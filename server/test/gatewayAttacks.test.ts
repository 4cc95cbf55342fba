import type { PolicyBody } from '@idrel/contract/access';
import { decisionOn } from '@idrel/core/access';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { prepare } from '../src/access/gateway.ts';
import { openGateway, runPrepared, type TextRow } from '../src/access/runQuery.ts';
import { callablesOf } from '../src/access/sourceCallables.ts';
import type { Config } from '../src/platform/config.ts';
import { encrypt } from '../src/platform/secrets.ts';
import { addPolicy, freshDatabase, furnish, testConfig, urlOf, withClient } from './place.ts';

/**
 * Attempts to get at values that policies refuse. The reader may read id, town and (masked) email of shop.person, only rows of Ulvey, and
 * all of shop.visit. Every value that must not come out contains SECRET; rows of other towns contain HIDDEN.
 */
const system = `attacked_${process.pid}`;
const SCHEMA = `
  create schema shop;
  create table shop.person (id int primary key, town text, email text, card text);
  insert into shop.person values (1, 'Ulvey', 'SECRETida@example.org', 'SECRET4111'), (2, 'HIDDENtown', 'SECRETola@example.org', 'SECRET5500'), (3, 'Ulvey', null, null);
  create table shop.visit (id int, page text);
  insert into shop.visit values (1, 'fares');
  create table shop.closed (note text);
  insert into shop.closed values ('SECRETnote');
  create view shop.person_view as select * from shop.person;
  create function shop.leak() returns setof shop.person language sql security definer as 'select * from shop.person';
  create function public.sum(text) returns text language sql security definer as 'select string_agg(card, '','') from shop.person';
  create operator public.%% (leftarg = text, rightarg = text, function = pg_catalog.textcat);
  create type shop.mood as enum ('SECRETglad', 'SECRETsad');
  create type shop.sly as (v text);
  create function shop.tell(shop.sly) returns int language sql security definer as 'select count(*)::int + 4111 from shop.closed';
  create cast (shop.sly as int) with function shop.tell(shop.sly) as implicit;
  create function shop.made(text) returns shop.sly language sql as 'select row($1)::shop.sly';
  create cast (text as shop.sly) with function shop.made(text) as implicit;
  create domain shop.slier as shop.sly;
  create type shop.abode as (street text, town text);
  create table shop.trip (id int, flag boolean, letter text, born date, mood shop.mood, day date, home shop.abode, odd shop.sly, odder shop.slier);
  insert into shop.trip select i, i % 2 = 0, case when i % 2 = 0 then 'Q' else 'Z' end, '1990-01-01'::date, 'SECRETglad'::shop.mood, '2026-02-03'::date, row('Quay 1', 'Ulvey')::shop.abode, row('x')::shop.sly, row('x')::shop.sly::shop.slier from generate_series(1, 40) i;
  create view shop.masked_on as select id, email as contact, count(*) over () as n from shop.person;
  create function public.ts_stat_like(text) returns text language sql security definer as 'select card from shop.person limit 1';
  create table shop."odd ""name" (v text);
  insert into shop."odd ""name" values ('SECRETodd');`;

let place: Awaited<ReturnType<typeof freshDatabase>>;
let config: Config;
let sourceId: string;
let reader: string;

beforeAll(async () => {
  place = await freshDatabase();
  const { db } = place;
  const { domainId, personId } = await furnish(db);
  await withClient(urlOf('postgres'), (client) => client.query(`create database ${system}`));
  await withClient(urlOf(system), (client) => client.query(SCHEMA));
  const url = new URL(urlOf(system));
  config = testConfig();
  // The worst case: the credential of the source is the owner of everything, so only the gateway stands between.
  const one = async (sql: string, bind: unknown[]) =>
    ((await db.rows<{ id: string }>(sql, bind))[0] as { id: string }).id;
  const credential = await one('insert into credential (name, username, secret) values ($1, $2, $3) returning id', [
    'owner',
    url.username,
    encrypt(config.key, decodeURIComponent(url.password)),
  ]);
  sourceId = await one(
    'insert into source (name, kind, address, domain_id, credential_id) values ($1, $2, $3, $4, $5) returning id',
    [
      'Attacked',
      'postgresql',
      JSON.stringify({ host: url.hostname, port: Number(url.port), database: system }),
      domainId,
      credential,
    ],
  );
  const asset = (parent: string | null, kind: string, names: string[], position = 0) =>
    one(
      'insert into asset (source_id, parent_id, domain_id, kind, name, key, depth, native, position) values ($1, $2, $3, $4, $5, $6, $7, $8, $9) returning id',
      [
        sourceId,
        parent,
        domainId,
        kind,
        names.at(-1),
        [system, ...names].join('\u001f'),
        names.length,
        JSON.stringify({ type: 'text' }),
        position,
      ],
    );
  const schema = await asset(null, 'schema', ['shop']);
  const table = async (name: string, kind: string, columns: string[]) => {
    const id = await asset(schema, kind, ['shop', name]);
    for (const [position, column] of columns.entries()) await asset(id, 'column', ['shop', name, column], position);
    return id;
  };
  const person = await table('person', 'table', ['id', 'town', 'email', 'card']);
  const visit = await table('visit', 'table', ['id', 'page']);
  await table('closed', 'table', ['note']);
  await table('person_view', 'view', ['id', 'town', 'email', 'card']);
  await table('odd "name', 'table', ['v']);
  const trip = await table('trip', 'table', ['id', 'flag', 'letter', 'born', 'mood', 'day', 'home', 'odd', 'odder']);
  const types: Record<string, string> = {
    id: 'integer',
    flag: 'boolean',
    born: 'date',
    mood: 'shop.mood',
    day: 'date',
    home: 'shop.abode',
    odd: 'shop.sly',
    odder: 'shop.slier',
  };
  for (const [name, type] of Object.entries(types))
    await db.run('update asset set native = $1 where parent_id = $2 and name = $3', [
      JSON.stringify({ type }),
      trip,
      name,
    ]);
  reader = await one("insert into person (name, email) values ('Reader', 'reader@example.org') returning id", []);
  const policy = (
    name: string,
    effect: PolicyBody['effect'],
    {
      assets,
      classes,
      ...more
    }: { assets: string[]; classes?: string[] } & Partial<Pick<PolicyBody, 'columns' | 'mask' | 'rows'>>,
  ) =>
    addPolicy(db, {
      name,
      effect,
      personIds: [reader],
      assetIds: assets,
      classKeys: classes ?? [],
      createdBy: personId,
      ...more,
    });
  await policy('reads people', 'allow', { assets: [person], columns: ['id', 'town', 'email'] });
  await policy('masks e-mail', 'protect', {
    assets: [person],
    classes: ['email'],
    mask: { kind: 'partial', first: 1, last: 0 },
  });
  await policy('only Ulvey', 'protect', {
    assets: [person],
    rows: { column: 'town', values: ['Ulvey'], attribute: null, through: null },
  });
  await policy('reads visits', 'allow', { assets: [visit] });
  await policy('reads trips', 'allow', { assets: [trip] });
  await policy('digests', 'protect', {
    assets: [trip],
    columns: ['flag', 'mood'],
    mask: { kind: 'digest', keyed: 'installation' },
  });
  await policy('in part', 'protect', {
    assets: [trip],
    columns: ['letter'],
    mask: { kind: 'partial', first: 1, last: 0 },
  });
  await policy('years', 'protect', {
    assets: [trip],
    columns: ['born', 'id'],
    mask: { kind: 'general', to: 'year', step: null },
  });
  const email = await one("select id from asset where name = 'email' and parent_id = $1", [person]);
  await db.run(
    "insert into claim (asset_id, class_key, detector, detector_version, share, matched, sampled, distinct_values, confidence, state, evidence) values ($1, 'email', 'email.address', '1', 1, 3, 3, 3, 0.99, 'certain', '{}')",
    [email],
  );
});

afterAll(async () => {
  await place.drop();
  await withClient(urlOf('postgres'), (client) => client.query(`drop database if exists ${system} with (force)`));
});

/** Everything that comes back, also in errors, as one text. */
async function attempt(sql: string): Promise<{ text: string; refused: boolean }> {
  let columns: string[] = [];
  const rows: TextRow[] = [];
  const seen = () => (columns.length > 0 ? `${JSON.stringify(columns)}\n${JSON.stringify(rows)}` : '');
  const gateway = await openGateway(place.db, config, sourceId);
  try {
    const { callables } = await callablesOf(sourceId, 1, gateway.client);
    const prepared = await prepare(place.db, callables, { personId: reader, purpose: null }, sourceId, sql);
    await runPrepared(gateway, config, prepared, { rows: 1000, bytes: 1e7, seconds: 60 }, (shown, batch) => {
      columns = shown.map(({ name }) => name);
      rows.push(...batch);
    });
    return { text: seen(), refused: false };
  } catch (error) {
    return {
      text: `${seen()} ${(error as Error).message} ${JSON.stringify((error as { more?: object }).more ?? {})}`,
      refused: true,
    };
  } finally {
    await gateway.leave(false);
  }
}

const ATTACKS = [
  'select card from shop.person',
  'select * from shop.person',
  'select p.card from shop.person p',
  'select p from shop.person p',
  'select (p).card from shop.person p',
  'select (p.*)::text from shop.person p',
  'select row_to_json(p) from shop.person p',
  'select to_jsonb(p) from shop.person p',
  'select p::text from shop.person p',
  'select row(p.*) from shop.person p',
  'select json_agg(p) from shop.person p',
  'select array_agg(p) from shop.person p',
  'select count(*) from shop.person group by card',
  "select id from shop.person where card like 'SECRET4%'",
  'select id from shop.person order by card',
  'select email from shop.person',
  'select email::int from shop.person',
  'select cast(email as date) from shop.person',
  "select id from shop.person where email like 'SECRETida%'",
  'select max(email) from shop.person',
  "select string_agg(email, ',') from shop.person",
  "select split_part(email, '@', 1) from shop.person",
  'select reverse(email) from shop.person',
  "select id, town from shop.person where town <> 'Ulvey'",
  'select town::int from shop.person',
  "select 1 / (case when town like 'HIDDEN%' then 0 else 1 end) from shop.person",
  'select note from shop.closed',
  'select * from shop.person_view',
  'select * from shop.leak()',
  'select shop.leak()',
  "select public.sum('x')",
  'select * from "shop"."odd ""name"',
  'with w as (delete from shop.person returning *) select * from w',
  'with w as (update shop.person set town = card returning *) select * from w',
  'with w as (insert into shop.visit select 1, card from shop.person returning *) select * from w',
  "with person as (select 'x' as card) select card from shop.person",
  'with closed as (select 1) select * from shop.closed',
  'select * from (with pg_authid as (select 1) select 1) x, pg_authid',
  'select rolpassword from pg_authid',
  'select * from pg_catalog.pg_class',
  'select * from information_schema.columns',
  'select most_common_vals from pg_stats',
  'select * from pg_stat_activity',
  'copy shop.person to stdout',
  "copy (select card from shop.person) to program 'cat'",
  'set role postgres',
  'set search_path = shop; select card from person',
  'reset role',
  'select 1; select card from shop.person',
  'begin; select card from shop.person; commit',
  'explain analyze select card from shop.person',
  'do $$ begin raise exception using message = (select card from shop.person limit 1); end $$',
  'create table shop.stolen as select * from shop.person',
  'select * into shop.stolen from shop.person',
  'select card from shop.person for update',
  'table shop.closed',
  'select * from shop.person tablesample system (100)',
  'select * from only shop.closed',
  'declare c cursor for select card from shop.person',
  'prepare p as select card from shop.person',
  'execute p',
  'listen x',
  'call shop.leak()',
  'lock table shop.person',
  "select pg_read_file('/etc/passwd')",
  "select query_to_xml('select card from shop.person', true, true, '')",
  "select table_to_xml('shop.person', true, true, '')",
  "select dblink('x', 'select 1')",
  "select set_config('role', 'postgres', false)",
  "select current_setting('server_version')",
  'select current_user',
  'select session_user',
  'select version()',
  'select pg_sleep(1)',
  "select lo_import('/etc/passwd')",
  "select 'shop.person'::regclass::oid",
  "select 'x'::regrole",
  'select null::shop.person',
  "select jsonb_populate_record(null::shop.person, '{}')",
  "select * from jsonb_to_recordset('[]') as x(card text)",
  "select 'a' operator(public.%%) 'b'",
  'select ctid, xmin, tableoid from shop.person',
  'select card from lateral (select * from shop.person) q',
  'select (select card from shop.person limit 1)',
  "select exists (select 1 from shop.person where card = 'SECRET4111')",
  'select v.id from shop.visit v join shop.person p on p.card = v.page',
  'select v.id from shop.visit v natural join shop.closed',
  'select id from shop.visit union select card::int from shop.person',
  'select id from shop.visit where page in (select note from shop.closed)',
  'select rank() over (order by card) from shop.person',
  'select distinct on (card) id from shop.person',
  'values ((select note from shop.closed))',
  'select * from unnest(array(select note from shop.closed))',
  'select U&"c\\0061rd" from shop.person',
  'select "card" from "shop"."person"',
  'select/**/card/**/from/**/shop.person',
  'select card from shop.person -- comment',
  'select $tag$x$tag$, card from shop.person',
  'select xmlforest(card) from shop.person',
  "select * from xmltable('/a' passing xmlparse(content '<a/>') columns c text path 'b')",
  'select merge_action()',
  'select * from generate_series(1, (select count(*) from shop.closed))',
  'merge into shop.visit using shop.person on true when matched then delete',
  // A name behind a dot is a function where there is no such column.
  "select (('select array_to_tsvector(array[email]) from shop.person'::text).ts_stat).word",
  "select w.ts_stat from (select 'select array_to_tsvector(array[card]) from shop.person'::text) w(x)",
  "select (x).ts_stat from (select 'select array_to_tsvector(array[card]) from shop.person'::text as x) q",
  "select ((x).ts_stat).* from (select 'select array_to_tsvector(array[card]) from shop.person'::text as x) q",
  "select (('shop.closed'::text).ts_stat_like)",
  "select ('x'::text).leak",
  'select (4242::int8).lo_get',
  "select ('server_version'::text).current_setting",
  "select ('postgres'::name).pg_ls_dir",
  "select ('/etc/passwd'::text).pg_read_file",
  'select (1::float8).pg_sleep',
  'select (1259::oid).pg_get_viewdef',
  "select ('shop.masked_on'::text).pg_get_viewdef",
  "select ('shop.person'::text).regclass",
  "select ('shop.person'::text).to_regclass",
  'select (0).pg_stat_get_activity',
  "select ('seq'::text).nextval",
  'select p.pg_column_is_updatable from shop.person p',
  'select p.row_security_active from shop.person p',
  "select ts_rewrite('a'::tsquery, 'select array_to_tsvector(array[card])::text::tsquery, null from shop.person')",
  "select * from ts_stat('select array_to_tsvector(array[card]) from shop.person')",
  'select * from shop.person p, lateral ts_debug(p.town) d',
  'select * from shop.person order by town using operator(public.%%)',
  "select to_regclass('shop.closed'), to_regnamespace('shop'), to_regtype('shop.mood')",
  "select 'SECRET'::shop.mood",
  'select enum_range(null::shop.mood)',
  "select * from jsonb_populate_recordset(null::shop.closed, '[]')",
  "select * from json_to_record('{}') as x(a shop.closed)",
  'select * from rows from (shop.leak()) as x',
  'select * from rows from (unnest(array[1]), shop.leak()) as x(a, b)',
  "select string_agg(card, ',' order by card) within group (order by card) from shop.person",
  'select * from shop.person tablesample bernoulli (100) where card is not null',
  'select * from shop.person tablesample system ((select 100 from shop.closed))',
  'select * from shop.closed tablesample bernoulli (100)',
  "select town from only (shop.person) where town like 'HIDDEN%'",
  "select (select string_agg(note, ',') from shop.closed) from (select 'Ulvey' as town) o",
  "select n.note from (select 'Ulvey' as town) o, lateral (select note from shop.closed) n",
  "select '\\' || card || '\\' from shop.person",
  "select '\\', card from shop.person --'",
  "select E'\\'', card from shop.person --'",
  'select town collate public."evil" from shop.person',
  'select json_object_agg(p, p) from shop.person p',
  'select max(p::text) from shop.person p',
  'select home.street.card from shop.trip',
  'select (home).leak from shop.trip',
  'select normalize(card) from shop.person',
  'select card is json from shop.person',
  'select idrel_row.card from shop.person',
  'select idrel_row.card from shop.person as idrel_row',
  'with recursive w(a) as (select card from shop.person union all select a from w) cycle a set c to 1 default 0 using p select * from w',
  "with recursive w(a) as (select 1 union all select a from w) cycle a set c to (select note from shop.closed) default '' using p select * from w",
  'select make_interval(days => (select count(*)::int from shop.closed))',
  'select * from pg_options_to_table((select array_agg(card) from shop.person))',
  "select has_table_privilege('shop.closed', 'select')",
  "select pg_size_pretty(pg_relation_size('shop.closed'))",
  "select obj_description(1), col_description(1, 1), shobj_description(1, 'pg_database')",
  'select current_database(), current_schema, current_catalog, inet_server_addr()',
  'select txid_current(), pg_current_xact_id()',
  "select current_setting('idrel.digest_key')",
  "select ('idrel.digest_key'::text).current_setting",
];

describe('attempts to get around the policies', () => {
  it('are many', () => expect(new Set(ATTACKS).size).toBeGreaterThanOrEqual(100));

  it.each(ATTACKS)('%s', async (sql) => {
    const { text } = await attempt(sql);
    // What the attacker wrote is theirs; anything beyond it is a leak.
    const learned = [
      'SECRETida',
      'SECRETola',
      'SECRET4111',
      'SECRET5500',
      'SECRETnote',
      'SECRETodd',
      'HIDDENtown',
    ].filter((value) => text.includes(value) && !sql.includes(value));
    expect(learned).toEqual([]);
  });

  it('tell nothing by yes or no about what is refused or hidden', async () => {
    for (const sql of [
      "select exists (select 1 from shop.person where card = 'SECRET4111') as yes",
      "select count(*) as yes from shop.person where email = 'SECRETida@example.org'",
      "select count(*) as yes from shop.person where town = 'HIDDENtown'",
    ]) {
      const { text, refused } = await attempt(sql);
      expect(refused || text.includes('[["0"]]') || text.includes('[["f"]]'), `${sql}: ${text}`).toBe(true);
    }
  });

  it('change nothing', async () => {
    const rows = await withClient(
      urlOf(system),
      async (client) =>
        (
          await client.query(
            "select (select count(*) from shop.person)::int as people, (select count(*) from shop.visit)::int as visits, to_regclass('shop.stolen') is null as unstolen",
          )
        ).rows,
    );
    expect(rows).toEqual([{ people: 3, visits: 1, unstolen: true }]);
  });
});

describe('conversions of the source’s own', () => {
  it('are not run: a column of such a type is left out, and the others are read', async () => {
    for (const sql of [
      'select odd + 1 from shop.trip',
      'select abs(odd) from shop.trip',
      'select sum(odd) from shop.trip',
      'select odd::int from shop.trip',
      'select odder + 1 from shop.trip',
      'select odder::int from shop.trip',
    ]) {
      const { text, refused } = await attempt(sql);
      expect([refused, text.includes('4112')], `${sql}: ${text}`).toEqual([true, false]);
    }
    expect((await attempt('select count(day) as n from shop.trip')).text).toContain('[["40"]]');
  });
});

describe('honest queries', () => {
  it.each([
    ['select * from shop.person order by id', '["id","town","email"]', '[["1","Ulvey","S•••"],["3","Ulvey",null]]'],
    ['select count(*) as n, town from shop.person group by town', '["n","town"]', '[["2","Ulvey"]]'],
    ['select v.page, p.town from shop.visit v join shop.person p using (id)', '["page","town"]', '[["fares","Ulvey"]]'],
    [
      'with recursive n(i) as (select 1 union all select i + 1 from n where i < 3) select sum(i) as s from n',
      '["s"]',
      '[["6"]]',
    ],
    ['select p from shop.person p where id = 3', '["p"]', '[["(3,Ulvey,•••)"]]'.replace('•••', '')],
    ["select '\\' as x, E'a\\nb' as y, 'it''s' as z", '["x","y","z"]', '[["\\\\","a\\nb","it\'s"]]'],
    [
      'select distinct flag, mood, letter, born, id from shop.trip',
      '["flag","mood","letter","born","id"]',
      '[[null,null,"•••","1990",null]]',
    ],
    [
      "select distinct (home).street, (t.home).town, day, timestamptz '2026-02-03 10:00+02' as at, interval '1 day 2 hours' as i from shop.trip t",
      '["street","town","day","at","i"]',
      '[["Quay 1","Ulvey","2026-02-03","2026-02-03 08:00:00+00","1 day 02:00:00"]]',
    ],
    ['select count(*) as n from only shop.visit tablesample bernoulli (100) repeatable (1)', '["n"]', '[["1"]]'],
  ])('%s', async (sql, columns, rows) => {
    expect(await attempt(sql)).toEqual({ text: `${columns}\n${rows}`, refused: false });
  });

  it('names the policy when a column is refused', async () => {
    const { text } = await attempt('select card from shop.person');
    expect(text).toContain('shop.person.card may not be read: no policy allows it.');
  });
});

describe('the key of digests', () => {
  it('stands in no statement, no log and no list of activities, and makes equal values equal', async () => {
    const { db } = place;
    await db.run("update policy set mask = $1 where name = 'masks e-mail'", [
      '{"kind":"digest","keyed":"installation"}',
    ]);
    const first = await attempt('select email from shop.person where id = 1');
    const again = await attempt(
      'select p.email = q.email as same, p.email from shop.person p, shop.person q where p.id = 1 and q.id = 1',
    );
    expect(first.text).toMatch(/\[\["[0-9a-f]{16}"\]\]/);
    expect(again.text).toContain(`[["t",${/"[0-9a-f]{16}"/.exec(first.text)?.[0]}]]`);
    const seen = await withClient(urlOf(system), async (client) =>
      (await client.query('select query from pg_stat_activity')).rows
        .map((row: { query: string }) => row.query)
        .join('\n'),
    );
    expect(seen).not.toContain(config.digestKey.toString('hex'));
    await db.run("update policy set mask = $1 where name = 'masks e-mail'", ['{"kind":"partial","first":1,"last":0}']);
  });
});

describe('the list of what may be called', () => {
  it('decides on every function of this server: a new one is refused until somebody has looked at it', async () => {
    const gateway = await openGateway(place.db, config, sourceId);
    try {
      const { facts } = await callablesOf(sourceId, 1, gateway.client);
      const own = facts.functions.filter((fact) => fact.schema === 'pg_catalog' && fact.extension === null);
      expect(own.length).toBeGreaterThan(3000);
      expect(
        own.filter((fact) => decisionOn(fact) === 'undecided').map((fact) => `${fact.name}(${fact.args})`),
      ).toEqual([]);
    } finally {
      await gateway.leave(false);
    }
  });
});
