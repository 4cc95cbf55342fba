import pg from 'pg';
import { Client } from '../demo/dist/client.js';
import { inTurn, median, tell } from './lib.mjs';

const [TABLES, COLUMNS, ROUNDS] = [10_000, 9, 3];
const ASSETS = TABLES * (COLUMNS + 1);

/**
 * A hundred thousand assets as a program sends them, in lines over HTTP with a key: ten thousand tables with nine columns each, to a source of their own; the same again, when
 * nothing is other; then what people say of each of them. Beside it as many rows that one statement writes into an empty table with the same indexes.
 */
export async function run(adminUrl, address) {
  const url = new URL(adminUrl);
  url.pathname = '/idrel';
  const database = new pg.Client(url.href);
  await database.connect();
  const client = new Client(address);
  await client.signInAs('Jorun Pell');
  const domains = await client.ask({ method: 'get', path: '/domains' }, {});
  const domainId = domains.find(({ name }) => name === 'Travel').id;
  const send = await sender(address, client);
  const times = { made: [], same: [], said: [], plain: [] };
  try {
    for (let round = 0; round < ROUNDS; round += 1) {
      const source = `Lines of round ${round}`;
      await client.ask(
        { method: 'post', path: '/sources' },
        { body: { name: source, kind: 'pushed', address: {}, domainId, description: '', credentialId: null } },
      );
      const assets = tables(source);
      times.made.push(await send(assets, 'made'));
      times.same.push(await send(assets, 'same'));
      times.said.push(await send(words(source), 'changed'));
      times.plain.push(await written(database));
    }
  } finally {
    await database.query('drop table if exists bench_asset');
    await database.end();
  }
  const told = (list) =>
    `${(median(list) / 1000).toFixed(1)} s (${list.map((ms) => (ms / 1000).toFixed(1)).join(', ')})`;
  const row = (what, list) => {
    const line = `| ${what} | ${told(list)}: ${Math.round(ASSETS / (median(list) / 60_000)).toLocaleString('en')} a minute | ${told(times.plain)} | ${(median(list) / median(times.plain)).toFixed(1)} | 100,000 a minute |`;
    process.stdout.write(`${line}\n`);
    return line;
  };
  const all = ASSETS.toLocaleString('en');
  return [
    row(
      `${all} assets said by lines over HTTP (10,000 tables with nine columns), against \`insert … select\` of as many rows into an empty table with the indexes of that of assets`,
      times.made,
    ),
    row(`The same again, when nothing is other`, times.same),
    row(`What people say of them: a description each, and of tables an owner and a tag, a line each`, times.said),
  ].join('\n');
}

/** Sends lines by a key, and holds them to what is to become of each. @returns how long it took, in milliseconds */
async function sender(address, client) {
  const { key } = await client.ask(
    { method: 'post', path: '/api-keys' },
    { body: { name: 'A bench', scopes: ['read', 'write', 'scan'], domainIds: null, perMinute: 6000 } },
  );
  return async (lines, outcome) => {
    const begun = performance.now();
    const response = await fetch(`${address}/api/v1/lines`, {
      method: 'POST',
      headers: { authorization: `Bearer ${key}`, 'content-type': 'application/x-ndjson' },
      body: lines.map((line) => JSON.stringify(line)).join('\n'),
    });
    const end = JSON.parse((await response.text()).trimEnd().split('\n').at(-1));
    if (end[outcome] !== lines.length) throw new Error(`not all lines are ${outcome}: ${JSON.stringify(end)}`);
    return performance.now() - begun;
  };
}

/** What is said of five thousand columns among a million assets, by lines; against one statement that writes as many descriptions. */
export async function linesOfMany(database, address) {
  const client = new Client(address);
  await client.signInAs('Jorun Pell');
  const send = await sender(address, client);
  const { rows } = await database.query(
    `select 'area_' || m.schema as schema, m.name as table, a.name as column, a.id
     from made m
     join asset a on a.parent_id = m.id and a.kind = 'column'
     where m.n between 1000 and 1300 and m.n % 3 = 0
     order by m.n, a.name
     limit 2400`,
  );
  let nth = 0;
  const [said, written] = await inTurn(3, [
    () => {
      nth += 1;
      return send(
        rows.map(({ schema, table, column }) => ({
          said: {
            of: `/at/Generated/${schema}/${table}/${column}`,
            description: `What ${column} means, told for the ${nth}th time`,
          },
        })),
        'changed',
      );
    },
    async () => {
      await database.query('begin');
      const begun = performance.now();
      await database.query("update asset set description = 'What it means' where id = any($1::uuid[])", [
        rows.map(({ id }) => id),
      ]);
      const ms = performance.now() - begun;
      await database.query('rollback');
      return ms;
    },
  ]);
  return [
    tell(
      `What is said of ${rows.length} columns among a million assets by lines, against one statement that writes as many descriptions`,
      said,
      written,
      '100,000 a minute',
    ),
  ];
}

function tables(source) {
  const column = (nth) => ({
    name: `col_${nth}`,
    type: ['text', 'integer', 'date'][nth % 3],
    nullable: nth % 2 === 0,
    comment: `Column ${nth}`,
  });
  const columns = Array.from({ length: COLUMNS }, (_, nth) => column(nth));
  return [
    { asset: { of: `/at/${source}/s`, kind: 'schema' } },
    ...Array.from({ length: TABLES }, (_, nth) => ({
      asset: { of: `/at/${source}/s/table_${nth}`, kind: 'table', comment: `Table ${nth}`, rows: nth, columns },
    })),
  ];
}

function words(source) {
  return Array.from({ length: TABLES }, (_, nth) => `/at/${source}/s/table_${nth}`).flatMap((of, nth) => [
    { said: { of, description: `What table ${nth} is there for`, owner: 'Tobias Marrow', tags: ['port partner'] } },
    ...Array.from({ length: COLUMNS }, (_, column) => ({
      said: { of: `${of}/col_${column}`, description: `What column ${column} of table ${nth} means` },
    })),
  ]);
}

/** As many rows as assets, by one statement, into an empty table with the indexes of that of assets. */
async function written(database) {
  await database.query('drop table if exists bench_asset');
  await database.query('create table bench_asset (like asset including all)');
  const { rows } = await database.query('select domain_id, source_id from asset limit 1');
  const begun = performance.now();
  await database.query(
    `
      insert into bench_asset (source_id, domain_id, kind, name, key, depth, native_comment, words)
      select $1, $2, 'table', 'table_' || n, 's' || chr(31) || 'table_' || n, 1, 'Table ' || n, to_tsvector('simple', 'table ' || n)
      from generate_series(1, ${ASSETS}) n`,
    [rows[0].source_id, rows[0].domain_id],
  );
  return performance.now() - begun;
}
