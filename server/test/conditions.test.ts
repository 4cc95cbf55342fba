import type { PolicyBody } from '@idrel/contract/access';
import type { Mask } from '@idrel/core/access';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { checkedPolicies } from '../src/access/checked.ts';
import { prepare } from '../src/access/gateway.ts';
import { letGo, letGoEffect, listHeld } from '../src/access/held.ts';
import { tendMatches } from '../src/access/matches.ts';
import { changePolicy, createPolicy, listPolicies } from '../src/access/policies.ts';
import { reach } from '../src/access/reach.ts';
import { openGateway, runPrepared, type TextRow } from '../src/access/runQuery.ts';
import { callablesOf } from '../src/access/sourceCallables.ts';
import { loadWho, type Who } from '../src/people/index.ts';
import { addPerson, attributesOfPeople, changePerson, getPerson } from '../src/people/manage.ts';
import { executeRun } from '../src/scanning/index.ts';
import {
  addPolicy,
  freshDatabase,
  furnish,
  personWith,
  policyBody,
  postgresSource,
  refused,
  testConfig,
  urlOf,
  withClient,
} from './place.ts';

/** What a policy asks for beside people and assets, on a database that is there. */
const system = `conditions_${process.pid}`;
const config = testConfig();
let place: Awaited<ReturnType<typeof freshDatabase>>;
let sourceId: string;
let admin: Who;
const ids: Record<string, string> = {};

const SCHEMA = `
  create table booking (id int, port text, guest text, born date, postcode text, mail text, fare numeric(10,2), seats int);
  insert into booking values
    (1, 'Skarn', 'Aud Nesset', '1961-05-03', 'UV12 4AB', 'aud@nesset.example', 120.40, 2),
    (2, 'Ulvey', 'Ole Vik', '1990-02-11', 'SK3 9QX', 'ole@vik.example', 89.90, 1),
    (3, 'Ulvey', null, null, null, null, null, null);
  create table port_reader (login text, port text);
  insert into port_reader values ('ulvey@example.org', 'Ulvey'), ('region west', 'Skarn'), ('other@example.org', 'Skarn');
`;

beforeAll(async () => {
  place = await freshDatabase();
  const { db } = place;
  const home = await furnish(db);
  admin = (await loadWho(db, home.personId)) as Who;
  await withClient(urlOf('postgres'), (client) => client.query(`create database ${system}`));
  await withClient(urlOf(system), (client) => client.query(SCHEMA));
  sourceId = await postgresSource(db, { name: 'Bookings', domainId: home.domainId, database: system, key: config.key });
  const [run] = await db.rows<{ id: string }>(
    'insert into scan_run (source_id, options) values ($1, \'{"sample": false}\') returning id',
    [sourceId],
  );
  await executeRun(db, config, run?.id ?? '');
  for (const { name, id } of await db.rows<{ name: string; id: string }>(
    "select name, id from asset where source_id = $1 and kind = 'table'",
    [sourceId],
  ))
    ids[name] = id;
  for (const name of ['ulvey', 'skarn', 'nobody'])
    ids[name] = (await personWith(db, `${name}@example.org`, 'reader', home.domainId)).id;
});
afterAll(async () => {
  await place.drop();
  await withClient(urlOf('postgres'), (client) => client.query(`drop database if exists ${system} with (force)`));
});
beforeEach(async () => {
  await place.db.run('delete from policy');
  await addPolicy(place.db, { name: 'Reads', everyone: true, assetIds: [ids.booking ?? ''] });
});

async function read(person: string, sql: string, purpose: string | null = null): Promise<TextRow[]> {
  const gateway = await openGateway(place.db, config, sourceId);
  const { callables } = await callablesOf(sourceId, 1, gateway.client);
  const rows: TextRow[] = [];
  try {
    const prepared = await prepare(place.db, callables, { personId: ids[person] ?? '', purpose }, sourceId, sql);
    await runPrepared(gateway, config, prepared, { rows: 100, bytes: 1e6, seconds: 30 }, (_, batch) => {
      rows.push(...batch);
    });
    return rows;
  } finally {
    await gateway.leave(true);
  }
}
const draft = (more: Partial<PolicyBody>) => policyBody({ assetIds: [ids.booking ?? ''], ...more });
const make = (more: Partial<PolicyBody>) => place.db.transaction((tx) => createPolicy(tx, admin, draft(more)));
const attributes = async (person: string, given: { key: string; values: string[] }[]) => {
  const now = await getPerson(place.db, admin, ids[person] ?? '');
  await place.db.transaction((tx) =>
    changePerson(tx, admin, now.id, now.version, {
      name: now.name,
      email: now.email ?? '',
      job: now.job,
      groupIds: now.groups.map(({ id }) => id),
      grants: now.grants.map(({ role, domainId }) => ({ role, domainId })),
      attributes: given,
    }),
  );
};

describe('rows by the reader', () => {
  it('are those of their own attributes; who has none sees none', async () => {
    await attributes('skarn', [{ key: 'port', values: ['Skarn', 'Nowhere'] }]);
    await make({ rows: { column: 'port', values: [], attribute: 'port', through: null } });
    expect(await read('skarn', 'select id from booking order by id')).toEqual([['1']]);
    expect(await read('nobody', 'select count(*) from booking')).toEqual([['0']]);
    await attributes('skarn', [{ key: 'port', values: ['Ulvey'] }]);
    expect(await read('skarn', 'select id from booking order by id')).toEqual([['2'], ['3']]);
    expect((await attributesOfPeople(place.db, admin)).find(({ key }) => key === 'port')).toEqual({
      key: 'port',
      people: 1,
      values: ['Ulvey'],
    });
    // Only administrators, and they themselves, are told what is known of somebody.
    expect(
      (await getPerson(place.db, (await loadWho(place.db, ids.nobody ?? '')) as Who, ids.skarn ?? '')).attributes,
    ).toBeNull();
  });

  it('are those that a table of rights gives them, as it says when they read', async () => {
    const through = { tableId: ids.port_reader ?? '', column: 'port', reader: 'login', by: 'email' };
    await make({ rows: { column: 'port', values: [], attribute: null, through } });
    expect(await read('ulvey', 'select id from booking order by id')).toEqual([['2'], ['3']]);
    expect(await read('nobody', 'select id from booking')).toEqual([]);
    await withClient(urlOf(system), (client) =>
      client.query("insert into port_reader values ('nobody@example.org', 'Skarn')"),
    );
    expect(await read('nobody', 'select id from booking')).toEqual([['1']]);
    // The table of rights itself is not opened by it.
    await expect(read('ulvey', 'select * from port_reader')).rejects.toMatchObject({ code: 'refused-no-access' });
    const [policy] = await listPolicies(place.db, admin);
    expect(policy?.rights).toContain('port_reader');
    // By what is known of the reader instead of by their address; and nothing when the table has gone.
    const { id, version } = policy as { id: string; version: number };
    await attributes('skarn', [{ key: 'role', values: ['region west'] }]);
    await place.db.transaction((tx) =>
      changePolicy(
        tx,
        admin,
        id,
        version,
        draft({ rows: { column: 'port', values: [], attribute: null, through: { ...through, by: 'role' } } }),
      ),
    );
    expect(await read('skarn', 'select id from booking')).toEqual([['1']]);
    await place.db.run('update asset set gone_at = now() where id = $1', [ids.port_reader]);
    expect(await read('skarn', 'select id from booking')).toEqual([]);
    await place.db.run('update asset set gone_at = null where id = $1', [ids.port_reader]);
  });

  it('are told only together, by a column that the reader need not read', async () => {
    await make({ rows: { column: 'id', values: [], attribute: null, through: null, least: 2 } });
    expect(await read('nobody', 'select port, count(*) from booking group by port order by 1')).toEqual([
      ['Ulvey', '2'],
    ]);
    await expect(read('nobody', 'select port from booking')).rejects.toMatchObject({
      code: 'refused-together',
      more: { mend: 'Ask for counts, sums or averages, for all of it or with GROUP BY.' },
    });
    // No row by itself, and nothing that was counted of single ones.
    expect(
      await refused(make({ rows: { column: 'id', values: ['1'], attribute: null, through: null, least: 2 } })),
    ).toMatchObject({
      status: 422,
      detail:
        'The policy does not say by which of the two rows are limited: which they are, or how many are told together.',
    });
  });

  it('are refused where the table of rights is not one', async () => {
    const through = { tableId: ids.port_reader ?? '', column: 'harbour', reader: 'login', by: 'email' };
    expect(await refused(make({ rows: { column: 'port', values: [], attribute: null, through } }))).toMatchObject({
      status: 422,
      detail: expect.stringContaining('a table of rights that is not there'),
    });
    expect(await refused(make({ rows: { column: ' ', values: [], attribute: 'port', through: null } }))).toMatchObject({
      status: 422,
      detail: 'The policy does not say the column that limits the rows.',
    });
  });
});

describe('what a filter finds', () => {
  const tagged = async (id: string, key: string) => {
    const known = await place.db.one<{ id: string }>('select id from tag where name = $1', [key]);
    const made =
      known ?? (await place.db.one<{ id: string }>('insert into tag (name) values ($1) returning id', [key]));
    await place.db.run('insert into asset_tag (asset_id, tag_id) values ($1, $2)', [id, made?.id]);
  };
  const untagged = (id: string) => place.db.run('delete from asset_tag where asset_id = $1', [id]);
  const columnOf = async (name: string) =>
    (await place.db.one<{ id: string }>('select id from asset where parent_id = $1 and name = $2', [ids.booking, name]))
      ?.id ?? '';

  it('is read when it comes to be found, and not when it no longer is', async () => {
    await place.db.run('delete from policy');
    await make({ effect: 'allow', assetIds: [], filter: 'tag:open or name:port_reader' });
    expect(await read('nobody', 'select count(*) from port_reader')).not.toEqual([]);
    await expect(read('nobody', 'select 1 from booking')).rejects.toMatchObject({ code: 'refused-no-access' });
    await tagged(ids.booking ?? '', 'open');
    expect(await read('nobody', 'select count(*) from booking')).toEqual([['3']]);
    await untagged(ids.booking ?? '');
    await expect(read('nobody', 'select 1 from booking')).rejects.toMatchObject({ code: 'refused-no-access' });
    // What is found may be one column.
    await tagged(await columnOf('seats'), 'open');
    expect(await read('nobody', 'select * from booking order by seats')).toEqual([['1'], ['2'], [null]]);
    await untagged(await columnOf('seats'));
  });

  it('stays protected when it is found no longer, until somebody with the right lets it go', async () => {
    const mail = await columnOf('mail');
    await tagged(mail, 'personal');
    await make({ assetIds: [], filter: 'tag:personal', mask: { kind: 'fixed', text: 'withheld' } });
    const seen = async () => (await read('nobody', 'select mail from booking where id = 1'))[0]?.[0];
    expect(await seen()).toBe('withheld');
    expect(await listHeld(place.db, admin)).toEqual([]);
    await untagged(mail);
    expect(await seen()).toBe('withheld');
    await tendMatches(place.db);
    const [held] = await listHeld(place.db, admin);
    expect(held).toMatchObject({ assetId: mail, classKey: null, filter: 'tag:personal', mayLetGo: true });
    const by = { policy: held?.policies[0]?.id ?? '' };
    // To save it as it is changes nothing; another filter lets go of what this one held.
    const asIfSaved = async (filter: string) =>
      (
        await reach(
          place.db,
          admin,
          by.policy,
          draft({ assetIds: [], filter, mask: { kind: 'fixed', text: 'withheld' } }),
        )
      ).rows.filter(({ personId }) => personId === ids.nobody);
    expect(await asIfSaved('tag:personal')).toEqual([]);
    expect(await asIfSaved('tag:else')).toMatchObject([{ column: 'mail', before: 'masked', after: 'plain' }]);
    const effect = await letGoEffect(place.db, admin, mail, by);
    expect(effect.rows.find(({ person }) => person === 'nobody@example.org')).toMatchObject({
      table: 'public.booking',
      column: 'mail',
      before: 'masked',
      after: 'plain',
    });
    expect(await seen()).toBe('withheld');
    const reader = (await loadWho(place.db, ids.nobody ?? '')) as Who;
    expect(await refused(place.db.transaction((tx) => letGo(tx, reader, mail, by)))).toMatchObject({ status: 403 });
    await place.db.transaction((tx) => letGo(tx, admin, mail, by));
    expect(await seen()).toBe('aud@nesset.example');
    expect(await refused(place.db.transaction((tx) => letGo(tx, admin, mail, by)))).toMatchObject({ status: 404 });
    // Found again, it is held again.
    await tagged(mail, 'personal');
    await tendMatches(place.db);
    await untagged(mail);
    expect(await seen()).toBe('withheld');
    // Whoever may change the policy says anew what it holds for.
    const [policy] = (await listPolicies(place.db, admin)).filter(({ filter }) => filter !== null);
    await place.db.transaction((tx) =>
      changePolicy(tx, admin, policy?.id ?? '', policy?.version ?? 0, {
        ...draft({ assetIds: [], filter: 'tag:confidential', mask: { kind: 'fixed', text: 'withheld' } }),
      }),
    );
    expect(await seen()).toBe('aud@nesset.example');
  });

  it('is counted before it is saved, and what no right may rest on is refused in place', async () => {
    await tagged(await columnOf('guest'), 'counted');
    const answer = await reach(
      place.db,
      admin,
      null,
      draft({ assetIds: [], filter: 'tag:counted', mask: { kind: 'blank' } }),
    );
    expect([...new Set(answer.rows.map(({ column }) => column))]).toEqual(['guest']);
    expect(answer.people).toBeGreaterThan(2);
    for (const [filter, detail] of [
      ['tag:a guests', 'A policy does not hold by words: “guests” can stand in any description. (at character 7)'],
      [
        'used>=100',
        'A policy does not hold by used: rights do not hang on how often something is read. (at character 1)',
      ],
      ['tag:', expect.any(String)],
    ] as const)
      expect(await refused(make({ name: 'Odd', assetIds: [], filter, mask: { kind: 'blank' } }))).toMatchObject({
        status: 422,
        detail,
      });
    await untagged(await columnOf('guest'));
  });

  it('by a class means columns that have it, not the table with all others', async () => {
    await place.db.run(
      "insert into finding_decision (asset_id, class_key, decision, decided_by) values ($1, 'email', 'confirmed', $2)",
      [await columnOf('mail'), admin.id],
    );
    await make({ assetIds: [], filter: 'class:email', mask: { kind: 'blank' } });
    expect(await read('nobody', 'select mail, guest from booking where id = 1')).toEqual([[null, 'Aud Nesset']]);
  });
});

describe('before it is saved', () => {
  it('who would get other rows is told, and what is in use', async () => {
    const rows = { column: 'port', values: ['Skarn'], attribute: null, through: null };
    const [nobody, guest] = [
      ids.nobody ?? '',
      await place.db.one<{ id: string }>("select id from asset where parent_id = $1 and name = 'guest'", [ids.booking]),
    ];
    const statement = '6e3f0b0e-0000-4000-8000-00000000000a';
    await place.db.run(
      "insert into asked_statement (id, source_id, print) values ($1, $2, 'p') on conflict do nothing",
      [statement, sourceId],
    );
    await place.db.run('insert into asked_by (statement_id, person_id, calls) values ($1, $2, 4)', [statement, nobody]);
    await place.db.run(
      "insert into asked_for (asset_id, statement_id, how) values ($1, $3, '{shown}'), ($2, $3, '{shown}')",
      [ids.booking, guest?.id, statement],
    );
    const limit = await reach(place.db, admin, null, draft({ rows }));
    expect(limit.rows).toEqual([]);
    expect(limit.limited.find(({ personId }) => personId === nobody)).toEqual({
      personId: nobody,
      person: 'nobody@example.org',
      tableId: ids.booking,
      table: 'public.booking',
      before: [],
      after: ['only rows where port is Skarn'],
    });
    expect(limit.used).toMatchObject([{ personId: nobody, table: 'public.booking', column: null, times: 4 }]);
    const through = { tableId: ids.port_reader ?? '', column: 'port', reader: 'login', by: 'email' };
    const byRights = await reach(
      place.db,
      admin,
      null,
      draft({ rows: { column: 'port', values: [], attribute: null, through } }),
    );
    expect(byRights.limited.find(({ personId }) => personId === nobody)?.after).toEqual([
      'only rows where port is one that a table of rights gives the reader',
    ]);
    const masked = await reach(place.db, admin, null, draft({ mask: { kind: 'blank' } }));
    expect(masked.used).toMatchObject([{ personId: nobody, table: 'public.booking', column: 'guest', times: 4 }]);
    // Nobody loses anything by what is allowed besides, and what was asked long ago is not in use.
    expect((await reach(place.db, admin, null, draft({ effect: 'allow' }))).used).toEqual([]);
    await place.db.run("update asked_by set moved_at = now() - interval '31 days'");
    expect((await reach(place.db, admin, null, draft({ mask: { kind: 'blank' } }))).used).toEqual([]);
  });

  it('policies that change nothing are named to who sees all that they hold for', async () => {
    await make({ name: 'Ended', until: '2020-01-01T00:00:00Z', mask: { kind: 'blank' } });
    await make({ name: 'Finds nothing', assetIds: [], filter: 'tag:there-is-none', mask: { kind: 'blank' } });
    await make({ name: 'Hides', columns: ['mail'], mask: { kind: 'partial', first: 1, last: 0 } });
    await make({ name: 'Joins', columns: ['mail'], mask: { kind: 'digest', keyed: 'installation' } });
    const name = new Map((await listPolicies(place.db, admin)).map((policy) => [policy.id, policy.name]));
    const checked = await checkedPolicies(place.db, admin);
    expect(checked.idle.map(({ policyId, because }) => [name.get(policyId), because])).toEqual([
      ['Ended', 'ended'],
      ['Finds nothing', 'nothing'],
    ]);
    expect(checked.clashes).toMatchObject([
      { policies: [{ name: 'Hides' }, { name: 'Joins' }], columns: 1, example: 'public.booking.mail' },
    ]);
    const reader = (await loadWho(place.db, ids.nobody ?? '')) as Who;
    expect(await refused(checkedPolicies(place.db, reader))).toMatchObject({ status: 403 });
  });
});

describe('when and what for', () => {
  it('what has ended holds no more, and what ends later holds still', async () => {
    await place.db.run('delete from policy');
    const reads = { effect: 'allow', mask: null } as const;
    await make({ ...reads, name: 'Until then', until: '2999-01-01T00:00:00.000Z' });
    expect(await read('nobody', 'select count(*) from booking')).toEqual([['3']]);
    await place.db.run("update policy set until = now() - interval '1 second'");
    await expect(read('nobody', 'select count(*) from booking')).rejects.toMatchObject({ code: 'refused-no-access' });
  });

  it('outside its hours it does not hold', async () => {
    await place.db.run('delete from policy');
    // Two days on, whenever midnight comes meanwhile.
    const today = new Date().getUTCDay();
    const other = { days: [((today + 1) % 7) + 1], from: '00:00', to: '23:59', zone: 'UTC' };
    await make({ effect: 'allow', mask: null, hours: other });
    await expect(read('nobody', 'select 1 from booking')).rejects.toMatchObject({ code: 'refused-no-access' });
    await place.db.run('update policy set hours = $1', [JSON.stringify({ ...other, days: [1, 2, 3, 4, 5, 6, 7] })]);
    // But for the last minute of a day it is within.
    if (new Date().toISOString().slice(11, 16) !== '23:59')
      expect(await read('nobody', 'select count(*) from booking')).toEqual([['3']]);
    expect(
      await refused(make({ name: 'Odd', mask: { kind: 'blank' }, hours: { ...other, zone: 'Mars/Base' } })),
    ).toMatchObject({ status: 422, detail: expect.stringContaining('time zone') });
  });

  it('a purpose opens to who states it, and who states none is told which there are', async () => {
    await place.db.run('delete from policy');
    await make({ effect: 'allow', mask: null, purposes: ['Complaint', 'Audit of the year'] });
    await expect(read('nobody', 'select guest from booking')).rejects.toMatchObject({
      code: 'refused-no-access',
      message: expect.stringContaining('only for a purpose, of “Audit of the year”, “Complaint”'),
    });
    await expect(read('nobody', 'select guest from booking', 'Curiosity')).rejects.toMatchObject({
      code: 'refused-no-access',
    });
    expect(await read('nobody', 'select count(guest) from booking', 'Complaint')).toEqual([['2']]);
    expect(await refused(make({ name: 'Odd', mask: { kind: 'blank' }, purposes: ['x'] }))).toMatchObject({
      status: 422,
      detail: expect.stringContaining('no purpose'),
    });
  });
});

describe('masks at the source', () => {
  it('a part that shows nothing is refused with what to choose instead', async () => {
    expect(await refused(make({ mask: { kind: 'partial', first: 0, last: 0 } }))).toMatchObject({
      status: 422,
      detail: 'The policy does not say which characters are shown: to show none, choose blank.',
    });
  });

  const masked = async (column: string, mask: Mask, person = 'nobody') => {
    await make({ name: `hides ${column}`, columns: [column], mask });
    return (await read(person, `select ${column} from booking order by id`)).map(([value]) => value);
  };

  it('hide values as they say, and compute on', async () => {
    expect(await masked('mail', { kind: 'general', to: 'host', step: null })).toEqual([
      'nesset.example',
      'vik.example',
      null,
    ]);
    expect(await masked('postcode', { kind: 'general', to: 'district', step: 2 })).toEqual(['UV…', 'SK…', null]);
    expect(await masked('fare', { kind: 'general', to: 'rounded', step: 50 })).toEqual(['100', '100', null]);
    expect(await read('nobody', 'select sum(fare) / 2, max(fare) from booking where fare > 50')).toEqual([
      [expect.stringMatching(/^100\.0*$/), '100'],
    ]);
    expect(await masked('guest', { kind: 'fixed', text: 'a guest' })).toEqual(['a guest', 'a guest', 'a guest']);
    const [seats, more] = await masked('seats', { kind: 'noise', spread: 3, of: 'unit' });
    expect(Math.abs(Number(seats) - 2)).toBeLessThanOrEqual(3);
    expect(Math.abs(Number(more) - 1)).toBeLessThanOrEqual(3);
    const [age] = await masked('born', { kind: 'general', to: 'age', step: 10 });
    expect(age).toMatch(/^[67]0–[67]9$/);
    // All but one column: those that come later as well.
    await place.db.run("delete from policy where name like 'hides%'");
    await make({ name: 'all but', columns: ['id', 'port'], columnsBut: true, mask: { kind: 'fixed', text: '-' } });
    expect(await read('nobody', 'select id, port, guest, mail from booking where id = 1')).toEqual([
      ['1', 'Skarn', '-', '-'],
    ]);
  });

  it('a digest of one organisation is not that of another, nor of the installation', async () => {
    await attributes('ulvey', [{ key: 'organisation', values: ['Ulvey Port'] }]);
    await attributes('skarn', [{ key: 'organisation', values: ['Skarn Port'] }]);
    const each = { kind: 'digest', keyed: 'organisation' } as const;
    const [of] = [await masked('mail', each, 'ulvey')];
    const sql = 'select mail from booking order by id';
    expect((await read('ulvey', sql)).map(([value]) => value)).toEqual(of);
    const others = (await read('skarn', sql)).map(([value]) => value);
    await place.db.run("delete from policy where name like 'hides%'");
    const common = await masked('mail', { kind: 'digest', keyed: 'installation' }, 'ulvey');
    expect((await read('skarn', sql)).map(([value]) => value)).toEqual(common);
    expect(new Set([of[0], others[0], common[0]]).size).toBe(3);
    for (const value of [of[0], others[0], common[0]]) expect(value).toMatch(/^[0-9a-f]{16}$/);
  });
});

it('people are added with what is known of them, and the journal tells it', async () => {
  const made = await place.db.transaction((tx) =>
    addPerson(tx, admin, {
      name: 'Siv Port',
      email: 'siv@example.org',
      job: '',
      groupIds: [],
      grants: [],
      attributes: [{ key: 'port', values: ['Skarn'] }],
    }),
  );
  expect(made.attributes).toEqual([{ key: 'port', values: ['Skarn'] }]);
  const [entry] = await place.db.rows<{ after: unknown }>(
    "select after from journal where after::text like '%port: Skarn%' limit 1",
  );
  expect(entry?.after).toMatchObject({ attributes: ['port: Skarn'] });
});
