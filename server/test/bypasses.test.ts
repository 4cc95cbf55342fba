import type { BypassAnswer, PlanBody } from '@idrel/contract/access';
import fc from 'fast-check';
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { readTables } from '../src/access/facts.ts';
import { POLICIES_HELD } from '../src/access/index.ts';
import { readableBy, readersOf } from '../src/access/lists.ts';
import { acceptBypass, forgetAccepted, listBypasses } from '../src/access/native/bypasses.ts';
import { planClosing } from '../src/access/native/plan.ts';
import { matchRole, nativeRoles, nativeWays } from '../src/access/native/roles.ts';
import { loadWho, type Who } from '../src/people/index.ts';
import { executeRun } from '../src/scanning/index.ts';
import {
  addPolicy,
  freshDatabase,
  furnish,
  personWith,
  postgresSource,
  refused,
  testConfig,
  urlOf,
  withClient,
} from './place.ts';

/** Rights at a source, on a server that is there: what we say that a login reads is what the server says, before a plan and after it. */
const system = `bypasses_${process.pid}`;
const RUNS = Number(process.env.IDREL_TEST_RUNS ?? 0);
const config = testConfig();
const role = (name: string) => `${name}_${process.pid}`;
let place: Awaited<ReturnType<typeof freshDatabase>>;
let sourceId: string;
let domainId: string;
let admin: Who;

const sql = (text: string) => withClient(urlOf(system), (client) => client.query(text));

async function scan(): Promise<void> {
  const [run] = await place.db.rows<{ id: string }>(
    'insert into scan_run (source_id, options) values ($1, \'{"sample": false}\') returning id',
    [sourceId],
  );
  await executeRun(place.db, config, run?.id ?? '');
  const state = await place.db.one<{ state: string }>('select state from scan_run where id = $1', [run?.id]);
  expect(state?.state).toBe('done');
}

const idOf = async (...names: string[]): Promise<string> =>
  (
    await place.db.one<{ id: string }>('select id from asset where source_id = $1 and key = $2 and gone_at is null', [
      sourceId,
      [system, ...names].join('\u001f'),
    ])
  )?.id ?? '';

/** Roles of these tests, whatever made them. */
async function dropRoles(): Promise<void> {
  await withClient(urlOf('postgres'), async (client) => {
    const { rows } = await client.query<{ name: string }>(
      'select quote_ident(rolname) as name from pg_roles where rolname like $1',
      [`%\\_${process.pid}`],
    );
    for (const { name } of rows) {
      await withClient(urlOf(system), (there) => there.query(`drop owned by ${name} cascade`)).catch(() => undefined);
      await client.query(`drop role ${name}`);
    }
  });
}

async function clear(): Promise<void> {
  await withClient(urlOf('postgres'), async (client) => {
    await client.query(`drop database if exists ${system} with (force)`);
    await client.query(`create database ${system}`);
    await client.query(`revoke connect on database ${system} from public`);
  });
  await dropRoles();
}

beforeAll(async () => {
  place = await freshDatabase();
  const home = await furnish(place.db);
  domainId = home.domainId;
  admin = (await loadWho(place.db, home.personId)) as Who;
  await clear();
  sourceId = await postgresSource(place.db, { name: 'Bookings', domainId, database: system, key: config.key });
});
afterEach(async () => {
  await place.db.run('delete from policy');
  await place.db.run('delete from native_match');
});
afterAll(async () => {
  await place.drop();
  await withClient(urlOf('postgres'), (client) => client.query(`drop database if exists ${system} with (force)`));
  await dropRoles();
});

/** What the server itself says that each login reads, as itself or as a role that it can take: `login schema.table.column`. */
async function readable(): Promise<string[]> {
  const { rows } = await sql(`
    select r.rolname || ' ' || n.nspname || '.' || c.relname || '.' || a.attname as it
    from pg_roles r, pg_class c
    join pg_namespace n on n.oid = c.relnamespace
    join pg_attribute a on a.attrelid = c.oid and a.attnum > 0 and not a.attisdropped
    where r.rolcanlogin and r.rolname like '%\\_${process.pid}' and c.relkind in ('r', 'v')
      and n.nspname !~ '^pg_' and n.nspname <> 'information_schema'
      and has_database_privilege(r.oid, current_database(), 'CONNECT')
      and exists (
        -- A member can take the other role, and reads then what that one reads.
        select
        from pg_roles o
        where pg_has_role(r.oid, o.oid, 'MEMBER')
          and has_schema_privilege(o.oid, n.oid, 'USAGE')
          and has_column_privilege(o.oid, c.oid, a.attnum, 'SELECT'))
    order by 1`);
  return rows.map(({ it }: { it: string }) => it);
}

/** What we say that each login reads. */
async function said(): Promise<string[]> {
  const { db } = place;
  const tables = await readTables(db, "t.source_id = $1 and t.kind in ('table', 'view')", [sourceId], [], 'any');
  const logins = await db.rows<{ name: string }>(
    'select name from native_role where source_id = $1 and login and name like $2',
    [sourceId, `%\\_${process.pid}`],
  );
  const found: string[] = [];
  for (const { name } of logins) {
    await db.run('delete from native_match');
    await db.run('insert into native_match (source_id, role) values ($1, $2)', [sourceId, name]);
    await db.run('insert into native_match_party (source_id, role, person_id) values ($1, $2, $3)', [
      sourceId,
      name,
      admin.id,
    ]);
    const ways = await nativeWays(db, admin.id, tables);
    for (const table of tables) {
      const mine = ways.get(table.id) ?? [];
      for (const column of table.columns)
        if (mine.some(({ columns }) => columns === null || columns.includes(column.name)))
          found.push(`${name} ${table.path}.${column.name}`);
    }
  }
  await db.run('delete from native_match');
  return found.sort();
}

const ROLES = ['r0', 'r1', 'r2', 'r3', 'r4'].map(role);
const TABLES = ['a.t0', 'a.t1', 'b.t2', 'b.v3'];
const COLUMNS = ['x', 'y', 'z'];

/** Rights as people might have given them over the years. */
const rights = fc.record({
  superuser: fc.option(fc.nat(4), { nil: null, freq: 5 }),
  readsAll: fc.subarray([0, 1, 2, 3, 4], { maxLength: 2 }),
  members: fc.uniqueArray(
    fc.tuple(fc.nat(4), fc.nat(4)).filter(([a, b]) => a > b),
    {
      maxLength: 4,
      selector: ([a, b]) => `${a} ${b}`,
    },
  ),
  owners: fc.tuple(fc.option(fc.nat(4)), fc.option(fc.nat(4))),
  connects: fc.array(fc.integer({ min: -1, max: 4 }), { maxLength: 4 }),
  uses: fc.array(fc.tuple(fc.constantFrom('a', 'b'), fc.integer({ min: -1, max: 4 })), { maxLength: 6 }),
  tables: fc.array(
    fc.record({
      table: fc.constantFrom(...TABLES),
      to: fc.integer({ min: -1, max: 4 }),
      columns: fc.option(fc.subarray(COLUMNS, { minLength: 1 }), { nil: null }),
      passes: fc.boolean(),
      on: fc.option(fc.nat(4), { nil: null }),
    }),
    { maxLength: 10 },
  ),
  kept: fc.subarray(
    TABLES.flatMap((table) => COLUMNS.map((column) => `${table}.${column}`)),
    { minLength: 2 },
  ),
});

const to = (at: number) => (at < 0 ? 'public' : ROLES[at]);

async function give(given: typeof rights extends fc.Arbitrary<infer T> ? T : never): Promise<void> {
  await clear();
  await sql(`
    ${ROLES.map((name, at) => `create role ${name} login${given.superuser === at ? ' superuser' : ''};`).join('\n')}
    ${given.members.map(([a, b]) => `grant ${ROLES[b]} to ${ROLES[a]};`).join('\n')}
    ${given.readsAll.map((at) => `grant pg_read_all_data to ${ROLES[at]};`).join('\n')}
    create schema a; create schema b;
    create table a.t0 (x int, y int, z int); create table a.t1 (x int, y int, z int); create table b.t2 (x int, y int, z int);
    create view b.v3 as select x, y, z from b.t2;
    ${given.owners[0] === null ? '' : `alter table a.t0 owner to ${ROLES[given.owners[0]]};`}
    ${given.owners[1] === null ? '' : `alter schema b owner to ${ROLES[given.owners[1]]};`}
    ${given.connects.map((at) => `grant connect on database ${system} to ${to(at)};`).join('\n')}
    ${given.uses.map(([schema, at]) => `grant usage on schema ${schema} to ${to(at)};`).join('\n')}
    alter default privileges in schema a grant select on tables to ${ROLES[0]};`);
  for (const { table, to: at, columns, passes, on } of given.tables) {
    const grant = (name: string | undefined, option: boolean) =>
      `grant select${columns ? ` (${columns.join(', ')})` : ''} on ${table} to ${name}${option ? ' with grant option' : ''}`;
    await sql(grant(to(at), passes && at >= 0));
    // What somebody may give on, they give on to somebody else, and these again, where the server lets them.
    if (passes && at >= 0 && on !== null && on !== at) {
      const third = (on + 1) % ROLES.length;
      const schema = table.slice(0, 1);
      await sql(
        `grant usage on schema ${schema} to ${ROLES[at]}, ${ROLES[on]}; set role ${ROLES[at]}; ${grant(ROLES[on], true)}`,
      ).catch(() => undefined);
      if (third !== at) await sql(`set role ${ROLES[on]}; ${grant(ROLES[third], false)}`).catch(() => undefined);
    }
  }
}

const wish = (bypass: BypassAnswer, more: Partial<PlanBody> = {}): PlanBody => ({
  sourceId: bypass.sourceId,
  how: bypass.how,
  holder: bypass.holder,
  through: bypass.through,
  schema: bypass.schema,
  scope: 'these',
  tableIds: [],
  keepColumns: true,
  later: true,
  ...more,
});

describe('rights at a source', () => {
  it('are what the server says, and plans do what they say and take it back', { timeout: 600_000 }, async () => {
    await fc.assert(
      fc.asyncProperty(rights, fc.boolean(), fc.nat(), async (given, keepColumns, pick) => {
        await place.db.run('delete from policy');
        await give(given);
        await scan();
        const before = await readable();
        expect(await said()).toEqual(before);

        // Some columns are nobody's to read as they are.
        const { db } = place;
        for (const table of TABLES) {
          const columns = given.kept
            .filter((column) => column.startsWith(`${table}.`))
            .map((column) => column.slice(-1));
          if (columns.length === 0) continue;
          await addPolicy(db, {
            name: `No ${table}`,
            effect: 'deny',
            everyone: true,
            assetIds: [await idOf(...table.split('.'))],
            columns,
          });
        }
        const { items } = await listBypasses(db, admin, { source: sourceId });
        // Each column that is kept from a login and that it reads all the same is opened by some right, and no other is.
        const [mine, closed] = [new Set(ROLES), new Set(given.kept)];
        const shown = items.flatMap(({ logins, shown: columns }) =>
          logins.flatMap(({ login }) =>
            mine.has(login) ? columns.map(({ table, column }) => `${login} ${table}.${column}`) : [],
          ),
        );
        const wanted = before.filter((one) => closed.has(one.slice(one.indexOf(' ') + 1)));
        expect(wanted.filter((one) => !shown.includes(one))).toEqual([]);

        const mendable = items.filter(
          ({ how, logins }) => (how === 'grant' || how === 'reads all') && logins.some(({ login }) => mine.has(login)),
        );
        const bypass = mendable[pick % Math.max(1, mendable.length)];
        if (bypass) {
          const plan = await planClosing(
            db,
            admin,
            wish(bypass, { keepColumns, scope: pick % 3 === 0 ? 'all' : 'these' }),
          );
          expect(plan.cannot).toEqual([]);
          await sql(plan.text).catch((e) => {
            throw new Error(e.message + plan.text);
          });
          const after = await readable();
          const lost = new Map<string, number>();
          for (const one of before)
            if (!after.includes(one)) lost.set(one.split(' ')[0] ?? '', (lost.get(one.split(' ')[0] ?? '') ?? 0) + 1);
          expect(after.filter((one) => !before.includes(one))).toEqual([]);
          expect(Object.fromEntries(lost)).toEqual(
            Object.fromEntries(plan.loses.map(({ login, columns }) => [login, columns])),
          );
          await scan();
          const then = await listBypasses(db, admin, { source: sourceId });
          expect(
            then.items.filter(
              ({ how, holder, schema }) => how === bypass.how && holder === bypass.holder && schema === bypass.schema,
            ),
          ).toEqual([]);
          await sql(plan.back).catch((e) => {
            throw new Error(e.message + plan.back);
          });
          expect(await readable()).toEqual(before);
        }
        await db.run('delete from policy');
      }),
      // The same ones each time, for a test that takes seconds a run; IDREL_TEST_RUNS tries others, as many as it says.
      RUNS > 0 ? { numRuns: RUNS, endOnFailure: true } : { numRuns: 10, seed: 7, endOnFailure: true },
    );
  });
});

describe('bypasses', () => {
  const names = {
    analyst: role('analyst'),
    group: role('reporting_all'),
    app: role('web_shop'),
    maker: role('loader'),
  };
  const only = (items: readonly BypassAnswer[], ours = true) =>
    items.filter(({ logins }) => logins.some(({ login }) => login.endsWith(`_${process.pid}`)) === ours);
  const list = async (query: Parameters<typeof listBypasses>[2] = { source: sourceId }, who = admin) =>
    only((await listBypasses(place.db, who, query)).items);
  const policyOn = async (table: string, more: Partial<Parameters<typeof addPolicy>[1]> = {}) =>
    addPolicy(place.db, {
      name: `Keeps ${table}`,
      effect: 'deny',
      everyone: true,
      assetIds: [await idOf('s', table)],
      ...more,
    });

  beforeEach(async () => {
    await clear();
    await sql(`
      create role ${names.analyst} login; create role ${names.group}; create role ${names.app} login; create role ${names.maker};
      grant ${names.group} to ${names.analyst};
      grant connect on database ${system} to ${names.analyst}, ${names.app};
      create schema s; grant usage on schema s to ${names.group}, ${names.app};
      create table s.guest (id int, mail text); create table s.fare (id int, price int);
      grant select on all tables in schema s to ${names.group};
      alter default privileges for role ${names.maker} in schema s grant select on tables to ${names.group};
      grant select (id) on s.guest to ${names.app}`);
    await scan();
  });

  it('are told with the chain, since when, how wide they are, and that what comes later is open too', async () => {
    expect(await list()).toEqual([]);
    await policyOn('guest');
    const [blanket, single, ...more] = await list();
    expect(more).toEqual([]);
    expect(blanket).toMatchObject({
      how: 'grant',
      holder: names.group,
      schema: 's',
      against: true,
      whole: true,
      later: true,
      tables: 1,
      columns: 2,
      policies: [{ name: 'Keeps guest' }],
      logins: [{ login: names.analyst, chain: [names.analyst, names.group], people: [], program: false }],
      used: null,
      accepted: null,
      mayMend: true,
    });
    expect(single).toMatchObject({
      holder: names.app,
      whole: false,
      later: false,
      columns: 1,
      shown: [{ column: 'id', told: 'refused' }],
    });
    // A later scan finds the same right, not a new one.
    await scan();
    expect((await list())[0]?.since).toBe(blanket?.since);
  });

  it('are compared with the policies for whoever comes in, people, groups or programs', async () => {
    const { db } = place;
    const group = await db.one<{ id: string }>("insert into person_group (name) values ('Analysts') returning id");
    const maud = await personWith(db, 'maud@example.org', 'reader', domainId);
    await db.run('insert into group_member (group_id, person_id) values ($1, $2)', [group?.id, maud.id]);
    await policyOn('guest', { everyone: false, groupIds: [group?.id ?? ''] });
    // Nobody said yet who it is: only policies for everyone hold.
    expect(await list()).toEqual([]);
    const say = (
      version: number,
      body: { personIds?: string[]; groupIds?: string[]; program?: boolean },
      who = admin,
    ) =>
      db.transaction((tx) =>
        matchRole(tx, who, sourceId, version, {
          role: names.analyst,
          personIds: [],
          groupIds: [],
          program: false,
          ...body,
        }),
      );
    const said = await say(0, { groupIds: [group?.id ?? ''] });
    expect(said).toMatchObject({ version: 1, groups: [{ name: 'Analysts' }], said: { by: 'Nils Test' } });
    expect((await list())[0]?.logins).toMatchObject([{ people: [{ name: 'maud@example.org' }] }]);

    // What somebody else said meanwhile is not overwritten; nonsense is refused, and changes nothing.
    expect(await refused(say(0, { program: true }))).toMatchObject({ status: 412, current: { version: 1 } });
    expect(await refused(say(1, { program: true, groupIds: [group?.id ?? ''] }))).toMatchObject({ status: 422 });
    expect(await refused(say(1, { personIds: ['11111111-1111-4111-8111-111111111111'] }))).toMatchObject({
      status: 422,
    });
    const far = await db.one<{ id: string }>("insert into domain (name) values ('Far') returning id");
    const other = await personWith(db, 'other@example.org', 'policy administrator', far?.id ?? '');
    expect(await refused(say(1, { program: true }, other))).toMatchObject({ status: 404 });
    const near = await personWith(db, 'near@example.org', 'steward', domainId);
    expect(await refused(say(1, { program: true }, near))).toMatchObject({ status: 403 });
    expect(await say(1, { program: true })).toMatchObject({ version: 2, program: true, groups: [] });
    expect(await list()).toEqual([]);
    const told = await db.rows<{ action: string; name: string }>(
      "select action, subject_name as name from journal where subject_kind = 'native right' order by at",
    );
    expect(told.map(({ action, name }) => [action, name])).toEqual([
      ['matched', `Bookings: ${names.analyst}`],
      ['matched', `Bookings: ${names.analyst}`],
    ]);

    // The other side: what the person reads at the source stands where their rights are explained.
    await say(2, { personIds: [maud.id] });
    const tables = await readTables(db, 't.id = $1', [await idOf('s', 'guest')], [], 'any');
    expect([...(await nativeWays(db, maud.id, tables)).values()]).toMatchObject([
      [{ login: names.analyst, how: 'grant', chain: [names.analyst, names.group], columns: null }],
    ]);
    expect((await nativeWays(db, admin.id, tables)).size).toBe(0);

    // Who leaves is known to come in as it no longer; the login itself is left for somebody to look at.
    const logins = POLICIES_HELD.find(({ what }) => what === 'logins at sources');
    expect(await logins?.list(db, maud.id)).toMatchObject({
      count: 1,
      first: [{ name: `${names.analyst} of Bookings` }],
    });
    await db.transaction(async (tx) => logins?.pass(tx, admin, maud.id, null));
    expect(await logins?.list(db, maud.id)).toMatchObject({ count: 0 });
    expect(await refused(say(3, { program: true }))).toMatchObject({
      status: 412,
      current: { version: 4, people: [] },
    });
    expect(
      await db.one("select action, before from journal where subject_kind = 'native right' order by at desc limit 1"),
    ).toEqual({ action: 'left', before: { people: 'maud@example.org' } });
  });

  it('are gone when the plan was run, for what is there and what comes, and come back with what takes it back', async () => {
    await policyOn('guest', { columns: ['mail'] });
    const [blanket] = await list();
    const plan = await planClosing(place.db, admin, wish(blanket as BypassAnswer));
    expect(plan).toMatchObject({
      tables: 1,
      loses: [{ login: names.analyst, tables: 1, columns: 1, byPolicy: 0, used: null }],
      still: [],
    });
    const reads = (column: string, table: string) =>
      sql(`set role ${names.analyst}; select ${column} from ${table}`).then(
        () => true,
        () => false,
      );
    expect(await reads('mail', 's.guest')).toBe(true);
    await sql(plan.text);
    await sql(
      `set role ${names.maker}; reset role; grant create on schema s to ${names.maker}; set role ${names.maker}; create table s.later (id int)`,
    );
    expect(
      await Promise.all([
        reads('mail', 's.guest'),
        reads('id', 's.guest'),
        reads('id', 's.fare'),
        reads('id', 's.later'),
      ]),
    ).toEqual([false, true, true, false]);
    await scan();
    expect(await list()).toEqual([]);
    await sql(plan.back);
    await scan();
    expect(await list()).toMatchObject([{ holder: names.group, later: true }]);
  });

  it('say what a plan for a whole schema closes, and who reads on by another right', async () => {
    await policyOn('guest');
    await sql(`grant select on s.guest to ${names.analyst}`);
    await scan();
    const found = await list();
    const blanket = found.find(({ holder }) => holder === names.group) as BypassAnswer;
    const plan = await planClosing(place.db, admin, wish(blanket, { scope: 'schema' }));
    expect(plan.tables).toBe(2);
    expect(plan.loses).toMatchObject([{ login: names.analyst, tables: 1, columns: 2 }]);
    expect(plan.still).toMatchObject([
      { login: names.analyst, tables: 1, by: [{ how: 'grant', holder: names.analyst }] },
    ]);
    expect(await refused(planClosing(place.db, admin, wish({ ...blanket, holder: 'nobody' })))).toMatchObject({
      status: 404,
    });
  });

  it('are accepted for a reason, as far as they go; what comes beyond is told', async () => {
    const { db } = place;
    await policyOn('guest', { columns: ['mail'] });
    const [blanket] = await list();
    const { sourceId: source, how, holder, through, schema } = blanket as BypassAnswer;
    const which = { sourceId: source, how, holder, through, schema };
    const accept = (reason: string, until: string | null = null, who = admin) =>
      db.transaction((tx) => acceptBypass(tx, who, { ...which, reason, until }));
    const near = await personWith(db, 'nearer@example.org', 'steward', domainId);
    expect(await refused(accept('No', null, near))).toMatchObject({ status: 403 });
    await accept('Reporting moves in spring.');
    expect((await list())[0]?.accepted).toMatchObject({
      reason: 'Reporting moves in spring.',
      by: 'Nils Test',
      more: 0,
    });
    await policyOn('fare');
    const [wider] = await list();
    expect(wider?.accepted).toMatchObject({ more: 2 });
    await accept('Still.', '2020-01-01T00:00:00.000Z');
    expect((await list())[0]?.accepted).toBeNull();
    await accept('Still.');
    const id = (await list())[0]?.accepted?.id ?? '';
    expect(await refused(db.transaction((tx) => forgetAccepted(tx, near, id)))).toMatchObject({ status: 403 });
    await db.transaction((tx) => forgetAccepted(tx, admin, id));
    expect((await list())[0]?.accepted).toBeNull();
    expect(await refused(db.transaction((tx) => forgetAccepted(tx, admin, id)))).toMatchObject({ status: 404 });
  });

  it('are told only of what one may see, and with names of policies that one may see', async () => {
    const { db } = place;
    const crewing = await db.one<{ id: string }>("insert into domain (name) values ('Crewing') returning id");
    const id = await policyOn('guest');
    const other = await personWith(db, 'far@example.org', 'policy administrator', crewing?.id ?? '');
    const near = await personWith(db, 'here@example.org', 'policy administrator', domainId);
    expect(await list({}, other)).toEqual([]);
    expect(await refused(listBypasses(db, other, { source: sourceId }))).toMatchObject({ status: 404 });
    expect(await refused(listBypasses(db, other, { policy: id }))).toMatchObject({ status: 404 });
    const reader = await personWith(db, 'reads@example.org', 'reader', domainId);
    expect(await refused(listBypasses(db, reader, {}))).toMatchObject({ status: 403 });
    expect(await list({ policy: id }, near)).toHaveLength(2);
    expect(await list({ asset: await idOf('s', 'fare') }, near)).toEqual([]);
    expect(await list({ asset: await idOf('s') }, near)).toHaveLength(2);
    // The table lies elsewhere: it is not theirs to see, nor what opens it.
    await db.run('update asset set domain_id = $1 where id = $2', [crewing?.id, await idOf('s', 'guest')]);
    expect(await list({}, near)).toEqual([]);
    await db.run('update asset set domain_id = $1 where id = $2', [domainId, await idOf('s', 'guest')]);
  });

  it('are counted with how often they were used', async () => {
    const { db } = place;
    await policyOn('guest');
    const [, mail] = [await idOf('s', 'guest'), await idOf('s', 'guest', 'mail')];
    const statement = await db.one<{ id: string }>(
      "insert into asked_statement (id, source_id, print, text) values (gen_random_uuid(), $1, 'p', 'select mail from s.guest') returning id",
      [sourceId],
    );
    await db.run('insert into asked_for (asset_id, statement_id, how) values ($1, $2, $3)', [
      mail,
      statement?.id,
      ['shown'],
    ]);
    await db.run('insert into asked_by (statement_id, role, calls) values ($1, $2, 7)', [statement?.id, names.analyst]);
    const [blanket] = await list();
    expect(blanket?.used).toMatchObject({ times: 7 });
    const plan = await planClosing(db, admin, wish(blanket as BypassAnswer));
    expect(plan.loses[0]?.used).toMatchObject({ times: 7 });
  });

  it('suggest who comes in, for logins of which nothing was said', async () => {
    const { db } = place;
    await db.run("insert into person (name, email) values ('Ana Lyst', 'analyst_' || $1 || '@example.org')", [
      process.pid,
    ]);
    const { roles, mayMatch } = await nativeRoles(db, admin, sourceId);
    expect(mayMatch).toBe(true);
    const named = (name: string) => roles.find((one) => one.name === name);
    expect(named(names.analyst)).toMatchObject({
      login: true,
      version: 0,
    });
    expect(named(names.analyst)?.suggestions[0]).toMatchObject({ name: 'Ana Lyst', isGroup: false });
    expect(named(names.group)).toMatchObject({ login: false, suggestions: [] });
    expect(roles.some(({ name }) => name.startsWith('pg_'))).toBe(false);
  });
});

describe('who can read what', () => {
  it('is listed from both sides: by the policies, and by rights at the source', async () => {
    const { db } = place;
    const [analyst, app] = [role('analyst'), role('web_shop')];
    await clear();
    await sql(`
      create role ${analyst} login; create role ${app} login; grant connect on database ${system} to ${analyst}, ${app};
      create schema s; grant usage on schema s to public;
      create table s.guest (id int, mail text); create table s.fare (id int, price int);
      grant select (mail) on s.guest to ${analyst}; grant select on s.fare to ${app}`);
    await scan();
    const ane = await personWith(db, 'ane@example.org', 'reader', domainId);
    const bo = await personWith(db, 'bo@example.org', 'reader', domainId);
    await addPolicy(db, { name: 'Ane reads', personIds: [ane.id], assetIds: [await idOf('s')] });
    await addPolicy(db, {
      name: 'Mail is blank',
      effect: 'protect',
      everyone: true,
      assetIds: [await idOf('s', 'guest')],
      columns: ['mail'],
      mask: { kind: 'blank' },
    });
    await addPolicy(db, {
      name: 'One fare',
      effect: 'protect',
      everyone: true,
      assetIds: [await idOf('s', 'fare')],
      rows: { column: 'id', values: ['1'], attribute: null, through: null },
    });
    await db.run('insert into native_match (source_id, role) values ($1, $2)', [sourceId, analyst]);
    await db.run('insert into native_match_party (source_id, role, person_id) values ($1, $2, $3)', [
      sourceId,
      analyst,
      bo.id,
    ]);

    const whole = await readersOf(db, admin, await idOf('s'), null);
    expect(whole).toMatchObject({ tables: 2, columns: 4, total: 2 });
    expect(whole.people).toMatchObject([
      { person: 'ane@example.org', access: 'partly', tables: 2, plain: 3, masked: 1, limited: true, atSource: [] },
      {
        person: 'bo@example.org',
        access: 'no',
        tables: 0,
        plain: 0,
        policies: [],
        atSource: [{ login: analyst, how: 'grant', holder: analyst, tables: 1 }],
      },
    ]);
    expect(whole.people[0]?.policies.map(({ name }) => name).sort()).toEqual([
      'Ane reads',
      'Mail is blank',
      'One fare',
    ]);
    expect(whole.logins.filter(({ how }) => how === 'grant')).toMatchObject([
      { login: app, source: 'Bookings', program: false },
    ]);
    // One column alone: who reads another of the table does not read it.
    const id = await readersOf(db, admin, await idOf('s', 'guest', 'id'), null);
    expect(id).toMatchObject({
      tables: 1,
      columns: 1,
      people: [{ person: 'ane@example.org', access: 'yes', plain: 1, masked: 0 }],
    });

    expect(await readableBy(db, admin, ane.id, null)).toMatchObject({
      total: 2,
      plain: 3,
      masked: 1,
      sensitive: 0,
      tables: [
        { table: 's.fare', access: 'partly', plain: 2, limited: true },
        { table: 's.guest', access: 'partly', plain: 1, masked: 1, limited: false },
      ],
    });
    expect((await readableBy(db, bo, bo.id, null)).tables).toMatchObject([
      { table: 's.guest', access: 'no', atSource: [{ login: analyst }] },
    ]);

    // Whose it is not to know is told nothing.
    expect(await refused(readersOf(db, bo, await idOf('s'), null))).toMatchObject({ status: 403 });
    expect(await refused(readableBy(db, bo, ane.id, null))).toMatchObject({ status: 403 });
    const far = await db.one<{ id: string }>("insert into domain (name) values ('Quay') returning id");
    const other = await personWith(db, 'quay@example.org', 'policy administrator', far?.id ?? '');
    expect(await readableBy(db, other, ane.id, null)).toMatchObject({ total: 0, plain: 0, tables: [] });
    expect(await refused(readersOf(db, other, await idOf('s'), null))).toMatchObject({ status: 404 });
  });
});
