import pg from 'pg';
import { SCHEMA, STATEMENTS } from './corpus/statements.mjs';
import { Caller, signedIn } from './lib.mjs';

/** Which share of ordinary statements (bench/corpus/statements.mjs) passes the gateway for somebody who may read all of what they name. Goal: 98 %. */
export async function run(adminUrl, address) {
  const at = new URL(adminUrl);
  const admin = new pg.Client(adminUrl);
  await admin.connect();
  await admin.query('drop database if exists ordinary_statements with (force)');
  await admin.query('create database ordinary_statements');
  await admin.end();
  at.pathname = '/ordinary_statements';
  const client = new pg.Client(at.href);
  await client.connect();
  await client.query(SCHEMA);
  await client.end();
  const person = new Caller(address);
  await person.signInAs('Jorun Pell');
  const send = await signedIn(address, 'Jorun Pell');
  const credential = await person.post('/credentials', {
    name: 'Ordinary statements',
    kind: 'user and password',
    username: at.username,
    password: decodeURIComponent(at.password),
  });
  const [domain] = await person.get('/domains');
  const source = await person.post('/sources', {
    name: 'Ordinary statements',
    kind: 'postgresql',
    address: { host: at.hostname, port: Number(at.port), database: 'ordinary_statements' },
    domainId: domain.id,
    credentialId: credential.id,
  });
  await person.runEnds((await person.post(`/sources/${source.id}/runs`, {})).id);
  const schema = (
    await person.get(`/assets?filter=${encodeURIComponent('kind:schema source:"Ordinary statements"')}`)
  ).items.find((entry) => entry.name === 'shop');
  await person.post('/policies', {
    name: 'Ordinary statements',
    effect: 'allow',
    everyone: true,
    assetIds: [schema.id],
  });
  const refused = [];
  for (const sql of STATEMENTS) {
    const text = await send('POST', `/sources/${source.id}/query`, { sql });
    if (!/"rows":\d+/.test(text.trimEnd().split('\n').at(-1))) refused.push(`${sql}\n  ${text.slice(0, 300)}`);
  }
  if (refused.length > 0) process.stdout.write(`${refused.join('\n')}\n`);
  const passed = STATEMENTS.length - refused.length;
  const line = `| Ordinary statements of analysts that pass the gateway | ${passed} of ${STATEMENTS.length} (${((100 * passed) / STATEMENTS.length).toFixed(1)} %) | – | – | at least 98 % |`;
  process.stdout.write(`${line}\n`);
  return line;
}
