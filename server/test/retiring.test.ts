import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { getAsset } from '../src/catalog/index.ts';
import { prepareBulkEdit, startBulkEdit } from '../src/curation/bulkEdits.ts';
import { editAsset, runBulkEdit, tellUsers } from '../src/curation/index.ts';
import type { Who } from '../src/people/index.ts';
import { mailbox } from './mailbox.ts';
import { finderHere, freshDatabase, staffed } from './place.ts';

let place: Awaited<ReturnType<typeof freshDatabase>>;
let here: Awaited<ReturnType<typeof staffed>>;
let box: Awaited<ReturnType<typeof mailbox>>;

beforeAll(async () => {
  place = await freshDatabase();
  here = await staffed(place.db);
  await place.db.run("update person set email = lower(split_part(name, ' ', 1)) || '@example.org'");
  box = await mailbox();
});
afterAll(async () => {
  await box.close();
  await place.drop();
});

const one = async (sql: string, bind: unknown[]) => (await place.db.one<{ id: string }>(sql, bind))?.id ?? '';
const table = (name: string, domainId = here.domainId) =>
  one(
    "insert into asset (source_id, domain_id, kind, name, key, depth) values ($1, $2, 'table', $3, $3, 0) returning id",
    [here.sourceId, domainId, name],
  );
const feeds = async (from: string, to: string) => {
  const flow = await one(
    "insert into flow (source_id, asset_id, kind, statement) values ($1, $2, 'view', '') returning id",
    [here.sourceId, to],
  );
  await place.db.run('insert into lineage_edge (from_id, to_id, flow_id, kind) values ($1, $2, $3, $4)', [
    from,
    to,
    flow,
    'copied',
  ]);
};
const owns = (who: Who, asset: string) =>
  place.db.run("insert into asset_person (asset_id, person_id, role) values ($1, $2, 'owner')", [asset, who.id]);
async function asked(who: Who, asset: string, calls: number) {
  const statement = await one(
    "insert into asked_statement (id, source_id, print, text) values (gen_random_uuid(), $1, $2, 'x') returning id",
    [here.sourceId, `${who.name} ${asset}`],
  );
  await place.db.run('insert into asked_by (statement_id, person_id, calls) values ($1, $2, $3)', [
    statement,
    who.id,
    calls,
  ]);
  await place.db.run("insert into asked_for (asset_id, statement_id, how) values ($1, $2, '{shown}')", [
    asset,
    statement,
  ]);
}
const edit = async (id: string, change: Parameters<typeof editAsset>[4]) => {
  const { version } = await getAsset(place.db, here.who, id);
  return place.db.transaction((tx) => editAsset(tx, here.who, id, version, change));
};
/** What the queue of jobs holds for these assets. */
const jobs = async () =>
  (
    await place.db.rows<{ payload: { assetIds: string[] } }>(
      `select j.payload
       from graphile_worker._private_jobs j
       join graphile_worker._private_tasks t on t.id = j.task_id
       where t.identifier = 'retiring' and j.run_at > now() order by j.id`,
    )
  ).map(({ payload }) => payload.assetIds);
const tell = (...ids: string[]) => tellUsers(place.db, box.config, ids);

beforeEach(async () => {
  box.mails.length = 0;
  box.state.refusing = false;
  for (const of of ['asset', 'asked_statement', 'journal']) await place.db.run(`delete from ${of}`);
  await place.db.run('delete from graphile_worker._private_jobs');
});

describe('who uses what is to be retired', () => {
  it('is told once, with what takes its place and when it goes, why they are told, and by whom', async () => {
    const [old, fresh, mart, far] = [
      await table('fare'),
      await table('fare_band'),
      await table('mart'),
      await table('far'),
    ];
    await feeds(old, mart);
    await feeds(mart, far);
    await asked(here.reader, old, 12);
    await owns(here.editor, far);
    await owns(here.who, mart);
    await edit(old, { standing: 'retiring', replacementId: fresh, retiresOn: '2027-01-31' });
    expect(await jobs()).toEqual([[old]]);
    expect(await tell(old)).toBe(2);
    const of = (who: Who) => box.mails.find(({ to }) => to === `${who.name.toLowerCase()}@example.org`)?.text ?? '';
    expect(of(here.reader)).toContain('Subject: fare is to be retired');
    expect(of(here.reader)).toContain(`${here.who.name} has marked as retiring what you use:`);
    expect(of(here.reader)).toContain(
      `fare in Test source: goes on 31 January 2027; instead: fare_band\nYou asked for it 12 times.\nhttps://idrel.example/assets/${old}`,
    );
    expect(of(here.editor)).toContain('You answer for what is made from it: far.');
    const told = await place.db.rows<{ action: string; principal: string; after: object }>(
      'select action, principal, after from journal where subject_id = $1 and action like $2 order by after::text',
      [old, 'user told'],
    );
    expect(told.map(({ after }) => after)).toEqual([{ person: here.editor.name }, { person: here.reader.name }]);
    expect(await tell(old)).toBe(0);
    // Another day: told anew.
    await edit(old, { standing: 'retiring', replacementId: fresh, retiresOn: '2027-02-28' });
    expect(await jobs()).toHaveLength(2);
    expect(await tell(old)).toBe(2);
    expect(of(here.reader)).toContain('31 January');
    expect(box.mails.at(-1)?.text).toContain('goes on 28 February 2027');
  });

  it('is not told of what they may not see, or what stays after all', async () => {
    const [old, away] = [await table('fare'), await table('watch', here.elsewhere)];
    await asked(here.stranger, old, 1);
    await feeds(old, away);
    await owns(here.reader, away);
    await asked(here.reader, old, 1);
    await edit(old, { standing: 'retiring' });
    expect(await tell(old)).toBe(1);
    expect(box.mails).toHaveLength(1);
    expect(box.mails[0]?.text).toContain(`${here.who.name} has marked`);
    expect(box.mails[0]?.text).toMatch(/fare in Test source\nYou asked for it[.]\n/);
    expect(box.mails[0]?.text).not.toContain('watch');
    const other = await table('berth');
    await asked(here.reader, other, 1);
    await edit(other, { standing: 'retiring' });
    await edit(other, { standing: 'reviewed' });
    expect(await tell(other)).toBe(0);
  });

  it('is told later where the mail could not be sent, and by nobody where no mail is set up', async () => {
    const old = await table('fare');
    await asked(here.reader, old, 3);
    await edit(old, { standing: 'retiring' });
    box.state.refusing = true;
    await expect(tell(old)).rejects.toThrow(/full/);
    box.state.refusing = false;
    expect(await tellUsers(place.db, { ...box.config, mail: null }, [old])).toBe(0);
    expect(await tell(old)).toBe(1);
  });

  it('is told of many in one mail', async () => {
    const all = await Promise.all(Array.from({ length: 23 }, (_, at) => table(`old_${String(at).padStart(2, '0')}`)));
    for (const id of all) await asked(here.reader, id, 2);
    const seen = await prepareBulkEdit(
      place.db,
      finderHere(place.db),
      here.who,
      { ids: all },
      { kind: 'standing', standing: 'retiring' },
    );
    await place.db.transaction((tx) => startBulkEdit(tx, here.who, seen.id));
    await runBulkEdit(place.db, seen.id);
    expect((await jobs()).map((ids) => ids.length)).toEqual([23]);
    expect(await tell(...all)).toBe(1);
    expect(box.mails).toHaveLength(1);
    expect(box.mails[0]?.text).toContain('Subject: 23 tables that you use are to be retired');
    expect(box.mails[0]?.text).toContain(`${here.who.name} has marked`);
    expect(box.mails[0]?.text).toMatch(/old_19 in Test source[\s\S]*and 3 more: https:\/\/idrel\.example\/catalog/);
    expect(box.mails[0]?.text).not.toContain('old_20 in');
  });
});
