import { CONNECTORS, type ConnectorInput, keyOf, type Reading, UNREAD_ASKED } from '@idrel/readers/connectors';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { standardQuotes } from '../../readers/src/connectors/mariadb/structure.ts';
import { type MariaServer, startMariaDb } from './mariadbServer.ts';

let server: MariaServer;
let input: ConnectorInput;
let reading: Reading;

beforeAll(async () => {
  server = await startMariaDb('--performance-schema=ON');
  await server.admin.query(`
    create database crewing character set utf8mb4; use crewing;
    create table crew_member (id int primary key auto_increment, name varchar(80) not null comment 'As in the passport', email varchar(120) unique, born date, pay decimal(9,2) default 0, full_mark varchar(90) as (concat(name, '!')) stored, photo blob) comment 'Everybody on board';
    create table \`rest hours\` (member_id int, \`it's "odd"\` int, foreign key (member_id) references crew_member (id));
    create view reachable as select m.id, upper(m.name) as \`NAME\`, m.email from crew_member m join \`rest hours\` r on r.member_id = m.id where m.born < '2000-01-01';
    create view odd_view as select if(m.pay > 10, 'much', 'little') as pay, m.name from crew_member m;
    insert into crew_member (name, email, born) select concat('Person ', seq), concat('p', seq, '@example.org'), '1980-02-03' from seq_1_to_400;
    create table watch (id int primary key auto_increment, officer int not null, side enum('port', 'star''board') comment 'Seen forward', begins time, weather varchar(9) check (weather in ('calm', 'rough')), check (officer > 0), constraint one_a_time unique (officer, begins) comment 'One watch at a time', index by_side (side));
    create sequence ticket start with 5 increment by 5 maxvalue 1000 cycle;
    create trigger watch_noted before insert on watch for each row set new.begins = coalesce(new.begins, '00:00');
    create function dues(tonnes decimal(9,2), rate int) returns decimal(9,2) deterministic comment 'Twice' return tonnes * rate;
    create procedure close_year(in y int, out done bool) sql security invoker set done = true;
    create user reader@'%' identified by 'reading'; grant select, show view, trigger, execute on crewing.* to reader@'%';
    create user nobody@'%' identified by 'nothing';
    create user narrow@'%' identified by 'little'; grant select on crewing.crew_member to narrow@'%';
    analyze table crew_member;`);
  input = {
    name: 'Crewing',
    address: { host: '127.0.0.1', port: server.port, database: 'crewing' },
    secret: { username: 'reader', password: 'reading' },
  };
  reading = await CONNECTORS.mariadb.open(input);
});
afterAll(async () => {
  await reading?.close();
  await server?.stop();
});
const test = (change: Partial<ConnectorInput>) => CONNECTORS.mariadb.test({ ...input, ...change });
const failedStep = async (change: Partial<ConnectorInput>) =>
  (await test(change)).find((step) => step.state === 'failed');

describe('a MariaDB source', () => {
  it('passes each step with a reading account', async () => {
    const steps = await test({});
    expect(steps.map((step) => [step.step, step.state])).toEqual([
      ['Resolve', 'passed'],
      ['Connect', 'passed'],
      ['Authenticate', 'passed'],
      ['Rights to read the catalog', 'passed'],
      ['Rights to read data', 'passed'],
    ]);
  });

  it.each([
    ['a name that is not known', { host: 'no-such-host.invalid' }, 'Resolve', 'not known'],
    ['a port where nothing listens', { port: 1 }, 'Connect', 'Nothing listens'],
    ['a database that is not there', { database: 'nowhere' }, 'Authenticate', 'nowhere'],
  ])('names the step that %s fails', async (_, address, step, words) => {
    const secret =
      step === 'Authenticate'
        ? { username: 'root', password: '' }
        : (input.secret as NonNullable<ConnectorInput['secret']>);
    const failed = await failedStep({ address: { ...input.address, ...address }, secret });
    expect(failed?.step).toBe(step);
    expect(failed?.detail).toContain(words);
    expect(failed?.mend).toBeTruthy();
  });

  it('gives the statements that mend a wrong password, and they do', async () => {
    const failed = await failedStep({ secret: { username: 'newcomer', password: 'the password' } });
    expect(failed?.step).toBe('Authenticate');
    await server.admin.query(failed?.mend ?? '');
    expect(await failedStep({ secret: { username: 'newcomer', password: 'the password' } })).toBeUndefined();
  });

  it('says what an account without rights lacks', async () => {
    const failed = await failedStep({ secret: { username: 'nobody', password: 'nothing' } });
    expect(failed?.mend).toMatch(/^GRANT SELECT, SHOW VIEW ON `crewing`/);
  });

  it('reads tables, views and columns as the server describes them', async () => {
    const { assets, sampleable } = await reading.structure(() => undefined);
    const of = (...names: string[]) => assets.find((asset) => asset.key === keyOf('crewing', ...names));
    expect(assets.filter((asset) => asset.kind !== 'column').map((asset) => [asset.kind, asset.name])).toEqual([
      ['database', 'crewing'],
      ['table', 'crew_member'],
      ['view', 'odd_view'],
      ['view', 'reachable'],
      ['table', 'rest hours'],
      ['table', 'watch'],
      ['sequence', 'ticket'],
      ['procedure', 'close_year(int(11), tinyint(1))'],
      ['function', 'dues(decimal(9,2), int(11))'],
    ]);
    expect(of('crew_member')).toMatchObject({ comment: 'Everybody on board' });
    expect(of('crew_member', 'id')?.native).toMatchObject({ type: 'int(11)', nullable: false, primaryKey: true });
    expect(of('crew_member', 'name')).toMatchObject({
      comment: 'As in the passport',
      position: 2,
      native: { type: 'varchar(80)', nullable: false },
    });
    expect(of('crew_member', 'email')?.native).toMatchObject({ unique: true, nullable: true });
    expect(of('crew_member', 'email')?.native.default).toBeUndefined();
    expect(of('crew_member', 'pay')?.native).toMatchObject({ default: '0.00' });
    expect(of('crew_member', 'full_mark')?.native.generated).toBeTruthy();
    expect(of('rest hours', 'member_id')?.native).toMatchObject({ references: ['crew_member.id'] });
    expect(of('rest hours', `it's "odd"`)).toBeDefined();
    // Bytes are no text: they are described and not sampled.
    expect(
      sampleable.find((table) => table.label === 'crew_member')?.columns.map((column) => column.name),
    ).not.toContain('photo');
  });

  it('reads what tables have beside their columns, routines, sequences, and the values that a type permits', async () => {
    const { assets, sampleable } = await reading.structure(() => undefined);
    const of = (...names: string[]) => assets.find((asset) => asset.key === keyOf('crewing', ...names));
    const details = of('watch')?.native.details as Record<string, { name: string }[]>;
    expect(details.uniques).toEqual([
      { name: 'one_a_time', definition: 'UNIQUE (officer, begins)', columns: ['officer', 'begins'] },
    ]);
    expect(details.indexes).toContainEqual({
      name: 'one_a_time',
      definition: 'UNIQUE (officer, begins) USING BTREE',
      columns: ['officer', 'begins'],
      unique: true,
      comment: 'One watch at a time',
    });
    expect(details.indexes?.map((index) => index.name).sort()).toEqual(['PRIMARY', 'by_side', 'one_a_time']);
    expect(details.checks).toMatchObject([
      { definition: '`officer` > 0' },
      { definition: "`weather` in ('calm','rough')" },
    ]);
    expect(details.triggers).toMatchObject([{ name: 'watch_noted' }]);
    expect(of('ticket')?.native).toMatchObject({ start: '5', step: '5', most: '1000', cycles: true });
    expect(of('dues(decimal(9,2), int(11))')).toMatchObject({
      comment: 'Twice',
      native: {
        returns: 'decimal(9,2)',
        volatility: 'deterministic',
        runsAs: 'its owner',
        arguments: [{ name: 'tonnes' }, { name: 'rate', type: 'int(11)' }],
      },
    });
    expect(of('close_year(int(11), tinyint(1))')?.native).toMatchObject({
      runsAs: 'whoever calls it',
      arguments: [{ mode: 'in' }, { mode: 'out' }],
    });
    expect(of('watch', 'side')?.native).toMatchObject({ permitted: ['port', "star'board"] });
    expect(of('watch', 'weather')?.native).toMatchObject({ permitted: ['calm', 'rough'] });
    expect(of('watch', 'id')?.native).toMatchObject({ identity: 'by default', primaryKey: true });
    expect(
      sampleable.find((table) => table.label === 'watch')?.columns.find((column) => column.name === 'side')?.permitted,
    ).toEqual(['port', "star'board"]);
    expect(sampleable.map((table) => table.label)).not.toContain('ticket');
  });

  it('samples values as they are written', async () => {
    const { sampleable } = await reading.structure(() => undefined);
    const table = sampleable.find((entry) => entry.label === 'crew_member');
    if (!table) throw new Error('the table is missing');
    const { values } = await reading.sample(table, 50);
    const at = (name: string) => values[table.columns.findIndex((column) => column.name === name)] ?? [];
    expect(at('email')).toHaveLength(50);
    expect(at('email').every((value) => /^p\d+@example\.org$/.test(value ?? ''))).toBe(true);
    expect(new Set(at('born'))).toEqual(new Set(['1980-02-03']));
    const odd = sampleable.find((entry) => entry.label === 'rest hours');
    expect(odd && (await reading.sample(odd, 10)).values).toEqual([[], []]);
  });

  it('gives the first rows of one table by its names alone, compared letter by letter', async () => {
    const rows = (columns: string[], only: { column: string; values: string[] }[] = []) =>
      reading.rows?.({ names: ['crew_member'], columns, only, most: 2 });
    const all = (await rows(['email', 'born']))?.rows ?? [];
    expect(all).toHaveLength(2);
    expect(all.every(([email, born]) => /^p\d+@example\.org$/.test(email ?? '') && born === '1980-02-03')).toBe(true);
    const first = all[0]?.[0] ?? '';
    expect((await rows(['email'], [{ column: 'email', values: [first, 'nobody'] }]))?.rows).toEqual([[first]]);
    expect(
      (await rows(['email'], [{ column: 'email', values: [first.toUpperCase(), "') or 1=1 -- "] }]))?.rows,
    ).toEqual([]);
    await expect(rows(['gone'])).rejects.toThrow('gone');
    // Whole, as a statement over it needs them: uncut, and as many as there are.
    const whole = await reading.rows?.({
      names: ['crew_member'],
      columns: ['email'],
      only: [],
      most: 1000,
      whole: true,
    });
    expect(whole?.rows).toEqual(expect.arrayContaining(all.map(([email]) => [email])));
    expect(whole?.rows.length).toBeGreaterThan(100);
    const counted = await reading.rows?.({ names: ['crew_member'], columns: [], only: [], most: 1000, whole: true });
    expect(counted?.rows).toHaveLength(whole?.rows.length ?? 0);
  });

  it('traces columns through views, and says where it cannot', async () => {
    const flows = await reading.flows();
    const flow = flows.find((entry) => entry.key === keyOf('crewing', 'reachable'));
    const short = (key: string) => key.split('\u001f').slice(1).join('.');
    expect(flow?.edges.map((edge) => [short(edge.from), short(edge.to), edge.kind]).sort()).toEqual([
      ['crew_member.email', 'reachable.email', 'copied'],
      ['crew_member.id', 'reachable.id', 'copied'],
      ['crew_member.name', 'reachable.NAME', 'transformed'],
    ]);
    expect(flow?.influences.map((influence) => [short(influence.from), influence.kind]).sort()).toEqual([
      ['crew_member.born', 'filter'],
      ['crew_member.id', 'join'],
      ['rest hours.member_id', 'join'],
    ]);
    expect(flows.every((entry) => entry.edges.length > 0 || entry.problems.length > 0)).toBe(true);
  });

  it('only reads', async () => {
    const connection = await (await import('../../readers/src/connectors/mariadb/connect.ts')).connectMaria({
      ...input,
      secret: { username: 'root', password: '' },
    });
    await expect(connection.query('delete from crewing.crew_member')).rejects.toThrow(/READ ONLY/i);
    await connection.end();
  });

  it('leaves one unreadable table to itself', async () => {
    const narrow = await CONNECTORS.mariadb.open({ ...input, secret: { username: 'narrow', password: 'little' } });
    const { sampleable } = await narrow.structure(() => undefined);
    expect(sampleable.map((table) => table.label)).toEqual(['crew_member']);
    await narrow.close();
  });
});

describe('what is asked for at a MariaDB source', () => {
  const short = (key: string) => key.split('\u001f').slice(1).join('.');
  const told = async () => {
    const there = await CONNECTORS.mariadb.open(input);
    try {
      return {
        queries: ((await there.queries?.()) ?? []).map(({ reads, ...query }) => ({
          ...query,
          reads: Object.fromEntries(reads.map(([key, how]) => [short(key), how])),
        })),
        flows: (await there.flows()).filter(({ origin }) => origin === 'asked'),
      };
    } finally {
      await there.close();
    }
  };

  it('is not known to an account that may not look', async () => {
    await server.admin.query('use crewing');
    await server.admin.query('select name from crew_member where id = 3');
    expect(await told()).toEqual({ queries: [], flows: [] });
  });

  it('is told statement by statement as the server counts, without values and without what readers of Idrel ask', async () => {
    // Of statements that are sent together the server counts the first.
    const statements = `
      grant select on performance_schema.* to reader@'%';
      use crewing;
      create table Pay_Roll (Email varchar(120), pay decimal(9,2), note varchar(20));
      select name from crew_member where id in (3, 4) and email = 'p3@example.org';
      select name from crew_member where id in (5, 6, 7) and email = 'p5@example.org';
      insert into Pay_Roll (Email, pay) select m.email, sum(m.pay) from crew_member m join crewing.\`rest hours\` r on r.member_id = m.id group by m.email;
      insert into Pay_Roll values ('x', 1, 'Holm');
      insert into Pay_Roll select email, 1, 2 from crew_member;
      update Pay_Roll p join crew_member m on m.email = p.Email set p.note = upper(m.name) where m.born > '1990-01-01';
      create temporary table passing as select email from crew_member;
      insert into passing select email from crew_member;
      use mysql;
      select count(*) from crewing.watch where begins > '12:00';
      use crewing`;
    for (const statement of statements.split(';')) await server.admin.query(statement);
    const sampled = (await reading.structure(() => undefined)).sampleable.find(({ label }) => label === 'crew_member');
    if (sampled) await reading.sample(sampled, 10);
    const { queries, flows } = await told();
    const of = (word: string) => queries.filter(({ text }) => text.startsWith(word));
    expect(of('SELECT NAME')).toEqual([
      {
        print: expect.any(String),
        text: 'SELECT NAME FROM `crew_member` WHERE ID IN (?) AND `email` = ?',
        calls: [['all accounts', 2]],
        reads: {
          crew_member: [],
          'crew_member.name': ['shown'],
          'crew_member.id': ['filter'],
          'crew_member.email': ['filter'],
        },
        gives: [],
        whole: true,
      },
      expect.objectContaining({ text: 'SELECT NAME FROM `crew_member` WHERE ID = ?' }),
    ]);
    expect(queries.find(({ reads }) => 'watch' in reads)).toMatchObject({
      calls: [['all accounts', 1]],
      reads: { 'watch.begins': ['filter'] },
    });
    expect(JSON.stringify(queries)).not.toMatch(/Holm|p3@|CAST|RAND/i);
    const unread = flows.find(({ kind }) => kind === UNREAD_ASKED);
    expect(
      flows
        .filter((flow) => flow !== unread)
        .map((flow) => ({
          at: short(flow.asset ?? ''),
          edges: flow.edges.map(({ from, to, kind }) => `${short(from)} ${kind} ${short(to)}`).sort(),
          influences: flow.influences.map(({ from, kind }) => `${short(from)} ${kind}`).sort(),
        }))
        .sort((a, b) => (a.edges.join() < b.edges.join() ? -1 : 1)),
    ).toEqual([
      {
        at: 'Pay_Roll',
        edges: ['crew_member.email copied Pay_Roll.Email', 'crew_member.pay aggregated Pay_Roll.pay'],
        influences: ['crew_member.email group', 'crew_member.id join', 'rest hours.member_id join'],
      },
      {
        at: 'Pay_Roll',
        edges: ['crew_member.name transformed Pay_Roll.note'],
        influences: ['Pay_Roll.Email filter', 'crew_member.born filter', 'crew_member.email filter'],
      },
    ]);
    // Of values in a row the server keeps no number: where the column behind them lands is not known.
    expect(unread?.problems.map(({ reason }) => reason.replace(/ [(]digest [0-9a-f]+[)]$/, '')).sort()).toEqual([
      'INSERT that all accounts asked once shows values in a row, of which the source keeps no number: where what stands behind them goes is not known',
      'INSERT that all accounts asked once writes a table that is not in the catalog, or was there for one session',
    ]);
  });
});

describe('names in backticks', () => {
  it.each([
    ['select `a`.`b` from `t`', 'select "a"."b" from "t"'],
    ["select 'it`s' as `x`", `select 'it\`s' as "x"`],
    ['select `a"b``c`', 'select "a""b`c"'],
    ["select 'a\\'`b`' , `c`", `select 'a\\'\`b\`' , "c"`],
  ])('%s', (from, to) => {
    expect(standardQuotes(from)).toBe(to);
  });
});
