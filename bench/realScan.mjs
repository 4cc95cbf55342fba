import { allLocales, Faker } from '@faker-js/faker';
import pg from 'pg';
import { DETECTORS } from '../core/dist/recognition/index.js';
import { readSource } from '../readers/dist/scans/index.js';
import { inTurn, tell } from './lib.mjs';

const TABLES = 240;
const ROWS = 1500;

/** Columns as systems have them: most of them about nothing that a detector knows, some long, some with many candidates. */
const COLUMNS = [
  ['created_at', 'timestamptz', (f) => f.date.past({ years: 6, refDate: '2026-11-01' }).toISOString()],
  ['status', 'text', (f) => f.helpers.arrayElement(['open', 'paid', 'closed', 'on hold'])],
  ['amount', 'numeric(9,2)', (f) => f.finance.amount()],
  ['reference', 'text', (f) => `TF-${f.string.numeric(10)}`],
  ['external_no', 'text', (f) => f.string.numeric(11)],
  ['account_no', 'bigint', (f) => f.string.numeric({ length: 9, allowLeadingZeros: false })],
  ['name', 'text', (f) => f.person.fullName()],
  ['company', 'text', (f) => f.company.name()],
  ['email', 'text', (f) => f.internet.email()],
  ['phone', 'text', (f) => f.phone.number()],
  ['street', 'text', (f) => f.location.streetAddress()],
  ['city', 'text', (f) => f.location.city()],
  ['country', 'text', (f) => f.location.countryCode()],
  ['born', 'date', (f) => f.date.birthdate().toISOString().slice(0, 10)],
  ['title', 'text', (f) => f.lorem.sentence()],
  ['body', 'text', (f) => f.lorem.paragraphs(4)],
  ['note', 'text', (f) => `${f.lorem.sentences(2)} ${f.internet.email()}`],
  [
    'payload',
    'jsonb',
    (f) =>
      JSON.stringify({
        id: f.string.uuid(),
        by: f.person.firstName(),
        lines: [{ sku: f.string.alphanumeric(8), n: f.number.int(20) }],
      }),
  ],
  ['url', 'text', (f) => f.internet.url()],
  ['version', 'text', (f) => f.system.semver()],
  ['hash', 'text', (f) => f.git.commitSha()],
  ['path', 'text', (f) => f.system.filePath()],
  ['product', 'text', (f) => f.commerce.productName()],
  ['sku', 'text', (f) => `${f.string.alpha({ length: 3, casing: 'upper' })}-${f.string.numeric(4)}`],
];

/** A scan of 240 tables of 12 columns as real systems have them, 500 rows of each sampled: with all detectors, against the same without any. The difference is recognition. */
export async function run(adminUrl) {
  const admin = new pg.Client(adminUrl);
  await admin.connect();
  await admin.query('drop database if exists bench_real with (force)');
  await admin.query('create database bench_real');
  const url = new URL(adminUrl);
  url.pathname = '/bench_real';
  const client = new pg.Client(url.href);
  await client.connect();
  const f = new Faker({ locale: [allLocales.en, allLocales.base] });
  f.seed(5);
  for (let table = 0; table < TABLES; table += 1) {
    const columns = Array.from({ length: 12 }, (_, index) => COLUMNS[(table * 5 + index * 7) % COLUMNS.length]).filter(
      (column, index, all) => all.indexOf(column) === index,
    );
    await client.query(`create table thing_${table} (${columns.map(([name, type]) => `${name} ${type}`).join(', ')})`);
    // Few are made and used again: what counts here is how they are looked at.
    const pool = columns.map(([, , make]) => Array.from({ length: ROWS / 3 }, () => make(f)));
    const rows = Array.from({ length: ROWS }, (_, row) => pool.map((values) => values[(row * 7) % values.length]));
    await client.query(
      `insert into thing_${table} select ${columns.map(([name, type]) => `r.${name}::${type}`).join(', ')} from json_to_recordset($1) as r(${columns.map(([name]) => `${name} text`).join(', ')})`,
      [JSON.stringify(rows.map((row) => Object.fromEntries(row.map((value, index) => [columns[index][0], value]))))],
    );
  }
  await client.query('analyze');
  await client.end();
  const input = {
    kind: 'postgresql',
    name: 'bench',
    address: { host: url.hostname, port: Number(url.port), database: 'bench_real' },
    secret: { username: url.username, password: decodeURIComponent(url.password) },
  };
  const pulse = {
    cancelled: false,
    enter: async () => undefined,
    log: async () => undefined,
    count: () => undefined,
    onCancel: () => undefined,
  };
  const scan = (leaveOut) => async () => {
    const { findings } = await readSource(pulse, input, { rows: 500, profile: false, leaveOut }, undefined);
    const claims = [...findings.values()].flat().length;
    if ((leaveOut.length === 0) !== claims > 500) throw new Error(`${claims} claims`);
  };
  const [whole, without] = await inTurn(3, [scan([]), scan(DETECTORS.map((detector) => detector.id))]);
  await admin.query('drop database bench_real with (force)');
  await admin.end();
  return tell(
    `A scan of ${TABLES} tables as real systems have them, 500 rows of each sampled, against the same without detectors: what is more is recognition`,
    whole,
    without,
    '–',
  );
}
