import { type CheckFacts, type Checklist, check } from '@idrel/core/catalog';
import fc from 'fast-check';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { getAsset } from '../src/catalog/index.ts';
import { prepareBulkEdit, startBulkEdit, undoBulkEdit } from '../src/curation/bulkEdits.ts';
import { CHECK_FACTS, OPEN_ITEMS } from '../src/curation/checklist.ts';
import { certificationTender, editAsset, lapsedIn, runBulkEdit } from '../src/curation/index.ts';
import { changeChecklist, getStanding, listChecklists, noteLapse } from '../src/curation/standing.ts';
import { loadWho, type Who } from '../src/people/index.ts';
import { finderHere, freshDatabase, furnish, refused } from './place.ts';

let place: Awaited<ReturnType<typeof freshDatabase>>;
let who: Who;
let sourceId: string;
let domainId: string;
const LIST: Checklist = {
  described: true,
  owned: true,
  columnsDescribed: 0.5,
  findingsSettled: true,
  lineageUp: false,
  lineageDown: false,
  freshDays: null,
};

const one = async (sql: string, bind: unknown[]) => (await place.db.one<{ id: string }>(sql, bind))?.id ?? '';
beforeAll(async () => {
  place = await freshDatabase();
  const made = await furnish(place.db);
  ({ sourceId, domainId } = made);
  who = (await loadWho(place.db, made.personId)) as Who;
});
afterAll(() => place.drop());
beforeEach(async () => {
  for (const table of ['asset', 'journal', 'flow', 'bulk_edit', 'touched']) await place.db.run(`delete from ${table}`);
  const known = (await listChecklists(place.db, who)).find(({ kind }) => kind === 'table');
  await place.db.transaction((tx) => changeChecklist(tx, who, 'table', known?.version ?? 0, LIST));
});

const asset = (kind: string, name: string, parent: string | null = null) =>
  one(
    `
      insert into asset (source_id, domain_id, kind, name, key, depth, parent_id)
      select $1, $2, $3, $4, coalesce((select key || chr(31) from asset where id = $5), '') || $4, case when $5::uuid is null then 0 else 1 end, $5
      returning id`,
    [sourceId, domainId, kind, name, parent],
  );
const edit = async (id: string, change: Parameters<typeof editAsset>[4]) => {
  const { version } = await getAsset(place.db, who, id);
  return place.db.transaction((tx) => editAsset(tx, who, id, version, change));
};
/** A table of which all is so. */
async function complete(name = 'fare'): Promise<string> {
  const id = await asset('table', name);
  const first = await asset('column', 'price', id);
  await asset('column', 'band', id);
  await edit(first, { description: 'What it costs.' });
  await edit(id, { description: 'Prices.', ownerIds: [who.id] });
  return id;
}

describe('what is asked before an asset is trusted', () => {
  it('is the same for one asset in memory and for many in the database', async () => {
    const ids: string[] = [];
    for (let nth = 0; nth < 24; nth += 1) {
      const id = await asset(nth % 5 === 0 ? 'view' : 'table', `t${nth}`);
      ids.push(id);
      for (let column = 0; column < nth % 4; column += 1)
        await place.db.run('update asset set description = $2 where id = $1', [
          await asset('column', `c${column}`, id),
          column % 2 ? 'x' : '',
        ]);
      if (nth % 2) await place.db.run("update asset set description = 'x' where id = $1", [id]);
      if (nth % 3) await place.db.run("insert into asset_person values ($1, $2, 'owner')", [id, who.id]);
      if (nth % 4 === 1)
        await place.db.run(
          "insert into claim (asset_id, class_key, detector, detector_version, share, matched, sampled, distinct_values, confidence, state, evidence) select id, 'email', 'd', '1', 1, 1, 1, 1, 0.6, 'to-settle', '{}' from asset where parent_id = $1 limit 1",
          [id],
        );
      const before = ids[nth - 1];
      if (nth % 6 === 2 && before) {
        const flow = await one(
          "insert into flow (source_id, asset_id, kind, statement) values ($1, $2, 'view', '') returning id",
          [sourceId, id],
        );
        await place.db.run(
          "insert into lineage_edge (flow_id, from_id, to_id, kind) select $1, f.id, t.id, 'copied' from asset f join asset t on t.parent_id = $3 where f.parent_id = $2 limit 1",
          [flow, before, id],
        );
      }
    }
    const share = fc.constantFrom(null, 0.01, 0.34, 0.5, 0.67, 1);
    const lists = fc.record({
      described: fc.boolean(),
      owned: fc.boolean(),
      columnsDescribed: share,
      findingsSettled: fc.boolean(),
      lineageUp: fc.boolean(),
      lineageDown: fc.boolean(),
      freshDays: fc.constantFrom(null, 1, 30),
    });
    const seen = new Set<string>();
    await fc.assert(
      fc.asyncProperty(lists, async (list) => {
        await place.db.run(
          'update checklist set described = $1, owned = $2, columns_described = $3, findings_settled = $4, lineage_up = $5, lineage_down = $6, fresh_days = $7',
          [
            list.described,
            list.owned,
            list.columnsDescribed,
            list.findingsSettled,
            list.lineageUp,
            list.lineageDown,
            list.freshDays,
          ],
        );
        const rows = await place.db.rows<{ open: string[]; facts: CheckFacts }>(
          `select ${OPEN_ITEMS} as open, ${CHECK_FACTS} as facts from asset a left join checklist cl on cl.kind = a.kind where a.parent_id is null`,
        );
        for (const { open, facts } of rows) {
          const inMemory = check(list, facts)
            .filter(({ met }) => !met)
            .map(({ item }) => item);
          expect(open).toEqual(inMemory);
          for (const item of open) seen.add(item);
        }
      }),
      { numRuns: 40 },
    );
    expect([...seen].sort()).toEqual([
      'columns described',
      'described',
      'findings settled',
      'fresh',
      'lineage downstream',
      'lineage upstream',
      'owned',
    ]);
  });

  it('is told with who could do it, and certifying waits for it', async () => {
    const id = await asset('table', 'fare');
    await asset('column', 'price', id);
    const standing = await getStanding(place.db, who, id);
    expect(standing.items.filter(({ met }) => !met).map(({ item, told }) => [item, told])).toEqual([
      ['described', 'nobody wrote what it means'],
      ['owned', 'it has no owner'],
      ['columns described', '0 of 1, 1 are needed'],
    ]);
    expect(standing.who.length).toBeGreaterThan(0);
    const problem = await refused(edit(id, { standing: 'trusted', description: 'Prices.' }));
    expect(problem).toMatchObject({
      code: 'checklist-open',
      current: expect.arrayContaining([expect.objectContaining({ item: 'owned' })]),
    });
    expect((await getAsset(place.db, who, id)).description).toBeNull();
    // Of a kind without a checklist nothing is asked.
    expect(await edit(await asset('schema', 'ref'), { standing: 'trusted' })).toMatchObject({ standing: 'trusted' });
  });

  it('names who certified and until when; a day that is over is none', async () => {
    const id = await complete();
    expect(await refused(edit(id, { standing: 'trusted', certifiedUntil: '2020-01-01' }))).toMatchObject({
      code: 'invalid',
    });
    await edit(id, { standing: 'trusted', certifiedUntil: '2999-01-01' });
    expect(await getStanding(place.db, who, id)).toMatchObject({
      certified: { by: who.name, until: '2999-01-01' },
      lapsed: null,
    });
    const { version } = await getAsset(place.db, who, id);
    const sooner = { standing: 'trusted', certifiedUntil: '2998-01-01' } as const;
    expect(await edit(id, sooner)).toMatchObject({ version: version + 1 });
    const told = await place.db.rows<{ after: { until: string } }>(
      "select after from journal where subject_id = $1 and action = 'certified' order by id",
      [id],
    );
    expect(told.map(({ after }) => after.until)).toEqual(['2999-01-01', '2998-01-01']);
    expect(await edit(id, sooner)).toMatchObject({ version: version + 1 });
    // What is trusted and stays so is not prolonged in passing, nor in another's name.
    await edit(id, { standing: 'trusted', ownerIds: [] });
    expect((await getStanding(place.db, who, id)).certified).toMatchObject({ until: '2998-01-01' });
  });
});

describe('what was certified', () => {
  it('lapses with the reason when it stops being so, onto the worklist, and is certified again', async () => {
    const [id, other] = [await complete(), await complete('other')];
    const tend = certificationTender();
    for (const each of [id, other]) await edit(each, { standing: 'trusted' });
    expect(await tend(place.db)).toBe(0);
    await edit(id, { ownerIds: [] });
    expect(await tend(place.db)).toBe(1);
    const lapsed = await getAsset(place.db, who, id);
    expect(lapsed.standing).toBe('reviewed');
    expect(await getStanding(place.db, who, id)).toMatchObject({
      certified: null,
      lapsed: { reason: 'owned', by: who.name },
    });
    expect((await getAsset(place.db, who, other)).standing).toBe('trusted');
    const waiting = async () =>
      (await lapsedIn(place.db, [domainId], 10)).items.map(({ path, reason }) => [path, reason]);
    expect(await waiting()).toEqual([['fare', 'owned']]);
    const entries = await place.db.rows<{ principal: string; action: string; after: object }>(
      "select principal, action, after from journal where subject_id = $1 and principal_kind = 'service'",
      [id],
    );
    expect(entries).toEqual([
      { principal: 'checklists', action: 'no longer trusted', after: { standing: 'reviewed: open is owned' } },
    ]);
    const note = (noted: boolean) => place.db.transaction((tx) => noteLapse(tx, who, id, noted));
    await note(true);
    expect(await waiting()).toEqual([]);
    await note(false);
    await edit(id, { ownerIds: [who.id] });
    await edit(id, { standing: 'trusted' });
    expect(await waiting()).toEqual([]);
    expect(await tend(place.db)).toBe(0);
  });

  it('lapses when its day is over, when a column loses its description, and when more is asked', async () => {
    const tend = certificationTender();
    const [id, byColumn, byList] = [await complete(), await complete('column'), await complete('list')];
    for (const each of [id, byColumn, byList]) await edit(each, { standing: 'trusted', certifiedUntil: '2999-01-01' });
    expect(await tend(place.db)).toBe(0);
    await place.db.run("update certification set until = '2020-01-01' where asset_id = $1", [id]);
    const column = await one("select id from asset where parent_id = $1 and name = 'price'", [byColumn]);
    await edit(column, { description: '' });
    // Both were written lately; what nobody touched is looked at within the hour.
    expect(await tend(place.db)).toBe(2);
    const again = certificationTender();
    expect(await again(place.db)).toBe(0);
    const known = (await listChecklists(place.db, who)).find(({ kind }) => kind === 'table');
    expect(known?.trusted).toBe(1);
    await place.db.transaction((tx) =>
      changeChecklist(tx, who, 'table', known?.version ?? 0, { ...LIST, lineageUp: true }),
    );
    expect(await again(place.db)).toBe(1);
    const reasons = await place.db.rows<{ name: string; reason: string }>(
      'select a.name, c.reason from certification c join asset a on a.id = c.asset_id order by a.name',
    );
    expect(reasons).toEqual([
      { name: 'column', reason: 'columns described' },
      { name: 'fare', reason: 'it was certified until 2020-01-01' },
      { name: 'list', reason: 'lineage upstream' },
    ]);
  });

  it('by many at once is what is complete alone, and taken back as it was', async () => {
    const [ready, open] = [await complete(), await asset('table', 'open')];
    const finder = finderHere(place.db);
    const seen = await prepareBulkEdit(
      place.db,
      finder,
      who,
      { ids: [ready, open] },
      { kind: 'standing', standing: 'trusted' },
    );
    expect(seen).toMatchObject({ changes: 1, unsuited: 1 });
    await place.db.transaction((tx) => startBulkEdit(tx, who, seen.id));
    await runBulkEdit(place.db, seen.id);
    expect(await getStanding(place.db, who, ready)).toMatchObject({ certified: { by: who.name } });
    expect((await getAsset(place.db, who, open)).standing).toBe('unreviewed');
    await place.db.transaction((tx) => undoBulkEdit(tx, who, seen.id));
    await runBulkEdit(place.db, seen.id);
    expect((await getAsset(place.db, who, ready)).standing).toBe('unreviewed');
  });
});

describe('what is retiring', () => {
  it('names what takes its place and when it goes', async () => {
    const [old, fresh] = [await asset('table', 'old'), await asset('table', 'fresh')];
    expect(await refused(edit(old, { standing: 'retiring', replacementId: old }))).toMatchObject({ code: 'invalid' });
    expect(await refused(edit(old, { standing: 'retiring', retiresOn: '2020-01-01' }))).toMatchObject({
      code: 'invalid',
    });
    await edit(old, { standing: 'retiring', replacementId: fresh, retiresOn: '2999-06-30' });
    expect((await getStanding(place.db, who, old)).retirement).toEqual({
      replacement: { id: fresh, kind: 'table', path: 'fresh' },
      on: '2999-06-30',
      by: who.name,
    });
    await edit(old, { standing: 'reviewed' });
    expect((await getStanding(place.db, who, old)).retirement).toBeNull();
  });
});
