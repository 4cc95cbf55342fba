import { rmSync, statSync } from 'node:fs';
import { CONNECTORS, connectToPostgres } from '@idrel/readers/connectors';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { makeCertificates } from './certificates.ts';
import { type MariaServer, startMariaDb } from './mariadbServer.ts';
import { urlOf, withClient } from './place.ts';

let certificates: ReturnType<typeof makeCertificates>;
let mariadb: MariaServer;
const admin = (sql: string) => withClient(urlOf('postgres'), (client) => client.query(sql));

/** Lets the database server show another certificate from now on. */
async function show(name: 'good' | 'expired' | 'other' | 'none'): Promise<void> {
  if (name !== 'none') {
    const { key, certificate } = certificates.of(name);
    await admin(`alter system set ssl_cert_file = '${certificate}'`);
    await admin(`alter system set ssl_key_file = '${key}'`);
  }
  await admin(`alter system set ssl = ${name === 'none' ? 'off' : 'on'}`);
  await admin('select pg_reload_conf()');
  await expect
    .poll(() => withClient(urlOf('postgres'), async (client) => (await client.query('show ssl')).rows[0].ssl), {})
    .toBe(name === 'none' ? 'off' : 'on');
  await new Promise((resolve) => setTimeout(resolve, 500)); // the server takes up files for new connections a moment after it says so
}

beforeAll(async () => {
  const folder = await withClient(
    urlOf('postgres'),
    async (client) => (await client.query('show data_directory')).rows[0].data_directory as string,
  );
  certificates = makeCertificates(statSync(folder));
});
afterAll(async () => {
  for (const name of ['ssl', 'ssl_cert_file', 'ssl_key_file']) await admin(`alter system reset ${name}`);
  await admin('select pg_reload_conf()');
  await mariadb?.stop();
  rmSync(certificates.folder, { recursive: true, force: true });
});

const input = (tls: string, authority = '', host = 'localhost') => {
  const url = new URL(urlOf('postgres'));
  return {
    name: 'x',
    address: { host, port: Number(url.port), database: 'postgres', tls, authority },
    secret: { username: url.username, password: decodeURIComponent(url.password) },
  };
};
/** Steps of the test of a connection: the first that failed, or that all passed. */
const told = async (...args: Parameters<typeof input>) => {
  const failed = (await CONNECTORS.postgresql.test(input(...args))).find((step) => step.state === 'failed');
  return failed ? `${failed.step}: ${failed.detail} → ${failed.mend}` : 'passed';
};
const encrypted = async (...args: Parameters<typeof input>) => {
  const client = await connectToPostgres(input(...args));
  try {
    return (await client.query('select ssl from pg_stat_ssl where pid = pg_backend_pid()')).rows[0].ssl as boolean;
  } finally {
    await client.end();
  }
};

describe('encryption to PostgreSQL', () => {
  it('is what was asked for', async () => {
    await show('good');
    expect(await encrypted('no')).toBe(false);
    expect(await encrypted('yes')).toBe(true);
    expect(await encrypted('checked', certificates.authority)).toBe(true);
    expect(await told('checked', certificates.authority)).toBe('passed');
  });

  it('with a check refuses whom nobody known vouches for, and says what mends it', async () => {
    expect(await told('checked')).toMatch(
      /^Authenticate: The certificate of localhost:\d+ is vouched for by nobody.*→ Give the certificate of your authority/,
    );
    expect(await told('checked', certificates.stranger)).toMatch(/vouched for by nobody/);
  });

  it('with a check refuses a certificate of another name, and one that has expired', async () => {
    expect(await told('checked', certificates.authority, '127.0.0.1')).toMatch(
      /is that of another server.*→ Give the host by the name/,
    );
    await show('other');
    expect(await told('checked', certificates.authority)).toMatch(/is that of another server/);
    await show('expired');
    expect(await told('checked', certificates.authority)).toMatch(
      /has expired.*→ Let whoever runs the server renew it/,
    );
    expect(await told('yes')).toBe('passed');
  });

  it('says so when the server does not encrypt', async () => {
    await show('none');
    expect(await told('yes')).toMatch(/does not encrypt.*→ Set ssl = on/);
    expect(await told('no')).toBe('passed');
  });
});

describe('encryption to MariaDB', () => {
  it('is what was asked for, checked or refused as with PostgreSQL', async () => {
    const { key, certificate } = certificates.of('good');
    mariadb = await startMariaDb(`--ssl-cert=${certificate}`, `--ssl-key=${key}`);
    await mariadb.admin.query(
      "create database crew; create table crew.member (id int); create user reader@'%' identified by 'reading'; grant select, show view on crew.* to reader@'%'",
    );
    const test = async (tls: string, authority = '', host = 'localhost') => {
      const steps = await CONNECTORS.mariadb.test({
        name: 'x',
        address: { host, port: mariadb.port, database: 'crew', tls, authority },
        secret: { username: 'reader', password: 'reading' },
      });
      const step = steps.find((entry) => entry.step === 'Authenticate');
      return `${step?.state}: ${step?.detail}`;
    };
    expect(await test('no')).toMatch(/^passed/);
    expect(await test('yes')).toMatch(/^passed/);
    expect(await test('checked', certificates.authority)).toMatch(/^passed/);
    expect(await test('checked')).toMatch(/^failed: The certificate of localhost:\d+ is vouched for by nobody/);
    expect(await test('checked', certificates.authority, '127.0.0.1')).toMatch(
      /^failed: 127.0.0.1 is an address in numbers/,
    );
  });
});
