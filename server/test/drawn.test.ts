import type { DrawnBody } from '@idrel/contract/curation';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { getAsset } from '../src/catalog/index.ts';
import { drawAsset, takeDrawnAway } from '../src/curation/drawn.ts';
import { edgesOf, sayEdges } from '../src/lineage/said.ts';
import type { Who } from '../src/people/index.ts';
import { freshDatabase, refused, staffed } from './place.ts';
import { scanWorld } from './world.ts';

let place: Awaited<ReturnType<typeof freshDatabase>>;
let home: Awaited<ReturnType<typeof staffed>>;
let near = '';

beforeAll(async () => {
  place = await freshDatabase();
  home = await staffed(place.db);
  await scanWorld(place.db, home, { call: { vessel: 'text' } });
  near = (await place.db.one<{ id: string }>("select id from asset where name = 'call'"))?.id ?? '';
});
afterAll(() => place?.drop());

const draw = (who: Who, more: Partial<DrawnBody> = {}) =>
  place.db.transaction((tx) =>
    drawAsset(tx, who, {
      near,
      kind: 'application',
      name: 'Harbour form',
      description: '',
      ownerIds: [],
      columns: [],
      ...more,
    }),
  );
const takeAway = (who: Who, id: string) => place.db.transaction((tx) => takeDrawnAway(tx, who, id));

it('what no scan sees is added with what it is and who answers for it, and stands at the end of edges', async () => {
  const form = await draw(home.editor, {
    description: 'Filled in at the quay.',
    ownerIds: [home.editor.id],
    columns: ['vessel', 'flag'],
  });
  expect(form).toMatchObject({
    kind: 'application',
    path: 'Harbour form',
    source: 'Drawn by hand: Travel',
    description: 'Filled in at the quay.',
    owners: [{ name: 'Edda' }],
    children: 2,
    domainId: home.domainId,
  });
  const column = await place.db.one<{ id: string }>("select id from asset where name = 'vessel' and parent_id = $1", [
    form.id,
  ]);
  const to = await place.db.one<{ id: string }>("select id from asset where name = 'vessel' and parent_id = $1", [
    near,
  ]);
  const said = await place.db.transaction((tx) =>
    sayEdges(tx, home.editor, [
      { from: { id: column?.id ?? '' }, to: { id: to?.id ?? '' }, kind: 'copied', flow: null, note: '' },
    ]),
  );
  expect(said).toMatchObject([{ state: 'said' }]);
  expect(
    (await edgesOf(place.db, home.reader, near, 'upstream', { ended: false, limit: 10 })).items.map(
      ({ from }) => from.path,
    ),
  ).toEqual(['Harbour form/vessel']);
  const journal = await place.db.rows(
    "select action, subject_name as name from journal where action in ('registered', 'drawn') order by at",
  );
  expect(journal).toEqual([
    { action: 'registered', name: 'Drawn by hand: Travel' },
    { action: 'drawn', name: 'Harbour form' },
  ]);
});

it('another one stands beside it, of its name there is one', async () => {
  expect((await draw(home.editor, { name: 'Pilot sheet', kind: 'file' })).source).toBe('Drawn by hand: Travel');
  expect(await refused(draw(home.editor))).toMatchObject({ status: 409, code: 'name-taken' });
  const sources = await place.db.one("select count(*)::int as n from source where kind = 'drawn'");
  expect(sources).toEqual({ n: 1 });
  const gone = await place.db.one('select count(*)::int as n from asset where gone_at is not null');
  expect(gone).toEqual({ n: 0 });
});

it('is taken away, keeps what was written, and comes back with it', async () => {
  const id = (await place.db.one<{ id: string }>("select id from asset where name = 'Harbour form'"))?.id ?? '';
  await takeAway(home.editor, id);
  expect(await getAsset(place.db, home.who, id)).toMatchObject({ gone: true, description: 'Filled in at the quay.' });
  expect((await edgesOf(place.db, home.reader, near, 'upstream', { ended: false, limit: 10 })).items).toEqual([]);
  expect(await draw(home.editor, { columns: ['vessel'] })).toMatchObject({
    id,
    gone: false,
    owners: [{ name: 'Edda' }],
  });
  expect((await edgesOf(place.db, home.reader, near, 'upstream', { ended: false, limit: 10 })).items).toHaveLength(1);
});

it('takes the right to edit in the domain, and what was drawn', async () => {
  expect(await refused(draw(home.reader, { name: 'x' }))).toMatchObject({ status: 403 });
  expect(await refused(draw(home.stranger, { name: 'x' }))).toMatchObject({ status: 404 });
  const id = (await place.db.one<{ id: string }>("select id from asset where name = 'Pilot sheet'"))?.id ?? '';
  expect(await refused(takeAway(home.reader, id))).toMatchObject({ status: 403 });
  expect(await refused(takeAway(home.editor, near))).toMatchObject({ status: 422 });
});
