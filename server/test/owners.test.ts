import type { ManyAction } from '@idrel/contract/curation';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { inheritedOwners } from '../src/catalog/answering.ts';
import { getAsset } from '../src/catalog/index.ts';
import { getBulkEdit, prepareBulkEdit, startBulkEdit, undoBulkEdit } from '../src/curation/bulkEdits.ts';
import { editAsset, runBulkEdit } from '../src/curation/index.ts';
import { changeGroup, removeGroup } from '../src/people/manage.ts';
import { beginDiscussion, waitingFor } from '../src/writing/discussions.ts';
import { finderHere, freshDatabase, refused, staffed } from './place.ts';

let place: Awaited<ReturnType<typeof freshDatabase>>;
let here: Awaited<ReturnType<typeof staffed>>;
let finder: ReturnType<typeof finderHere>;
let group = '';
const one = async (sql: string, bind: unknown[]) => (await place.db.one<{ id: string }>(sql, bind))?.id ?? '';
beforeAll(async () => {
  place = await freshDatabase();
  here = await staffed(place.db);
  finder = finderHere(place.db);
});
afterAll(() => place?.drop());
beforeEach(async () => {
  for (const table of ['asset', 'bulk_edit', 'journal', 'person_group']) await place.db.run(`delete from ${table}`);
  group = await one("insert into person_group (name) values ('Harbour office') returning id", []);
  await place.db.run('insert into group_member (group_id, person_id) values ($1, $2)', [group, here.editor.id]);
});
const asset = (name: string, parent: string | null = null) =>
  one(
    "insert into asset (source_id, domain_id, kind, name, key, depth, parent_id) values ($1, $2, 'table', $3, $3, 0, $4) returning id",
    [here.sourceId, here.domainId, name, parent],
  );
const edit = async (id: string, change: Parameters<typeof editAsset>[4]) => {
  const { version } = await getAsset(place.db, here.who, id);
  return place.db.transaction((tx) => editAsset(tx, here.who, id, version, change));
};
const ownerOf = async (id: string) => (await getAsset(place.db, here.who, id)).owners.map(({ name }) => name);

describe('the owner of an asset', () => {
  it('is one: a person, or a group, found by its name, and called as the group is called now', async () => {
    const berth = await asset('berth');
    await edit(berth, { ownerIds: [here.reader.id] });
    expect(await edit(berth, { ownerIds: [group] })).toMatchObject({
      owners: [{ name: 'Harbour office', job: 'group' }],
    });
    const found = async (filter: string) =>
      await finder.ids(
        { filter: (await import('@idrel/core/catalog')).parseFilter(filter), domains: [here.domainId] },
        10,
      );
    expect(await found('owner:"Harbour office"')).toEqual([berth]);
    const now = await place.db.one<{ version: number }>('select version from person_group where id = $1', [group]);
    await place.db.transaction((tx) =>
      changeGroup(tx, here.who, group, now?.version ?? 0, {
        name: 'Port office',
        claim: null,
        memberIds: [here.editor.id],
      }),
    );
    expect([await found('owner:"Port office"'), await found('person:"Harbour office"')]).toEqual([[berth], []]);
    // A group looks after nothing as a steward, and two own nothing together, whatever way they are written.
    expect((await edit(berth, { stewardIds: [group] })).stewards).toEqual([]);
    const write = (id: string, role: string) =>
      place.db.run('insert into asset_person (asset_id, person_id, role) values ($1, $2, $3)', [berth, id, role]);
    await expect(write(group, 'steward')).rejects.toThrow(/can be steward/);
    await expect(write(here.reader.id, 'owner')).rejects.toThrow();
    await expect(write('6e3f0b0e-0000-4000-8000-000000000000', 'custodian')).rejects.toThrow(/can be custodian/);
  });

  it('is inherited where it is a group, too, and what waits for it waits for its members', async () => {
    const berth = await asset('berth');
    const plank = await asset('plank', berth);
    await edit(berth, { ownerIds: [group] });
    expect(await inheritedOwners(place.db, here.who, plank)).toMatchObject({
      owners: [{ name: 'Harbour office', job: 'group' }],
      from: { name: 'berth' },
    });
    await place.db.transaction((tx) =>
      beginDiscussion(tx, here.reader, plank, { question: true, text: 'How many are there?' }),
    );
    const waits = async (who: typeof here.who) => (await waitingFor(place.db, who, 10)).items.length;
    expect([await waits(here.editor), await waits(here.who)]).toEqual([1, 0]);
  });

  it('is put in place of another one in many, and each gets its own back', async () => {
    const [hers, free, theirs] = [await asset('hers'), await asset('free'), await asset('theirs')];
    await edit(hers, { ownerIds: [here.reader.id] });
    await edit(theirs, { ownerIds: [group] });
    const action: ManyAction = { kind: 'owner', id: group };
    const seen = await prepareBulkEdit(place.db, finder, here.who, { ids: [hers, free, theirs] }, action);
    expect(seen).toMatchObject({ changes: 2, same: 1, told: 'With owner: Harbour office' });
    await place.db.transaction((tx) => startBulkEdit(tx, here.who, seen.id));
    await runBulkEdit(place.db, seen.id);
    expect(await Promise.all([hers, free, theirs].map(ownerOf))).toEqual(Array(3).fill(['Harbour office']));
    await place.db.transaction((tx) => undoBulkEdit(tx, here.who, seen.id));
    await runBulkEdit(place.db, seen.id);
    expect(await getBulkEdit(place.db, here.who, seen.id)).toMatchObject({ state: 'undone', restored: 2 });
    expect(await Promise.all([hers, free, theirs].map(ownerOf))).toEqual([[here.reader.name], [], ['Harbour office']]);
    await expect(
      prepareBulkEdit(place.db, finder, here.who, { ids: [free] }, { kind: 'steward', id: group }),
    ).rejects.toMatchObject({ status: 422 });
  });

  it("that is a group stays until its assets are somebody else's", async () => {
    const berth = await asset('berth');
    await edit(berth, { ownerIds: [group] });
    const gone = () => place.db.transaction((tx) => removeGroup(tx, here.who, group));
    expect(await refused(gone())).toMatchObject({ code: 'still-used', detail: 'The group answers for an asset.' });
    await edit(berth, { ownerIds: [here.editor.id] });
    await gone();
    expect(await ownerOf(berth)).toEqual([here.editor.name]);
  });
});
