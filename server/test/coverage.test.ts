import { coverageEndpoints } from '@idrel/contract/coverage';
import { courseOf } from '@idrel/core/coverage';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { changesOf, course, keepFigures, keepFiguresInTime } from '../src/coverage/course.ts';
import { readPrice, setPrice } from '../src/coverage/price.ts';
import { letterOf, mailOfReport, setReadsReports, tendReports } from '../src/coverage/report.ts';
import { coverage } from '../src/coverage/service.ts';
import { addTarget, changeTarget, listTargets, removeTarget } from '../src/coverage/targets.ts';
import { use } from '../src/coverage/use.ts';
import { week } from '../src/coverage/week.ts';
import { editAsset } from '../src/curation/index.ts';
import { removeDomain } from '../src/people/domains.ts';
import { loadWho, type Who } from '../src/people/index.ts';
import { mailbox } from './mailbox.ts';
import { finderHere, freshDatabase, furnish, personWith, refused } from './place.ts';

let place: Awaited<ReturnType<typeof freshDatabase>>;
let made: Awaited<ReturnType<typeof furnish>>;
let finder: ReturnType<typeof finderHere>;
let [below, elsewhere] = ['', ''];
let [steward, reader, admin] = [] as unknown as [Who, Who, Who];
const people: string[] = [];
const tables: string[] = [];
const one = async (sql: string, bind: unknown[] = []) => (await place.db.one<{ id: string }>(sql, bind))?.id ?? '';

beforeAll(async () => {
  place = await freshDatabase();
  const { db } = place;
  made = await furnish(db);
  finder = finderHere(db);
  below = await one("insert into domain (name, parent_id) values ('Wake Card', $1) returning id", [made.domainId]);
  elsewhere = await one("insert into domain (name) values ('Crewing') returning id");
  for (const name of ['Ida Holm', 'Bo Lind']) people.push((await personWith(db, name, 'reader', elsewhere)).id);
  for (const [nth, domain] of [made.domainId, below, elsewhere, made.domainId, below, elsewhere].entries())
    tables.push(
      await one(
        `insert into asset (source_id, domain_id, kind, name, key, depth, stats, first_seen) values ($1, $2, $3, $4, $4, 0, $5, now() - interval '100 days') returning id`,
        [made.sourceId, domain, nth % 2 ? 'view' : 'table', `t${nth}`, JSON.stringify({ bytes: (nth + 1) * 1000 })],
      ),
    );
  steward = await personWith(db, 'Sten Stern', 'steward', made.domainId);
  reader = await personWith(db, 'Rune Rand', 'reader', made.domainId);
  admin = (await loadWho(db, made.personId)) as Who;
});
afterAll(() => place?.drop());

/** Lets a day pass: all that was kept lies one day further back. */
const dayPasses = async () => {
  await place.db.run('update coverage_span set from_day = from_day - 1, until_day = until_day - 1');
  // One by one, the oldest first: two never share a day on the way.
  for (const { day } of await place.db.rows<{ day: string }>('select day::text from coverage_day order by day'))
    await place.db.run('update coverage_day set day = day - 1 where day = $1', [day]);
};
const forget = async () => {
  await place.db.run('delete from coverage_span');
  await place.db.run('delete from coverage_day');
};

describe('figures of days', () => {
  const DOMAINS = () => [made.domainId, below, elsewhere];
  type Change =
    | { readonly do: 'describe' | 'own' | 'let go' | 'go' | 'come'; readonly table: number; readonly who: number }
    | { readonly do: 'move'; readonly table: number; readonly to: number };
  const changes = fc.array(
    fc.oneof(
      fc.record({
        do: fc.constantFrom('describe' as const, 'own' as const, 'let go' as const, 'go' as const, 'come' as const),
        table: fc.nat(5),
        who: fc.nat(1),
      }),
      fc.record({ do: fc.constant('move' as const), table: fc.nat(5), to: fc.nat(2) }),
    ),
    { maxLength: 4 },
  );
  const apply = async (change: Change) => {
    const { db } = place;
    const table = tables[change.table];
    if (change.do === 'move')
      await db.run('update asset set domain_id = $2 where id = $1', [table, DOMAINS()[change.to]]);
    else if (change.do === 'describe')
      await db.run("update asset set description = case when description is null then 'Said' end where id = $1", [
        table,
      ]);
    else if (change.do === 'go') await db.run('update asset set gone_at = now() where id = $1', [table]);
    else if (change.do === 'come') await db.run('update asset set gone_at = null where id = $1', [table]);
    else if (change.do === 'own')
      await db.run(
        "insert into asset_person (asset_id, person_id, role) values ($1, $2, 'owner') on conflict do nothing",
        [table, people[change.who]],
      );
    else await db.run('delete from asset_person where asset_id = $1', [table]);
  };
  /** What is so now, told plainly: by each kind of key how many assets, how many described, how much room. */
  const now = async (domains: readonly string[]) => {
    const rows = await place.db.rows<{
      domain: string;
      above: string | null;
      kind: string;
      described: boolean;
      bytes: number;
      owners: string[];
    }>(
      `
        select a.domain_id as domain, d.parent_id as above, a.kind, a.description is not null as described,
          (a.stats ->> 'bytes')::float8 as bytes,
          coalesce((select array_agg(p.person_id::text) from asset_person p where p.asset_id = a.id), '{}') as owners
        from asset a
        join domain d on d.id = a.domain_id
        where a.gone_at is null and a.domain_id = any($1::uuid[])`,
      [domains],
    );
    const told: Record<string, [number, number, number]> = {};
    for (const row of rows)
      for (const key of [
        'all',
        `domain ${row.domain}`,
        ...(row.above ? [`domain ${row.above}`] : []),
        `kind ${row.kind}`,
        `source ${made.sourceId}`,
        'level none',
        ...(row.owners.length > 0 ? row.owners.map((owner) => `owner ${owner}`) : ['owner ']),
      ]) {
        const known = told[key] ?? [0, 0, 0];
        told[key] = [known[0] + 1, known[1] + Number(row.described), known[2] + row.bytes];
      }
    return told;
  };

  it('are told as they were on each day, whatever changed, to each who may see them', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(changes, { minLength: 1, maxLength: 5 }), async (days) => {
        await forget();
        const [mine, every] = [reader.domainsAs('reader'), admin.domainsAs('reader')];
        const was: { mine: Awaited<ReturnType<typeof now>>; every: Awaited<ReturnType<typeof now>> }[] = [];
        for (const [nth, day] of days.entries()) {
          if (nth > 0) await dayPasses();
          for (const change of day) await apply(change);
          // What was kept earlier on a day is kept no more.
          if (nth % 2 === 0) await keepFigures(place.db, finder);
          if (day.length > 0) await apply(day[0] as Change);
          await keepFigures(place.db, finder);
          was.push({ mine: await now(mine), every: await now(every) });
        }
        // Of days that are further apart the same is told of each.
        const kinds = await course(place.db, admin, { by: 'kind', measure: 'described', days: 30 });
        const some = kinds.days.filter((_, nth) => nth % 2 === (days.length - 1) % 2);
        const apart = courseOf(await changesOf(place.db, 'kind', 'described', { domains: every, days: some }), some, 2);
        for (const row of kinds.rows)
          expect(apart.get(row.key) ?? some.map(() => [0, 0])).toEqual(
            some.map((day) => [row.assets[kinds.days.indexOf(day)], row.met[kinds.days.indexOf(day)]]),
          );
        for (const [who, key] of [
          [reader, 'mine'],
          [admin, 'every'],
        ] as const)
          for (const by of ['domain', 'kind', 'source', 'level', 'owner'] as const) {
            const described = await course(place.db, who, { by, measure: 'described', days: 30 });
            const room = await course(place.db, who, { by, measure: 'bytes', days: 30 });
            expect(described.days).toHaveLength(days.length);
            was.forEach((expected, nth) => {
              expect(described.assets[nth]).toBe(expected[key].all?.[0] ?? 0);
              const told = Object.fromEntries(
                described.rows
                  .filter((row) => row.assets[nth] !== 0)
                  .map((row) => [
                    `${by} ${row.key}`,
                    [row.assets[nth], row.met[nth], room.rows.find((other) => other.key === row.key)?.met[nth]],
                  ]),
              );
              expect(told).toEqual(
                Object.fromEntries(Object.entries(expected[key]).filter(([name]) => name.startsWith(`${by} `))),
              );
            });
          }
      }),
      { numRuns: 12, endOnFailure: true },
    );
  });

  it('are one row as long as nothing changes, and are kept once an hour by whichever server comes', async () => {
    await forget();
    expect(await keepFiguresInTime(place.db, finder)).toBe(true);
    expect(await keepFiguresInTime(place.db, finder)).toBe(false);
    const before = await place.db.one('select count(*)::int as rows from coverage_span');
    await dayPasses();
    await dayPasses();
    await place.db.run("update coverage_day set at = now() - interval '2 days'");
    expect(await keepFiguresInTime(place.db, finder)).toBe(true);
    expect(await place.db.one('select count(*)::int as rows from coverage_span')).toEqual(before);
    expect((await course(place.db, admin, { by: 'kind', measure: 'owned', days: 90 })).days).toHaveLength(3);
  });

  it('go to the domain above when theirs is removed', async () => {
    await forget();
    const passing = await one("insert into domain (name, parent_id) values ('Passing', $1) returning id", [
      made.domainId,
    ]);
    const who = (await loadWho(place.db, made.personId)) as Who;
    await place.db.run('update asset set domain_id = $2, gone_at = null where id = $1', [tables[0], passing]);
    await keepFigures(place.db, finder);
    await dayPasses();
    await place.db.run('update asset set domain_id = $2 where id = $1', [tables[0], elsewhere]);
    await keepFigures(place.db, finder);
    await place.db.transaction((tx) => removeDomain(tx, who, passing));
    const after = await course(place.db, admin, { by: 'domain', measure: 'owned', days: 9 });
    const travel = after.rows.find(({ key }) => key === made.domainId);
    expect((travel?.assets[0] ?? 0) - (travel?.assets[1] ?? 0)).toBe(1);
    await place.db.run('update asset set domain_id = $2 where id = $1', [tables[0], made.domainId]);
  });

  it('of nothing kept are none, and of a domain that is not there an error', async () => {
    await forget();
    expect(await course(place.db, admin, { by: 'kind', measure: 'owned', days: 90 })).toMatchObject({
      days: [],
      rows: [],
      at: null,
    });
    expect(
      await refused(course(place.db, admin, { by: 'kind', measure: 'owned', days: 9, domain: people[0] as string })),
    ).toMatchObject({ status: 404 });
  });
});

describe('figures of now', () => {
  it('count for each owner what is theirs, and for nobody what has none', async () => {
    await place.db.run('update asset set gone_at = null, description = null, domain_id = $1', [made.domainId]);
    await place.db.run('delete from asset_person');
    for (const [nth, person] of people.entries())
      await place.db.run("insert into asset_person (asset_id, person_id, role) values ($1, $2, 'owner')", [
        tables[nth],
        person,
      ]);
    const answer = await coverage(place.db, finder, reader, 'owner');
    expect(answer.rows.map(({ name, assets, filter }) => [name, assets, filter])).toEqual([
      ['nobody', 4, 'owner:none'],
      ['Bo Lind', 1, 'owner:"Bo Lind"'],
      ['Ida Holm', 1, 'owner:"Ida Holm"'],
    ]);
    expect(answer.all.assets).toBe(6);
    expect(answer.all.bytes).toBe(21_000);
  });

  it('are narrowed to a domain, whose rows begin with it', async () => {
    await place.db.run('update asset set domain_id = $2 where id = $1', [tables[1], below]);
    const travel = await coverage(place.db, finder, admin, 'domain', made.domainId);
    expect(travel.rows.map(({ name, assets }) => [name, assets])).toEqual([
      ['Travel', 6],
      ['Wake Card', 1],
    ]);
    const kinds = await coverage(place.db, finder, admin, 'kind', below);
    expect(kinds.rows.map(({ name, assets, filter }) => [name, assets, filter])).toEqual([
      ['view', 1, 'domain:"Wake Card" kind:view'],
    ]);
    expect(await refused(coverage(place.db, finder, admin, 'kind', people[0]))).toMatchObject({ status: 404 });
  });

  it('call unused only what was here long enough, and whose source tells', async () => {
    const unused = async () => (await coverage(place.db, finder, admin, 'domain')).all.unusedBytes;
    expect(await unused()).toBe(0);
    const statement = await one(
      "insert into asked_statement (id, source_id, print) values (gen_random_uuid(), $1, 'p') returning id",
      [made.sourceId],
    );
    await place.db.run("insert into asked_by (statement_id, role, calls) values ($1, 'app', 3)", [statement]);
    // Whether a source tells is looked at when a run of it ends.
    await place.db.run("insert into scan_run (source_id, state, ended_at) values ($1, 'done', now())", [made.sourceId]);
    expect(await unused()).toBe(21_000);
    await place.db.run('insert into asset_use (asset_id, calls, roles, statements) values ($1, 3, 1, 1)', [tables[5]]);
    expect(await unused()).toBe(15_000);
    await place.db.run('update asset set first_seen = now() where id = $1', [tables[4]]);
    expect(await unused()).toBe(10_000);
    const told = await use(place.db, finder, reader);
    expect(told.totals).toEqual({ used: 1, unused: 4, untold: 0 });
    expect(told.popular.map(({ path, uses, lacks }) => [path, uses, lacks.length])).toEqual([['t5', 3, 4]]);
    expect(told.nudges.map(({ gain }) => gain)).toEqual([12]);
    expect(told.unused.map(({ path }) => path)).toEqual(['t3', 't2', 't1', 't0']);
    expect((await use(place.db, finder, reader, below)).unused.map(({ path }) => path)).toEqual(['t1']);
    const hers = (await loadWho(place.db, people[0] as string)) as Who;
    expect((await use(place.db, finder, hers)).totals).toEqual({ used: 0, unused: 0, untold: 0 });
  });
});

describe('targets', () => {
  const inDays = (days: number) => new Date(Date.now() + days * 86_400_000).toISOString().slice(0, 10);
  const body = (more: object = {}) => ({
    domainId: made.domainId,
    measure: 'owned',
    share: 0.9,
    byDay: inDays(50),
    ...more,
  });
  const add = (who: Who, more: object = {}) => place.db.transaction((tx) => addTarget(tx, who, body(more) as never));

  it('are set by the steward of a domain, one for each measure, for a day that lies ahead', async () => {
    await forget();
    await keepFigures(place.db, finder);
    expect(await refused(add(reader))).toMatchObject({ status: 403 });
    expect(await refused(add(steward, { domainId: elsewhere }))).toMatchObject({ status: 404 });
    expect(await refused(add(steward, { byDay: inDays(0) }))).toMatchObject({
      status: 422,
      detail: 'The day of a target lies ahead.',
    });
    expect(await refused(add(steward, { byDay: '2027-02-30' }))).toMatchObject({ status: 422 });
    expect(await refused(add(steward, { since: inDays(2) }))).toMatchObject({ status: 422 });
    const target = await add(steward);
    expect(target).toMatchObject({ domain: 'Travel', state: 'on course', assets: 6, pace: null, mayChange: true });
    expect(target.now).toBeCloseTo(2 / 6);
    expect(await refused(add(steward))).toMatchObject({
      status: 422,
      detail: 'The domain has a target for this measure already.',
    });
    expect((await listTargets(place.db, reader)).targets).toMatchObject([{ domain: 'Travel', mayChange: false }]);
    const hers = (await loadWho(place.db, people[0] as string)) as Who;
    expect((await listTargets(place.db, hers)).targets).toEqual([]);
  });

  it('tell where they lead by what was kept, are changed upon the version that was seen, and told by the journal', async () => {
    const [target] = (await listTargets(place.db, steward)).targets;
    for (let day = 0; day < 10; day += 1) await dayPasses();
    await place.db.run('update coverage_target set since = since - 10');
    await place.db.run("insert into asset_person (asset_id, person_id, role) values ($1, $2, 'owner')", [
      tables[2],
      people[0],
    ]);
    await keepFigures(place.db, finder);
    const [later] = (await listTargets(place.db, steward)).targets;
    // One of six more in ten days: of sixty days ten are over, and a sixth of the way is due.
    expect(later?.now).toBeCloseTo(3 / 6);
    expect(later?.due).toBeCloseTo(2 / 6 + (0.9 - 2 / 6) / 6);
    expect(later?.pace).toBeCloseTo(3 / 6);
    expect(later).toMatchObject({ state: 'on course', reachedOn: inDays(24) });
    const change = (version: number, more: object) =>
      place.db.transaction((tx) => changeTarget(tx, steward, target?.id ?? '', version, body(more) as never));
    expect(await refused(change(7, { share: 0.4 }))).toMatchObject({ status: 412 });
    expect(await change(1, { share: 0.3 })).toMatchObject({ state: 'met', version: 2 });
    await place.db.transaction((tx) => removeTarget(tx, steward, target?.id ?? ''));
    expect((await listTargets(place.db, steward)).targets).toEqual([]);
    expect(
      await place.db.rows(
        "select action, subject_name as name, domain_id as domain from journal where subject_kind = 'coverage target' order by id",
      ),
    ).toEqual(
      ['created', 'edited', 'removed'].map((action) => ({ action, name: 'Travel: Owned', domain: made.domainId })),
    );
  });
});

describe('the price of room', () => {
  it('is said by administrators of everything, upon the version that was seen', async () => {
    const set = (who: Who, version: number, price: number | null) =>
      place.db.transaction((tx) => setPrice(tx, who, version, { price, currency: 'NOK' }));
    expect(await readPrice(place.db, steward)).toEqual({ price: null, currency: 'EUR', version: 1, mayChange: false });
    expect(await refused(set(steward, 1, 2))).toMatchObject({ status: 403 });
    expect(await set(admin, 1, 2)).toMatchObject({ price: 2, currency: 'NOK', version: 2 });
    expect(await refused(set(admin, 1, 3))).toMatchObject({ status: 412, current: { price: 2 } });
    expect(await set(admin, 2, 0.5)).toMatchObject({ price: 0.5 });
    for (const wrong of [{ price: -1 }, { currency: 'euro' }])
      expect(coverageEndpoints.setPrice.body?.validate({ price: 1, currency: 'EUR', ...wrong }).error).toBeDefined();
  });
});

describe('the report of a month', () => {
  it('is sent once a month to who asked for it, of what they may read', async () => {
    const { mails, config, close } = await mailbox();
    const set = (who: Who, sent: boolean) => place.db.transaction((tx) => setReadsReports(tx, config, who, sent));
    await place.db.run("update person set email = 'rune@example.org' where id = $1", [reader.id]);
    expect(await set(reader, true)).toEqual({ sent: true, canSend: true });
    expect(await set(reader, true)).toEqual({ sent: true, canSend: true });
    // Who begins to read it gets the next one.
    expect(await tendReports(place.db)).toBe(0);
    await place.db.run("update report_reader set since = now() - interval '40 days'");
    expect(await tendReports(place.db)).toBe(1);
    expect(await tendReports(place.db)).toBe(0);
    expect(
      await place.db.rows(
        "select payload ->> 'personId' as id from graphile_worker._private_jobs j where j.task_id = (select id from graphile_worker._private_tasks where identifier = 'report-mail')",
      ),
    ).toEqual([{ id: reader.id }]);
    await mailOfReport(place.db, config, { personId: reader.id });
    const [mail] = mails;
    expect(mail?.to).toBe('rune@example.org');
    expect(mail?.text).toContain('of 6 assets that you may read');
    expect(mail?.text).toContain('Owned: 50 % of the assets');
    expect(mail?.text).toContain('https://idrel.example/coverage/report');
    const hers = (await loadWho(place.db, people[0] as string)) as Who;
    expect(await letterOf(place.db, hers, 'Ida', 'http://here')).toContain('of 0 assets');
    expect(await set(reader, false)).toEqual({ sent: false, canSend: true });
    await place.db.run('update person set left_at = now() where id = $1', [reader.id]);
    expect(await mailOfReport(place.db, config, { personId: reader.id })).toBe(false);
    await place.db.run('update person set left_at = null where id = $1', [reader.id]);
    await close();
  });
});

describe('a week', () => {
  it('tells what somebody did beside the week before, without what routines did for them, and what moved', async () => {
    await forget();
    await keepFigures(place.db, finder);
    for (let day = 0; day < 7; day += 1) await dayPasses();
    const edit = async (table: string | undefined, values: object) => {
      const row = await place.db.one<{ version: number }>('select version from asset where id = $1', [table]);
      await place.db.transaction((tx) => editAsset(tx, steward, table ?? '', row?.version ?? 0, values as never));
    };
    await place.db.run('delete from journal where person_id = $1', [steward.id]);
    await edit(tables[2], { description: 'Who is aboard' });
    await place.db.run("update journal set at = at - interval '8 days' where person_id = $1", [steward.id]);
    await edit(tables[2], { description: 'Who is on board' });
    await edit(tables[3], { description: 'What they paid', standing: 'reviewed' });
    await edit(tables[0], { description: 'By a routine' });
    await place.db.run('update journal set run_id = gen_random_uuid() where person_id = $1 and subject_id = $2', [
      steward.id,
      tables[0],
    ]);
    await keepFigures(place.db, finder);
    const told = await week(place.db, finder, steward);
    expect(told.done).toEqual([
      { action: 'description', times: 2, before: 1 },
      { action: 'standing', times: 1, before: 0 },
    ]);
    expect(told.assets).toBe(2);
    expect(told.days).toHaveLength(14);
    expect(told.days.map(({ times }) => times).filter(Boolean)).toEqual([1, 2]);
    expect(told.moved).toContainEqual(
      expect.objectContaining({ domain: 'Travel', key: 'relied', before: 0, now: 1, assets: 5 }),
    );
    // Who looks after nothing sees nothing move.
    expect((await week(place.db, finder, reader)).moved).toEqual([]);
  });
});
