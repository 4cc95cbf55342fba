import { spawn, spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { text } from 'node:stream/consumers';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { ADDRESS, Caller } from './caller.ts';

// The command line against the running server, as a new user and as a build would use it.
const folder = mkdtempSync(join(tmpdir(), 'idrel-docs-'));
const steward = new Caller();
let [key, keyId] = ['', ''];
/** Runs beside the test, so that connections to the server are not held while nobody looks after them. */
const idrel = async (args: readonly string[], { env = {}, input = '', cwd = folder } = {}) => {
  const running = spawn(process.execPath, [resolve('cli/bin/idrel.mjs'), ...args], {
    cwd,
    env: { ...process.env, IDREL_KEY: key, ...env },
  });
  running.stdin.end(input);
  const ended = new Promise<number | null>((done) => running.once('close', done));
  const [status, stdout, stderr] = await Promise.all([ended, text(running.stdout), text(running.stderr)]);
  return { status, stdout, stderr };
};
const server = ['--server', ADDRESS];
const write = (name: string, text: string) => writeFileSync(join(folder, name), text);
const git = (...args: string[]) =>
  spawnSync('git', ['-c', 'user.name=T', '-c', 'user.email=t@example.org', ...args], { cwd: folder, encoding: 'utf8' });
const LEG = '/at/Booking%20system/booking/booking_leg';
const find = async (address: string) => {
  const { id } = (await steward.call('GET', `/asset-at?address=${encodeURIComponent(address)}`)).body as { id: string };
  return (await steward.call('GET', `/assets/${id}`)).body as {
    id: string;
    version: number;
    description: string | null;
  };
};
const describeAs = async (address: string, description: string | null) => {
  const { id, version } = await find(address);
  const { status } = await steward.call('PATCH', `/assets/${id}`, { description }, { 'if-match': `"v${version}"` });
  expect(status).toBe(200);
};
const before = new Map<string, string | null>();
const TOUCHED = [LEG, `${LEG}/id`, `${LEG}/booking_id`];

beforeAll(async () => {
  await steward.as('Sunniva Dahlmark');
  const made = await steward.call('POST', '/api-keys', {
    name: 'A build',
    scopes: ['read', 'write'],
    domainIds: null,
    perMinute: 6000,
  });
  key = made.body.key;
  keyId = made.body.id;
  for (const address of TOUCHED) before.set(address, (await find(address)).description);
  mkdirSync(join(folder, 'node_modules'));
  git('init', '-q', '-b', 'main');
});
afterAll(async () => {
  for (const [address, description] of before) await describeAs(address, description);
  await steward.call('DELETE', `/api-keys/${keyId}`);
});

describe('idrel push docs', () => {
  const docs = (leg: string, more = '') =>
    write(
      'booking.docs.yaml',
      `format: idrel-docs/1\nsource: Booking system\n${more}assets:\n  booking/booking_leg:\n    description: ${leg}\n    columns:\n      id: Number of the leg ${Date.now()}\n`,
    );

  it('compares, writes, and has nothing more to write when it is pushed again', async () => {
    await describeAs(LEG, null);
    docs('A part of a booking', 'wins: {description: file}\n');
    write('other.yaml', 'version: 2\nmodels: []\n');
    const compared = await idrel(['push', 'docs', ...server, '--preview']);
    expect(compared).toMatchObject({ status: 0, stderr: '' });
    expect(compared.stdout).toContain(`~ ${LEG}\n    description: nothing → “A part of a booking”`);
    expect(compared.stdout).toContain('Compared: 2 changed, 0 the same, 0 refused.');
    expect((await find(LEG)).description).toBeNull();
    expect((await idrel(['push', 'docs', ...server])).stdout).toContain('Written: 2 changed');
    expect((await find(LEG)).description).toBe('A part of a booking');
    expect((await idrel(['push', 'docs', ...server])).stdout).toContain('Written: 0 changed, 2 the same, 0 refused.');
  });

  it('leaves what somebody decided by hand unless the file says that it wins, and says whose it is', async () => {
    await describeAs(LEG, 'As Sunniva knows it');
    docs('As the file knows it');
    const kept = await idrel(['push', 'docs', ...server]);
    expect(kept.stdout).toMatch(
      /= .*booking_leg\n {4}description: stays as Sunniva Dahlmark decided on \d{4}-\d\d-\d\d/,
    );
    expect((await find(LEG)).description).toBe('As Sunniva knows it');
    docs('As the file knows it', 'wins: {description: file}\n');
    expect((await idrel(['push', 'docs', ...server])).stdout).toContain(
      '“As Sunniva knows it” → “As the file knows it”',
    );
  });

  it('names what cannot be taken by file and line, takes the rest, and says so by its status', async () => {
    write(
      'booking.docs.yaml',
      'format: idrel-docs/1\nsource: Booking system\nwins: {description: file}\nassets:\n  booking/nowhere: x\n  booking/booking_leg:\n    owner: Nobody At All\n    columns:\n      booking_id: Which booking\n',
    );
    write('broken.docs.yaml', 'format: idrel-docs/1\nsource: [\n');
    const { status, stdout } = await idrel(['push', 'docs', ...server, '--json']);
    const { flaws, answers } = JSON.parse(stdout) as {
      flaws: { file: string; at: string }[];
      answers: { outcome: string; at: string }[];
    };
    expect(status).toBe(4);
    expect(flaws.map(({ file, at }) => `${file} ${at}`)).toEqual(['broken.docs.yaml line 3']);
    expect(answers.map(({ outcome, at }) => `${outcome} ${at}`)).toEqual([
      'refused line 5',
      'refused line 6',
      'changed line 9',
    ]);
    expect((await find(`${LEG}/booking_id`)).description).toBe('Which booking');
    write('broken.docs.yaml', '');
  });

  it('of a commit takes the files that it touches, with comments in SQL', async () => {
    git('add', '-A');
    git('commit', '-qm', 'one');
    write('legs.sql', "comment on column booking.booking_leg.id is 'By a comment';\n");
    write('broken.docs.yaml', 'format: idrel-docs/1\n');
    git('add', 'legs.sql');
    git('commit', '-qm', 'two');
    await describeAs(`${LEG}/id`, null);
    const told = await idrel([
      'push',
      'docs',
      ...server,
      '--changed',
      'HEAD~1..HEAD',
      '--comments',
      '--source',
      'Booking system',
      '--json',
    ]);
    // Taken away by hand is decided by hand.
    expect(JSON.parse(told.stdout)).toMatchObject({
      files: 1,
      answers: [{ file: 'legs.sql', kept: [{ field: 'description' }] }],
    });
    write('broken.docs.yaml', '');
  });

  it('prints its form, and says what is missing', async () => {
    expect(JSON.parse((await idrel(['push', 'docs', '--form'])).stdout).title).toBe('Documentation kept beside code');
    expect(await idrel(['push', 'docs', 'booking.docs.yaml'], { env: { XDG_CONFIG_HOME: folder } })).toMatchObject({
      status: 2,
      stderr: expect.stringContaining('No server is named.'),
    });
    expect((await idrel(['push', 'docs', ...server, '--comments'])).stderr).toContain('Name it with --source.');
    expect((await idrel(['push', 'docs', ...server, 'nowhere'])).stderr).toContain('nowhere cannot be read');
    expect((await idrel(['push', 'docs', ...server], { env: { IDREL_KEY: 'idrel_key_none' } })).stderr).toContain(
      'opens nothing',
    );
  });
});

describe('idrel headers', () => {
  const sql =
    '-- The legs.\r\ncreate table booking.booking_leg (id int);\r\ncreate table booking.nowhere (id int);\r\n';
  const read = (name: string) => readFileSync(join(folder, name), 'utf8');

  it('writes where in the catalog stands what a file makes, leaves the rest as it is, and takes it away again', async () => {
    write('make.sql', sql);
    write(
      'leg.docs.yaml',
      'format: idrel-docs/1\nsource: Booking system\nassets:\n  booking/booking_leg: {columns: {id: x}}\n  booking/booking: y\n',
    );
    const what = ['make.sql', 'leg.docs.yaml', '--source', 'Booking system'];
    expect(await idrel(['headers', ...what, ...server, '--check'])).toMatchObject({
      status: 4,
      stdout: expect.stringContaining('To be changed: 2 of 2 files.'),
    });
    expect(read('make.sql')).toBe(sql);
    expect((await idrel(['headers', ...what, ...server])).status).toBe(0);
    expect(read('make.sql')).toBe(`-- In the catalog: ${ADDRESS}${LEG}\r\n${sql}`);
    expect(read('leg.docs.yaml')).toContain(`# In the catalog: ${ADDRESS}/at/Booking%20system/booking/booking\n`);
    expect(await idrel(['headers', ...what, ...server, '--check'])).toMatchObject({ status: 0 });
    // What has one is read as before.
    expect((await idrel(['push', 'docs', 'leg.docs.yaml', ...server, '--preview'])).stdout).toContain('0 refused');
    expect(JSON.parse((await idrel(['headers', 'make.sql', '--remove', '--json'])).stdout)).toEqual({
      files: 1,
      changed: ['make.sql'],
    });
    expect(read('make.sql')).toBe(sql);
  });
});

describe('idrel servers', () => {
  const home = { XDG_CONFIG_HOME: join(folder, 'config'), IDREL_KEY: '' };
  const run = (args: readonly string[], input = '') => idrel(args, { env: home, input });

  it('are kept by a name with a key that nobody else reads, and taken where none is named', async () => {
    expect((await run(['ask', 'tags'])).stderr).toContain('No server is named.');
    expect((await run(['servers', 'add', 'here', `${ADDRESS}/`, '--key'], `${key}\n`)).stdout).toBe(
      'here is kept, with a key of Sunniva Dahlmark.\n',
    );
    expect((await run(['servers', 'add', 'there', 'https://idrel.example.org'])).status).toBe(0);
    expect(statSync(join(folder, 'config/idrel/servers.json')).mode & 0o777).toBe(0o600);
    expect((await run(['servers'])).stdout).toBe(
      `* here  ${ADDRESS}  with a key\n  there  https://idrel.example.org\n`,
    );
    expect((await run(['servers'])).stdout).not.toContain(key);
    expect(JSON.parse((await run(['ask', 'tags'])).stdout)).not.toEqual([]);
    expect(JSON.parse((await run(['ask', 'tags', '--server', ADDRESS])).stdout)).not.toEqual([]);
    expect((await run(['ask', 'tags', '--server', 'heer'])).stderr).toContain('Is “here” meant?');
    expect((await run(['servers', 'use', 'there'])).status).toBe(0);
    expect((await run(['servers', 'remove', 'there'])).status).toBe(0);
    expect((await run(['ask', 'tags'])).stderr).toContain('No server is named.');
  });

  it('are not kept with a key that opens nothing, or under no address', async () => {
    expect((await run(['servers', 'add', 'bad', ADDRESS, '--key'], 'idrel_key_none')).stderr).toContain(
      'The key opens nothing there.',
    );
    expect((await run(['servers', 'add', 'bad', 'localhost'])).stderr).toContain('It begins with https://.');
    expect((await run(['servers'])).stdout).not.toContain('bad');
  });
});

describe('idrel completion', () => {
  it('completes commands, options and operations in bash', async () => {
    const { stdout: script } = await idrel(['completion', 'bash']);
    const completed = (...words: string[]) =>
      spawnSync(
        'bash',
        [
          '-c',
          `${script}\nCOMP_WORDS=(idrel ${words.join(' ')}); COMP_CWORD=${words.length}; _idrel; echo "\${COMPREPLY[@]}"`,
        ],
        {
          encoding: 'utf8',
        },
      ).stdout.trim();
    expect(completed('pol')).toBe('policies');
    expect(completed('policies', 'pl')).toBe('plan');
    expect(completed('push', 'docs', '--pre')).toBe('--preview');
    expect(completed('ask', 'editAs')).toBe('editAsset');
    expect((await idrel(['completion', 'csh'])).stderr).toContain('There is one for bash, zsh, fish.');
  });
});

describe('idrel send', () => {
  it('sends lines of a file or of standard input, and names those that are refused', async () => {
    const lines = [
      { said: { of: `${LEG}/id`, description: 'By a line' } },
      { said: { of: '/at/Booking system/none', description: 'x' } },
    ];
    write('lines.ndjson', lines.map((line) => JSON.stringify(line)).join('\n\n'));
    const file = await idrel(['send', 'lines.ndjson', ...server, '--preview']);
    expect(file.status).toBe(4);
    expect(file.stdout).toContain('! line 2: The asset /at/Booking system/none is not there');
    expect(file.stdout).toContain('Would be: 0 made, 1 changed, 0 the same, 1 refused.');
    const input = await idrel(['send', '-', ...server, '--json'], { input: JSON.stringify(lines[0]) });
    expect(
      input.stdout
        .trim()
        .split('\n')
        .map((line) => JSON.parse(line)),
    ).toMatchObject([
      { line: 1, outcome: 'changed' },
      { end: true, changed: 1 },
    ]);
    expect((await idrel(['send', '-', ...server], { input: 'x' })).stderr).toContain('-, line 1: it is no JSON');
    expect((await idrel(['send', 'none.ndjson', ...server])).stderr).toContain('none.ndjson cannot be read');
  });
});

describe('idrel ask', () => {
  it('asks any operation, with what it needs, and prints the answer', async () => {
    const { id } = await find(LEG);
    const told = await idrel(['ask', 'asset', `id=${id}`, ...server]);
    expect(JSON.parse(told.stdout)).toMatchObject({ id, name: 'booking_leg' });
    const document = await idrel(['ask', 'described', `address=${LEG}`, 'as=table-schema', ...server]);
    expect([document.status, JSON.parse(document.stdout)]).toMatchObject([
      0,
      { title: 'booking.booking_leg', primaryKey: ['id', 'sailing_date'] },
    ]);
    const none = await idrel(['ask', 'described', 'address=/at/Nowhere/at/all', 'as=ttl', ...server]);
    expect([none.status, none.stdout]).toEqual([2, '']);
    expect((await idrel(['ask', 'takeLines', ...server])).stderr).toContain('Use idrel send.');
    const found = await idrel(['ask', 'assets', 'filter=kind:table booking_leg', 'limit=1', ...server]);
    expect(JSON.parse(found.stdout).items[0].name).toBe('booking_leg');
    const changed = await idrel(
      ['ask', 'editAsset', `id=${id}`, '--body', '@-', '--version', String((await find(LEG)).version), ...server],
      { input: '{"description":"By a command"}' },
    );
    expect(JSON.parse(changed.stdout).description).toBe('By a command');
  });

  it.each([
    [['ask', 'asets'], 'There is no operation “asets”.\n  Is assets meant?'],
    [['ask', 'asset'], 'of which the id is missing'],
    [['ask', 'assets', 'filtre=x'], 'Is filter= meant?'],
    [['ask', 'editAsset', 'id=x'], 'editAsset takes a body'],
    [['ask', 'editAsset', 'id=x', '--body', '{'], '--body is no JSON'],
    [['ask', 'takeLines'], 'Use idrel send.'],
    [['ask', 'asset', 'id=x'], 'is not an id'],
  ])('says what is wrong with %j', async (args, wanted) => {
    const { status, stderr } = await idrel([...args, ...server]);
    expect(status).toBe(2);
    expect(stderr).toContain(wanted);
  });

  it('lists what can be asked', async () => {
    expect((await idrel(['operations', 'webhook', 'secret'])).stdout).toMatch(/^renewSecret|^\w+ {2}/);
    expect(JSON.parse((await idrel(['operations', '--json'])).stdout).length).toBeGreaterThan(200);
  });
});
