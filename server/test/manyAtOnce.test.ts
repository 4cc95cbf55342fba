import type { BulkEditAnswer, Choice, ManyAction, TagBody } from '@idrel/contract/curation';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { getAsset } from '../src/catalog/index.ts';
import {
  cancelBulkEdit,
  getBulkEdit,
  listBulkEdits,
  prepareBulkEdit,
  startBulkEdit,
  tendBulkEdits,
  undoBulkEdit,
} from '../src/curation/bulkEdits.ts';
import { editAsset, runBulkEdit } from '../src/curation/index.ts';
import { addTag, bringBackTag, changeTag, listTags, mergeTag, previewMerge, removeTag } from '../src/curation/tags.ts';
import { loadWho, type Who } from '../src/people/index.ts';
import { decideFindings } from '../src/recognition/index.ts';
import { finderHere, freshDatabase, furnish, personWith } from './place.ts';

let place: Awaited<ReturnType<typeof freshDatabase>>;
let finder: ReturnType<typeof finderHere>;
let who: Who;
let editor: Who;
let elsewhereId: string;
let sourceId: string;
let domainId: string;

const ids = async (sql: string, bind: unknown[] = []) =>
  (await place.db.rows<{ id: string }>(sql, bind)).map((row) => row.id);

beforeAll(async () => {
  place = await freshDatabase();
  const made = await furnish(place.db);
  ({ sourceId, domainId } = made);
  who = (await loadWho(place.db, made.personId)) as Who;
  [elsewhereId = ''] = await ids("insert into domain (name) values ('Crewing') returning id");
  who = (await loadWho(place.db, made.personId)) as Who;
  editor = await personWith(place.db, 'Edda', 'editor', domainId);
  finder = finderHere(place.db);
  // Checklists have tests of their own.
  await place.db.run('delete from checklist');
});
afterAll(() => place.drop());
beforeEach(async () => {
  for (const table of ['asset', 'tag', 'bulk_edit', 'journal', 'routine']) await place.db.run(`delete from ${table}`);
});

/** Tables of two domains, so many of each, and a column. */
async function assets(here: number, elsewhere = 0): Promise<string[]> {
  return ids(
    `insert into asset (source_id, domain_id, kind, name, key, depth)
     select $1, case when i <= $4::int then $2::uuid else $3::uuid end, case when i % 10 = 0 then 'view' else 'table' end, 'quay_' || i, 'quay_' || lpad(i::text, 6, '0'), 0
     from generate_series(1, $4::int + $5::int) i returning id`,
    [sourceId, domainId, elsewhereId, here, elsewhere],
  );
}
const tag = (name: string, more: Partial<TagBody> = {}, by = who) =>
  place.db.transaction((tx) =>
    addTag(tx, by, { name, description: '', permitted: null, kinds: null, groupIds: [], travels: [], ...more }),
  );
const prepare = (choice: Choice, action: ManyAction, by = who) => prepareBulkEdit(place.db, finder, by, choice, action);
async function done(edit: BulkEditAnswer, by = who): Promise<BulkEditAnswer> {
  await place.db.transaction((tx) => startBulkEdit(tx, by, edit.id));
  await runBulkEdit(place.db, edit.id);
  return getBulkEdit(place.db, by, edit.id);
}
async function undone(edit: BulkEditAnswer, by = who): Promise<BulkEditAnswer> {
  await place.db.transaction((tx) => undoBulkEdit(tx, by, edit.id));
  await runBulkEdit(place.db, edit.id);
  return getBulkEdit(place.db, by, edit.id);
}
const tagsOf = async (id: string) =>
  (await getAsset(place.db, who, id)).tags.map(({ name, value }) => `${name}/${value}`);
const edit = async (id: string, change: Parameters<typeof editAsset>[4], by = who) =>
  place.db.transaction(async (tx) => editAsset(tx, by, id, (await getAsset(tx, by, id)).version, change));

describe('many at once', () => {
  it('does to each what was seen, part by part, writes it down, and takes it back', async () => {
    const all = await assets(4500);
    const pilot = await tag('pilot', { permitted: ['one', 'two'] });
    await edit(all[0] as string, { tags: [{ id: pilot.id, value: 'one' }] });
    await edit(all[1] as string, { tags: [{ id: pilot.id, value: 'two' }] });
    const seen = await prepare({ filter: 'kind:any' }, { kind: 'tag', id: pilot.id, value: 'two' });
    expect(seen).toMatchObject({
      state: 'prepared',
      found: 4500,
      changes: 4499,
      same: 1,
      refused: 0,
      told: 'With tag: pilot/two',
    });
    expect(seen.items).toHaveLength(200);
    expect(seen.items[0]).toMatchObject({ path: 'quay_000001', effect: 'changes', before: 'pilot/one' });
    // Not looked at: it came later.
    const [late = ''] = await ids(
      "insert into asset (source_id, domain_id, kind, name, key, depth) values ($1, $2, 'table', 'late', 'a_late', 0) returning id",
      [sourceId, domainId],
    );
    const after = await done(seen);
    expect(after).toMatchObject({ state: 'done', done: 4499, passedOver: 0, undoable: true });
    expect(await place.db.one('select count(*)::int as n from asset_tag where value = $1', ['two'])).toEqual({
      n: 4500,
    });
    expect(await tagsOf(late)).toEqual([]);
    const entries = await place.db.one<{ n: number; actions: string[] }>(
      "select count(*)::int as n, array_agg(distinct action) as actions from journal where after ->> 'tags' = '[\"pilot/two\"]' and action like 'many%'",
    );
    expect(entries).toEqual({ n: 4499, actions: ['many at once: With tag: pilot/two'] });
    expect(
      (await finder.count({ filter: { type: 'all', of: [] }, domains: who.domainsAs('reader') })).find(
        ({ key }) => key === 'tag',
      )?.values,
    ).toEqual([
      { value: 'pilot', label: 'pilot', count: 4500 },
      { value: 'pilot/two', label: 'pilot/two', count: 4500 },
    ]);

    // Somebody changed one of them since: it stays as they made it.
    await edit(all[7] as string, { tags: [{ id: pilot.id, value: 'one' }] });
    const back = await undone(after);
    expect(back).toMatchObject({ state: 'undone', restored: 4498, undoable: false });
    expect([
      await tagsOf(all[0] as string),
      await tagsOf(all[1] as string),
      await tagsOf(all[7] as string),
      await tagsOf(all[9] as string),
    ]).toEqual([['pilot/one'], ['pilot/two'], ['pilot/one'], []]);
    await expect(undone(after)).rejects.toMatchObject({ code: 'undone' });
    expect(await listBulkEdits(place.db, who)).toMatchObject([{ state: 'undone', restored: 4498 }]);
    expect(await listBulkEdits(place.db, editor)).toEqual([]);
  });

  it('leaves what somebody changed since it was looked at, and what is gone', async () => {
    const all = await assets(10);
    const seen = await prepare({ ids: all }, { kind: 'standing', standing: 'trusted' });
    await edit(all[2] as string, { standing: 'retiring' });
    await edit(all[3] as string, { standing: 'trusted' });
    await place.db.run('delete from asset where id = $1', [all[4]]);
    expect(await done(seen)).toMatchObject({ state: 'done', changes: 10, done: 10, passedOver: 3 });
    expect((await getAsset(place.db, who, all[2] as string)).standing).toBe('retiring');
    expect((await getAsset(place.db, who, all[0] as string)).standing).toBe('trusted');
  });

  it('refuses what the person may not change, tells kinds that do not take it, and leaves both out', async () => {
    await assets(20, 5);
    const narrow = await tag('of tables', { kinds: ['table'] });
    await place.db.run("insert into role_grant (person_id, role, domain_id) values ($1, 'reader', $2)", [
      editor.id,
      elsewhereId,
    ]);
    editor = (await loadWho(place.db, editor.id)) as Who;
    const seen = await prepare({ filter: 'kind:any' }, { kind: 'tag', id: narrow.id }, editor);
    expect(seen).toMatchObject({
      found: 25,
      changes: 18,
      refused: 5,
      unsuited: 2,
      unsuitedKinds: [{ kind: 'view', assets: 2 }],
    });
    expect(await done(seen, editor)).toMatchObject({ done: 18 });
    expect(await place.db.one('select count(*)::int as n from asset_tag')).toEqual({ n: 18 });
    // Standing is the stewards': an editor changes none.
    expect(await prepare({ filter: 'kind:any' }, { kind: 'standing', standing: 'trusted' }, editor)).toMatchObject({
      changes: 0,
      refused: 25,
    });
    // Nobody sees, starts or undoes what another one prepared.
    for (const act of [startBulkEdit, undoBulkEdit, cancelBulkEdit, getBulkEdit])
      await expect(place.db.transaction((tx) => act(tx, who, seen.id))).rejects.toMatchObject({ code: 'not-found' });
  });

  it('does nothing any more that the person lost the right to', async () => {
    await assets(3);
    const [groupId = ''] = await ids("insert into person_group (name) values ('Harbour office') returning id");
    await place.db.run('insert into group_member (group_id, person_id) values ($1, $2)', [groupId, editor.id]);
    const own = await tag('office', { groupIds: [groupId] });
    const seen = await prepare({ filter: 'kind:any' }, { kind: 'tag', id: own.id }, editor);
    await place.db.transaction((tx) => startBulkEdit(tx, editor, seen.id));
    await place.db.run('delete from group_member');
    await runBulkEdit(place.db, seen.id);
    const failed = await getBulkEdit(place.db, editor, seen.id);
    expect(failed).toMatchObject({ state: 'failed', done: 0 });
    expect(failed.problem).toMatch(/Harbour office/);
    await expect(prepare({ filter: 'kind:any' }, { kind: 'tag', id: own.id }, editor)).rejects.toMatchObject({
      code: 'forbidden',
    });
  });

  it.each([
    ['owner', 'asset_person'],
    ['steward', 'asset_person'],
    ['custodian', 'asset_person'],
    ['term', 'asset_term'],
  ] as const)('gives and takes a %s, and takes either back', async (kind, table) => {
    const all = await assets(3);
    const [termId = ''] = await ids(
      "insert into term (name, scheme_id) values ('Berth ' || gen_random_uuid(), (select id from scheme)) returning id",
    );
    const id = kind === 'term' ? termId : who.id;
    const count = async () => (await place.db.one<{ n: number }>(`select count(*)::int as n from ${table}`))?.n;
    const given = await done(await prepare({ ids: all.slice(0, 2) }, { kind, id }));
    expect([given.done, await count()]).toEqual([2, 2]);
    const taken = await done(await prepare({ ids: all }, { kind, id, remove: true }));
    expect([taken.found, taken.changes, taken.same, await count()]).toEqual([3, 2, 1, 0]);
    expect([(await undone(taken)).restored, await count()]).toEqual([2, 2]);
    expect([(await undone(given)).restored, await count()]).toEqual([2, 0]);
  });

  it('attaches a notice, and takes it back where it still says the same', async () => {
    const all = await assets(3);
    const notices = () =>
      place.db.rows<{ name: string; kind: string; holds: boolean }>(
        'select a.name, n.kind, n.holds from notice n join asset a on a.id = n.asset_id where n.removed_at is null order by a.name',
      );
    const action = { kind: 'notice', notice: 'stop', text: "It's doubled: 100 % {}", ends: '2099-12-31' } as const;
    const given = await done(await prepare({ ids: all }, action));
    expect(given.changes).toBe(3);
    expect(await notices()).toEqual([1, 2, 3].map((nth) => ({ name: `quay_${nth}`, kind: 'stop', holds: true })));
    expect(await prepare({ ids: all }, action)).toMatchObject({ changes: 0, same: 3 });
    // Somebody says something else in one of them.
    await place.db.run("update notice set text = 'Cleared.' where asset_id = $1", [all[0]]);
    await undone(given);
    expect((await notices()).map(({ name }) => name)).toEqual(['quay_1']);
    await expect(prepare({ ids: all }, { ...action, ends: '2020-01-01' })).rejects.toMatchObject({
      message: 'The notice would be over already.',
    });
  });

  it('sets levels with a reason, as far up as they rise, and gives each its own back', async () => {
    const [schema = ''] = await ids(
      "insert into asset (source_id, domain_id, kind, name, key, depth) values ($1, $2, 'schema', 's', 's', 0) returning id",
      [sourceId, domainId],
    );
    const all = await assets(3);
    await place.db.run('update asset set parent_id = $1 where id = any($2::uuid[])', [schema, all]);
    const [one = '', other = ''] = all;
    const { version } = await getAsset(place.db, who, one);
    await place.db.transaction((tx) => editAsset(tx, who, one, version, { level: 2, levelReason: 'Own' }));
    const levels = async () =>
      place.db.rows<{ name: string; level: number | null; reason: string | null }>(
        'select name, level, level_reason as reason from asset where parent_id is not null order by name',
      );
    const before = await levels();
    const level: ManyAction = { kind: 'level', level: 3, reason: 'By contract' };
    expect((await prepare({ ids: all }, level, editor)).refused).toBe(3);
    const edit = await done(await prepare({ ids: all }, level));
    expect(edit).toMatchObject({ state: 'done', told: 'Level: guarded: By contract', changes: 3 });
    expect(await levels()).toMatchObject([{ level: 3, reason: 'By contract' }, { level: 3 }, { level: 3 }]);
    const risen = () => place.db.one<{ rises: number | null }>('select rises from asset where id = $1', [schema]);
    expect(await risen()).toEqual({ rises: 3 });
    // What somebody set anew since stays.
    const now = await getAsset(place.db, who, other);
    await place.db.transaction((tx) => editAsset(tx, who, other, now.version, { level: 4, levelReason: 'Since' }));
    await undoBulkEdit(place.db, who, edit.id);
    await runBulkEdit(place.db, edit.id);
    const after = await levels();
    expect(after.filter(({ level: at }) => at === 4)).toHaveLength(1);
    expect(after.filter(({ reason }) => reason !== 'Since')).toEqual(
      before.filter(({ name }) => after.some((entry) => entry.name === name && entry.reason !== 'Since')),
    );
    expect((await getBulkEdit(place.db, who, edit.id)).restored).toBe(2);
    const told = await place.db.rows(
      "select before, after from journal where action = 'many at once: Level: guarded: By contract'",
    );
    expect(told).toContainEqual({ before: { level: 2 }, after: { level: 3 } });
  });

  it('confirms a class in columns, or dismisses it, with its reason, and puts back whatever was decided before', async () => {
    const [table = ''] = await assets(1);
    const columns = await ids(
      `insert into asset (source_id, domain_id, kind, name, key, depth, parent_id)
       select $1, $2, 'column', 'mail_' || i, 'quay_000001' || chr(31) || 'mail_' || i, 1, $3 from generate_series(1, 4) i returning id`,
      [sourceId, domainId, table],
    );
    const [found = '', dismissed = '', confirmed = '', plain = ''] = columns;
    await place.db.run(
      `insert into claim (asset_id, class_key, detector, detector_version, share, matched, sampled, distinct_values, confidence, state, evidence)
       select unnest($1::uuid[]), 'email', 'email.address', '1', 0.9, 9, 10, 9, 0.7, 'to-settle', '{"name": {"verdict": "neutral", "words": []}, "terms": [], "examples": []}'`,
      [[found, dismissed]],
    );
    const decided = (id: string) =>
      place.db.one(
        "select decision, reason, decided_at as at from finding_decision where asset_id = $1 and class_key = 'email'",
        [id],
      );
    const decide = (id: string, decision: 'confirmed' | 'dismissed', reason: string) =>
      place.db.transaction((tx) => decideFindings(tx, who, [{ assetId: id, classKey: 'email', decision, reason }]));
    await decide(dismissed, 'dismissed', 'Made up.');
    await decide(confirmed, 'confirmed', 'Seen.');
    const before = await decided(dismissed);
    const confirm: ManyAction = { kind: 'class', key: 'email', reason: 'Read in the form.' };

    const seen = await prepare({ ids: [...columns, table] }, confirm);
    expect(seen).toMatchObject({
      changes: 3,
      same: 1,
      unsuited: 1,
      told: 'With class: E-mail address: Read in the form.',
    });
    expect(
      seen.items
        .map(({ before: was }) => was)
        .slice(0, 3)
        .sort(),
    ).toEqual(['dismissed', 'to-settle', null].sort());
    expect(await prepare({ ids: columns }, confirm, editor)).toMatchObject({ changes: 0, refused: 3 });
    const after = await done(seen);
    expect(after).toMatchObject({ state: 'done', done: 3, passedOver: 0 });
    expect((await getAsset(place.db, who, table)).classes).toEqual(['email']);
    expect(await getAsset(place.db, who, plain)).toMatchObject({ level: 3 });
    // Decided anew since: it stays.
    await decide(found, 'dismissed', 'No.');
    expect(await undone(after)).toMatchObject({ state: 'undone', restored: 2 });
    expect(await decided(dismissed)).toEqual(before);
    expect(await decided(confirmed)).toMatchObject({ reason: 'Seen.' });
    expect(await decided(found)).toMatchObject({ decision: 'dismissed', reason: 'No.' });
    expect(await decided(plain)).toBeUndefined();
    expect(await getAsset(place.db, who, plain)).toMatchObject({ level: null });

    const dismiss: ManyAction = { ...confirm, reason: '', remove: true };
    const gone = await done(await prepare({ ids: columns }, dismiss));
    expect(gone).toMatchObject({ changes: 1, same: 3, done: 1 });
    expect((await getAsset(place.db, who, table)).classes).toEqual([]);
    await expect(prepare({ ids: columns }, { ...confirm, key: 'nothing' })).rejects.toMatchObject({ status: 422 });
  });

  it('describes what nobody described, each after the same template, so that it is found by it; and takes that back alone', async () => {
    const all = await assets(3);
    const [one = '', other = ''] = all;
    const describe = async (id: string, description: string) => {
      const { version } = await getAsset(place.db, who, id);
      await place.db.transaction((tx) => editAsset(tx, who, id, version, { description }));
    };
    await describe(one, 'Written by hand');
    const edit = await done(
      await prepare({ ids: all }, { kind: 'description', text: 'Landing copy: {kind} {name} of {source}' }, editor),
      editor,
    );
    expect(edit).toMatchObject({ changes: 2, same: 1 });
    const texts = async () =>
      (await place.db.rows<{ description: string | null }>('select description from asset order by description')).map(
        ({ description }) => description,
      );
    expect(await texts()).toEqual([
      'Landing copy: table quay_2 of Test source',
      'Landing copy: table quay_3 of Test source',
      'Written by hand',
    ]);
    const { parseFilter } = await import('@idrel/core/catalog');
    expect(await finder.ids({ filter: parseFilter('landing'), domains: [domainId] }, 10)).toHaveLength(2);
    await describe(other, 'Made better since');
    await undoBulkEdit(place.db, editor, edit.id);
    await runBulkEdit(place.db, edit.id);
    expect(await texts()).toEqual(['Made better since', 'Written by hand', null]);
  });

  it('attaches a link, once, and takes it away again where it still stands', async () => {
    const all = await assets(2);
    const link: ManyAction = { kind: 'link', link: 'ticket', url: 'https://tickets.example.org/7', title: 'The move' };
    const edit = await done(await prepare({ ids: all }, link, editor), editor);
    expect((await prepare({ ids: all }, link, editor)).same).toBe(2);
    const links = () => place.db.rows('select title, made_by from asset_link where removed_at is null');
    expect(await links()).toEqual([1, 2].map(() => ({ title: 'The move', made_by: editor.id })));
    await undoBulkEdit(place.db, editor, edit.id);
    await runBulkEdit(place.db, edit.id);
    expect(await links()).toEqual([]);
  });

  it('takes a tag with whatever value, and gives each its own back', async () => {
    const all = await assets(3);
    const kept = await tag('retention');
    await edit(all[0] as string, { tags: [{ id: kept.id, value: '7 years' }] });
    await edit(all[1] as string, { tags: [{ id: kept.id, value: '' }] });
    const taken = await done(await prepare({ ids: all }, { kind: 'tag', id: kept.id, remove: true }));
    expect([taken.changes, await tagsOf(all[0] as string)]).toEqual([2, []]);
    await undone(taken);
    expect([await tagsOf(all[0] as string), await tagsOf(all[1] as string), await tagsOf(all[2] as string)]).toEqual([
      ['retention/7 years'],
      ['retention/'],
      [],
    ]);
  });

  it('that failed on the way can be taken back, once that may be', async () => {
    await assets(2100);
    const [groupId = ''] = await ids("insert into person_group (name) values ('Quay office') returning id");
    const join = () =>
      place.db.run('insert into group_member (group_id, person_id) values ($1, $2)', [groupId, editor.id]);
    await join();
    const own = await tag('quay office', { groupIds: [groupId] });
    const seen = await prepare({ filter: 'kind:any' }, { kind: 'tag', id: own.id }, editor);
    await place.db.transaction((tx) => startBulkEdit(tx, editor, seen.id));
    const leaving = {
      ...place.db,
      transaction: async <T>(work: Parameters<typeof place.db.transaction<T>>[0]) => {
        const answer = await place.db.transaction(work);
        await place.db.run('delete from group_member');
        return answer;
      },
    };
    await runBulkEdit(leaving, seen.id);
    const failed = await getBulkEdit(place.db, editor, seen.id);
    expect(failed).toMatchObject({ state: 'failed', done: 2000, undoable: true });
    await expect(undone(failed, editor)).rejects.toMatchObject({ code: 'forbidden' });
    await join();
    expect(await undone(failed, editor)).toMatchObject({ state: 'undone', restored: 2000 });
    expect(await place.db.one('select count(*)::int as n from asset_tag')).toEqual({ n: 0 });
  });

  it('stops when told to; what is done stays, and can be taken back', async () => {
    await assets(5000);
    const seen = await prepare({ filter: 'kind:any' }, { kind: 'standing', standing: 'reviewed' });
    await place.db.transaction((tx) => startBulkEdit(tx, who, seen.id));
    const beats = {
      ...place.db,
      transaction: async <T>(work: Parameters<typeof place.db.transaction<T>>[0]) => {
        const answer = await place.db.transaction(work);
        await place.db.transaction((tx) => cancelBulkEdit(tx, who, seen.id));
        return answer;
      },
    };
    await runBulkEdit(beats, seen.id);
    const stopped = await getBulkEdit(place.db, who, seen.id);
    expect(stopped).toMatchObject({ state: 'cancelled', done: 2000, undoable: true });
    expect(await undone(stopped)).toMatchObject({ state: 'undone', restored: 2000 });
    expect(await place.db.one("select count(*)::int as n from asset where standing <> 'unreviewed'")).toEqual({ n: 0 });
  });

  it('goes on where it was when its worker ended on the way', async () => {
    await assets(4100);
    const seen = await prepare({ filter: 'kind:any' }, { kind: 'standing', standing: 'reviewed' });
    await place.db.transaction((tx) => startBulkEdit(tx, who, seen.id));
    let parts = 0;
    const dying = {
      ...place.db,
      transaction: <T>(work: Parameters<typeof place.db.transaction<T>>[0]) => {
        parts += 1;
        return parts > 1
          ? place.db.transaction(async (tx) => {
              await work(tx);
              throw new Error('the worker ended');
            })
          : place.db.transaction(work);
      },
    };
    await expect(runBulkEdit(dying, seen.id)).rejects.toThrow('the worker ended');
    expect(await getBulkEdit(place.db, who, seen.id)).toMatchObject({ state: 'running', done: 2000 });
    await place.db.run("update bulk_edit set beat_at = now() - interval '1 minute'");
    const jobs = () =>
      place.db.one<{ n: number }>('select count(*)::int as n from graphile_worker.jobs where key = $1', [
        `bulk-edit ${seen.id}`,
      ]);
    await place.db.run('delete from graphile_worker._private_jobs');
    await tendBulkEdits(place.db);
    expect(await jobs()).toEqual({ n: 1 });
    await runBulkEdit(place.db, seen.id);
    expect(await getBulkEdit(place.db, who, seen.id)).toMatchObject({ state: 'done', done: 4100 });
    expect(await place.db.one("select count(*)::int as n from journal where action like 'many%'")).toEqual({ n: 4100 });
  });

  it('tells what is wrong with a choice or an action', async () => {
    const [one = ''] = await assets(1);
    const [termId = ''] = await ids(
      "insert into term (name, scheme_id) values ('Pier', (select id from scheme)) returning id",
    );
    await expect(prepare({ filter: 'quay_99' }, { kind: 'standing', standing: 'trusted' })).rejects.toThrow(
      'Nothing is chosen.',
    );
    await expect(
      prepare({ filter: 'kind:any', except: [one] }, { kind: 'standing', standing: 'trusted' }),
    ).rejects.toThrow('Nothing is chosen.');
    await expect(prepare({ ids: [one] }, { kind: 'owner', id: termId })).rejects.toThrow('not there any more');
    await expect(prepare({ ids: [one] }, { kind: 'tag', id: termId })).rejects.toThrow('The tag is not there any more');
    const strict = await tag('strict', { permitted: ['a', 'b'] });
    await expect(prepare({ ids: [one] }, { kind: 'tag', id: strict.id, value: 'c' })).rejects.toThrow(
      '“c” is no value of the tag “strict”.',
    );
    const plain = await tag('plain', { permitted: [] });
    await expect(prepare({ ids: [one] }, { kind: 'tag', id: plain.id, value: 'c' })).rejects.toMatchObject({
      more: { mend: 'It is given without a value.' },
    });
    const seen = await prepare({ ids: [one] }, { kind: 'tag', id: plain.id });
    await done(seen);
    await expect(done(seen)).rejects.toMatchObject({ code: 'begun-already' });
    await place.db.run("update bulk_edit set ended_at = now() - interval '25 hours'");
    await expect(undone(seen)).rejects.toMatchObject({ code: 'not-undoable' });
  });
});

describe('tags', () => {
  it('are given by whom, to what and with which value they say', async () => {
    const all = await assets(10);
    const [groupId = ''] = await ids("insert into person_group (name) values ('Records') returning id");
    const strict = await tag('retention', { permitted: ['short', 'long'], kinds: ['view'] });
    const closed = await tag('seen by records', { groupIds: [groupId] });
    const give = (id: string, tagId: string, value = '', by = who) => edit(id, { tags: [{ id: tagId, value }] }, by);
    await expect(give(all[0] as string, strict.id, 'short')).rejects.toThrow('is not for a table');
    await expect(give(all[9] as string, strict.id, 'medium')).rejects.toThrow('is no value of the tag');
    await give(all[9] as string, strict.id, 'long');
    await expect(give(all[0] as string, closed.id, '', editor)).rejects.toMatchObject({ code: 'forbidden' });
    await give(all[0] as string, closed.id);
    // What stays as it is needs no right; taking away does.
    await edit(all[0] as string, { tags: [{ id: closed.id, value: '' }], description: 'Of the quay' }, editor);
    await expect(edit(all[0] as string, { tags: [] }, editor)).rejects.toMatchObject({ code: 'forbidden' });
    await expect(place.db.transaction((tx) => removeTag(tx, editor, closed.id))).rejects.toMatchObject({
      code: 'forbidden',
    });
    expect(await listTags(place.db, editor)).toMatchObject([
      { name: 'retention', mayGive: true, assets: 1, values: [{ value: 'long', assets: 1 }] },
      { name: 'seen by records', mayGive: false, groups: ['Records'], assets: 1 },
    ]);
    await expect(tag('Retention')).rejects.toMatchObject({ code: 'name-taken' });
    await expect(tag('lost', { groupIds: [all[0] as string] })).rejects.toThrow('group of the tag is not there');
  });

  it('leave everything when they are removed, and come back to all that carried them', async () => {
    const [one = ''] = await assets(1);
    const pilot = await tag('pilot');
    await edit(one, { tags: [{ id: pilot.id, value: '' }] });
    const found = async (filter: string) =>
      (await prepare({ filter }, { kind: 'standing', standing: 'trusted' }).catch(() => ({ found: 0 }))).found;
    expect([await found('tag:pilot'), await found('tag:none')]).toEqual([1, 0]);
    await place.db.transaction((tx) => removeTag(tx, who, pilot.id));
    expect([await found('tag:pilot'), await found('tag:none'), await tagsOf(one)]).toEqual([0, 1, []]);
    const other = await tag('pilot');
    await expect(place.db.transaction((tx) => bringBackTag(tx, who, pilot.id))).rejects.toMatchObject({
      code: 'name-taken',
    });
    await place.db.transaction((tx) => changeTag(tx, who, other.id, 1, { ...other, name: 'pilot two' } as TagBody));
    await place.db.transaction((tx) => bringBackTag(tx, who, pilot.id));
    expect([await found('tag:pilot'), await tagsOf(one)]).toEqual([1, ['pilot/']]);
    expect(await found('tag:"pilot two"')).toBe(0);
  });

  it('are merged with what was seen, in all domains or not at all', async () => {
    const all = await assets(10, 1);
    const [from, into] = [await tag('keep'), await tag('retention', { permitted: ['short'], kinds: ['table'] })];
    const value = (at: number, tagId: string, given: string) =>
      place.db.run('insert into asset_tag (asset_id, tag_id, value) values ($1, $2, $3)', [all[at], tagId, given]);
    await value(0, from.id, 'short');
    await value(1, from.id, 'for ever');
    await value(2, from.id, 'for ever');
    await value(2, into.id, 'short');
    await value(9, from.id, 'short'); // a view
    await value(10, from.id, 'short'); // elsewhere
    await place.db.run(
      "insert into routine (name, filter, steps) values ('Keeper', 'tag:Keep/short', '[]'), ('Other', 'tag:keeper', '[]')",
    );
    expect(await previewMerge(place.db, who, from.id, into.id)).toEqual({
      assets: 5,
      both: 1,
      unpermitted: 1,
      unsuited: 1,
      searches: ['Keeper'],
    });
    const merge = (by: Who, seen: number) => place.db.transaction((tx) => mergeTag(tx, by, from.id, into.id, seen));
    await expect(merge(who, 4)).rejects.toMatchObject({ code: 'count-differs' });
    await expect(merge(await personWith(place.db, 'Stine', 'steward', domainId), 5)).rejects.toMatchObject({
      code: 'forbidden',
    });
    expect(await merge(who, 5)).toMatchObject({ name: 'retention', assets: 4 });
    expect(await Promise.all([0, 1, 2, 9, 10].map((at) => tagsOf(all[at] as string)))).toEqual([
      ['retention/short'],
      ['retention/'],
      ['retention/short'],
      [],
      ['retention/short'],
    ]);
    expect(await listTags(place.db, who)).toHaveLength(1);
    expect(
      await place.db.one("select count(*)::int as n from journal where action = 'tag keep merged into retention'"),
    ).toEqual({ n: 5 });
    await expect(previewMerge(place.db, who, into.id, into.id)).rejects.toThrow('merged into itself');
  });
});
