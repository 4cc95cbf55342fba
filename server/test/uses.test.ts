import { parseFilter } from '@idrel/core/catalog';
import type { AskedHow } from '@idrel/core/lineage';
import { CONNECTORS, type FoundFlow, type FoundQuery, UNREAD_ASKED } from '@idrel/readers/connectors';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { keepAskedThere } from '../src/access/index.ts';
import { assetUse } from '../src/catalog/asked.ts';
import type { Who } from '../src/people/index.ts';
import type { RunResult } from '../src/scanning/apply.ts';
import { storeFlows } from '../src/scanning/storeFlows.ts';
import { storeQueries } from '../src/scanning/storeQueries.ts';
import { finderHere, freshDatabase, furnish, inputOf, staffed, urlOf, withClient } from './place.ts';

const system = `uses_${process.pid}`;
const [reader, shop, desk] = [`uses_reader_${process.pid}`, `uses_shop_${process.pid}`, `uses_desk_${process.pid}`];
const sql = (text: string) => withClient(urlOf(system), (client) => client.query(text));
const ask = (role: string, ...statements: string[]) =>
  withClient(urlOf(system), async (client) => {
    await client.query(`set role ${role}`);
    for (const statement of statements) await client.query(statement);
  });

beforeAll(async () => {
  await withClient(urlOf('postgres'), (client) => client.query(`create database ${system}`));
  await withClient(urlOf('postgres'), (client) =>
    client.query(
      `create role ${reader} login password 'reading'; create role ${shop}; create role ${desk}; grant pg_read_all_data to ${reader}, ${shop}, ${desk}`,
    ),
  );
  await sql(
    'create schema s; create table s.sold (id int, amount numeric, note text); create table s.idle (id int); create view s.total as select sum(amount) as amount from s.sold',
  );
});
afterAll(async () => {
  await withClient(urlOf('postgres'), (client) => client.query(`drop database ${system} with (force)`));
  await withClient(urlOf('postgres'), (client) =>
    client.query(`drop role ${reader}; drop role ${shop}; drop role ${desk}`),
  );
});

const read = async () => {
  const reading = await CONNECTORS.postgresql.open({
    ...inputOf(system),
    secret: { username: reader, password: 'reading' },
  });
  try {
    return ((await reading.queries?.()) ?? []).map(({ reads, ...query }) => ({
      ...query,
      reads: Object.fromEntries(reads.map(([key, how]) => [key.split('\u001f').slice(1).join('.'), how])),
    }));
  } finally {
    await reading.close();
  }
};

describe('what is asked for at a PostgreSQL source', () => {
  it('is not known where nothing counts, or where the reading role may not look', async () => {
    expect(await read()).toEqual([]);
    await sql('create extension pg_stat_statements');
    await ask(shop, 'select id from s.sold');
    expect(await read()).toEqual([]);
  });

  it('is told statement by statement, without the values in them, with the roles that asked; what reads for Idrel is left out', async () => {
    await withClient(urlOf('postgres'), (client) => client.query(`grant pg_read_all_stats to ${reader}`));
    await ask(
      shop,
      "select id /* for Ms Holm */ from s.sold where note = 'Holm'",
      "select id from s.sold where note = 'Berg'",
      'select amount from s.total',
      'select count(*) from s.idle',
    );
    await ask(
      desk,
      "select id from s.sold where note = 'Lund'",
      'with w as (select id, amount from s.sold) select count(*) from w join s.idle i on i.id = w.id group by w.amount',
      'select nonsense(',
      'select 1',
    ).catch(() => undefined);
    await withClient(urlOf(system).replace(/\/\/[^@]*@/, `//${reader}:reading@`), (client) =>
      client.query('select note from s.sold'),
    );
    const queries = await read();
    const of = (start: string) => queries.filter(({ text }) => text.startsWith(start));
    // Statements that differ in their values or comments alone are one. Every role that asked is told.
    expect(of('select id from s.sold where')).toEqual([
      {
        print: expect.any(String),
        text: expect.stringMatching(/^select id\s+from s[.]sold where note = [$]1$/),
        calls: expect.arrayContaining([
          [shop, expect.any(Number)],
          [desk, 1],
        ]),
        reads: { 's.sold': [], 's.sold.id': ['shown'], 's.sold.note': ['filter'] },
        gives: [],
        whole: true,
      },
    ]);
    expect(of('select count(*) from s.idle')[0]?.reads).toEqual({ 's.idle': [] });
    expect(of('select amount from s.total')[0]?.reads).toEqual({ 's.total': [], 's.total.amount': ['shown'] });
    expect(of('with w')[0]).toMatchObject({
      reads: {
        's.sold': [],
        's.sold.id': ['join'],
        's.sold.amount': expect.arrayContaining(['group']),
        's.idle': [],
        's.idle.id': ['join'],
      },
      gives: ['w'],
      whole: true,
    });
    expect(JSON.stringify(queries)).not.toMatch(/Holm|Berg|Lund|select note/);
  });
});

describe('statements that write', () => {
  const told = async () => {
    const reading = await CONNECTORS.postgresql.open({
      ...inputOf(system),
      secret: { username: reader, password: 'reading' },
    });
    try {
      const name = (key: string) => key.split('\u001f').slice(1, 4).join('.');
      const asked = (await reading.flows()).filter(({ origin }) => origin === 'asked');
      const unread = asked.find(({ kind }) => kind === UNREAD_ASKED);
      return {
        unread: unread && { asset: unread.asset, problems: unread.problems, statements: unread.statements },
        flows: asked.flatMap((flow) =>
          flow === unread
            ? []
            : [
                {
                  at: name(flow.asset ?? ''),
                  statement: flow.statement,
                  texts: flow.edges.filter((edge) => 'expression' in edge).length,
                  edges: flow.edges.map(({ from, to, kind }) => `${name(from)} ${kind} ${name(to)}`).sort(),
                  influences: flow.influences.map(({ from, kind }) => `${name(from)} ${kind}`).sort(),
                },
              ],
        ),
      };
    } finally {
      await reading.close();
    }
  };

  it('are lineage of what they write, as often as they were asked once; values alone, views and tables of one session are none', async () => {
    await sql(
      `create table s.kept (id int, amount numeric, note text); grant all on all tables in schema s to ${desk}; grant create on schema s to ${desk}`,
    );
    const load = (least: number) =>
      `insert into s.kept (id, amount) select x.id, x.amount * ${least} from s.sold x join s.idle i on i.id = x.id where x.note > 'Holm'`;
    await ask(
      desk,
      load(3),
      load(4),
      "insert into s.kept values (1, 2, 'Berg')",
      'update s.kept k set note = upper(x.note) from s.sold x where x.id = k.id',
      'create table s.copied as select id from s.sold',
      'create view s.seen as select note from s.sold',
      'create temporary table passing as select note from s.sold',
      'insert into passing select note from s.sold',
    );
    const { flows, unread } = await told();
    expect(flows.sort((a, b) => (a.edges.join() < b.edges.join() ? -1 : 1))).toEqual([
      {
        at: 's.kept',
        statement: '',
        texts: 0,
        edges: ['s.sold.amount transformed s.kept.amount', 's.sold.id copied s.kept.id'],
        influences: ['s.idle.id join', 's.sold.id join', 's.sold.note filter'],
      },
      {
        at: 's.copied',
        statement: '',
        texts: 0,
        edges: ['s.sold.id copied s.copied.id'],
        influences: [],
      },
      {
        at: 's.kept',
        statement: '',
        texts: 0,
        edges: ['s.sold.note transformed s.kept.note'],
        influences: ['s.kept.id filter', 's.sold.id filter'],
      },
    ]);
    // What writes a table that nobody knows is listed, by what it is found at the source: no word of it goes further.
    expect(unread).toEqual({
      asset: system,
      statements: 1,
      problems: [
        {
          reason: expect.stringMatching(
            new RegExp(
              `^INSERT that ${desk} asked once writes a table that is not in the catalog, .* [(]queryid -?\\d+[)]$`,
            ),
          ),
          line: null,
          statement: null,
          lost: true,
        },
      ],
    });
    await sql('drop table s.kept, s.copied; drop view s.seen');
  });

  it('stand a while after what counts them has forgotten them, and end then', async () => {
    const place = await freshDatabase();
    try {
      const { db } = place;
      const { sourceId, domainId } = await furnish(db);
      for (const [key, kind, depth] of [
        ['a', 'table', 0],
        ['a\u001fx', 'column', 1],
        ['b', 'table', 0],
        ['b\u001fx', 'column', 1],
      ] as const)
        await db.run(
          `insert into asset (source_id, domain_id, parent_id, kind, name, key, depth)
           select $1, $2, (select id from asset where key = split_part($4, chr(31), 1) and $5::int > 0), $3, $4, $4, $5::int`,
          [sourceId, domainId, kind, key, depth],
        );
      const tables = await db.rows<{ id: string; key: string }>("select id, key from asset where kind = 'table'");
      const store = (flows: FoundFlow[]) =>
        db.transaction((tx) =>
          storeFlows(
            tx,
            { id: sourceId },
            { flows, covers: () => true } as unknown as RunResult,
            new Map(tables.map(({ id, key }) => [key, id])),
          ),
        );
      const edges = () => db.rows('select kind from lineage_edge');
      await store([
        {
          key: 'b\u001fasked\u001f1',
          asset: 'b',
          kind: 'asked statement',
          origin: 'asked',
          statement: '',
          problems: [],
          edges: [{ from: 'a\u001fx', to: 'b\u001fx', kind: 'copied' }],
          influences: [],
        },
      ]);
      expect(await edges()).toEqual([{ kind: 'copied' }]);
      const unread = {
        key: 'a\u001fasked\u001funread',
        asset: 'a',
        kind: UNREAD_ASKED,
        origin: 'asked',
        statement: '',
        problems: [{ reason: 'cannot be read', line: null, statement: null, lost: true }],
        edges: [],
        influences: [],
      } as const;
      await store([unread]);
      expect(await db.rows('select kind from flow order by kind')).toEqual([
        { kind: 'asked statement' },
        { kind: UNREAD_ASKED },
      ]);
      await store([]);
      expect(await edges()).toEqual([{ kind: 'copied' }]);
      // What could not be read is as the last scan found it.
      expect(await db.rows('select kind from flow')).toEqual([{ kind: 'asked statement' }]);
      await db.run("update flow set last_seen = now() - interval '101 days'");
      await db.run("update lineage_edge set since = now() - interval '120 days'");
      await store([]);
      expect(await edges()).toEqual([]);
      expect(await db.rows('select origin from ended_edge')).toEqual([{ origin: 'asked' }]);
    } finally {
      await place.drop();
    }
  });
});

describe('what an extension brought along', () => {
  it('is no asset, has no lineage, and does not count for the connection test', async () => {
    const input = { ...inputOf(system), secret: { username: reader, password: 'reading' } };
    const reading = await CONNECTORS.postgresql.open(input);
    try {
      const { assets } = await reading.structure(() => undefined);
      expect(assets.filter((asset) => asset.kind !== 'column').map((asset) => asset.name)).toEqual([
        system,
        'public',
        's',
        'idle',
        'sold',
        'total',
      ]);
      expect((await reading.outline()).map((item) => item.path)).toEqual([
        'public',
        's',
        's.idle',
        's.sold',
        's.total',
      ]);
      const flows = (await reading.flows()).filter(({ origin }) => origin !== 'asked');
      expect(flows.map((flow) => flow.key.split('\u001f').at(-1))).toEqual(['total']);
    } finally {
      await reading.close();
    }
    expect((await CONNECTORS.postgresql.test(input)).at(-1)?.detail).toContain('3 tables and views');
  });
});

describe('what is asked for, in the catalog', () => {
  let place: Awaited<ReturnType<typeof freshDatabase>>;
  let here: Awaited<ReturnType<typeof staffed>>;
  let finder: ReturnType<typeof finderHere>;
  const ids = new Map<string, string>();
  let runId = '';
  beforeAll(async () => {
    place = await freshDatabase();
    here = await staffed(place.db);
    finder = finderHere(place.db);
    const put = async (key: string, kind: string, domainId = here.domainId) => {
      const names = key.split('.');
      const made = await place.db.one<{ id: string }>(
        'insert into asset (id, source_id, domain_id, parent_id, kind, name, key, depth, position) values (gen_random_uuid(), $1, $2, $3, $4, $5, $6, $7, 0) returning id',
        [
          here.sourceId,
          domainId,
          ids.get(names.slice(0, -1).join('.')) ?? null,
          kind,
          names.at(-1),
          names.join('\u001f'),
          names.length,
        ],
      );
      ids.set(key, made?.id ?? '');
    };
    await put('s', 'schema');
    for (const table of ['s.sold', 's.port']) await put(table, 'table');
    for (const column of ['s.sold.id', 's.sold.port_id', 's.port.id', 's.port.name']) await put(column, 'column');
    await put('s.crew', 'table', here.elsewhere);
    const run = await place.db.one<{ id: string }>(
      "insert into scan_run (source_id, state, ended_at) values ($1, 'done', now()) returning id",
      [here.sourceId],
    );
    runId = run?.id ?? '';
  });
  afterAll(() => place.drop());

  const store = (...queries: FoundQuery[]) =>
    place.db.transaction((tx) => storeQueries(tx, here.sourceId, runId, queries, new Map(ids)));
  const asked = (text: string, calls: FoundQuery['calls'], reads: Record<string, AskedHow[]>): FoundQuery => ({
    print: text,
    text,
    calls,
    reads: Object.entries(reads),
    gives: [],
    whole: true,
  });
  /** Names of what a word finds, as the thread that finds things keeps them. */
  const found = async (filter: string, who = here.who) => {
    const page = { sort: 'path', descending: false, offset: 0, limit: 50 } as const;
    const { ids: all } = await finder.find({ filter: parseFilter(filter), domains: who.domainsAs('reader') }, page);
    return all.map((id) => [...ids].find(([, one]) => one === id)?.[0]).sort();
  };
  const of = (key: string) => ids.get(key) ?? '';
  const useOf = (who: Who, key: string, limit = 10) => assetUse(place.db, who, of(key), { limit, offset: 0 });
  const joined = (calls: number) =>
    asked('select p.name from s.sold o join s.port p on p.id = o.port_id', [['shop', calls]], {
      's.sold': [],
      's.port': [],
      's.sold.port_id': ['join'],
      's.port.id': ['join'],
      's.port.name': ['shown'],
    });

  it('tells who asks with which statement, which columns, and what is joined with what', async () => {
    await store(joined(5), asked('insert into s.sold', [['loader', 3]], { 's.sold': ['written'], 's.sold.id': [] }));
    const use = await useOf(here.reader, 's.sold');
    expect(use.askers).toMatchObject([
      { role: 'shop', person: null, calls: 5, writes: 0 },
      { role: 'loader', person: null, calls: 0, writes: 3 },
    ]);
    expect(use.together).toMatchObject([
      { id: of('s.port'), path: 'port', calls: 5, mine: ['port_id'], theirs: ['id'] },
    ]);
    expect(use.columns).toMatchObject([
      { name: 'port_id', calls: 5, how: ['join'] },
      { name: 'id', calls: 3, how: [] },
    ]);
    expect(use.queries).toMatchObject({
      total: 2,
      items: [{ calls: 5, how: [], askers: ['shop'] }, { how: ['written'] }],
    });
    expect((await useOf(here.reader, 's.port.id')).together).toMatchObject([{ id: of('s.sold.port_id'), calls: 5 }]);
    expect((await useOf(here.reader, 's.sold', 1)).queries).toMatchObject({ total: 2, next: '1' });
  });

  it('tells when a counter has moved last, and counts what is written into as asked for by nobody', async () => {
    const counted = () =>
      place.db.one<{ calls: number; roles: number; statements: number; moved: string }>(
        'select calls, roles, statements, moved_at::text as moved from asset_use where asset_id = $1',
        [of('s.sold')],
      );
    const first = await counted();
    expect(first).toMatchObject({ calls: 5, roles: 1, statements: 1 });
    await store(joined(5));
    expect(await counted()).toEqual(first);
    await store(joined(6));
    const second = await counted();
    expect(second).toMatchObject({ calls: 6, roles: 1, statements: 1 });
    expect(second?.moved).not.toBe(first?.moved);
  });

  it('forgets what nobody has asked for a year', async () => {
    await store(asked('select id from s.sold', [['old_desk', 70]], { 's.sold': [], 's.sold.id': ['shown'] }));
    expect((await useOf(here.reader, 's.sold')).askers[0]).toMatchObject({ role: 'old_desk', calls: 70 });
    await place.db.run("update asked_by set moved_at = now() - interval '13 months' where role = 'old_desk'");
    await store(joined(6));
    const use = await useOf(here.reader, 's.sold');
    expect(use.askers.map(({ role }) => role)).toEqual(['shop', 'loader']);
    const counted = await place.db.one<{ calls: number }>('select calls from asset_use where asset_id = $1', [
      of('s.sold'),
    ]);
    expect(counted).toEqual({ calls: 6 });
  });

  it('are found by what those who ask call what they show, where all of the statement lies in one domain', async () => {
    const takings = {
      ...joined(6),
      print: 'takings',
      text: 'select sum(o.id) as takings from s.sold o',
      gives: ['harbour_takings'],
    };
    await store(takings);
    expect(await found('harbour takings')).toEqual(['s.port', 's.sold']);
    expect(await found('taking')).toEqual(['s.port', 's.sold']);
    // What names something that the catalog does not have, or is not kept, gives no words.
    await store({ ...takings, print: 'lost', gives: ['lost_at_sea'], whole: false });
    expect(await found('lost')).toEqual([]);
    // Where the statement reads from another domain, a word would tell who sees one table of the other.
    const pay = {
      ...asked('select 1 as secret_bonus from s.sold, s.crew', [['payroll', 1]], { 's.sold': [], 's.crew': [] }),
      gives: ['secret_bonus'],
    };
    await store(pay);
    expect(await found('bonus')).toEqual([]);
    const lie = (domain: string) =>
      place.db.run('update asset set domain_id = $2 where id = $1', [of('s.crew'), domain]);
    await lie(here.domainId);
    expect(await found('bonus')).toEqual(['s.crew', 's.sold']);
    await lie(here.elsewhere);
    expect(await found('bonus')).toEqual([]);
    // The columns are found by their own names alone; what nobody asks for any more by nothing of it.
    await place.db.run(
      "update asked_by set moved_at = now() - interval '13 months' where role in ('payroll') or calls = 6",
    );
    await store();
    expect(await found('takings')).toEqual([]);
    await store(joined(6));
  });

  it('shows a statement to nobody who may not see one of its tables; the other table is not named', async () => {
    await store(asked('select 1 from s.sold, s.crew', [['payroll', 9]], { 's.sold': [], 's.crew': [] }), {
      ...asked('select 1 from s.sold, unknown.place', [['payroll', 2]], { 's.sold': [] }),
      whole: false,
    });
    const seen = await useOf(here.reader, 's.sold');
    expect(JSON.stringify(seen)).not.toMatch(/crew|unknown/);
    expect(seen.notShown).toBe(2);
    const all = await useOf(here.who, 's.sold');
    expect(all.queries.items[0]?.text).toBe('select 1 from s.sold, s.crew');
    expect(all.notShown).toBe(1);
    expect(all.together.map(({ path }) => path)).toEqual(['crew', 'port']);
    await expect(useOf(here.stranger, 's.sold')).rejects.toThrow(/not there|not found/i);
  });

  it('counts what goes through the gateway, without its values; who asked is told to those who may edit alone', async () => {
    const ask = (sql: string) =>
      keepAskedThere(place.db, [
        { sourceId: here.sourceId, personId: here.reader.id, sql, tables: [of('s.sold'), of('s.port')], times: 2 },
      ]);
    await ask("select o.id from sold o join port p on p.id = o.port_id where p.name = 'Holm' -- Holm");
    await ask("select o.id from sold o join port p on p.id = o.port_id where p.name = 'Berg'");
    const seen = await useOf(here.editor, 's.port');
    expect(seen.askers).toMatchObject([{ role: 'shop' }, { role: null, person: { name: 'Rune' }, calls: 4 }]);
    expect(seen.queries.items.map(({ text }) => text)).toContain(
      'select o.id from sold o join port p on p.id = o.port_id where p.name = $1',
    );
    const reader = await useOf(here.reader, 's.port');
    expect(reader).toMatchObject({ people: 1, askers: [{ role: 'shop' }] });
    expect(JSON.stringify([seen, reader])).not.toMatch(/Holm|Berg/);
    expect(JSON.stringify(reader)).not.toMatch(/Rune/);
    const use = await place.db.one<{ calls: number; roles: number }>(
      'select calls, roles from asset_use where asset_id = $1',
      [of('s.port.name')],
    );
    expect(use).toEqual({ calls: 6 + 4, roles: 2 });
  });
});
