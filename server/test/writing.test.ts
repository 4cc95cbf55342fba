import { mentionText } from '@idrel/core/writing';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { findAssets } from '../src/catalog/index.ts';
import type { Who } from '../src/people/index.ts';
import {
  addRemark,
  beginDiscussion,
  changeRemark,
  listDiscussions,
  noteDiscussion,
  settleDiscussion,
  takeRemark,
  waitingFor,
} from '../src/writing/discussions.ts';
import {
  changeTemplate,
  getGuide,
  listTemplates,
  listVersions,
  saveGuide,
  writersHere,
} from '../src/writing/guides.ts';
import { mentionable } from '../src/writing/mentions.ts';
import { addPicture, pictureBytes } from '../src/writing/pictures.ts';
import { finderHere, freshDatabase, personWith, refused, staffed } from './place.ts';

let place: Awaited<ReturnType<typeof freshDatabase>>;
let finder: ReturnType<typeof finderHere>;
let who: Who;
let editor: Who;
let reader: Who;
let stranger: Who;
let sourceId: string;
let domainId: string;
let elsewhere: string;

const one = async (sql: string, bind: unknown[] = []) => (await place.db.one<{ id: string }>(sql, bind))?.id ?? '';
beforeAll(async () => {
  place = await freshDatabase();
  ({ who, editor, reader, stranger, sourceId, domainId, elsewhere } = await staffed(place.db));
  finder = finderHere(place.db);
});
afterAll(() => place.drop());
beforeEach(async () => {
  for (const table of ['asset', 'journal']) await place.db.run(`delete from ${table}`);
});

const asset = (name: string, { kind = 'table', parent = null as string | null, domain = domainId } = {}) =>
  one(
    `
      insert into asset (source_id, domain_id, kind, name, key, depth, parent_id)
      select $1, $2, $3, $4, coalesce((select key || chr(31) from asset where id = $5), '') || $4, 0, $5
      returning id`,
    [sourceId, domain, kind, name, parent],
  );
const save = (id: string, version: number, text: string, by = editor) =>
  place.db.transaction((tx) => saveGuide(tx, by, id, version, text));
const ask = (id: string, text: string, by = reader, question = true) =>
  place.db.transaction((tx) => beginDiscussion(tx, by, id, { question, text }));
const remark = (id: string, text: string, by = editor) => place.db.transaction((tx) => addRemark(tx, by, id, text));
const settle = (id: string, version: number, settled: boolean, by: Who, answerId?: string) =>
  place.db.transaction((tx) => settleDiscussion(tx, by, id, version, { settled, answerId }));
const found = async (filter: string, by = reader) =>
  (
    await findAssets(place.db, finder, by, { filter, sort: 'relevance', descending: false, limit: 50, offset: 0 })
  ).items.map(({ name }) => name);
const told = async () =>
  (await place.db.rows<{ action: string; after: object }>('select action, after from journal order by id')).map(
    ({ action, after }) => [action, after],
  );

describe('a guide', () => {
  it('is written, kept in each version, told in the journal, and not written over unseen', async () => {
    const id = await asset('sailing');
    expect(await getGuide(place.db, reader, id)).toMatchObject({ text: '', version: 0, by: null });
    const first = await save(id, 0, '## What one row is\n\nOne departure.\n');
    expect(first).toMatchObject({ text: '## What one row is\n\nOne departure.', version: 1, by: { name: 'Edda' } });
    await save(id, 1, 'One departure, also cancelled ones.', who);
    expect(await refused(save(id, 1, 'Mine.'))).toMatchObject({
      code: 'changed-meanwhile',
      current: { text: 'One departure, also cancelled ones.', version: 2 },
    });
    expect(await refused(save(id, 0, 'Mine.'))).toMatchObject({ code: 'changed-meanwhile' });
    expect((await listVersions(place.db, reader, id)).map(({ version, by }) => [version, by?.name])).toEqual([
      [2, 'Nils Test'],
      [1, 'Edda'],
    ]);
    expect((await getGuide(place.db, reader, id, 1)).text).toContain('One departure.');
    expect(await refused(getGuide(place.db, reader, id, 7))).toMatchObject({ code: 'not-found' });
    expect(await told()).toEqual([
      ['guide written', { guide: 'version 1: What one row is One departure.' }],
      ['guide written', { guide: 'version 2: One departure, also cancelled ones.' }],
    ]);
    // The same again is no change.
    expect(await save(id, 2, 'One departure, also cancelled ones.\n\n')).toMatchObject({ version: 2 });
    expect(await listVersions(place.db, reader, id)).toHaveLength(2);
  });

  it('is for editors of the domain, and is not there for others', async () => {
    const id = await asset('sailing');
    expect(await refused(save(id, 0, 'x', reader))).toMatchObject({ code: 'forbidden' });
    expect(await refused(save(id, 0, 'x', stranger))).toMatchObject({ code: 'not-found' });
    await save(id, 0, 'Secret.');
    expect(await refused(getGuide(place.db, stranger, id))).toMatchObject({ code: 'not-found' });
    expect(await refused(listVersions(place.db, stranger, id))).toMatchObject({ code: 'not-found' });
    expect(await place.db.one('select from guide_version where text = $1', ['x'])).toBeUndefined();
  });

  it('calls what it mentions as it is called now, and names nothing that a reader may not see', async () => {
    const id = await asset('sailing');
    const hidden = await asset('medical_check', { domain: elsewhere });
    const seen = await asset('vessel');
    const term = await one(
      "insert into term (name, scheme_id) select 'Passenger', s.id from scheme s limit 1 returning id",
    );
    const text = `Ask ${mentionText('person', editor.id, 'old name')} about ${mentionText('asset', seen, 'x')}, ${mentionText('asset', hidden, 'medical_check')} and ${mentionText('term', term, 'y')}.`;
    await save(id, 0, text, who);
    expect((await getGuide(place.db, reader, id)).text).toBe(
      `Ask [Edda](idrel:person/${editor.id}) about [vessel](idrel:asset/${seen}), [something you may not see](idrel:asset/${hidden}) and [Passenger](idrel:term/${term}).`,
    );
    await place.db.run("update asset set name = 'ship', key = 'ship' where id = $1", [seen]);
    await place.db.run("update term set name = 'Traveller' where id = $1", [term]);
    expect((await getGuide(place.db, who, id)).text).toContain('[ship]');
    // Who saves it without seeing all keeps all.
    const forReader = await getGuide(place.db, editor, id);
    await save(id, 1, `${forReader.text}\n\nMore.`);
    expect((await getGuide(place.db, who, id)).text).toContain('[medical\\_check]');
  });

  it('lets the asset be found by its words, until they are taken away', async () => {
    const id = await asset('sailing');
    await asset('vessel');
    await save(id, 0, 'Holds **cancelled** departures, see `departures_v2`.');
    expect(await found('cancelled')).toEqual(['sailing']);
    expect(await found('departures kind:table')).toEqual(['sailing']);
    await save(id, 1, '');
    expect(await found('cancelled')).toEqual([]);
  });

  it('refuses what lies too deep, and says where', async () => {
    const id = await asset('sailing');
    expect(await refused(save(id, 0, `fine\n\n${'> '.repeat(50)}x`))).toMatchObject({
      code: 'invalid',
      detail: expect.stringContaining('Line 3'),
    });
  });

  it('shows who else is writing in it, as long as they say so', async () => {
    const id = await asset('sailing');
    const here = (by: Who, writing: boolean) => place.db.transaction((tx) => writersHere(tx, by, id, writing));
    expect(await here(editor, true)).toEqual([]);
    expect((await here(who, true)).map(({ person }) => person.name)).toEqual(['Edda']);
    await place.db.run("update writer_here set said_at = now() - interval '31 seconds' where person_id = $1", [
      editor.id,
    ]);
    expect(await here(who, true)).toEqual([]);
    await here(editor, true);
    await here(editor, false);
    expect(await here(who, true)).toEqual([]);
    expect(await refused(here(reader, true))).toMatchObject({ code: 'forbidden' });
  });

  it('begins with what is given for its kind, which administrators of everything change', async () => {
    const id = await asset('sailing');
    const template = (await getGuide(place.db, reader, id)).template;
    expect(template).toContain('## What one row is');
    const before = (await listTemplates(place.db)).find(({ kind }) => kind === 'table');
    const change = (by: Who, version: number) =>
      place.db.transaction((tx) => changeTemplate(tx, by, 'table', version, '## Why'));
    expect(await refused(change(editor, before?.version ?? 0))).toMatchObject({ code: 'forbidden' });
    await change(who, before?.version ?? 0);
    expect(await refused(change(who, before?.version ?? 0))).toMatchObject({ code: 'changed-meanwhile' });
    expect((await getGuide(place.db, reader, id)).template).toBe('## Why');
    expect((await listTemplates(place.db)).find(({ kind }) => kind === 'column')).toMatchObject({
      text: '',
      version: 0,
    });
  });
});

describe('pictures', () => {
  const PNG = 'iVBORw0KGgoAAAANSUhEUgAAAAIAAAADCAYAAAC56t6BAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==';
  const add = (id: string, content: string, by = editor) =>
    place.db.transaction((tx) => addPicture(tx, by, id, content));

  it('are kept by what their bytes say, and shown to who may see the asset', async () => {
    const id = await asset('sailing');
    const picture = await add(id, PNG);
    expect(picture).toMatchObject({ type: 'image/png', width: 2, height: 3 });
    expect((await pictureBytes(place.db, reader, picture.id)).bytes.toString('base64')).toBe(PNG);
    expect(await refused(pictureBytes(place.db, stranger, picture.id))).toMatchObject({ code: 'not-found' });
    expect(await refused(add(id, PNG, reader))).toMatchObject({ code: 'forbidden' });
  });

  it('are refused when they are something else, whatever they begin like', async () => {
    const id = await asset('sailing');
    const b64 = (text: string) => Buffer.from(text).toString('base64');
    for (const content of [
      b64('<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"><script>alert(1)</script></svg>'),
      b64('<html><script>alert(1)</script></html>'),
      b64('GIF'),
      b64(''),
      Buffer.from(PNG, 'base64').subarray(0, 20).toString('base64'),
    ])
      expect(await refused(add(id, content))).toMatchObject({ code: 'invalid' });
    const wide = Buffer.from(PNG, 'base64');
    wide.writeUInt32BE(20_000, 16);
    expect(await refused(add(id, wide.toString('base64')))).toMatchObject({
      detail: expect.stringContaining('20000'),
    });
  });
});

describe('a discussion', () => {
  it('is begun by whoever may see the asset, answered, settled, and opened again by a remark', async () => {
    const id = await asset('sailing');
    expect(await refused(ask(id, 'What?', stranger))).toMatchObject({ code: 'not-found' });
    const asked = await ask(id, 'Are **cancelled** ones in it?');
    expect(asked).toMatchObject({ question: true, settledAt: null, maySettle: true });
    const answered = await remark(asked.id, 'Yes, since May.');
    const [, answer] = answered.remarks;
    expect(answered.remarks.map(({ by, mine }) => [by?.name, mine])).toEqual([
      ['Rune', false],
      ['Edda', true],
    ]);
    const settled = await settle(asked.id, answered.version, true, reader, answer?.id);
    expect(settled).toMatchObject({ settledBy: { name: 'Rune' }, answerId: answer?.id });
    expect(await listDiscussions(place.db, reader, id, false)).toMatchObject({ items: [], open: 0, settled: 1 });
    expect((await listDiscussions(place.db, reader, id, true)).items).toHaveLength(1);
    expect(await remark(asked.id, 'Not in June, though.')).toMatchObject({ settledAt: null, answerId: null });
    expect((await told()).map(([action]) => action)).toEqual([
      'asked',
      'remarked',
      'settled',
      'remarked',
      'opened again',
    ]);
    expect((await told())[0]).toEqual([
      'asked',
      { question: 'Are cancelled ones in it?', settled: null, answer: null },
    ]);
  });

  it('about a column stands with its table, too; nobody settles what is not theirs, nor with what is no answer', async () => {
    const table = await asset('sailing');
    const column = await asset('berth', { kind: 'column', parent: table });
    const asked = await ask(column, 'In which harbour?');
    expect((await listDiscussions(place.db, reader, table, false)).items).toMatchObject([{ asset: { name: 'berth' } }]);
    const other = await personWith(place.db, 'Other', 'reader', domainId);
    expect(await refused(settle(asked.id, asked.version, true, other))).toMatchObject({ code: 'forbidden' });
    const strange = await ask(table, 'Else?');
    expect(await refused(settle(asked.id, asked.version, true, editor, strange.remarks[0]?.id))).toMatchObject({
      code: 'not-found',
    });
    expect(await settle(asked.id, asked.version, true, editor)).toMatchObject({ settledBy: { name: 'Edda' } });
    expect(await refused(settle(asked.id, asked.version, false, editor))).toMatchObject({ code: 'changed-meanwhile' });
  });

  it('has remarks that their writers change and take away, and stewards take away', async () => {
    const id = await asset('sailing');
    const asked = await ask(id, 'Confidential thing?');
    const [mine] = asked.remarks;
    const change = (by: Who, text: string, version = mine?.version ?? 0) =>
      place.db.transaction((tx) => changeRemark(tx, by, mine?.id ?? '', version, text));
    expect(await refused(change(editor, 'Other words'))).toMatchObject({ code: 'forbidden' });
    expect(await change(reader, 'Kept thing?')).toMatchObject({ text: 'Kept thing?' });
    expect(await found('confidential')).toEqual([]);
    expect(await found('"kept thing"')).toEqual(['sailing']);
    const take = (by: Who, away: boolean) => place.db.transaction((tx) => takeRemark(tx, by, mine?.id ?? '', away));
    expect(await refused(take(editor, true))).toMatchObject({ code: 'forbidden' });
    const { version } = (await take(who, true)) ?? {};
    expect((await listDiscussions(place.db, reader, id, false)).items[0]?.remarks).toMatchObject([
      { text: '', gone: true },
    ]);
    expect(await found('"kept thing"')).toEqual([]);
    expect(await refused(change(reader, 'Again', version))).toMatchObject({ code: 'not-found' });
    await take(reader, false);
    expect(await found('"kept thing"')).toEqual(['sailing']);
  });

  const waits = async (by: Who) =>
    (await waitingFor(place.db, by, 20)).items.map(({ discussion, why }) => [discussion.asset.name, why]);

  it('that asks waits for owners and stewards of the asset or the nearest above it, else for stewards of the domain', async () => {
    const schema = await asset('booking', { kind: 'schema' });
    const table = await asset('sailing', { parent: schema });
    const column = await asset('berth', { kind: 'column', parent: table });
    const owner = await personWith(place.db, 'Owner', 'reader', domainId);
    const steward = await personWith(place.db, 'Steward', 'steward', domainId);
    const asked = await ask(column, 'Which one?');
    await ask(column, 'Only said.', reader, false);
    expect(await waits(steward)).toEqual([['berth', 'asked']]);
    expect(await waits(owner)).toEqual([]);
    expect(await waits(stranger)).toEqual([]);
    await place.db.run("insert into asset_person (asset_id, person_id, role) values ($1, $2, 'owner')", [
      schema,
      owner.id,
    ]);
    expect(await waits(owner)).toEqual([['berth', 'asked']]);
    expect(await waits(steward)).toEqual([]);
    await place.db.run("insert into asset_person (asset_id, person_id, role) values ($1, $2, 'steward')", [
      table,
      reader.id,
    ]);
    // Who asked does not wait for themselves.
    expect(await waits(reader)).toEqual([]);
    expect(await waits(owner)).toEqual([]);
    await settle(asked.id, asked.version, true, editor);
    expect(await waits(owner)).toEqual([]);
  });

  it('waits for whom it mentions, by name or group, until they note it or it is settled', async () => {
    const id = await asset('sailing');
    const group = await one("insert into person_group (name) values ('Fares') returning id");
    await place.db.run('insert into group_member (group_id, person_id) values ($1, $2), ($1, $3)', [
      group,
      editor.id,
      stranger.id,
    ]);
    const said = await ask(id, `For ${mentionText('group', group, 'x')}.`, reader, false);
    expect(said.remarks[0]?.text).toBe(`For [Fares](idrel:group/${group}).`);
    expect(await waits(editor)).toEqual([['sailing', 'mentioned']]);
    // They may not see the asset: it does not wait for them, nor does it say that it is there.
    expect(await waits(stranger)).toEqual([]);
    const note = (by: Who, noted: boolean) => place.db.transaction((tx) => noteDiscussion(tx, by, said.id, noted));
    await note(editor, true);
    expect(await waits(editor)).toEqual([]);
    await note(editor, false);
    expect(await waits(editor)).toEqual([['sailing', 'mentioned']]);
    expect(await refused(note(stranger, true))).toMatchObject({ code: 'not-found' });
    const at = (await listDiscussions(place.db, reader, id, false)).items[0]?.version ?? 0;
    await settle(said.id, at, true, reader);
    expect(await waits(editor)).toEqual([]);
  });
});

it('offers people, groups, terms and assets to be mentioned, the last by rights', async () => {
  await asset('sailing_plan');
  await asset('sailing_crew', { domain: elsewhere });
  const names = async (q: string, by: Who) =>
    (await mentionable(place.db, finder, by, q)).map(({ kind, name }) => `${kind} ${name}`);
  expect(await names('sailing', reader)).toEqual(['asset sailing_plan']);
  expect(await names('sailing', stranger)).toEqual(['asset sailing_crew']);
  expect(await names('edd', reader)).toEqual(['person Edda']);
  expect(await names('%', reader)).toEqual([]);
});
