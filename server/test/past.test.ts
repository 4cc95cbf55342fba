import { setTimeout as wait } from 'node:timers/promises';
import { asShown, Engine } from '@idrel/core/access';
import fc from 'fast-check';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { policiesInForce, readPeople, readTables } from '../src/access/facts.ts';
import { openAtSources, readableBy, readersOf } from '../src/access/lists.ts';
import { tendMatches } from '../src/access/matches.ts';
import { reportFile, whoCouldRead } from '../src/access/report.ts';
import type { Db } from '../src/platform/database.ts';
import { asOfMoment } from '../src/platform/database.ts';
import { addPolicy, personWith, refused } from './place.ts';
import { day, salesPlace } from './sales.ts';

let place: Awaited<ReturnType<typeof salesPlace>>;
beforeEach(async () => {
  place = await salesPlace();
});
afterEach(() => place.drop());

/** A moment after all that was done so far and before all that comes: the database counts finer than we ask. */
async function moment(): Promise<string> {
  await wait(3);
  const now = (await place.db.one<{ at: Date }>('select clock_timestamp() as at'))?.at ?? new Date();
  await wait(3);
  return now.toISOString();
}

/** All that everybody reads of everything, by policies and at the sources. */
async function seen(db: Db): Promise<unknown> {
  const policies = await policiesInForce(db);
  const tables = await readTables(db, "t.kind in ('table', 'view')", [], policies, 'any');
  const people = await readPeople(db, null);
  const engine = new Engine(policies);
  const open = await openAtSources(db, tables, people, null);
  return {
    read: people.map((person) => {
      const reader = engine.for(asShown(person));
      return [person.name, person.email, person.attributes, tables.map((table) => reader.decide(table))];
    }),
    there: open.map(({ source, table, login, people: whose, ways }) => [source.name, table.path, login, whose, ways]),
  };
}

describe('who could read what', () => {
  it('is told of every moment as it was then, whatever came after', async () => {
    const { db, id, one, sourceId, elsewhere } = place;
    const everybody = ['maud', 'olav', 'rune', 'sten', 'petra'] as const;
    const columns = ['guest_id', 'email', 'port', 'amount'] as const;
    const group = await one("insert into person_group (name) values ('Analysts') returning id");
    let named = 0;
    const policies: string[] = [];
    const add = async (body: Omit<Parameters<typeof addPolicy>[1], 'name'>) => {
      named += 1;
      await addPolicy(db, { name: `Policy ${named}`, ...body });
      policies.push(await one('select id from policy where name = $1', [`Policy ${named}`]));
    };
    const some = <T>(from: readonly T[], at: number): T => from[at % from.length] as T;
    /** What can happen, each by a number that chooses among what there is. */
    const happenings: Record<string, (n: number) => Promise<unknown>> = {
      allow: (n) =>
        add({
          effect: 'allow',
          assetIds: [id(some(['sales', 'guest', 'fare'], n))],
          ...(n % 2 ? { groupIds: [group] } : { personIds: [place[some(everybody, n)].id] }),
          passesOn: n % 4 < 2,
          ...(n % 3 ? {} : { columns: [some(columns, n)], columnsBut: n % 2 === 0 }),
          ...(n % 5 ? {} : { until: day(-1 + (n % 2) * 2) }),
        }),
      give: (n) =>
        add({
          effect: 'allow',
          assetIds: [id(some(['sales', 'guest'], n))],
          personIds: [place[some(everybody, n + 1)].id],
          givenBy: place[some(everybody, n)].id,
          passesOn: n % 2 === 0,
        }),
      preview: (n) =>
        add({
          effect: 'allow',
          opens: 'preview',
          passesOn: n % 3 === 0,
          everyone: true,
          assetIds: [id(some(['guest', 'fare'], n))],
        }),
      'allow by filter': (n) =>
        add({
          effect: 'allow',
          everyone: true,
          filter: some(['tag:open', 'standing:trusted', 'kind:table name:fare'], n),
        }),
      protect: (n) =>
        add({
          effect: 'protect',
          everyone: true,
          classKeys: [some(['email', 'country'], n)],
          carried: n % 2 === 0,
          mask: { kind: 'blank' },
        }),
      deny: (n) => add({ effect: 'deny', groupIds: [group], filter: some(['tag:shut', 'class:email'], n) }),
      rows: (n) =>
        add({
          effect: 'protect',
          everyone: true,
          assetIds: [id('guest')],
          rows: { column: 'port', values: [], attribute: some(['port', 'country'], n), through: null },
        }),
      remove: (n) =>
        policies.length ? db.run('delete from policy where id = $1', [some(policies, n)]) : db.run('select'),
      switch: (n) =>
        policies.length
          ? db.run('update policy set enabled = not enabled, version = version + 1 where id = $1', [some(policies, n)])
          : db.run('select'),
      join: (n) =>
        db.run('insert into group_member (group_id, person_id) values ($1, $2) on conflict do nothing', [
          group,
          place[some(everybody, n)].id,
        ]),
      leave: (n) => db.run('delete from group_member where person_id = $1', [place[some(everybody, n)].id]),
      attribute: (n) =>
        db.run("insert into person_attribute (person_id, key, value) values ($1, 'port', $2) on conflict do nothing", [
          place[some(everybody, n)].id,
          some(['Oslo', 'Bergen'], n),
        ]),
      class: (n) =>
        db.run(
          "insert into carried (asset_id, class_key, from_id, via, how) values ($1, $2, $1, 'itself', 'person') on conflict do nothing",
          [id(some(columns, n)), some(['email', 'country'], n)],
        ),
      'no class': (n) => db.run("delete from carried where asset_id = $1 and via = 'itself'", [id(some(columns, n))]),
      'no hold': (n) => db.run('delete from class_hold where asset_id = $1', [id(some(columns, n))]),
      tag: (n) =>
        db.run(
          'insert into asset_tag (asset_id, tag_id) select $1, id from tag where name = $2 on conflict do nothing',
          [id(some(['guest', 'fare', 'email'], n)), some(['open', 'shut'], n)],
        ),
      'no tag': (n) => db.run('delete from asset_tag where asset_id = $1', [id(some(['guest', 'fare', 'email'], n))]),
      gone: (n) =>
        db.run('update asset set gone_at = case when gone_at is null then now() end where id = $1', [
          id(some(columns, n)),
        ]),
      rename: (n) =>
        db.run("update asset set name = name || '_' || $2 where id = $1", [id(some(columns, n)), String(n)]),
      move: (n) =>
        db.run('update asset set domain_id = $2 where id = $1', [id('fare'), n % 2 ? elsewhere : place.domainId]),
      role: (n) =>
        db.run(
          `insert into native_role (source_id, name, login, superuser, bypasses_rows, scans, member_of) values ($1, $2, true, $3, false, false, $4)
           on conflict (source_id, name) do update set superuser = excluded.superuser, member_of = excluded.member_of`,
          [sourceId, some(['app', 'bi'], n), n % 7 === 0, n % 3 ? ['app'] : []],
        ),
      'who comes in': async (n) => {
        await db.run('insert into native_match (source_id, role) values ($1, $2) on conflict do nothing', [
          sourceId,
          some(['app', 'bi'], n),
        ]);
        await db.run('delete from native_match_party where role = $1', [some(['app', 'bi'], n)]);
        await db.run('insert into native_match_party (source_id, role, person_id) values ($1, $2, $3)', [
          sourceId,
          some(['app', 'bi'], n),
          place[some(everybody, n)].id,
        ]);
      },
      grant: (n) =>
        db.run(
          "insert into native_grant (asset_id, holder, how, given_by, passes_on) values ($1, $2, 'grant', 'boss', $3) on conflict (asset_id, holder, how, given_by) do update set passes_on = excluded.passes_on",
          [id(some(['db', 'sales', 'guest', 'email', 'fare'], n)), some(['app', 'bi', ''], n), n % 2 === 0],
        ),
      'no grant': (n) =>
        db.run('delete from native_grant where asset_id = $1', [
          id(some(['db', 'sales', 'guest', 'email', 'fare'], n)),
        ]),
      'leaves us': (n) =>
        db.run('update person set left_at = case when left_at is null then now() end where id = $1', [
          place[some(['olav', 'rune'] as const, n)].id,
        ]),
      'lost column': (n) => db.run('delete from asset where id = $1 and gone_at is not null', [id(some(columns, n))]),
    };
    for (const [at, name] of columns.entries())
      await db.run('update asset set position = $2 where id = $1', [id(name), at]);
    await db.run("insert into tag (name) values ('open'), ('shut')");
    const steps = fc.array(fc.tuple(fc.constantFrom(...Object.keys(happenings)), fc.nat(40)), {
      minLength: 12,
      maxLength: 25,
    });
    await fc.assert(
      fc.asyncProperty(steps, async (all) => {
        const then: { at: string; what: string; was: unknown }[] = [];
        for (const [what, n] of all) {
          await happenings[what]?.(n).catch((error: Error) => {
            // A column that is gone for good can be given nothing any more.
            if (!/violates foreign key/.test(error.message)) throw error;
          });
          await tendMatches(db);
          const was = await seen(db);
          then.push({ at: await moment(), what: `${what} ${n}`, was });
        }
        expect(new Set(then.map(({ was }) => JSON.stringify(was))).size).toBeGreaterThan(1);
        for (const { at, what, was } of then)
          expect({ after: what, told: await asOfMoment(db, Date.parse(at), seen) }).toEqual({ after: what, told: was });
      }),
      { numRuns: 8, endOnFailure: true },
    );
  });

  it('is listed by asset and by person as of a moment, by who may see it both then and now', async () => {
    const { db, id, petra, olav, rune, elsewhere } = place;
    await addPolicy(db, { name: 'Olav reads guests', assetIds: [id('guest')], personIds: [olav.id] });
    const first = await moment();
    await db.run("delete from policy where name = 'Olav reads guests'");
    await addPolicy(db, { name: 'Rune reads fares', assetIds: [id('fare')], personIds: [rune.id] });
    const readers = async (asset: string, at: string | null) =>
      (await readersOf(db, petra, id(asset), at)).people.map(({ person, policies }) => [person, policies[0]?.name]);
    expect(await readers('sales', first)).toEqual([['Olav', 'Olav reads guests']]);
    expect(await readers('sales', null)).toEqual([['Rune', 'Rune reads fares']]);
    const readable = async (person: string, at: string | null) =>
      (await readableBy(db, petra, person, at)).tables.map(({ table }) => table);
    expect(await readable(olav.id, first)).toEqual(['sales.guest']);
    expect(await readable(olav.id, null)).toEqual([]);
    expect(await readable(rune.id, await moment())).toEqual(['sales.fare']);

    // What lies in a domain of others now is not told of either, though it was Petra's to see then; nor what lay there.
    const before = await moment();
    await db.run('update asset set domain_id = $1 where id = $2', [elsewhere, id('fare')]);
    expect(await readers('sales', before)).toEqual([]);
    const away = await moment();
    await db.run('update asset set domain_id = $1 where id = $2', [place.domainId, id('fare')]);
    expect(await readers('sales', away)).toEqual([]);
    expect(await readers('sales', before)).toEqual([['Rune', 'Rune reads fares']]);
    // A name of a policy that is about what she may not see now is not told.
    await db.run('update policy_object set asset_id = $1 where asset_id = $2', [id('guest'), id('fare')]);
    expect(await readers('sales', before)).toEqual([['Rune', 'Rune reads fares']]);
  });

  it('is not told of moments that nobody knows of', async () => {
    const { db, id, petra } = place;
    const early = refused(readersOf(db, petra, id('sales'), '2001-01-01T00:00:00.000Z'));
    expect(await early).toMatchObject({ status: 422, detail: expect.stringContaining('is known from') });
    expect(await refused(readersOf(db, petra, id('sales'), day(1)))).toMatchObject({
      status: 422,
      detail: 'That moment is still to come.',
    });
  });
});

describe('a report', () => {
  const rowsOf = ({ rows }: Awaited<ReturnType<typeof whoCouldRead>>, moments: Readonly<Record<string, string>>) =>
    rows.map(({ person, table, plain, masked, limited, policies, atSource, from, to }) => ({
      is: `${person} ${table}: ${[...plain, ...masked.map((name) => `${name} masked`)].join(', ')}${limited ? ' of some rows' : ''}`,
      by: [...policies.map(({ name }) => name), ...atSource.map(({ login }) => login)].join(', '),
      // Between which of the named moments it began and ended.
      from: Object.entries(moments).findLast(([, at]) => at <= from)?.[0],
      to: Object.entries(moments).findLast(([, at]) => at <= to)?.[0],
    }));

  it('says who could read an asset from when to when, by what, and the same again when it is asked again', async () => {
    const { db, id, petra, olav, rune, maud, sourceId, one } = place;
    const group = await one("insert into person_group (name) values ('Analysts') returning id");
    const begin = await moment();
    await addPolicy(db, { name: 'Analysts read guests', assetIds: [id('guest')], groupIds: [group] });
    await addPolicy(db, {
      name: 'Mails are blank',
      effect: 'protect',
      everyone: true,
      classKeys: ['email'],
      mask: { kind: 'blank' },
    });
    await db.run('insert into group_member (group_id, person_id) values ($1, $2)', [group, olav.id]);
    const joined = await moment();
    await db.run(
      "insert into carried (asset_id, class_key, from_id, via, how) values ($1, 'email', $1, 'itself', 'person')",
      [id('email')],
    );
    const masked = await moment();
    await db.run('delete from group_member where person_id = $1', [olav.id]);
    const left = await moment();
    await db.run(
      "insert into native_role (source_id, name, login, superuser, bypasses_rows, scans, member_of) values ($1, 'bi', true, false, false, false, '{}')",
      [sourceId],
    );
    await db.run('insert into native_match (source_id, role) values ($1, $2)', [sourceId, 'bi']);
    for (const name of ['db', 'sales', 'guest'])
      await db.run(
        "insert into native_grant (asset_id, holder, how, given_by, passes_on) values ($1, 'bi', 'grant', 'boss', false)",
        [id(name)],
      );
    const open = await moment();
    await db.run("insert into native_match_party (source_id, role, person_id) values ($1, 'bi', $2)", [
      sourceId,
      rune.id,
    ]);
    const known = await moment();
    // It ends by itself: no row changes when it does.
    await addPolicy(db, {
      name: 'Maud reads fares',
      assetIds: [id('fare')],
      personIds: [maud.id],
      until: new Date(Date.now() + 400).toISOString(),
    });
    await wait(450);
    const over = await moment();
    const moments = { begin, joined, masked, left, open, known, over };
    const asked = { asset: id('sales'), from: begin, to: over };
    const report = await whoCouldRead(db, petra, asked);
    expect(report).toMatchObject({ about: 'sales', tables: 2, people: 3 });
    expect(rowsOf(report, moments)).toEqual([
      { is: 'Maud sales.fare: amount', by: 'Maud reads fares', from: 'known', to: 'known' },
      { is: 'Olav sales.guest: email, guest_id, port', by: 'Analysts read guests', from: 'begin', to: 'joined' },
      {
        is: 'Olav sales.guest: guest_id, port, email masked',
        by: 'Analysts read guests, Mails are blank',
        from: 'joined',
        to: 'masked',
      },
      { is: 'Rune sales.guest: ', by: 'bi', from: 'open', to: 'over' },
    ]);
    expect(report.logins).toMatchObject([{ login: 'bi', how: 'grant', table: 'sales.guest', program: false }]);
    // Between any two moments in it all is as it is listed for one of them.
    for (const [name, at] of Object.entries(moments))
      expect([name, (await readersOf(db, petra, id('sales'), at)).people.map(({ person }) => person).sort()]).toEqual([
        name,
        [
          ...new Set(
            report.rows
              .filter(({ from, to }) => from <= at && (at < to || (at === over && to === over)))
              .map(({ person }) => person),
          ),
        ].sort(),
      ]);

    // Whatever comes after: the report of a period stays what it is.
    await db.run('delete from policy');
    await db.run("delete from carried where class_key = 'email'");
    await db.run('delete from native_grant');
    await db.run('update asset set gone_at = now() where id = $1', [id('fare')]);
    const again = await whoCouldRead(db, petra, asked);
    expect(again.digest).toBe(report.digest);
    expect({ ...again, madeAt: '' }).toEqual({ ...report, madeAt: '' });

    // By class: what carried it, while it did.
    const mails = await whoCouldRead(db, petra, { class: 'email', from: begin, to: over });
    expect(rowsOf(mails, moments)).toEqual([
      {
        is: 'Olav sales.guest: email masked',
        by: 'Analysts read guests, Mails are blank',
        from: 'joined',
        to: 'masked',
      },
      { is: 'Rune sales.guest: ', by: 'bi', from: 'open', to: 'over' },
    ]);

    const { name, content } = await reportFile(db, petra, { class: 'email', from: begin, to: over }, 'csv');
    expect(name).toMatch(/^who could read E-mail address .*\.csv$/);
    const lines = Buffer.from(content, 'base64').toString().replace('\uFEFF', '').trim().split(/\r?\n/);
    expect(
      lines.map((line) =>
        line
          .split(',')
          .filter((_, at) => at !== 6 && at !== 7)
          .join(','),
      ),
    ).toEqual([
      'person,table,source,column,how,rows,policies,right at the source',
      'Olav,sales.guest,Test source,email,masked,all,Analysts read guests; Mails are blank,',
      expect.stringContaining('Rune,sales.guest,Test source,,at the source,all,'),
      expect.stringContaining(',sales.guest,Test source,,at the source,all,'),
    ]);
  });

  it('knows of what changes upstream, where a policy follows values along lineage', async () => {
    const { db, id, petra, olav, sourceId, one } = place;
    const flow = await one(
      "insert into flow (id, source_id, asset_id, kind, statement) values (gen_random_uuid(), $1, $2, 'view', 'select') returning id",
      [sourceId, id('fare')],
    );
    await db.run("insert into lineage_edge (flow_id, from_id, to_id, kind) values ($1, $2, $3, 'copied')", [
      flow,
      id('email'),
      id('amount'),
    ]);
    await addPolicy(db, { name: 'Olav reads fares', assetIds: [id('fare')], personIds: [olav.id] });
    await addPolicy(db, {
      name: 'Mails are blank',
      effect: 'protect',
      everyone: true,
      classKeys: ['email'],
      carried: true,
      mask: { kind: 'blank' },
    });
    const begin = await moment();
    await db.run(
      "insert into carried (asset_id, class_key, from_id, via, how) values ($1, 'email', $1, 'itself', 'person')",
      [id('email')],
    );
    const classed = await moment();
    await db.run("delete from carried where class_key = 'email'");
    await db.run("delete from class_hold where class_key = 'email'");
    const plain = await moment();
    const report = await whoCouldRead(db, petra, { asset: id('fare'), from: begin, to: plain });
    expect(rowsOf(report, { begin, classed, plain }).map(({ is, from, to }) => `${is} ${from} ${to}`)).toEqual([
      'Olav sales.fare: amount begin begin',
      'Olav sales.fare: amount masked begin classed',
      'Olav sales.fare: amount classed plain',
    ]);
    // It is about the same, however that is called now.
    await db.run("update asset set name = 'fee' where id = $1", [id('fare')]);
    expect((await whoCouldRead(db, petra, { asset: id('fare'), from: begin, to: plain })).digest).toBe(report.digest);
  });

  it('is made by who administers policies, of what they administer, and within bounds', async () => {
    const { db, id, petra, olav, elsewhere } = place;
    const begin = await moment();
    await addPolicy(db, { name: 'All read', assetIds: [id('sales')], everyone: true });
    await db.run(
      "insert into carried (asset_id, class_key, from_id, via, how) values ($1, 'email', $1, 'itself', 'person')",
      [id('email')],
    );
    const period = { from: begin, to: await moment() };
    expect(await refused(whoCouldRead(db, olav, { asset: id('sales'), ...period }))).toMatchObject({ status: 403 });
    const other = await personWith(db, 'Crew officer', 'policy administrator', elsewhere);
    expect(await whoCouldRead(db, other, { class: 'email', ...period })).toMatchObject({
      tables: 0,
      people: 0,
      rows: [],
    });
    expect((await whoCouldRead(db, petra, { class: 'email', ...period })).people).toBe(6);
    expect(await refused(whoCouldRead(db, petra, { class: 'no such', ...period }))).toMatchObject({ status: 404 });
    // Clocks differ a little: until now is meant. Tomorrow is nobody's now.
    const ahead = new Date(Date.now() + 60_000).toISOString();
    const until = (await whoCouldRead(db, petra, { class: 'email', ...period, to: ahead })).to;
    expect(Date.parse(until)).toBeLessThanOrEqual(Date.now());
    expect(await refused(whoCouldRead(db, petra, { class: 'email', ...period, to: day(1) }))).toMatchObject({
      status: 422,
      detail: 'That moment is still to come.',
    });
    expect(await refused(whoCouldRead(db, petra, { class: 'email', from: period.to, to: period.from }))).toMatchObject({
      status: 422,
      detail: 'The period ends before it begins.',
    });
    expect(
      await refused(whoCouldRead(db, petra, { class: 'email', ...period, from: '2001-01-01T00:00:00Z' })),
    ).toMatchObject({ status: 422, detail: expect.stringContaining('is known from') });
    // More moments than are looked at: it says how many, and cuts nothing off.
    for (let n = 0; n < 401; n += 1) await db.run("update policy set name = 'All read ' || $1", [String(n)]);
    expect(
      await refused(whoCouldRead(db, petra, { asset: id('sales'), from: begin, to: await moment() })),
    ).toMatchObject({
      status: 422,
      detail: expect.stringMatching(/changed 40\d times/),
    });
  });
});
