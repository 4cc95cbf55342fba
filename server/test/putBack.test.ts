import type { AssetChange, PUT_BACK } from '@idrel/contract/curation';
import { afterAll, beforeAll, beforeEach, expect, it } from 'vitest';
import { getAsset } from '../src/catalog/index.ts';
import { putBack } from '../src/curation/putBack.ts';
import { describeMany, editAsset } from '../src/curation/service.ts';
import type { Who } from '../src/people/index.ts';
import { freshDatabase, personWith, refused, staffed } from './place.ts';

let place: Awaited<ReturnType<typeof freshDatabase>>;
let who: Who;
let editor: Who;
let reader: Who;
let id: string;
let term: string;
let tag: string;
let sourceId: string;
let domainId: string;

const one = async (sql: string, bind: unknown[] = []) => (await place.db.one<{ id: string }>(sql, bind))?.id ?? '';
beforeAll(async () => {
  place = await freshDatabase();
  ({ who, editor, reader, sourceId, domainId } = await staffed(place.db));
  term = await one("insert into term (name, scheme_id) select 'Passenger', s.id from scheme s limit 1 returning id");
  tag = await one("insert into tag (name) values ('retention') returning id");
});
afterAll(() => place.drop());
beforeEach(async () => {
  for (const table of ['asset', 'journal']) await place.db.run(`delete from ${table}`);
  id = await one(
    "insert into asset (source_id, domain_id, kind, name, key, depth) values ($1, $2, 'table', 'leg', 'leg', 0) returning id",
    [sourceId, domainId],
  );
});

const asset = () => getAsset(place.db, who, id);
const edit = async (change: AssetChange) => {
  const { version } = await asset();
  return place.db.transaction((tx) => editAsset(tx, who, id, version, change));
};
const lastEntry = async () => (await one('select id::text from journal order by journal.id desc limit 1')) || '0';
const put = async (entry: string, field: (typeof PUT_BACK)[number], by = who, version?: number) => {
  const seen = version ?? (await asset()).version;
  return place.db.transaction((tx) => putBack(tx, by, id, seen, { entry, field }));
};

it('puts each thing back as it was before a change, and leaves what was changed with it and since', async () => {
  await edit({
    description: 'First',
    ownerIds: [editor.id],
    stewardIds: [editor.id, reader.id],
    termIds: [term],
    tags: [{ id: tag, value: 'a/b' }],
    level: 3,
    levelReason: 'Because',
  });
  await edit({ description: 'Second', ownerIds: [], stewardIds: [], termIds: [], tags: [], level: null });
  const entry = await lastEntry();
  await edit({ standing: 'reviewed' });
  expect(await put(entry, 'description')).toMatchObject({ description: 'First', owners: [], standing: 'reviewed' });
  expect(await put(entry, 'owners')).toMatchObject({ owners: [{ name: 'Edda' }], stewards: [] });
  expect((await put(entry, 'stewards')).stewards.map(({ name }) => name)).toEqual(['Edda', 'Rune']);
  expect(await put(entry, 'terms')).toMatchObject({ terms: [{ id: term }] });
  expect(await put(entry, 'tags')).toMatchObject({ tags: [{ id: tag, value: 'a/b' }] });
  expect(await put(entry, 'level')).toMatchObject({ levelSet: 3, levelReason: 'Because' });
  // It is a change like any other, and is told.
  const [last] = await place.db.rows<{ before: object; after: object }>(
    'select before, after from journal order by id desc limit 1',
  );
  expect(last).toMatchObject({ before: { level: null }, after: { level: 3 } });
});

it('is refused when the entry is of something else, changed something else, or is seen by nobody who asks', async () => {
  await edit({ description: 'First' });
  const entry = await lastEntry();
  expect(await refused(put(entry, 'owners'))).toMatchObject({ code: 'not-found' });
  expect(await refused(put('999999', 'description'))).toMatchObject({ code: 'not-found' });
  const other = await one(
    "insert into journal (principal_kind, principal, action, subject_kind, subject_id, subject_name, domain_id, before, after) values ('service', 'x', 'edited', 'table', gen_random_uuid(), 'other', $1, '{\"description\": \"Of another\"}', '{}') returning id::text",
    [domainId],
  );
  expect(await refused(put(other, 'description'))).toMatchObject({ code: 'not-found' });
  expect(await refused(put(entry, 'description', reader))).toMatchObject({ code: 'forbidden' });
  const { version } = await asset();
  await edit({ description: 'Meanwhile' });
  expect(await refused(put(entry, 'description', who, version))).toMatchObject({ code: 'changed-meanwhile' });
});

it('says who or what is not there any more, and changes nothing', async () => {
  const gone = await personWith(place.db, 'Gone', 'reader', domainId);
  await edit({ ownerIds: [gone.id], tags: [{ id: tag, value: '' }] });
  await edit({ ownerIds: [], tags: [] });
  const entry = await lastEntry();
  await place.db.run("update person set name = 'Gone elsewhere' where id = $1", [gone.id]);
  expect(await refused(put(entry, 'owners'))).toMatchObject({
    code: 'gone-meanwhile',
    detail: 'There is no person or group “Gone” any more.',
  });
  await place.db.run('update tag set removed_at = now()');
  expect(await refused(put(entry, 'tags'))).toMatchObject({ code: 'gone-meanwhile' });
  await place.db.run('update tag set removed_at = null');
  expect(await asset()).toMatchObject({ owners: [], tags: [] });
});

it('does not make trusted what the checklist does not let be', async () => {
  await edit({ standing: 'reviewed' });
  await place.db.run("update asset set standing = 'trusted' where id = $1", [id]);
  await edit({ standing: 'reviewed' });
  expect(await refused(put(await lastEntry(), 'standing'))).toMatchObject({ code: 'checklist-open' });
});

it('describes many at once, each with its own text: what was changed meanwhile is told, and where one is not theirs none is', async () => {
  const other = await one(
    "insert into asset (source_id, domain_id, kind, name, key, depth) values ($1, $2, 'table', 'sailing', 'sailing', 0) returning id",
    [sourceId, domainId],
  );
  const describe = (texts: { id: string; version: number; description: string }[], by = editor) =>
    place.db.transaction((tx) => describeMany(tx, by, texts));
  const { version } = await asset();
  expect(
    await describe([
      { id, version, description: 'A leg' },
      { id: other, version: 1, description: ' A sailing ' },
    ]),
  ).toEqual({
    saved: expect.arrayContaining([
      { id, version: version + 1 },
      { id: other, version: 2 },
    ]),
    refused: [],
  });
  expect((await getAsset(place.db, who, other)).description).toBe('A sailing');
  const told = await place.db.rows(
    "select subject_name as name, after from journal where action = 'edited' order by 1",
  );
  expect(told).toEqual([
    { name: 'leg', after: { description: 'A leg' } },
    { name: 'sailing', after: { description: 'A sailing' } },
  ]);
  const again = await describe([
    { id, version, description: 'Older' },
    { id: other, version: 2, description: '' },
  ]);
  expect(again).toEqual({ saved: [{ id: other, version: 3 }], refused: [{ id, name: 'leg', now: 'A leg' }] });
  expect((await getAsset(place.db, who, other)).description).toBeNull();
  const both = [
    { id, version: version + 1, description: 'x' },
    { id: other, version: 3, description: 'y' },
  ];
  expect(await refused(describe(both, reader))).toMatchObject({ code: 'forbidden' });
  expect((await asset()).description).toBe('A leg');
});
