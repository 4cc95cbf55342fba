import { type ChildProcess, spawn } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import sqlite from 'node-sqlite3-wasm';
import type { WebDriver } from 'selenium-webdriver';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { ADDRESS, openBrowser, Person } from './browser.ts';

const folder = mkdtempSync(join(tmpdir(), 'idrel-e2e-'));
const services = join(process.env.IDREL_TEST_DEMO ?? '', 'services');
let driver: WebDriver;
let engineer: Person;
let agent: ChildProcess | undefined;

beforeAll(async () => {
  driver = await openBrowser();
  engineer = new Person(driver);
  await engineer.signInAs('Rafe Quillon');
});
afterAll(async () => {
  agent?.kill('SIGKILL');
  await driver?.quit();
  rmSync(folder, { recursive: true, force: true });
});

describe('pipelines', () => {
  it('get a key, tell of a run, and are a flow with its lineage', async () => {
    await engineer.goTo('/sources/new');
    await engineer.choose('Kind', 'Pipelines that send events (OpenLineage)');
    await engineer.fill('Pipelines', 'of the harbour');
    await engineer.fill('Name', 'Harbour pipelines');
    await engineer.choose('Domain', 'Finance');
    await engineer.press('Register');
    await engineer.read('No event came yet.');
    await engineer.press('Make a key');
    await engineer.read('The key is not shown again.');
    expect(await engineer.axe()).toEqual([]);
    const key = /OPENLINEAGE_API_KEY=(\S+)/.exec(await engineer.text())?.[1] ?? '';
    const send = (bearer: string) =>
      fetch(`${ADDRESS}/api/v1/lineage`, {
        method: 'POST',
        headers: { authorization: `Bearer ${bearer}`, 'content-type': 'application/json' },
        body: JSON.stringify({
          eventType: 'FAIL',
          eventTime: new Date().toISOString(),
          run: { runId: 'h-1', facets: { errorMessage: { message: 'The tide came in.' } } },
          job: { namespace: 'harbour', name: 'dues of the day' },
          outputs: [
            {
              namespace: 'kafka://harbour.example',
              name: 'dues',
              facets: {
                columnLineage: {
                  fields: {
                    due: { inputFields: [{ namespace: 'kafka://harbour.example', name: 'calls', field: 'tonnage' }] },
                  },
                },
              },
            },
          ],
        }),
      });
    expect((await send('idrel_events_wrong')).status).toBe(401);
    expect((await send(key)).status).toBe(204);
    await engineer.read('1 job; 1 event kept, of which none waits');
    const [flow] = (await engineer.call<{ items: { id: string }[] }>('/assets?filter=kind:flow name:"dues of the day"'))
      .items;
    await engineer.goTo(`/assets/${flow?.id}`);
    await engineer.read('The tide came in.');
    expect(await engineer.axe()).toEqual([]);
    await engineer.press('See the picture');
    await engineer.read('2 tables, 1 flow, 1 edge between columns');
    await engineer.press('dues of the day');
    await engineer.read('Last run: failed');
    expect(await engineer.axe()).toEqual([]);
  });
});

describe('an object store', () => {
  it('is registered with a wrong secret, tested, mended by a new one, and scanned', async () => {
    const keys = JSON.parse(readFileSync(join(services, 'store/keys.json'), 'utf8')) as Record<
      string,
      { secret: string }
    >;
    const sources = await engineer.call<{ kind: string; address: { url: string } }[]>('/sources');
    const url = sources.find((source) => source.kind === 'objects')?.address.url ?? '';
    await engineer.goTo('/sources');
    await engineer.press('Register a source');
    await engineer.choose('Kind', 'Object store (S3)');
    await engineer.fill('Address', url);
    // A whole address fills the fields when its field is left.
    await engineer.fill('Bucket', 's3://tarnholm-shore/harbour%20invoices/');
    await engineer.fill('Name', 'Harbour invoices');
    expect(await (await engineer.field('Bucket')).getAttribute('value')).toBe('tarnholm-shore');
    expect(await (await engineer.field('Below')).getAttribute('value')).toBe('harbour invoices/');
    await engineer.choose('Domain', 'Finance');
    await engineer.press('New credential');
    await engineer.fill('Name of the credential', 'Invoice reader');
    await engineer.fill('Key', 'SHOREREADER');
    await engineer.fill('Secret of the key', 'not this one');
    await engineer.press('Store credential');
    await engineer.read('Invoice reader');
    expect(await engineer.axe()).toEqual([]);
    await engineer.press('Register');
    await engineer.press('Test connection');
    await engineer.read('The store does not accept the key pair (its secret is another one).');

    await engineer.goTo('/sources/credentials');
    await engineer.retry(async () =>
      (await engineer.xpath('//button[@aria-label="New secret for Invoice reader"]')).click(),
    );
    await engineer.fill('Secret of the key', keys.SHOREREADER?.secret ?? '');
    expect(await engineer.axe()).toEqual([]);
    await engineer.press('Store');
    await engineer.read('has a new secret');
    await engineer.press('Harbour invoices');
    await engineer.press('Test connection');
    await engineer.read('can be read.');
    await engineer.press('Scan');
    await engineer.read('The first scan of this source');
    expect(await engineer.text()).toContain('Structure: 4 objects with 12 columns.');
  });
});

describe('a catalog that others publish', () => {
  it('is registered by its address alone, tested, scanned every day, read, and goes out again in open formats', async () => {
    const { ways } = await engineer.call<{ ways: { mailbox: string } }>('/session');
    const at = ways.mailbox.replace(/\/mail$/, '/harbour');
    await engineer.goTo('/sources/new');
    await engineer.choose('Kind', 'Catalog that others publish (DCAT)');
    await engineer.read('Only where it asks who is there');
    await engineer.fill('Address', `${at}/pages/data`);
    await engineer.fill('Name', 'Harbour trust');
    await engineer.choose('Domain', 'Finance');
    expect(await engineer.axe()).toEqual([]);
    await engineer.press('Register');
    await engineer.press('Test connection');
    await engineer.read('which is no Turtle, JSON-LD or RDF/XML.');
    expect(await engineer.text()).toContain('Give the address of the catalog’s data, not that of its page.');
    const [source] = (await engineer.call<{ id: string; name: string; version: number }[]>('/sources')).filter(
      ({ name }) => name === 'Harbour trust',
    );
    if (!source) throw new Error('it was not registered');
    await engineer.send(
      'PATCH',
      `/sources/${source.id}`,
      { address: { url: `${at}/catalog.ttl`, query: '' } },
      source.version,
    );
    await engineer.goTo(`/sources/${source.id}`);
    await engineer.press('Test connection');
    await engineer.read('13 resources are listed.');
    await engineer.press('New plan');
    await engineer.fill('Name', 'What the trust has new');
    await engineer.read('Covers 13 of 13 objects');
    await engineer.retry(async () =>
      (await engineer.xpath('//*[@role="tab"][contains(normalize-space(), "When")]')).click(),
    );
    await engineer.choose('Runs', 'Every day');
    await engineer.press('Save plan');
    await engineer.read('The plan “What the trust has new” is saved.');
    await engineer.goTo(`/sources/${source.id}`);
    await engineer.press('Scan');
    await engineer.read('The first scan of this source');
    expect(await engineer.text()).toContain('Structure: 14 objects with 6 columns.');

    const { items } = await engineer.call<{ items: { id: string; path: string }[] }>(
      `/assets?filter=${encodeURIComponent('source:"Harbour trust" kind:table')}`,
    );
    const levels = items.find(({ path }) => path === 'Water levels');
    await engineer.goTo(`/assets/${levels?.id}`);
    for (const fact of [
      'Marrick Harbour Trust',
      'Free to use, with the name of the trust',
      'The sea',
      'gauges',
      'Measured every ten minutes',
    ])
      await engineer.read(fact);
    expect(await engineer.axe()).toEqual([]);
    const link = await engineer.xpath('//a[normalize-space()="Table Schema"]');
    const taken = await engineer.driver.executeAsyncScript<string>(
      'fetch(arguments[0]).then((answer) => answer.text()).then(arguments[1])',
      await link.getAttribute('href'),
    );
    expect(JSON.parse(taken)).toMatchObject({ title: 'Water levels', primaryKey: ['gauge', 'measured_at'] });
  });
});

describe('an agent', () => {
  it('is made, started with the command that is shown, and reads what is left to it; its run is watched and cancelled', async () => {
    const path = join(folder, 'far away.sqlite');
    const database = new sqlite.Database(path);
    database.exec('begin');
    for (let table = 0; table < 60; table += 1) {
      database.exec(`create table t${table} (id integer primary key, email text)`);
      for (let row = 0; row < 60; row += 1)
        database.run(`insert into t${table} (email) values (?)`, [`p${row}@example.org`]);
    }
    database.exec('commit');
    database.close();

    await engineer.goTo('/sources/agents');
    await engineer.read('No agent yet');
    await engineer.press('Make an agent');
    await engineer.fill('Name', 'Quay machine');
    await engineer.fill('Group', 'quay');
    await engineer.choose('Domain', 'Vessels');
    await engineer.fill('Rows a second', '120');
    expect(await engineer.axe()).toEqual([]);
    await engineer.press('Make its key');
    await engineer.read('is not shown again');
    const command = await (await engineer.see('section pre.code')).getText();
    const [, key = '', server] = /^IDREL_AGENT_KEY=(\S+) npx idrel agent --server (\S+)$/.exec(command) ?? [];
    expect(server).toBe(ADDRESS);
    await engineer.press('I have kept it');
    await engineer.read('never started');

    await engineer.goTo('/sources/new');
    await engineer.choose('Kind', 'SQLite file');
    await engineer.fill('Name', 'Far away');
    await engineer.fill('File', path);
    await engineer.choose('Domain', 'Fleet');
    await engineer.choose('Read by', 'Agents of the group “quay”');
    await engineer.press('Register');
    await engineer.press('Scan');
    await engineer.read('It waits for an agent of the group “quay”, and none is there.');
    agent = spawn(process.execPath, [resolve('cli/bin/idrel.mjs'), 'agent', '--server', server ?? ''], {
      env: { ...process.env, IDREL_AGENT_KEY: key },
      stdio: 'ignore',
    });
    await engineer.read('read by the agent Quay machine');
    await driver.wait(async () => /[2-9] of 60\s+sampled/.test(await engineer.text()), 120_000);
    await engineer.press('Cancel');
    await engineer.read('Cancelled. The catalog is as it was.');

    await engineer.goTo('/sources/agents');
    await engineer.read('waiting');
    expect(await engineer.text()).toMatch(/Quay machine\s+quay\s+Vessels\s+waiting/);
    await engineer.retry(async () =>
      (await engineer.xpath('//button[@aria-label="Change the limits of Quay machine"]')).click(),
    );
    await engineer.fill('Rows a second', '100000');
    await engineer.press('Save');
    await engineer.read('100,000 rows a second');
    expect(await engineer.axe()).toEqual([]);
    await engineer.press('Far away');
    await engineer.press('Scan');
    await engineer.read('The first scan of this source');
    expect(await engineer.text()).toMatch(/60 of 60\s+sampled/);
  });
});
