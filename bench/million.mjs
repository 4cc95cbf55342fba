import pg from 'pg';
import { coverageOverTime } from './coverage.mjs';
import { finding } from './finding.mjs';
import { inBrowser } from './inBrowser.mjs';
import { inTurn, sentBytes, signedIn, tell } from './lib.mjs';
import { linesOfMany } from './lines.mjs';
import { many } from './many.mjs';
import { newsOfMany } from './news.mjs';
import { plans } from './plans.mjs';
import { routines } from './routines.mjs';
import { seen } from './seen.mjs';
import { travel } from './travel.mjs';

const SCHEMAS = 20;
const TABLES = 40_000;
const COLUMNS = 24;
/** The last tables are views: each reads, column by column, what stands so many before it. */
const VIEWS = 8500;
const BACK = 500;
const POLICIES = 10_000;
const TO_SETTLE = 51_000;
/** One table is wide, as some are that grew for years. */
const WIDE = 1500;

const WORDS =
  "array['ledger','invoice','ferry','harbour','cargo','crew','berth','ticket','meter','tide','sensor','claim','audit','fare','voyage','parcel','order','supplier','contract','booking']";
const FIELDS =
  "array['id','code','name','amount','note','status','created','changed','owner','region','port','email','phone','weight','length','begins','ends','kind','price','tax','remark','reference','batch','version']";

/**
 * A catalog of a million assets, made in sets within the schema's own rules: one source of 40,000 tables with 24 columns each (960,000), 204,000 edges of 8,500 views in
 * chains of 17, three tables that decide the rows of 100, 1,000 and 5,000 views, 51,000 findings to settle, 10,000 policies in force.
 */
export async function makeMillion(client) {
  const ask = async (sql, bind) => (await client.query(sql, bind)).rows;
  const [{ id: domain }] = await ask("insert into domain (name) values ('Generated') returning id");
  const [{ id: source }] = await ask(
    'insert into source (name, kind, address, domain_id) values (\'Generated\', \'postgresql\', \'{"host": "127.0.0.1", "port": 1, "database": "generated"}\', $1) returning id',
    [domain],
  );
  await ask(
    'create temp table made (n int primary key, id uuid not null default gen_random_uuid(), name text, schema int)',
  );
  await ask(
    `insert into made (n, name, schema) select n, (${WORDS})[1 + n % 20] || '_' || (${WORDS})[1 + (n / 20) % 20] || '_' || n, n % ${SCHEMAS} from generate_series(1, ${TABLES}) n`,
  );
  await ask(
    `with top as (insert into asset (source_id, domain_id, kind, name, key, depth, words) values ($1, $2, 'database', 'generated', 'generated', 0, '''generated'':1A') returning id),
     schemas as (insert into asset (source_id, domain_id, parent_id, kind, name, key, depth, words)
       select $1, $2, top.id, 'schema', 'area_' || n, 'generated' || chr(31) || 'area_' || n, 1, array_to_tsvector(array['area', n::text]) from top, generate_series(0, ${SCHEMAS - 1}) n returning id, name)
     select count(*) from schemas`,
    [source, domain],
  );
  await ask(
    `insert into asset (id, source_id, domain_id, parent_id, kind, name, key, depth, stats, words)
     select m.id, $1, $2, s.id, case when m.n > ${TABLES - VIEWS} then 'view' else 'table' end, m.name, s.key || chr(31) || m.name, 2, json_build_object('rows', m.n * 7, 'bytes', m.n * 8192)::jsonb, array_to_tsvector(string_to_array(m.name, '_'))
     from made m join asset s on s.source_id = $1 and s.kind = 'schema' and s.name = 'area_' || m.schema`,
    [source, domain],
  );
  await ask(
    'create temp table made_column (table_n int, k int, id uuid not null default gen_random_uuid(), primary key (table_n, k))',
  );
  await ask(`insert into made_column (table_n, k) select n, k from made, generate_series(1, ${COLUMNS}) k`);
  await ask(
    `insert into asset (id, source_id, domain_id, parent_id, kind, name, key, depth, position, native)
     select c.id, $1, $2, m.id, 'column', (${FIELDS})[c.k], t.key || chr(31) || (${FIELDS})[c.k], 3, c.k, '{"type": "text", "nullable": true}'
     from made_column c join made m on m.n = c.table_n join asset t on t.id = m.id`,
    [source, domain],
  );
  await ask(
    `insert into name_words (name, words) select w, array_to_tsvector(array[w]) from unnest(${FIELDS}) w on conflict do nothing`,
  );
  await ask(
    `insert into flow (id, source_id, asset_id, kind, statement) select gen_random_uuid(), $1, id, 'view', 'select … from …' from made where n > ${TABLES - VIEWS}`,
    [source],
  );
  await ask(
    `insert into lineage_edge (flow_id, from_id, to_id, kind)
     select f.id, a.id, b.id, 'copied' from made m join flow f on f.asset_id = m.id join made_column b on b.table_n = m.n join made_column a on a.table_n = m.n - ${BACK} and a.k = b.k where m.n > ${TABLES - VIEWS}`,
  );
  for (const [hub, fed] of [
    [1, 100],
    [2, 1000],
    [3, 5000],
  ])
    await ask(
      `insert into lineage_influence (flow_id, from_id, to_id, kind)
       select f.id, (select id from made_column where table_n = ${hub} and k = 1), m.id, 'join' from made m join flow f on f.asset_id = m.id where m.n > ${TABLES - fed}`,
    );
  await ask(
    `insert into claim (asset_id, class_key, detector, detector_version, share, matched, sampled, distinct_values, confidence, state, evidence)
     select id, 'phone', 'phone.number', '3', 0.7, 70, 100, 60, 0.8, 'to-settle', '{"name": {"verdict": "neutral", "words": []}, "terms": [], "examples": []}'::jsonb from made_column where k = 13 union all
     select id, 'email', 'email.address', '2', 0.7, 70, 100, 60, 0.8, 'to-settle', '{"name": {"verdict": "neutral", "words": []}, "terms": [], "examples": []}'::jsonb from made_column where k = 12 and table_n <= ${TO_SETTLE - TABLES}`,
  );
  await ask(
    `with made_policy as (
       insert into policy (name, effect, everyone, created_by)
       select 'Generated ' || m.n, 'allow', false, (select id from person order by name limit 1)
       from made m where m.n <= ${POLICIES}
       returning id, name
     ),
     subjects as (
       insert into policy_subject (policy_id, group_id)
       select p.id, (select id from person_group order by name limit 1) from made_policy p
     )
     insert into policy_object (policy_id, asset_id)
     select p.id, m.id from made_policy p join made m on p.name = 'Generated ' || m.n`,
  );
  const [{ id: wide }] = await ask(
    `insert into asset (source_id, domain_id, parent_id, kind, name, key, depth, words)
     select $1, $2, s.id, 'table', 'wide_ledger', s.key || chr(31) || 'wide_ledger', 2, array_to_tsvector(array['wide', 'ledger'])
     from asset s where s.source_id = $1 and s.kind = 'schema' and s.name = 'area_1' returning id`,
    [source, domain],
  );
  await ask(
    `insert into asset (source_id, domain_id, parent_id, kind, name, key, depth, position, native, description)
     select $1, $2, t.id, 'column', n.name || '_' || k, t.key || chr(31) || n.name || '_' || k, 3, k, '{"type": "text", "nullable": true}',
       case when k % 3 = 0 then 'What the ' || n.name || ' of line ' || k || ' was when the ledger was closed' end
     from asset t, generate_series(1, ${WIDE}) k, lateral (select (${FIELDS})[1 + k % ${COLUMNS}] as name) n
     where t.id = $3`,
    [source, domain, wide],
  );
  await ask('analyze');
  return {
    wide,
    source,
    domain,
    table: async (n) => (await ask('select id from made where n = $1', [n]))[0].id,
    column: async (n, k) => (await ask('select id from made_column where table_n = $1 and k = $2', [n, k]))[0].id,
  };
}

/** What people ask of a catalog of a million assets, over HTTP, against the bare query of the least work by which it could be answered. */
export async function run(adminUrl, address) {
  const url = new URL(adminUrl);
  url.pathname = '/idrel';
  const client = new pg.Client(url.href);
  await client.connect();
  const started = performance.now();
  const made = await makeMillion(client);
  const [{ count }] = (await client.query('select count(*)::int from asset')).rows;
  const lines = [
    `| A catalog of ${count} assets made for the rows below | ${Math.round((performance.now() - started) / 1000)} s | – | – | under 600 s |`,
  ];
  process.stdout.write(`${lines[0]}\n`);
  const send = await signedIn(address, 'Jorun Pell');
  const measure = async (name, goal, path, bare, check) => {
    const body = await send('GET', path);
    check(JSON.parse(body));
    const [asked, straight] = await inTurn(9, [() => send('GET', path), () => client.query(...bare)]);
    lines.push(tell(name, asked, straight, goal));
  };
  lines.push(...(await finding(client, address, made)));
  const expect = (held, what) => {
    if (!held) throw new Error(what);
  };
  const [chain, hub100, hub1000, hub5000, alone] = [
    await made.table(TABLES - VIEWS - BACK + 7),
    await made.table(1),
    await made.table(2),
    await made.table(3),
    await made.table(20_000),
  ];
  const nodesOf = (ids) => [
    'select id, name, parent_id, position from asset where parent_id = any($1::uuid[]) order by position',
    [ids],
  ];
  const picture = async (name, id, steps, least, goal) => {
    const ids = JSON.parse(await send('GET', `/lineage?focus=${id}&upstream=0&downstream=${steps}`)).nodes.map(
      (node) => node.id,
    );
    await measure(
      `${name}: ${ids.length} tables with their columns and edges`,
      goal,
      `/lineage?focus=${id}&upstream=0&downstream=${steps}`,
      nodesOf(ids),
      ({ nodes }) => expect(nodes.length >= least, `${nodes.length} nodes are shown`),
    );
  };
  await picture('Lineage around a table, seven steps', chain, 7, 8, 'under 100 ms');
  await picture('Lineage around a table that a hundred views read', hub100, 1, 101, 'under 100 ms');
  await picture('Lineage around a hub of 5,000 views: the nearest', hub5000, 1, 251, '–');
  const impact = (name, id, rows, goal) =>
    measure(
      `Impact of ${name}`,
      goal,
      `/lineage/impact?asset=${id}&direction=downstream`,
      [
        'select id, name, kind, level from asset where id = any(select fl.asset_id from lineage_influence i join flow fl on fl.id = i.flow_id join asset c on c.id = i.from_id where c.parent_id = $1)',
        [id],
      ],
      (answer) => expect(answer.length === rows, `${answer.length} rows came`),
    );
  await impact('a table that feeds nothing', alone, 0, 'under 100 ms');
  await impact('a table with a chain of 17 views', chain, 17, 'under 100 ms');
  await impact('a table that 100 views read', hub100, 100, 'under 100 ms');
  await impact('a table that 1,000 views read', hub1000, 1000, 'under 100 ms');

  lines.push(...(await travel(client, send, made, TABLES - VIEWS - BACK + 7)));
  lines.push(...(await seen(client, send, address, made)));

  const waiting = (name, path, expected) =>
    measure(
      name,
      'under 150 ms',
      path,
      [
        `select a.id, a.key, c.confidence from claim c join asset a on a.id = c.asset_id
         where c.state = 'to-settle' and a.gone_at is null order by c.confidence desc, a.key limit 200`,
        [],
      ],
      expected,
    );
  await waiting(`The worklist with ${TO_SETTLE} findings to settle, its first 200`, '/worklist', (answer) =>
    expect(answer.items.length === 200, `${answer.items.length} items came`),
  );
  await waiting(`Findings to settle, the first 200 of ${TO_SETTLE}`, '/findings?state=open', (answer) =>
    expect(answer.items.length === 200 && answer.total >= TO_SETTLE, `${answer.total} in all`),
  );

  await measure(
    `The page of a table of ${WIDE} columns: the asset`,
    'under 150 ms',
    `/assets/${made.wide}`,
    ['select * from asset where id = $1', [made.wide]],
    (answer) => expect(answer.id === made.wide, 'another asset came'),
  );
  await measure(
    `The page of a table of ${WIDE} columns: its columns (${Math.round((await sentBytes(address, 'Jorun Pell', `/assets/${made.wide}/children`)) / 1000)} kB as sent)`,
    'under 150 ms, 150 kB',
    `/assets/${made.wide}/children`,
    ['select * from asset where parent_id = $1 order by position', [made.wide]],
    (answer) => expect(answer.length === WIDE, `${answer.length} columns came`),
  );
  // Some thousand columns are described, and carry terms: what is called the same learns from them.
  await client.query(
    "update asset set description = 'What ' || name || ' means' where id in (select column_id from (select c.id as column_id, row_number() over (order by c.id) as nth from asset c where c.kind = 'column') x where nth % 200 = 0)",
  );
  await client.query(
    "with made as (insert into term (name, scheme_id) select 'Entry', id from scheme order by id limit 1 returning id) insert into asset_term (asset_id, term_id) select a.id, made.id from asset a, made where a.kind = 'column' and a.description is not null",
  );
  await measure(
    `What could be said of a table of ${COLUMNS} columns, of which each has some 40,000 of its name`,
    'under 150 ms',
    `/assets/${alone}/suggestions`,
    ['select * from asset where parent_id = $1 order by position', [alone]],
    (answer) => expect(answer.length > 0, 'nothing is suggested'),
  );
  for (const by of ['domain', 'source', 'kind'])
    await measure(
      `Coverage by ${by}`,
      'under 300 ms',
      `/coverage?by=${by}`,
      ["select count(*) from asset where kind <> 'column' and gone_at is null", []],
      (answer) => expect(answer.all.assets > TABLES, `${answer.all.assets} assets are counted`),
    );
  await measure(
    'The list of sources',
    'under 150 ms',
    '/sources',
    ['select id, name, kind from source', []],
    (answer) =>
      expect(
        answer.some((one) => one.assets > 900_000),
        'the source is not counted',
      ),
  );

  const column = async () => ({ id: await made.column(1 + Math.floor(Math.random() * TABLES), 13) });
  for (const decision of ['confirmed', 'dismissed']) {
    const [asked, straight] = await inTurn(9, [
      async () => {
        const { id } = await column();
        const begun = performance.now();
        const answer = await send('POST', '/findings/decisions', {
          decisions: [{ assetId: id, classKey: 'phone', decision }],
        });
        const took = performance.now() - begun;
        expect(JSON.parse(answer).decided === 1, answer);
        return took;
      },
      async () => {
        const { id } = await column();
        const begun = performance.now();
        await client.query("update claim set confidence = 0.81 where asset_id = $1 and class_key = 'phone'", [id]);
        return performance.now() - begun;
      },
    ]);
    lines.push(
      tell(
        `A finding ${decision} in a source of 960,000 columns, against writing one row`,
        asked,
        straight,
        'under 100 ms',
      ),
    );
  }

  const sources = JSON.parse(await send('GET', '/sources'));
  const booking = sources.find((entry) => entry.name === 'Booking system');
  const schema = JSON.parse(
    await send('GET', `/assets?filter=${encodeURIComponent('kind:schema source:"Booking system"')}`),
  ).items.find((entry) => entry.name === 'ref');
  await send('POST', '/policies', {
    name: 'Bench of a million',
    effect: 'allow',
    everyone: true,
    assetIds: [schema.id],
  });
  const inner = new URL(adminUrl);
  inner.pathname = '/booking_system';
  const kept = new pg.Client(inner.href);
  await kept.connect();
  const sql = 'select * from ref.fare_band limit 5';
  const [asked, straight] = await inTurn(15, [
    async () => {
      const answer = await send('POST', `/sources/${booking.id}/query`, { sql });
      expect(/"rows":\d/.test(answer), answer.slice(0, 300));
    },
    () => kept.query(sql),
  ]);
  lines.push(
    tell(
      'A small query through the gateway with 10,000 policies in force, against the same over a kept connection',
      asked,
      straight,
      'at most 20 ms more',
    ),
  );
  await kept.end();
  const [below] = (
    await client.query("select id, name from asset where kind = 'schema' and source_id = $1 order by key limit 1", [
      made.source,
    ])
  ).rows;
  const ids = (
    await client.query(
      'select a.id from asset a join asset s on s.id = $1 where a.source_id = s.source_id and starts_with(a.key, s.key || chr(31))',
      [below.id],
    )
  ).rows.map((row) => row.id);
  lines.push(...(await many(client, send, below.id, ids)));
  lines.push(...(await routines(client, send, below.name, ids)));
  lines.push(...(await coverageOverTime(client, send, measure, made)));
  lines.push(...(await linesOfMany(client, address)));
  lines.push(...(await newsOfMany(client, measure, made)));
  lines.push(...(await inBrowser(address, made)));
  await plans(client, address, made);
  await client.end();
  return lines.join('\n');
}
