import type { KeptViewBody } from '@idrel/contract/lineage';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { fitting } from '../src/lineage/fitting.ts';
import { bringBackView, changeView, getView, keepView, listViews, removeView } from '../src/lineage/views.ts';
import { loadWho, type Who } from '../src/people/index.ts';
import type { Db } from '../src/platform/database.ts';
import { freshDatabase, furnish } from './place.ts';

let place: Awaited<ReturnType<typeof freshDatabase>>;
let home: Awaited<ReturnType<typeof furnish>>;
let who: Who;
let reader: Who;
let stranger: Who;
let table: string;

const one = async (sql: string, bind: unknown[] = []) =>
  ((await place.db.rows<{ id: string }>(sql, bind))[0] as { id: string }).id;
const person = async (name: string, domain?: string): Promise<Who> => {
  const id = await one("insert into person (name, email) values ($1, $1 || '@example.org') returning id", [name]);
  if (domain)
    await place.db.run("insert into role_grant (person_id, domain_id, role) values ($1, $2, 'reader')", [id, domain]);
  return (await loadWho(place.db, id)) as Who;
};
beforeAll(async () => {
  place = await freshDatabase();
  home = await furnish(place.db);
  who = (await loadWho(place.db, home.personId)) as Who;
  reader = await person('Rea Holt', home.domainId);
  stranger = await person('Stig Far');
  table = await one(
    "insert into asset (source_id, domain_id, kind, name, key, depth) values ($1, $2, 'table', 'berth', 'berth', 0) returning id",
    [home.sourceId, home.domainId],
  );
});
afterAll(() => place.drop());
beforeEach(() => place.db.run('delete from kept_view'));

const within = <T>(work: (tx: Db) => Promise<T>) => place.db.transaction(work);
const body = (name: string, more: Partial<KeptViewBody> = {}): KeptViewBody => ({
  name,
  focus: table,
  shared: false,
  ...more,
  shows: {
    upstream: 2,
    downstream: 5,
    column: null,
    at: null,
    before: null,
    rows: false,
    fold: 'schema',
    open: ['schema\nmart\nWarehouse'],
    hidden: ['view'],
    mark: 'class:email',
    only: true,
    places: [{ id: table, x: 12.5, y: -40 }],
    ...more.shows,
  },
});
const keep = (name: string, more: Partial<KeptViewBody> = {}, by = who) =>
  within((tx) => keepView(tx, by, body(name, more)));
const names = async (by: Who) => (await listViews(place.db, by)).map(({ name, madeBy }) => [name, madeBy]);

describe('pictures that are kept', () => {
  it('come back as they stood, to whom they are shared with and may see the asset', async () => {
    const own = await keep('Mine');
    const shared = await keep('For all', { shared: true });
    expect(await getView(place.db, who, own.id)).toEqual({
      id: own.id,
      name: 'Mine',
      focus: { id: table, kind: 'table', path: 'berth' },
      shared: false,
      madeBy: null,
      version: 1,
      shows: body('Mine').shows,
    });
    expect([await names(who), await names(reader), await names(stranger)]).toEqual([
      [
        ['For all', null],
        ['Mine', null],
      ],
      [['For all', 'Nils Test']],
      [],
    ]);
    await expect(getView(place.db, reader, own.id)).rejects.toMatchObject({ code: 'not-found' });
    await expect(getView(place.db, stranger, shared.id)).rejects.toMatchObject({ code: 'not-found' });
    await expect(keep('Sneaky', {}, stranger)).rejects.toMatchObject({ code: 'not-found' });
  });

  it('are changed and removed by whoever made them alone, in the version that was seen, and come back', async () => {
    const shared = await keep('For all', { shared: true });
    const change = (by: Who, version: number) =>
      within((tx) => changeView(tx, by, shared.id, version, body('For each', { shared: true })));
    await expect(change(reader, 1)).rejects.toMatchObject({ code: 'forbidden' });
    await expect(change(who, 7)).rejects.toMatchObject({ code: 'changed-meanwhile' });
    expect(await change(who, 1)).toMatchObject({ name: 'For each', version: 2 });
    await expect(within((tx) => removeView(tx, reader, shared.id))).rejects.toMatchObject({ code: 'forbidden' });
    await within((tx) => removeView(tx, who, shared.id));
    expect(await names(reader)).toEqual([]);
    await within((tx) => bringBackView(tx, who, shared.id));
    expect(await names(reader)).toEqual([['For each', 'Nils Test']]);
  });

  it('have a name once, and mark by what can be read', async () => {
    await keep('Mine');
    await expect(keep('MINE')).rejects.toMatchObject({ code: 'name-taken' });
    await keep('Mine', {}, reader);
    await expect(keep('Odd', { shows: { ...body('Odd').shows, mark: 'kind:(' } })).rejects.toMatchObject({
      code: 'invalid',
    });
  });

  it('are marked by what a search finds among them, of what one may see', async () => {
    const other = await one(
      "insert into asset (source_id, domain_id, kind, name, key, depth) values ($1, $2, 'view', 'quay', 'quay', 0) returning id",
      [home.sourceId, home.domainId],
    );
    expect(await fitting(place.db, reader, 'kind:view', [table, other])).toEqual([other]);
    expect(await fitting(place.db, reader, 'kind:any', [table])).toEqual([table]);
    expect(await fitting(place.db, stranger, 'kind:any', [table, other])).toEqual([]);
    await expect(fitting(place.db, reader, 'level>', [table])).rejects.toMatchObject({ code: 'invalid' });
  });
});
