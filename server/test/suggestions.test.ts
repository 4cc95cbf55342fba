import { afterAll, beforeAll, beforeEach, expect, it } from 'vitest';
import { getAsset } from '../src/catalog/index.ts';
import { listSuggestions, refuseSuggestions, takeSuggestions } from '../src/curation/suggestions.ts';
import type { Who } from '../src/people/index.ts';
import { freshDatabase, refused, staffed } from './place.ts';

let place: Awaited<ReturnType<typeof freshDatabase>>;
let who: Who;
let editor: Who;
let reader: Who;
let sourceId: string;
let domainId: string;
let elsewhere: string;
let term: string;

const one = async (sql: string, bind: unknown[] = []) => (await place.db.one<{ id: string }>(sql, bind))?.id ?? '';
beforeAll(async () => {
  place = await freshDatabase();
  ({ who, editor, reader, sourceId, domainId, elsewhere } = await staffed(place.db));
  term = await one("insert into term (name, scheme_id) select 'Contact', s.id from scheme s limit 1 returning id");
});
afterAll(() => place.drop());
beforeEach(async () => {
  for (const table of ['asset', 'journal', 'flow']) await place.db.run(`delete from ${table}`);
});

let counted = 0;
const asset = (
  kind: string,
  name: string,
  more: { parent?: string; description?: string; comment?: string; domain?: string } = {},
) => {
  counted += 1;
  return one(
    `
      insert into asset (source_id, domain_id, kind, name, key, depth, parent_id, description, native_comment, position)
      values ($1, $2, $3, $4, $5, 0, $6, $7, $8, $9)
      returning id`,
    [
      sourceId,
      more.domain ?? domainId,
      kind,
      name,
      `${name} ${counted}`,
      more.parent ?? null,
      more.description ?? null,
      more.comment ?? null,
      counted,
    ],
  );
};
const own = (id: string, person: Who) =>
  place.db.run("insert into asset_person (asset_id, person_id, role) values ($1, $2, 'owner')", [id, person.id]);
const suggested = async (id: string, by = editor) =>
  (await listSuggestions(place.db, by, id)).map(({ asset: { name }, field, label, clues }) => [
    name,
    field,
    label,
    clues.map(({ kind, say, of }) => `${kind} ${say}/${of}`).join(', '),
  ]);

it('come from the comment, from columns of the name, and along lineage; with what speaks for each', async () => {
  const table = await asset('table', 'passenger', { comment: 'Who travels' });
  const email = await asset('column', 'email', { parent: table });
  const named = await asset('column', 'town', { parent: table, description: 'Said already' });
  const others = await Promise.all(
    ['Where tickets go', 'Where tickets go', 'An address', null].map(async (description, at) => {
      const holder = await asset('table', `other_${at}`);
      return asset('column', 'email', { parent: holder, ...(description ? { description } : {}) });
    }),
  );
  await asset('column', 'email', {
    parent: await asset('table', 'hidden', { domain: elsewhere }),
    domain: elsewhere,
    description: 'Secret',
  });
  const flow = await one(
    "insert into flow (source_id, asset_id, kind, statement) values ($1, $2, 'view', '') returning id",
    [sourceId, table],
  );
  await place.db.run("insert into lineage_edge (flow_id, from_id, to_id, kind) values ($1, $2, $3, 'copied')", [
    flow,
    others[2],
    email,
  ]);
  await place.db.run('insert into asset_term (asset_id, term_id) values ($1, $2)', [others[0], term]);
  expect(await suggested(table)).toEqual([
    ['email', 'description', 'An address', 'lineage 1/1, same name 1/3'],
    ['passenger', 'description', 'Who travels', 'comment 1/1'],
    ['email', 'term', 'Contact', 'same name 1/1'],
    ['email', 'description', 'Where tickets go', 'same name 2/3'],
  ]);
  expect(await refused(listSuggestions(place.db, reader, table))).toMatchObject({ code: 'forbidden' });
  expect((await getAsset(place.db, who, named)).description).toBe('Said already');
});

it('name who could answer for it: who does above, beside, and for what it is made from; nobody who has left', async () => {
  const schema = await asset('schema', 'booking');
  const table = await asset('table', 'leg', { parent: schema });
  const [first, second, third] = await Promise.all(
    ['a', 'b', 'c'].map((name) => asset('table', name, { parent: schema })),
  );
  for (const id of [first, second]) await own(id ?? '', editor);
  await own(third ?? '', reader);
  await own(schema, who);
  expect(await suggested(table)).toEqual([
    ['leg', 'owner', 'Nils Test', 'above 1/1'],
    ['leg', 'owner', 'Edda', 'beside 2/3'],
    ['leg', 'owner', 'Rune', 'beside 1/3'],
  ]);
  await place.db.run('update person set left_at = now() where id = $1', [reader.id]);
  expect((await suggested(table)).map(([, , label]) => label)).toEqual(['Nils Test', 'Edda']);
  await place.db.run('update person set left_at = null');
  await own(table, editor);
  expect(await suggested(table)).toEqual([]);
});

it('are taken as edits and taken back where they stand; what is said meanwhile is not written over', async () => {
  const table = await asset('table', 'leg', { comment: 'A crossing' });
  const column = await asset('column', 'berth', { parent: table, comment: 'Where one sleeps' });
  const items = [
    { assetId: table, field: 'description' as const, value: 'A crossing' },
    { assetId: column, field: 'description' as const, value: 'Where one sleeps' },
    { assetId: table, field: 'owner' as const, value: editor.id },
    { assetId: column, field: 'term' as const, value: term },
  ];
  const take = (taken: boolean, by = editor) => place.db.transaction((tx) => takeSuggestions(tx, by, items, taken));
  expect(await refused(take(true, reader))).toMatchObject({ code: 'forbidden' });
  await place.db.run("update asset set description = 'Mine' where id = $1", [column]);
  expect(await take(true)).toEqual({
    taken: 3,
    passedOver: [{ assetId: column, why: 'it is described already' }],
  });
  expect(await getAsset(place.db, who, table)).toMatchObject({ description: 'A crossing', owners: [{ name: 'Edda' }] });
  expect(await place.db.rows('select from journal')).toHaveLength(3);
  expect(await suggested(table)).toEqual([]);
  expect(await take(false)).toMatchObject({ taken: 3 });
  expect(await getAsset(place.db, who, table)).toMatchObject({ description: null, owners: [] });
  expect(await getAsset(place.db, who, column)).toMatchObject({ description: 'Mine', terms: [] });
  const wrong = [{ assetId: table, field: 'owner' as const, value: 'nobody' }];
  expect(await refused(place.db.transaction((tx) => takeSuggestions(tx, editor, wrong, true)))).toMatchObject({
    code: 'invalid',
  });
});

it('propose tags and terms that most of those carry whose names end alike, and nothing that the person may not give', async () => {
  const schema = await asset('schema', 'spares');
  const [table, ...others] = await Promise.all(
    ['part_history', 'supplier_history', 'tank_history', 'stock_history', 'part_line'].map((name) =>
      asset('table', name, { parent: schema }),
    ),
  );
  const tag = await one("insert into tag (name) values ('audit trail') returning id");
  const closed = await one("insert into tag (name, group_ids) select 'closed', array[gen_random_uuid()] returning id");
  const columns = await one("insert into tag (name, kinds) values ('of columns', '{column}') returning id");
  for (const id of others.slice(0, 2))
    for (const given of [tag, closed, columns])
      await place.db.run("insert into asset_tag (asset_id, tag_id, value) values ($1, $2, 'yearly')", [id, given]);
  expect(await suggested(table ?? '')).toEqual([['part_history', 'tag', 'audit trail: yearly', 'ends alike 2/3']]);
  // One alone is no pattern; another ending neither.
  expect(await suggested(others[3] ?? '')).toEqual([]);
  const items = [{ assetId: table ?? '', field: 'tag' as const, value: `${tag}/yearly` }];
  const take = (taken: boolean) => place.db.transaction((tx) => takeSuggestions(tx, editor, items, taken));
  expect(await take(true)).toMatchObject({ taken: 1 });
  expect((await getAsset(place.db, who, table ?? '')).tags).toMatchObject([{ name: 'audit trail', value: 'yearly' }]);
  expect(await take(true)).toMatchObject({ taken: 0, passedOver: [{ why: 'it carries the tag already' }] });
  expect(await take(false)).toMatchObject({ taken: 1 });
  expect((await getAsset(place.db, who, table ?? '')).tags).toEqual([]);
});

it('propose classes to stewards alone: what people confirmed of columns of the name, and what a copied one carries', async () => {
  const table = await asset('table', 'guest');
  const column = await asset('column', 'contact', { parent: table });
  const [first, second] = await Promise.all(
    ['x', 'y'].map(async (name) => asset('column', 'contact', { parent: await asset('table', name) })),
  );
  for (const [id, decision] of [
    [first, 'confirmed'],
    [second, 'dismissed'],
  ])
    await place.db.run(
      "insert into finding_decision (asset_id, class_key, decision, decided_by) values ($1, 'email', $2, $3)",
      [id, decision, who.id],
    );
  expect(await suggested(table, editor)).toEqual([]);
  expect(await suggested(table, who)).toEqual([['contact', 'class', 'E-mail address', 'same name 1/1']]);
  const items = [{ assetId: column, field: 'class' as const, value: 'email' }];
  const take = (taken: boolean, by = who) => place.db.transaction((tx) => takeSuggestions(tx, by, items, taken));
  expect(await refused(take(true, editor))).toMatchObject({ code: 'forbidden' });
  expect(await take(true)).toMatchObject({ taken: 1 });
  expect((await getAsset(place.db, who, column)).classes).toEqual(['email']);
  expect(await take(true)).toMatchObject({ taken: 0 });
  expect(await suggested(table, who)).toEqual([]);
  expect(await take(false)).toMatchObject({ taken: 1 });
  expect((await getAsset(place.db, who, column)).classes).toEqual([]);
  // What somebody dismissed here is no suggestion.
  await place.db.run(
    "insert into finding_decision (asset_id, class_key, decision, decided_by) values ($1, 'email', 'dismissed', $2)",
    [column, who.id],
  );
  expect(await suggested(table, who)).toEqual([]);
});

it('never come back once they are refused, unless that is taken back', async () => {
  const table = await asset('table', 'leg', { comment: 'A  crossing.' });
  const items = [{ assetId: table, field: 'description' as const, value: 'A  crossing.' }];
  const refuse = (yes: boolean, by = editor) => place.db.transaction((tx) => refuseSuggestions(tx, by, items, yes));
  expect(await suggested(table)).toHaveLength(1);
  expect(await refused(refuse(true, reader))).toMatchObject({ code: 'forbidden' });
  await refuse(true);
  await refuse(true);
  expect(await suggested(table)).toEqual([]);
  await place.db.run("update asset set native_comment = 'a crossing' where id = $1", [table]);
  expect(await suggested(table)).toEqual([]);
  await place.db.run("update asset set native_comment = 'Another' where id = $1", [table]);
  expect(await suggested(table)).toHaveLength(1);
  await place.db.run("update asset set native_comment = 'A  crossing.' where id = $1", [table]);
  await refuse(false);
  expect(await suggested(table)).toHaveLength(1);
});
