import { type ChildProcess, spawn } from 'node:child_process';
import { chmodSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import avro from 'avsc';
import sqlite from 'node-sqlite3-wasm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { openDatabase } from '../../src/platform/database.ts';
import { sweep } from '../../src/scanning/index.ts';
import { urlOf } from '../place.ts';
import { ADDRESS, Caller } from './caller.ts';

const folder = mkdtempSync(join(tmpdir(), 'idrel-agent-'));
const engineer = new Caller();
const analyst = new Caller();
const db = openDatabase(urlOf('idrel'));
const processes: { child: ChildProcess; said: () => string }[] = [];
const sources: string[] = [];
let domains: Record<string, string>;

/** An agent as somebody would start it elsewhere. */
function start(key: string, more: readonly string[] = [], under: readonly string[] = []) {
  const [command = '', ...words] = [
    ...under,
    process.execPath,
    resolve('cli/bin/idrel.mjs'),
    'agent',
    '--server',
    ADDRESS,
    ...more,
  ];
  const child = spawn(command, words, { env: { ...process.env, IDREL_AGENT_KEY: key } });
  let text = '';
  for (const stream of [child.stdout, child.stderr]) stream.on('data', (data) => (text += String(data)));
  const one = { child, said: () => text, ended: new Promise<number | null>((done) => child.once('exit', done)) };
  processes.push(one);
  return one;
}
const stop = async (agent: ReturnType<typeof start>) => {
  agent.child.kill('SIGTERM');
  return agent.ended;
};
const addAgent = async (name: string, group: string, domain: string, limits = {}) => {
  const made = await engineer.call('POST', '/agents', { name, group, domainId: domains[domain], limits });
  expect(made.status).toBe(200);
  return made.body as { id: string; key: string };
};
const register = async (body: object) => {
  const made = await engineer.call('POST', '/sources', { domainId: domains.Crewing, ...body });
  expect([made.status, made.body.detail]).toEqual([200, undefined]);
  sources.push(made.body.id);
  return made.body.id as string;
};
const scan = async (source: string, body = {}) =>
  (await engineer.call('POST', `/sources/${source}/runs`, body)).body.id as string;
const runOf = async (id: string) => (await engineer.call('GET', `/runs/${id}`)).body;
const until = (id: string, wanted: (run: { state: string; counts: Record<string, number> }) => boolean) =>
  expect.poll(async () => wanted(await runOf(id)), { interval: 150 }).toBe(true);
const ended = async (id: string) => {
  await until(id, (run) => ['done', 'partly done', 'failed', 'cancelled'].includes(run.state));
  return runOf(id);
};
const writeSqlite = (name: string, tables: number) => {
  const path = join(folder, name);
  const database = new sqlite.Database(path);
  database.exec('begin');
  for (let table = 0; table < tables; table += 1) {
    database.exec(`create table crew_${table} (id integer primary key, email text)`);
    for (let row = 0; row < 60; row += 1)
      database.run(`insert into crew_${table} (email) values (?)`, [`p${row}@example.org`]);
  }
  database.exec('commit');
  database.close();
  return path;
};

beforeAll(async () => {
  await engineer.as('Rafe Quillon');
  await analyst.as('Maud Ilkley');
  domains = Object.fromEntries(
    (await engineer.call('GET', '/domains')).body.map((domain: { id: string; name: string }) => [
      domain.name,
      domain.id,
    ]),
  );
});
afterAll(async () => {
  for (const { child } of processes) child.kill('SIGKILL');
  for (const id of sources) {
    const { body } = await engineer.call('GET', `/sources/${id}`);
    await engineer.call(
      'DELETE',
      `/sources/${id}?assets=${await db.one<{ n: number }>('select count(*)::int as n from asset where source_id = $1', [id]).then((row) => row?.n)}`,
    );
    expect(body.id).toBe(id);
  }
  for (const agent of (await engineer.call('GET', '/agents')).body)
    await engineer.call('DELETE', `/agents/${agent.id}`);
  await db.close();
  rmSync(folder, { recursive: true, force: true });
});

/** A draft of a detector is tried where only the agent can look. */
async function tried(source: string, said: () => string): Promise<void> {
  const spec = {
    value: { kind: 'pattern', pattern: '[^@ ]+@[^@ ]+', caseless: false },
    checksum: 'none',
    namePattern: '',
    nameNeeded: false,
    minShare: 0.5,
    minDistinct: 1,
    accepts: [],
    rejects: [],
  };
  const steward = new Caller();
  await steward.as('Sunniva Dahlmark');
  const { status, body: trial } = await steward.call('POST', '/detector-trials', { classKey: 'social-handle', spec });
  expect(status).toBe(200);
  await expect
    .poll(async () => (await steward.call('GET', `/detector-trials/${trial.id}`)).body.ended, {
      interval: 200,
    })
    .toBe(true);
  const told = (await steward.call('GET', `/detector-trials/${trial.id}`)).body;
  const gains = (told.gains as { source: string; classKey: string; assetId: string }[]).filter(
    (column) => column.source === 'Office',
  );
  expect(gains.length).toBeGreaterThan(0);
  expect(gains.every((column) => column.classKey === 'social-handle')).toBe(true);
  const [row] = await db.rows<{ source_id: string }>('select source_id from asset where id = $1', [gains[0]?.assetId]);
  expect(row?.source_id).toBe(source);
  expect(said()).toContain('Trying a detector on Office.');
}

describe('agents', () => {
  it('are made by who administers sources in their domain; the key is shown once', async () => {
    const { id, key } = await addAgent('Office machine', 'office', 'Crewing');
    expect(key).toMatch(/^idrel_agent_[\w-]{43}$/);
    const listed = await engineer.call('GET', '/agents');
    expect(listed.body).toEqual([
      expect.objectContaining({
        id,
        name: 'Office machine',
        present: false,
        limits: { memoryMb: 512, parallel: 1, rowsPerSecond: null },
      }),
    ]);
    expect(JSON.stringify(listed.body)).not.toContain(key);
    expect((await analyst.call('GET', '/agents')).status).toBe(403);
    expect((await analyst.call('POST', '/agents', { name: 'x', group: 'y', domainId: domains.Crewing })).status).toBe(
      403,
    );
    expect(
      (await engineer.call('POST', '/agents', { name: 'Office machine', group: 'y', domainId: domains.Crewing }))
        .status,
    ).toBe(409);
    expect(
      (
        await engineer.call('POST', '/agent/claim', {
          version: '1',
          host: 'h',
          load: { memoryMb: 1, processor: 0, runs: 0 },
          free: true,
        })
      ).body.code,
    ).toBe('unknown-agent');
  });

  it('read what the server does not reach, near where it lies', async () => {
    const path = writeSqlite('office.sqlite', 3);
    const refused = await engineer.call('POST', '/sources', {
      name: 'Office',
      kind: 'sqlite',
      address: { path },
      domainId: domains.Crewing,
    });
    expect(refused.body.detail).toContain('lies outside of the folders that may be registered');
    const source = await register({ name: 'Office', kind: 'sqlite', address: { path }, agentGroup: 'office' });
    expect((await engineer.call('POST', `/sources/${source}/test`)).body).toMatchObject({
      code: 'no-agent',
      detail: expect.stringContaining('none of them is there'),
    });
    const run = await scan(source);
    expect(await runOf(run)).toMatchObject({
      state: 'waiting',
      waitsFor: { group: 'office', present: 0 },
      agent: null,
    });

    const [known] = (await engineer.call('GET', '/agents')).body;
    const key = await engineer
      .call('DELETE', `/agents/${known.id}`)
      .then(() => addAgent('Office machine', 'office', 'Crewing'));
    const agent = start(key.key);
    expect(await ended(run)).toMatchObject({
      state: 'done',
      agent: 'Office machine',
      problem: null,
      counts: { objects: 4, columns: 6, sampled: 3, findings: 3 },
    });
    const log = (await engineer.call('GET', `/runs/${run}/log`)).body.map((line: { text: string }) => line.text);
    expect(log[0]).toMatch(/^Taken by the agent Office machine on /);
    expect(log).toContain('Recognition: 3 findings in 6 columns.');
    await expect
      .poll(async () => (await engineer.call('GET', '/agents')).body[0])
      .toMatchObject({
        present: true,
        version: 1,
        software: '0.1.0',
        load: { runs: 0 },
        sources: [{ name: 'Office' }],
        runs: [],
      });
    const found = (
      await engineer.call('GET', `/assets?filter=${encodeURIComponent('source:Office kind:column class:email')}`)
    ).body;
    expect(found.total).toBe(3);
    // The connection is tested, and the scope of a plan chosen, where the agent is: also what no scan has seen yet.
    const steps = (await engineer.call('POST', `/sources/${source}/test`)).body;
    expect(steps.map((step: { state: string }) => step.state)).toEqual([
      'passed',
      'passed',
      'passed',
      'passed',
      'passed',
    ]);
    const more = new sqlite.Database(path);
    more.exec('create table crew_later (id integer)');
    const outline = async () =>
      (await engineer.call('GET', `/sources/${source}/outline`)).body.map((item: { path: string }) => item.path);
    expect(await outline()).toEqual(['crew_0', 'crew_1', 'crew_2', 'crew_later']);
    more.exec('drop table crew_later');
    more.close();
    expect(agent.said()).toContain('Testing Office.');
    await tried(source, agent.said);
    expect((await ended(await scan(source, { onlyChanged: true }))).comparison.counts).toEqual({
      new: 0,
      changed: 0,
      gone: 0,
      back: 0,
    });
    expect(await ended(await scan(source, { onlyChanged: true }))).toMatchObject({ counts: { unchanged: 3 } });
    rmSync(path);
    expect(await ended(await scan(source))).toMatchObject({
      state: 'failed',
      problem: { what: `${path} does not exist on this machine.` },
    });
    expect((await engineer.call('POST', `/sources/${source}/test`)).body[0]).toMatchObject({
      state: 'failed',
      detail: expect.stringContaining('does not exist'),
    });
    expect((await engineer.call('GET', `/sources/${source}/outline`)).body).toMatchObject({
      code: 'source-unreachable',
      detail: expect.stringContaining('does not exist'),
    });
    expect(await stop(agent)).toBe(0);
    // Without any agent there is still what the last scan saw.
    await db.run("update agent set last_contact = now() - interval '1 hour' where name = 'Office machine'");
    expect(await outline()).toEqual(['crew_0', 'crew_1', 'crew_2']);
  });

  it('keep secrets of their own, and say which is missing', async () => {
    const services = join(process.env.IDREL_TEST_DEMO ?? '', 'services');
    const token = JSON.parse(readFileSync(join(services, 'reports.json'), 'utf8')).tokens[0].token as string;
    const [reports] = (await engineer.call('GET', '/sources')).body.filter(
      (entry: { kind: string }) => entry.kind === 'reports',
    );
    const source = await register({
      name: 'Reports through an agent',
      kind: 'reports',
      address: reports.address,
      agentGroup: 'secret keepers',
    });
    const { key } = await addAgent('Keeper', 'secret keepers', 'People');
    const without = start(key);
    expect(await ended(await scan(source))).toMatchObject({
      state: 'failed',
      problem: { mend: expect.stringContaining('"Reports through an agent"') },
    });
    expect((await engineer.call('POST', `/sources/${source}/test`)).body).toEqual([
      expect.objectContaining({
        step: 'Credential',
        state: 'failed',
        mend: expect.stringContaining('file of secrets'),
      }),
    ]);
    await stop(without);
    const secrets = join(folder, 'secrets.json');
    writeFileSync(secrets, JSON.stringify({ 'Reports through an agent': { password: token } }));
    chmodSync(secrets, 0o644);
    const open = start(key, ['--secrets', secrets]);
    expect([await open.ended, open.said()]).toEqual([2, expect.stringContaining('can be read by others')]);
    chmodSync(secrets, 0o600);
    start(key, ['--secrets', secrets]);
    expect(await ended(await scan(source))).toMatchObject({ state: 'done', agent: 'Keeper' });
    const stored = await db.rows<{ n: number }>(
      'select count(*)::int as n from source where id = $1 and credential_id is not null',
      [source],
    );
    expect(stored[0]?.n).toBe(0);
  });

  it('stop when they are told to; one that dies leaves the catalog as it was; the server that is away is waited for', async () => {
    const source = await register({
      name: 'Slow office',
      kind: 'sqlite',
      address: { path: writeSqlite('slow.sqlite', 40) },
      agentGroup: 'slow',
    });
    const { key } = await addAgent('Slow machine', 'slow', 'Crewing', { rowsPerSecond: 100 });
    const assets = async () =>
      (await db.one<{ n: number }>('select count(*)::int as n from asset where source_id = $1', [source]))?.n;
    const agent = start(key);
    const first = await scan(source);
    await until(first, (run) => (run.counts.sampled ?? 0) > 2);
    await engineer.call('POST', `/runs/${first}/cancel`);
    expect(await ended(first)).toMatchObject({ state: 'cancelled' });
    // It ends where it is, and does not read on to the last of the forty tables.
    expect((await runOf(first)).counts.sampled).toBeLessThan(40);
    expect(await assets()).toBe(0);

    const second = await scan(source);
    await until(second, (run) => (run.counts.sampled ?? 0) > 2);
    agent.child.kill('SIGKILL');
    await agent.ended;
    await expect.poll(() => sweep(db, '3 seconds'), { interval: 500 }).toBe(1);
    expect(await runOf(second)).toMatchObject({
      state: 'failed',
      problem: { what: 'The agent that ran it stopped without a word.' },
    });
    expect(await assets()).toBe(0);

    const again = start(key);
    const third = await scan(source);
    await until(third, (run) => (run.counts.sampled ?? 0) > 2);
    expect(await stop(again)).toBe(0);
    expect(await runOf(third)).toMatchObject({ state: 'failed', problem: { what: 'The agent was stopped.' } });
  });

  it('killed at random moments leave the catalog as it was or as it is after the run', async () => {
    const source = await register({
      name: 'Shaky office',
      kind: 'sqlite',
      address: { path: writeSqlite('shaky.sqlite', 15) },
      agentGroup: 'shaky',
    });
    const { key } = await addAgent('Shaky machine', 'shaky', 'Crewing');
    const catalog = async () =>
      JSON.stringify(
        await db.rows(
          'select a.key, a.native, a.gone_at, (select count(*) from finding f where f.asset_id = a.id) as found from asset a where a.source_id = $1 order by a.key',
          [source],
        ),
      );
    const told = { before: 0, after: 0 };
    for (let round = 0; round < 10; round += 1) {
      const database = new sqlite.Database(join(folder, 'shaky.sqlite'));
      database.exec(`alter table crew_${round} add column added_${round} text`);
      database.close();
      const before = await catalog();
      const run = await scan(source);
      const agent = start(key);
      await expect.poll(async () => (await runOf(run)).state, { interval: 10 }).not.toBe('waiting');
      await new Promise((resolve) => setTimeout(resolve, Math.random() * 500));
      agent.child.kill('SIGKILL');
      await agent.ended;
      await sweep(db, '0 seconds');
      const { state } = await ended(run);
      told[state === 'done' ? 'after' : 'before'] += 1;
      if (state === 'done') expect(await catalog()).toContain(`added_${round}`);
      else expect([round, state, await catalog()]).toEqual([round, 'failed', before]);
    }
    expect(told.before).toBeGreaterThan(0);
    const last = start(key);
    expect(await ended(await scan(source))).toMatchObject({ state: 'done' });
    expect(await catalog()).toContain('added_9');
    expect(await stop(last)).toBe(0);
  });

  it('whose disk takes no more say so, and read what needs no room', async () => {
    const place = join(folder, 'sheets');
    mkdirSync(place);
    writeFileSync(join(place, 'names.csv'), 'id,email\n1,ida.holm@example.org\n2,o.feeney@example.org\n');
    const rows = avro.Type.forSchema({
      type: 'record',
      name: 'Row',
      fields: [
        { name: 'id', type: 'int' },
        { name: 'text', type: 'string' },
      ],
    });
    await new Promise<void>((done, fail) => {
      const file = avro.createFileEncoder(join(place, 'large.avro'), rows, { codec: 'deflate' });
      file.on('error', fail).on('finish', done);
      for (let id = 0; id < 5000; id += 1) file.write({ id, text: 'the same words again and again' });
      file.end();
    });
    const source = await register({ name: 'Sheets', kind: 'folder', address: { path: place }, agentGroup: 'full' });
    const { key } = await addAgent('Full machine', 'full', 'Crewing');
    // The limit of a file's size stands for a disk without room: writing fails in the same way, with another name.
    const small = start(key, [], ['bash', '-c', 'ulimit -f 64; exec "$0" "$@"']);
    const run = await ended(await scan(source));
    expect(run).toMatchObject({ state: 'partly done', counts: { findings: 1 } });
    expect(run.details.problems).toEqual([
      expect.objectContaining({
        path: 'large.avro',
        what: expect.stringMatching(/^The disk of the machine that reads has no room left in .*TMPDIR/),
      }),
    ]);
    expect(await stop(small)).toBe(0);
    const roomy = start(key);
    expect(await ended(await scan(source))).toMatchObject({ state: 'done' });
    expect(await stop(roomy)).toBe(0);
  });

  it('share the work of their group, and touch nothing else', async () => {
    const made = await Promise.all(
      ['One', 'Two'].map((name) => addAgent(`Sharer ${name}`, 'sharers', 'Crewing', { rowsPerSecond: 300 })),
    );
    const stranger = await addAgent('Stranger', 'sharers', 'Commerce');
    const agents = made.map(({ key }) => start(key));
    const lost = start(stranger.key);
    const ids = [];
    for (const name of ['a', 'b'])
      ids.push(
        await scan(
          await register({
            name: `Shared ${name}`,
            kind: 'sqlite',
            address: { path: writeSqlite(`shared-${name}.sqlite`, 10) },
            agentGroup: 'sharers',
          }),
        ),
      );
    const runs = await Promise.all(ids.map(ended));
    expect(runs.map((run) => run.state)).toEqual(['done', 'done']);
    expect(runs.map((run) => run.agent).sort()).toEqual(['Sharer One', 'Sharer Two']);
    await expect.poll(() => lost.said()).toContain('Waiting for runs');
    expect(lost.said()).not.toContain('Reading');
    const other = new Caller();
    const asOne = { authorization: `Bearer ${made[0]?.key}` };
    expect(
      (await other.call('POST', `/agent/runs/${ids[1]}/beat`, { state: 'sampling', counts: {}, log: [] }, asOne))
        .status,
    ).toBe(409);
    expect((await other.call('GET', '/sources', undefined, asOne)).status).toBe(401);
    // An ask is answered by the agent that took it alone, and in the right form.
    const [ask] = await db.rows<{ id: string }>(
      'insert into agent_ask (source_id, kind, agent_id) values ($1, $2, $3) returning id',
      [sources.at(-1), 'test', made[1]?.id],
    );
    expect((await other.call('POST', `/agent/asks/${ask?.id}`, { steps: [] }, asOne)).status).toBe(409);
    expect(
      (
        await other.call(
          'POST',
          `/agent/asks/${ask?.id}`,
          { steps: [{ step: 1 }] },
          { authorization: `Bearer ${made[1]?.key}` },
        )
      ).status,
    ).toBe(422);
    expect(
      (await other.call('POST', `/agent/asks/${ask?.id}`, { steps: [] }, { authorization: `Bearer ${made[1]?.key}` }))
        .status,
    ).toBe(204);
    await db.run('delete from agent_ask where id = $1', [ask?.id]);
    await engineer.call('DELETE', `/agents/${stranger.id}`);
    expect([await lost.ended, lost.said()]).toEqual([2, expect.stringContaining('The key is that of no agent')]);
    for (const agent of agents) expect(await stop(agent)).toBe(0);
  });

  it('cannot write what is not shaped as a run', async () => {
    const source = await register({
      name: 'Forged',
      kind: 'sqlite',
      address: { path: '/nowhere' },
      agentGroup: 'forgers',
    });
    const { key } = await addAgent('Forger', 'forgers', 'Crewing');
    const forger = new Caller();
    const call = (path: string, body: object) => forger.call('POST', path, body, { authorization: `Bearer ${key}` });
    for (const [lines, batches, why] of [
      ['{"asset":{"key":"x"}}\n', 1, /Line 1 \(asset\)/],
      ['not json\n', 1, /Line 1 is not JSON/],
      ['{"other":1}\n', 1, /is none that a run is made of/],
      ['\n', 2, /Part 2 of 2 did not arrive/],
    ] as const) {
      const run = await scan(source);
      const claimed = await call('/agent/claim', {
        version: '1',
        host: 'h',
        load: { memoryMb: 1, processor: 0, runs: 0 },
        free: true,
      });
      expect(claimed.body.run.id).toBe(run);
      expect((await call(`/agent/runs/${run}/batches`, { number: 0, lines })).status).toBe(204);
      const answer = await call(`/agent/runs/${run}/end`, { batches, problems: 0, counts: {} });
      expect([answer.status, answer.body.detail]).toEqual([422, expect.stringMatching(why)]);
      expect(await runOf(run)).toMatchObject({ state: 'failed' });
    }
    expect(await db.rows('select 1 from asset where source_id = $1', [source])).toEqual([]);
    expect(await db.rows('select 1 from agent_batch')).toEqual([]);
  });
});
