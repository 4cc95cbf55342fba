import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import pg from 'pg';
import { Caller, inTurn, signedIn, tell } from './lib.mjs';

const ROWS = 100_000;
const SQL = 'select port, count(*), sum(amount), max(at) from TABLE group by port order by port';

/** A statement over a file of 100,000 rows, which is read for it and laid out, against the same over a table of PostgreSQL with these rows; both through the gateway. */
export async function run(adminUrl, address) {
  const folder = join(process.cwd(), '.idrel-bench/demo/laid');
  mkdirSync(folder, { recursive: true });
  const row = (i) =>
    `${i},Port ${i % 12},guest${i}@example.org,${(i * 7919) % 1000}.5,2026-01-${String(1 + (i % 28)).padStart(2, '0')},${i % 3 === 0}`;
  const lines = Array.from({ length: ROWS }, (_, i) => row(i));
  writeFileSync(join(folder, 'sales.csv'), `id,port,mail,amount,at,ok\n${lines.join('\n')}\n`);
  const at = new URL(adminUrl);
  const admin = new pg.Client(adminUrl);
  await admin.connect();
  await admin.query('drop database if exists laid_beside with (force)');
  await admin.query('create database laid_beside');
  await admin.end();
  at.pathname = '/laid_beside';
  const client = new pg.Client(at.href);
  await client.connect();
  await client.query(`create table sales as select i as id, 'Port ' || i % 12 as port, 'guest' || i || '@example.org' as mail, ((i * 7919::bigint) % 1000) + 0.5 as amount,
    date '2026-01-01' + i % 28 as at, i % 3 = 0 as ok from generate_series(0, ${ROWS - 1}) i`);
  await client.end();
  const person = new Caller(address);
  await person.signInAs('Jorun Pell');
  const send = await signedIn(address, 'Jorun Pell');
  const [domain] = await person.get('/domains');
  const credential = await person.post('/credentials', {
    name: 'Laid beside',
    kind: 'user and password',
    username: at.username,
    password: decodeURIComponent(at.password),
  });
  const register = async (body, kind) => {
    const source = await person.post('/sources', { domainId: domain.id, ...body });
    await person.runEnds((await person.post(`/sources/${source.id}/runs`, {})).id);
    const { items } = await person.get(`/assets?filter=${encodeURIComponent(`kind:${kind} source:"${body.name}"`)}`);
    await person.post('/policies', {
      name: body.name,
      effect: 'allow',
      everyone: true,
      assetIds: items.map(({ id }) => id),
    });
    return source.id;
  };
  const files = await register({ name: 'Laid out', kind: 'folder', address: { path: folder } }, 'file');
  const database = await register(
    {
      name: 'Laid beside',
      kind: 'postgresql',
      address: { host: at.hostname, port: Number(at.port), database: 'laid_beside' },
      credentialId: credential.id,
    },
    'table',
  );
  const asked = async (source, table) => {
    const text = await send('POST', `/sources/${source}/query`, { sql: SQL.replace('TABLE', table) });
    if (!text.includes('"rows":12')) throw new Error(text.slice(0, 500));
  };
  const [there, here] = await inTurn(5, [() => asked(database, 'sales'), () => asked(files, '"sales.csv"')]);
  return tell(
    'A statement over a CSV of 100,000 rows, read for it and laid out, against one over such a table of PostgreSQL',
    here,
    there,
    '–',
  );
}
