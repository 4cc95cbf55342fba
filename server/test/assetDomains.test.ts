import type { ManyAction } from '@idrel/contract/curation';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { changePolicy, createPolicy, listPolicies, removePolicy } from '../src/access/policies.ts';
import { children, getAsset, tree } from '../src/catalog/service.ts';
import { getBulkEdit, prepareBulkEdit, startBulkEdit, undoBulkEdit } from '../src/curation/bulkEdits.ts';
import { runBulkEdit } from '../src/curation/index.ts';
import { loadWho, type Who } from '../src/people/index.ts';
import { workOnRun } from '../src/routines/index.ts';
import { runRoutine, undoRun } from '../src/routines/runs.ts';
import { addRoutine } from '../src/routines/service.ts';
import { compareRuns } from '../src/scanning/compareRuns.ts';
import { settleRename } from '../src/scanning/renames.ts';
import { getRun, listRuns } from '../src/scanning/service.ts';
import { changeSource } from '../src/sources/service.ts';
import { finderHere, freshDatabase, personWith, policyBody, refused, staffed, testConfig } from './place.ts';
import { scanWorld, type World } from './world.ts';

let place: Awaited<ReturnType<typeof freshDatabase>>;
let finder: ReturnType<typeof finderHere>;
let who: Who;
let reader: Who;
/** Reads the other domain alone. */
let stranger: Who;
let home: { sourceId: string; domainId: string };
let crewing = '';
beforeAll(async () => {
  place = await freshDatabase();
  const made = await staffed(place.db);
  ({ who, reader, stranger, elsewhere: crewing } = made);
  home = made;
  finder = finderHere(place.db);
});
afterAll(() => place?.drop());

const named = async (name: string): Promise<string> =>
  (await place.db.one<{ id: string }>('select id from asset where name = $1 and gone_at is null', [name]))?.id ?? name;
const prepare = (ids: readonly string[], id: string | null, by = who) =>
  prepareBulkEdit(place.db, finder, by, { ids }, { kind: 'domain', id } satisfies ManyAction);
async function move(ids: readonly string[], to: string | null) {
  const seen = await prepare(ids, to);
  await place.db.transaction((tx) => startBulkEdit(tx, who, seen.id));
  await runBulkEdit(place.db, seen.id);
  return getBulkEdit(place.db, who, seen.id);
}
async function takeBack(id: string) {
  await place.db.transaction((tx) => undoBulkEdit(tx, who, id));
  await runBulkEdit(place.db, id);
  return getBulkEdit(place.db, who, id);
}
/** What lies where: names by domain, columns left out. */
const lying = async () => {
  const rows = await place.db.rows<{ name: string; crewing: boolean }>(
    "select name, domain_id = $1 as crewing from asset where gone_at is null and kind <> 'column' order by key",
    [crewing],
  );
  return {
    here: rows.filter((row) => !row.crewing).map(({ name }) => name),
    there: rows.filter((row) => row.crewing).map(({ name }) => name),
  };
};
const strays = async () => [
  ...(await place.db.rows(
    `
      select a.key
      from asset a
      join source s on s.id = a.source_id
      left join asset p on p.id = a.parent_id
      where a.domain_id <> coalesce(a.domain_set, p.domain_id, s.domain_id)`,
  )),
  // What is seen of it: by its domain, or by that and the policies that list it or something above it.
  ...(await place.db.rows(
    `
      with recursive up as (
        select id, id as above, parent_id from asset
        union all
        select up.id, p.id, p.parent_id from up join asset p on p.id = up.parent_id
      ),
      meant as (
        select up.id, array_agg(distinct o.policy_id order by o.policy_id) as policies
        from up
        join policy_object o on o.asset_id = up.above
        join policy p on p.id = o.policy_id and p.opens = 'see'
        group by up.id
      )
      select a.key, a.domain_id, x.policy_ids, m.policies
      from asset a
      left join meant m on m.id = a.id
      left join sight x on x.id = a.opened_id
      where x.policy_ids is distinct from m.policies
        or x.domain_id <> a.domain_id`,
  )),
];
const two: World = { watch: { crew_no: 'integer' }, voyage: { ship: 'text' } };

describe('the domain of an asset', () => {
  it('is moved with what lies in it, also with what comes later, and taken back', async () => {
    await scanWorld(place.db, home, two);
    const watch = await named('watch');
    const seen = await prepare([watch, await named('crew_no')], crewing);
    expect(seen).toMatchObject({
      told: 'Domain: Crewing',
      changes: 1,
      unsuited: 1,
      unsuitedKinds: [{ kind: 'column' }],
      moves: [{ from: { name: 'Travel' }, to: { id: crewing }, assets: 1 }],
    });
    expect(seen.items[0]).toMatchObject({ path: 's.watch', before: 'Travel' });
    const moved = await move([watch], crewing);
    expect(moved).toMatchObject({ state: 'done', done: 1, passedOver: 0, moves: [] });
    expect(await lying()).toEqual({ here: ['db', 's', 'voyage'], there: ['watch'] });
    expect(await refused(getAsset(place.db, reader, watch))).toMatchObject({ status: 404 });
    expect(await getAsset(place.db, stranger, watch)).toMatchObject({ domain: 'Crewing', ownDomain: true });
    expect((await children(place.db, stranger, watch)).map(({ name }) => name)).toEqual(['crew_no']);

    await scanWorld(place.db, home, { ...two, watch: { crew_no: 'integer', rank: 'text' } });
    expect((await children(place.db, stranger, watch)).map(({ name }) => name)).toEqual(['crew_no', 'rank']);
    expect(await refused(getAsset(place.db, reader, await named('rank')))).toMatchObject({ status: 404 });

    expect(await takeBack(moved.id)).toMatchObject({ state: 'undone', restored: 1 });
    expect(await lying()).toEqual({ here: ['db', 's', 'voyage', 'watch'], there: [] });
    expect(await getAsset(place.db, reader, await named('rank'))).toMatchObject({ domain: 'Travel', ownDomain: false });
    expect(await strays()).toEqual([]);
  });

  it('takes a source administrator of both domains, in both directions', async () => {
    await scanWorld(place.db, home, two);
    const watch = await named('watch');
    const keeper = await personWith(place.db, 'Kai', 'source administrator', home.domainId);
    expect(await refused(prepare([watch], crewing, keeper))).toMatchObject({
      code: 'forbidden',
      detail: expect.stringContaining('source administrator'),
    });
    await move([watch], crewing);
    const taker = await personWith(place.db, 'Tova', 'source administrator', crewing);
    // It would come to lie where Tova has no say: with what holds it.
    expect(await prepare([watch], null, taker)).toMatchObject({ changes: 0, refused: 1 });
    expect(await prepare([watch], null)).toMatchObject({
      changes: 1,
      told: 'Domain: that of what holds it',
      moves: [{ from: { name: 'Crewing' }, to: { name: 'Travel' } }],
    });
    await move([watch], null);
    expect((await lying()).there).toEqual([]);
    await expect(prepare([watch], '6e3f0b0e-0000-4000-8000-000000000000')).rejects.toMatchObject({ status: 422 });
  });

  it('is moved by a routine, which is taken back by nobody without a say where it comes to lie', async () => {
    await scanWorld(place.db, home, two);
    // What people moved by hand in the tests before this is theirs.
    await place.db.run('delete from journal');
    const routine = await place.db.transaction((tx) =>
      addRoutine(tx, who, {
        name: 'Watches',
        filter: 'name:watch',
        steps: [{ do: 'act', action: { kind: 'domain', id: crewing } }],
        starts: null,
        guard: { most: null, times: 3 },
        enabled: true,
      }),
    );
    const run = await place.db.transaction((tx) => runRoutine(tx, who, routine.id, 1));
    await workOnRun(place.db, run.id);
    expect((await lying()).there).toEqual(['watch']);
    const taker = await personWith(place.db, 'Torunn', 'source administrator', crewing);
    const back = (by: Who) => place.db.transaction((tx) => undoRun(tx, by, run.id, null));
    expect(await refused(back(taker))).toMatchObject({ code: 'forbidden' });
    await back(who);
    await workOnRun(place.db, run.id);
    expect(await place.db.one('select restored from routine_run where id = $1', [run.id])).toEqual({ restored: 1 });
    expect((await lying()).there).toEqual([]);
  });

  it('is shown in the tree below the domain, with what holds it, to those who may see it', async () => {
    await scanWorld(place.db, home, two);
    await move([await named('watch')], crewing);
    const below = (by: Who, parent?: string) =>
      tree(place.db, finder, by, { by: 'domain', ...(parent ? { parent, parentType: 'domain' as const } : {}) });
    expect(await below(stranger)).toMatchObject([{ name: 'Crewing', count: 1, hasChildren: true }]);
    expect(await below(stranger, crewing)).toMatchObject([
      { type: 'asset', kind: 'table', name: 'watch (s)', hasChildren: false },
    ]);
    expect(await below(reader)).toMatchObject([{ name: 'Travel', count: 2 }]);
    // What moves along with something is told once, below that.
    await move([await named('s')], crewing);
    expect((await below(who, crewing)).map(({ name }) => name)).toEqual(['s (db)']);
    await move([await named('s'), await named('watch')], null);
    expect(await below(who, crewing)).toEqual([]);
  });

  it('hides what runs found from those who may see the source alone', async () => {
    const first = await scanWorld(place.db, home, { ...two, pay_scale: { grade: 'text' } });
    await move([await named('watch'), await named('pay_scale')], crewing);
    const last = await scanWorld(place.db, home, { watch: { crew_no: 'bigint' }, voyage: { ship: 'integer' } });
    const paths = (list: readonly { path: string }[]) => list.map(({ path }) => path);
    const whole = await getRun(place.db, who, last.runId);
    expect(paths(whole.comparison?.changed ?? [])).toContain('db.s.watch.crew_no');
    expect(paths(whole.comparison?.gone ?? [])).toEqual(['db.s.pay_scale']);
    const seen = (await listRuns(place.db, reader, home.sourceId)).find(({ id }) => id === last.runId);
    expect(paths(seen?.comparison?.changed ?? [])).toEqual(['db.s.voyage.ship']);
    expect(seen?.comparison?.gone).toEqual([]);
    const compared = await compareRuns(place.db, reader, last.runId, first.runId);
    expect([paths(compared.changed), paths(compared.gone)]).toEqual([['db.s.voyage.ship'], []]);
    await move([await named('watch')], null);
  });

  it('stays with what is found again under another name', async () => {
    const columns = { a_code: 'text', a_name: 'text', a_port: 'integer', a_day: 'date' };
    await scanWorld(place.db, home, { ...two, muster: columns });
    const muster = await named('muster');
    await move([muster], crewing);
    const { runId } = await scanWorld(place.db, home, { ...two, muster_list: columns });
    const run = await getRun(place.db, who, runId);
    const rename = run.comparison?.renames?.[0];
    expect(rename).toMatchObject({ from: { path: 'db.s.muster' }, to: { path: 'db.s.muster_list' } });
    // Half of it lies where the reader may not see.
    expect((await getRun(place.db, reader, runId)).comparison?.renames?.[0]?.from).toEqual({
      id: '',
      path: 'in a domain that you may not see',
      kind: 'table',
    });
    await place.db.transaction((tx) =>
      settleRename(tx, who, runId, { from: rename?.from.id ?? '', to: rename?.to.id ?? '', same: true }),
    );
    expect(await getAsset(place.db, stranger, muster)).toMatchObject({ name: 'muster_list', domain: 'Crewing' });
    expect(await strays()).toEqual([]);
  });

  it('is what was chosen for it, else that of what holds it, whatever happens in which order', async () => {
    const { sourceId } = home;
    await place.db.run('delete from asset');
    const [third = ''] = (
      await place.db.rows<{ id: string }>("insert into domain (name) values ('Fleet') returning id")
    ).map(({ id }) => id);
    who = (await loadWho(place.db, who.id)) as Who;
    const domains = [home.domainId, crewing, third];
    const step = fc.oneof(
      fc.record({
        names: fc.uniqueArray(fc.constantFrom('db', 's', 't1', 't2', 't3'), { minLength: 1, maxLength: 3 }),
        to: fc.constantFrom(0, 1, 2, null),
      }),
      fc.record({
        tables: fc.uniqueArray(fc.constantFrom('t1', 't2', 't3'), { minLength: 1 }),
        columns: fc.uniqueArray(fc.constantFrom('a', 'b', 'c'), { minLength: 1 }),
      }),
      fc.record({ source: fc.constantFrom(0, 1, 2) }),
      // A policy that lets these be seen, or that opens what they hold; with nothing it is removed.
      fc.record({
        policy: fc.constantFrom('P', 'Q'),
        opens: fc.constantFrom('see' as const, 'see' as const, 'read' as const),
        on: fc.uniqueArray(fc.constantFrom('db', 's', 't1', 't2', 'a'), { maxLength: 2 }),
      }),
    );
    await fc.assert(
      fc.asyncProperty(fc.array(step, { minLength: 2, maxLength: 9 }), async (steps) => {
        for (const one of steps) {
          const source = await place.db.one<{ domainId: string; version: number }>(
            'select domain_id as "domainId", version from source where id = $1',
            [sourceId],
          );
          if ('tables' in one)
            await scanWorld(
              place.db,
              { sourceId, domainId: source?.domainId ?? '' },
              Object.fromEntries(
                one.tables.map((table) => [table, Object.fromEntries(one.columns.map((name) => [name, 'text']))]),
              ),
            );
          else if ('policy' in one) {
            const ids = (
              await place.db.rows<{ id: string }>('select id from asset where name = any($1::text[])', [one.on])
            ).map(({ id }) => id);
            const known = (await listPolicies(place.db, who)).find(({ name }) => name === one.policy);
            const body = policyBody({ name: one.policy, effect: 'allow', opens: one.opens, assetIds: ids });
            await place.db.transaction(async (tx) => {
              if (ids.length === 0) await (known ? removePolicy(tx, who, known.id) : undefined);
              else if (known) await changePolicy(tx, who, known.id, known.version, body);
              else await createPolicy(tx, who, body);
            });
          } else if ('source' in one)
            await place.db.transaction((tx) =>
              changeSource(tx, finder, testConfig(), who, sourceId, source?.version ?? 0, {
                domainId: domains[one.source] as string,
              }),
            );
          else {
            const ids = (
              await place.db.rows<{ id: string }>('select id from asset where name = any($1::text[])', [one.names])
            ).map(({ id }) => id);
            if (ids.length > 0) await move(ids, one.to === null ? null : (domains[one.to] as string));
          }
          expect(await strays()).toEqual([]);
        }
      }),
      { numRuns: 30 },
    );
  });
});
