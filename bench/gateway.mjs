import { execFile } from 'node:child_process';
import { promisify } from 'node:util';
import pg from 'pg';
import { Caller, inTurn, tell } from './lib.mjs';

const SQL =
  'select id, booking_id, sailing_date, vessel_id, ticket_barcode from booking.booking_leg union all select id, booking_id, current_date, amount::int, method from booking.payment limit 100000';

const psql = promisify(execFile);
const MILLION = "select i, i * 7 as n, repeat('x', 40) as filling, i::text as said from generate_series(1, 1000000) i";

/** A SELECT of 100,000 rows through the gateway, over HTTP, as an analyst, against the same SELECT straight from the database. Goal: at most 1.3 times. */
export async function run(adminUrl, address) {
  const steward = new Caller(address);
  await steward.signInAs('Sunniva Dahlmark');
  const source = (await steward.get('/sources')).find((entry) => entry.name === 'Booking system');
  const schema = (
    await steward.get(`/assets?filter=${encodeURIComponent('kind:schema source:"Booking system"')}`)
  ).items.find((entry) => entry.name === 'booking');
  const people = await steward.get('/people');
  await steward.post('/policies', {
    name: 'Bench',
    effect: 'allow',
    personIds: [people.find((person) => person.name === 'Bettina Sark').id],
    assetIds: [schema.id],
  });
  const session = await fetch(`${address}/api/v1/session`).then((answer) => answer.json());
  const opened = await fetch(`${address}/api/v1/session`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ demoPersonId: session.demoPeople.find((person) => person.name === 'Bettina Sark').id }),
  });
  const headers = {
    'content-type': 'application/json',
    cookie: opened.headers.getSetCookie()[0].split(';')[0],
    'x-idrel-token': (await opened.json()).csrf,
  };
  const url = new URL(adminUrl);
  url.pathname = '/booking_system';
  const [straight, through] = await inTurn(9, [
    async () => {
      const client = new pg.Client(url.href);
      await client.connect();
      const { rows } = await client.query(SQL);
      if (rows.length !== 100_000) throw new Error(`${rows.length} rows came straight`);
      await client.end();
    },
    async () => {
      const answer = await fetch(`${address}/api/v1/sources/${source.id}/query`, {
        method: 'POST',
        headers,
        body: JSON.stringify({ sql: SQL }),
      });
      const text = await answer.text();
      const last = text.trimEnd().split('\n').at(-1);
      if (!last.includes('"rows":100000'))
        throw new Error(`the gateway answered ${answer.status}: ${last.slice(0, 300)}`);
    },
  ]);
  const lines = [
    tell(
      'SELECT of 100,000 rows through the gateway, against the same SELECT straight',
      through,
      straight,
      'at most 1.3',
    ),
  ];
  // As programs read: psql through the port for them, against psql on the database.
  const call = async (path, body) =>
    (
      await fetch(`${address}/api/v1${path}`, {
        headers,
        ...(body ? { method: 'POST', body: JSON.stringify(body) } : {}),
      })
    ).json();
  const [{ port, user }, { key }] = [
    await call('/client-keys'),
    await call('/client-keys', { name: 'bench', days: 1 }),
  ];
  const taken = (where, password, sql) =>
    psql('psql', ['-X', '-q', '-o', '/dev/null', where, '-c', sql], { env: { ...process.env, PGPASSWORD: password } });
  const clients = `host=127.0.0.1 port=${port} user=${user} dbname='Booking system'`;
  for (const [what, sql, goal] of [
    ['A row', 'select 1', '–'],
    ['A million rows', MILLION, 'at most 1.1'],
  ]) {
    const [there, here] = await inTurn(7, [() => taken(url.href, url.password, sql), () => taken(clients, key, sql)]);
    lines.push(tell(`${what} by psql through the port for programs, against psql on the database`, here, there, goal));
  }
  return lines.join('\n');
}
