import { execFile, execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import type { Server } from 'node:http';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { startStandIns } from '@idrel/standins';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { ADDRESS, Caller } from './caller.ts';

const folder = mkdtempSync(join(tmpdir(), 'idrel-impact-'));
const repository = join(folder, 'repository');
let codeHost: Server;
let comments: string;
const steward = new Caller();

const git = (...args: string[]) =>
  execFileSync('git', ['-C', repository, '-c', 'user.name=A', '-c', 'user.email=a@example.org', ...args]);
const commit = (files: Record<string, string>, message: string) => {
  for (const [name, text] of Object.entries(files)) writeFileSync(join(repository, name), text);
  git('add', '-A');
  git('commit', '-qm', message);
};
/** Asynchronously: the stand-in that it speaks to lives in this process. */
const impact = (range: string, ...more: string[]) =>
  new Promise<{ status: number; stdout: string; stderr: string }>((done) => {
    execFile(
      process.execPath,
      [
        resolve('cli/bin/idrel.mjs'),
        'impact',
        ...['--changed', range, '--repository', repository, '--server', ADDRESS, '--source', 'Booking system'],
        ...(more.includes('--user') ? [] : ['--user', 'Sunniva Dahlmark']),
        ...more,
      ],
      { env: { ...process.env, IDREL_CODE_TOKEN: 'the token of a job' } },
      (error, stdout, stderr) => done({ status: error ? Number(error.code) : 0, stdout, stderr }),
    );
  });

/** Another command of `idrel`. */
const idrel = (...words: string[]) =>
  new Promise<{ status: number; stdout: string; stderr: string }>((done) => {
    execFile(process.execPath, [resolve('cli/bin/idrel.mjs'), ...words], (error, stdout, stderr) =>
      done({ status: error ? Number(error.code) : 0, stdout, stderr }),
    );
  });

const PASSENGER = (columns: string) => `create table booking.passenger (${columns});\n`;

beforeAll(async () => {
  await steward.as('Sunniva Dahlmark');
  writeFileSync(
    join(folder, 'code.json'),
    JSON.stringify({
      tokens: [{ token: 'the token of a job', name: 'idrel', sees: [] }],
      mergeRequests: [{ number: 7, title: 'Passengers without addresses' }],
    }),
  );
  const started = await startStandIns(folder, 0);
  codeHost = started.server;
  comments = `http://127.0.0.1:${started.port}/code/api/merge-requests/7/comments`;
  execFileSync('git', ['init', '-q', '-b', 'main', repository]);
  commit(
    {
      '10_tables.sql': PASSENGER('id int, given_name text, family_name text, email text, phone text'),
      'read.me': 'no script',
    },
    'as it was',
  );
  git('tag', 'before');
  commit({ '10_tables.sql': PASSENGER('id int, given_name text, family_name text, phone varchar(20)') }, 'dropped');
  git('tag', 'dropped');
  commit({ 'read.me': 'other words' }, 'words');
  git('tag', 'words');
  commit({ '20_more.sql': 'create view booking.names as select given_name from booking.passenger;' }, 'more');
});
afterAll(() => {
  codeHost?.close();
  rmSync(folder, { recursive: true, force: true });
});

describe('a change of scripts', () => {
  it('is told with all that is made of what it takes away, and whom to tell', async () => {
    const { status, stdout, stderr } = await impact('before..dropped');
    expect([status, stderr]).toEqual([0, '']);
    const email = (await steward.call('GET', '/asset-at?address=/at/Booking%20system/booking/passenger/email')).body.id;
    const rows = (await steward.call('GET', `/lineage/impact?asset=${email}`)).body as {
      path: string;
      owners: string[];
      distance: number;
    }[];
    expect(rows.length).toBeGreaterThan(0);
    expect(stdout).toContain('## Impact of `before..dropped` on Booking system');
    expect(stdout).toContain('### `booking.passenger.email` is dropped');
    expect(stdout).toContain('### `booking.passenger.phone` gets another type: `text` → `varchar(20)`');
    for (const { path } of rows.slice(0, 30)) expect(stdout).toContain(`\`${path}\``);
    for (const owner of new Set(rows.flatMap(({ owners }) => owners)))
      expect(/^To tell: (.*)$/m.exec(stdout)?.[1]).toContain(owner);
  });

  it('ends with another status where the rule of the team holds', async () => {
    const held = await impact('before..dropped', '--rule', 'kind:view', '--json');
    expect(held.status).toBe(4);
    const told = JSON.parse(held.stdout) as {
      breaksRule: boolean;
      affected: { change: { column: string }; rows: { matches: boolean; within: { kind: string } | null }[] }[];
    };
    expect(told.breaksRule).toBe(true);
    for (const row of told.affected.flatMap(({ rows }) => rows)) expect(row.matches).toBe(row.within?.kind === 'view');
    expect((await impact('before..dropped', '--rule', 'kind:sequence')).status).toBe(0);
    const wrong = await impact('before..dropped', '--rule', 'colour:red');
    expect([wrong.status, wrong.stderr]).toEqual([2, expect.stringContaining('colour')]);
  });

  it('says it in the merge request, and brings its own comment up to date', async () => {
    const ask = async (url: string) =>
      (await (await fetch(url, { headers: { authorization: 'Bearer the token of a job' } })).json()) as {
        body: string;
        by: string;
      }[];
    await fetch(comments, {
      method: 'POST',
      headers: { authorization: 'Bearer the token of a job', 'content-type': 'application/json' },
      body: JSON.stringify({ body: 'What a person says <b>loudly</b>' }),
    });
    expect((await impact('before..dropped', '--post', comments)).stderr).toBe('The comment was written.\n');
    expect((await impact('before..words', '--post', comments)).stderr).toBe('The comment was brought up to date.\n');
    const all = await ask(comments);
    expect(all.map(({ body }) => body.includes('before..words'))).toEqual([false, true]);
    const page = await (await fetch(comments.replace('/api/', '/').replace('/comments', ''))).text();
    expect(page).toContain('!7 Passengers without addresses');
    expect(page).toContain('booking.passenger.email` is dropped');
    expect(page).not.toContain('<b>loudly</b>');
    const refused = await impact('before..words', '--post', comments.replace('/7/', '/8/'));
    expect([refused.status, refused.stderr]).toEqual([2, expect.stringContaining('There is no such merge request')]);
  });

  it('is nothing where no script is touched, or only something new comes', async () => {
    expect((await impact('dropped..words')).stdout).toContain('No SQL script is touched.');
    const { status, stdout } = await impact('words...HEAD');
    expect(status).toBe(0);
    expect(stdout).toContain('nothing that they made before is dropped');
    expect(stdout).toContain('New: `booking.names`');
  });

  it('tells what the person who asks may see, and nothing else', async () => {
    const { stdout } = await impact('before..dropped', '--user', 'Maud Ilkley');
    expect(stdout).toContain('Not in the catalog: nothing is known of what is made of it.');
    expect(stdout).not.toMatch(/^\|/m);
  });

  it.each([
    [['nowhere..HEAD'], 'nowhere'],
    [['--exec=x..HEAD'], 'it is no range of commits'],
    [['before..dropped', '--server', 'http://127.0.0.1:1'], 'cannot be reached'],
    [['before..dropped', '--user', 'nobody@example.org'], 'password'],
    [['before..dropped', '--repository', '/nowhere'], 'git rev-parse'],
  ])('says what is wrong with what it was asked (%j)', async ([range = '', ...more], words) => {
    const { status, stderr } = await impact(range, ...more);
    expect([status, stderr]).toEqual([2, expect.stringContaining(words)]);
  });

  it('is told by an export of the catalog as by the server, where none can be reached', async () => {
    const file = join(folder, 'booking.ndjson');
    const who = ['--server', ADDRESS, '--user', 'Sunniva Dahlmark'];
    const written = await idrel('export', ...who, '--source', 'Booking system', '--out', file);
    expect([written.status, written.stderr]).toEqual([0, expect.stringMatching(/^\d+ lines were written to /)]);
    const offline = (...more: string[]) =>
      idrel(
        ...['impact', '--changed', 'before..dropped', '--repository', repository, '--catalog', file],
        ...(more.includes('--source') ? [] : ['--source', 'Booking system']),
        ...more,
      );
    const rule = ['--rule', 'kind:view standing:unreviewed'];
    const [there, here] = await Promise.all([impact('before..dropped', ...rule, '--json'), offline(...rule, '--json')]);
    const told = (text: string) =>
      (JSON.parse(text) as { affected: { change: object; rows: Record<string, unknown>[] | null }[] }).affected.map(
        ({ change, rows }) => [
          change,
          rows
            ?.map(({ id, kind, path, source, standing, owners, distance, how, matches }) =>
              JSON.stringify({ id, kind, path, source, standing, owners, distance, how, matches }),
            )
            .sort(),
        ],
      );
    expect(told(here.stdout)).toEqual(told(there.stdout));
    expect([there.status, here.status]).toEqual([4, 4]);
    expect(told(here.stdout).flatMap(([, rows]) => rows)).not.toEqual([]);
    expect((await offline()).stdout).toContain('As the export of 20');

    expect((await offline('--rule', 'fresh<-3d')).stderr).toContain('An export does not tell what “fresh” asks for.');
    expect((await offline('--source', 'Warehouse')).stderr).toContain('is of the source “Booking system”');
    expect((await offline('--server', ADDRESS)).stderr).toContain('Leave one of them out.');
    expect((await idrel('export', ...who, '--source', 'Nowhere', '--out', file)).stderr).toContain('Name one of: ');
    writeFileSync(file, 'no export');
    expect((await offline()).stderr).toContain('booking.ndjson, line 1, is no JSON');
  });
});
