import { spawnSync } from 'node:child_process';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { describe, expect, it } from 'vitest';
import { planText } from './policies.ts';

const folder = mkdtempSync(join(tmpdir(), 'idrel-cli-'));
const file = (name: string, text: string) => {
  writeFileSync(join(folder, name), text);
  return join(folder, name);
};
const idrel = (...args: string[]) => {
  const { status, stdout, stderr } = spawnSync(process.execPath, [resolve('cli/bin/idrel.mjs'), ...args], {
    encoding: 'utf8',
    // What is kept on this machine has no part in it.
    env: { ...process.env, XDG_CONFIG_HOME: folder, IDREL_KEY: '', IDREL_SERVER: '' },
  });
  return { status, stdout, stderr };
};

describe('idrel classify', () => {
  const rows = Array.from(
    { length: 60 },
    (_, index) => `${index},person${index}@example.org,0047 4${String(index).padStart(2, '0')} 12 345,${20 + index}`,
  ).join('\n');
  const people = file('people.csv', `id,ref_2,mobile,amount\n${rows}\n`);

  it('prints findings per column in the promised shape, an empty list where there is none', () => {
    const { status, stdout } = idrel('classify', people, '--json');
    const results = JSON.parse(stdout) as { file: string; column: string; findings: Record<string, unknown>[] }[];
    expect(status).toBe(0);
    expect(results.map((result) => [result.file, result.column])).toEqual(
      ['id', 'ref_2', 'mobile', 'amount'].map((column) => [people, column]),
    );
    expect(results[1]?.findings).toEqual([
      {
        class: 'email',
        label: 'E-mail address',
        share: 1,
        distinct: 60,
        confidence: expect.any(Number),
        state: 'certain',
        detector: 'email.address',
        version: '3',
      },
    ]);
    // Leading zeros are kept: read as numbers these would be no phone numbers any more.
    expect(results[2]?.findings[0]).toMatchObject({ class: 'phone' });
    expect([results[0]?.findings, results[3]?.findings]).toEqual([[], []]);
  });

  it('never prints a value as it is', () => {
    expect(idrel('classify', people).stdout).not.toContain('person7@example.org');
  });

  it('reads NDJSON, names what it cannot read, and goes on', () => {
    const events = file(
      'events.ndjson',
      Array.from({ length: 30 }, (_, index) => JSON.stringify({ at: index, seen_from: `192.0.2.${index}` })).join('\n'),
    );
    const broken = file('broken.parquet', 'this is no parquet file');
    const { status, stdout, stderr } = idrel(
      'classify',
      broken,
      join(folder, 'missing.csv'),
      file('notes.docx', ''),
      events,
      '--json',
    );
    expect(status).toBe(2);
    expect(stderr).toMatch(
      /broken\.parquet: it cannot be read[\s\S]*missing\.csv: there is no such file[\s\S]*notes\.docx: its ending/,
    );
    expect(JSON.parse(stdout)[1].findings[0].class).toBe('ip-address');
  });
});

describe('idrel lineage', () => {
  const tables = file(
    'tables.sql',
    'create table shop.person (id int, email text); create table shop.visit (person_id int, page text);',
  );
  const views = file(
    'views.sql',
    'create view shop.contact as select p.*, count(*) as visits from shop.person p join shop.visit v on v.person_id = p.id group by p.id, p.email;\nselect md5(email) as key from shop.contact;\ncall shop.refresh();\nselec 1;',
  );

  it('prints edges, influences and what could not be settled', () => {
    const { status, stdout, stderr } = idrel('lineage', views, '--schema', tables, '--dialect', 'postgresql', '--json');
    // A statement was lost: that is told by the status too.
    expect([status, stderr.split('\n').filter((line) => line.includes('statements'))]).toEqual([
      3,
      ['3 statements read, 3 edges; 1 lost, named above.'],
    ]);
    expect(JSON.parse(stdout)).toEqual({
      edges: [
        { from: 'shop.person.id', to: 'shop.contact.id', kind: 'copied' },
        { from: 'shop.person.email', to: 'shop.contact.email', kind: 'copied' },
        { from: 'shop.contact.email', to: 'query.1.key', kind: 'masked' },
      ],
      influences: [
        { from: 'shop.visit.person_id', to: 'shop.contact', kind: 'join' },
        { from: 'shop.person.id', to: 'shop.contact', kind: 'join' },
        { from: 'shop.person.id', to: 'shop.contact', kind: 'group' },
        { from: 'shop.person.email', to: 'shop.contact', kind: 'group' },
      ],
      unresolved: [
        {
          file: views,
          statement: expect.stringContaining('selec 1'),
          line: 4,
          reason: expect.stringContaining('syntax error'),
          lost: true,
        },
      ],
      read: 3,
      lost: 1,
    });
  });

  it('reads a dump as psql does, and ends well when nothing was lost', () => {
    const dump = file(
      'dump.sql',
      "\\restrict 9abc\n\nset search_path = shop;\ncopy person (id) from stdin;\n1'\n\\.\ncreate view v as select id from person;\n\\unrestrict 9abc\n",
    );
    const { status, stdout, stderr } = idrel('lineage', dump, '--schema', tables);
    expect([status, stdout.split('\n')[0]]).toEqual([0, 'shop.person.id → shop.v.id  copied']);
    expect(stderr).toContain('1 told of as not traced.');
  });

  it('refuses another dialect, and says which it reads', () => {
    expect(idrel('lineage', views, '--dialect', 'other')).toMatchObject({
      status: 2,
      stderr: expect.stringContaining('--dialect mariadb'),
    });
  });

  it('reads scripts of MariaDB in its own words', () => {
    const script = file(
      'maria.sql',
      'CREATE TABLE `a` (`Id` int(11) NOT NULL, note text, KEY (`Id`)) ENGINE=InnoDB;\nCREATE VIEW v AS SELECT a.ID, IFNULL(note, "none; yet") AS `what` FROM a LIMIT 2, 5;\n',
    );
    const { status, stdout } = idrel('lineage', script, '--dialect', 'mariadb');
    expect(status).toBe(0);
    expect(stdout.split('\n').filter(Boolean).sort()).toEqual([
      'main.a.id → main.v.id  copied',
      'main.a.note → main.v.what  transformed',
    ]);
  });
});

describe('idrel policies', () => {
  const reach = {
    people: 1,
    tables: 1,
    columns: 6,
    sensitive: 0,
    gains: 6,
    losses: 0,
    masked: 0,
    rows: ['a', 'b', 'c', 'd', 'e', 'f'].map((column) => ({
      personId: 'p',
      person: 'Maud',
      tableId: 't',
      table: 's.t',
      column,
      classes: [],
      level: null,
      before: 'refused' as const,
      after: 'plain' as const,
      beforeMask: null,
      afterMask: null,
    })),
    limited: [],
    used: [],
    unseen: [],
    sight: { gains: 0, losses: 0, assets: 0, rows: [] },
    passedOn: [],
    otherwise: [],
  };
  const told = {
    fresh: [{ at: 'line 3', name: 'New', effect: 'allow' }],
    changed: [{ at: 'line 9', name: 'Other', fields: [{ field: 'until', before: '', after: '2027' }] }],
    same: 2,
    absent: ['Old'],
    removed: 0,
    flaws: [],
    reach,
    seen: 'abc',
    written: false,
  };

  it('tells a plan in lines: what comes, what is otherwise, what stays, and who gains what', () => {
    expect(planText(told).split('\n')).toEqual([
      '+ New (allow)',
      '~ Other',
      '    until: nothing → 2027',
      'Planned: 1 policy new, 1 changed, 0 removed, 2 the same. 1 policy is not in the file and stays (--remove-absent removes).',
      '1 person, 1 table: columns gained 6, lost 0, masked 0; 0 of them sensitive.',
      '    Maud  s.t  refused → plain: a, b, c, d and 2 more',
      'To apply just this: --seen abc',
    ]);
    const written = planText({ ...told, removed: 1, written: true, reach: { ...reach, people: 0, rows: [] } });
    expect(written).toContain(
      '- Old\nWritten: 1 policy new, 1 changed, 1 removed, 2 the same.\nNobody reads anything otherwise.',
    );
    expect(planText({ ...told, flaws: [{ at: 'line 4', what: 'It is wrong.', mend: 'Mend it.' }] })).toMatch(
      /^! line 4: It is wrong.\n {4}Mend it./,
    );
  });

  it('says what is missing, and what cannot be read or reached', () => {
    expect(idrel('policies', 'plan', 'x.yaml').stderr).toContain('No server is named.');
    const far = ['--server', 'http://127.0.0.1:1', '--user', 'a@b.org'];
    expect(idrel('policies', 'export', ...far, '--format', 'xml')).toMatchObject({
      status: 2,
      stderr: expect.stringContaining('--format xml: it is none that is written.'),
    });
    expect(idrel('policies', 'apply', 'x.yaml', ...far)).toMatchObject({
      status: 2,
      stderr: expect.stringContaining('cannot be reached'),
    });
  });
});
