import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { assetAt } from '../src/catalog/addresses.ts';
import { CLOSED, cardAt } from '../src/catalog/cards.ts';
import { getAsset } from '../src/catalog/index.ts';
import { addLink, bringBackLink, changeLink, listLinks, removeLink } from '../src/catalog/links.ts';
import { changeDomain, listDomains } from '../src/people/domains.ts';
import type { Who } from '../src/people/index.ts';
import { freshDatabase, refused, staffed } from './place.ts';

let place: Awaited<ReturnType<typeof freshDatabase>>;
let who: Who;
let editor: Who;
let reader: Who;
let stranger: Who;
let sourceId: string;
let domainId: string;

const one = async (sql: string, bind: unknown[] = []) => (await place.db.one<{ id: string }>(sql, bind))?.id ?? '';
beforeAll(async () => {
  place = await freshDatabase();
  ({ who, editor, reader, stranger, sourceId, domainId } = await staffed(place.db));
});
afterAll(() => place.drop());
beforeEach(async () => {
  for (const table of ['asset', 'journal']) await place.db.run(`delete from ${table}`);
  await place.db.run('update domain set shown_outside = false');
});

const asset = (name: string, kind: string, parent: string | null = null, depth = 0) =>
  one(
    `
      insert into asset (source_id, domain_id, kind, name, key, depth, parent_id)
      select $1, $2, $3, $4, coalesce((select key || chr(31) from asset where id = $6), '') || $4, $5, $6
      returning id`,
    [sourceId, domainId, kind, name, depth, parent],
  );
async function sailing() {
  const database = await asset('ferry', 'database');
  const schema = await asset('booking', 'schema', database, 1);
  const table = await asset('sailing/leg', 'table', schema, 2);
  const column = await asset('Berth', 'column', table, 3);
  return { database, schema, table, column };
}
const at = async (address: string, by = reader) => (await assetAt(place.db, by, address)).id;
const rename = (id: string, name: string) =>
  place.db.run(
    "update asset set name = $2, key = coalesce((select p.key || chr(31) from asset p where p.id = asset.parent_id), '') || $2 where id = $1",
    [id, name],
  );

describe('a readable address', () => {
  it('leads to what it names, without the database, and the asset says it', async () => {
    const { database, schema, table, column } = await sailing();
    const { place: said, sqlName } = await getAsset(place.db, reader, column);
    expect([said, sqlName]).toEqual(['/at/Test%20source/booking/sailing%2Fleg/Berth', 'booking."sailing/leg"."Berth"']);
    expect(await at(said)).toBe(column);
    expect(await at('/at/Test%20source/booking')).toBe(schema);
    expect(await at('/at/Test%20source/ferry')).toBe(database);
    expect(await at('/at/Test%20source/ferry/booking/sailing%2Fleg')).toBe(table);
  });

  it('leads on after renames and moves, of any name on the way, also of the source; what is called so now comes first', async () => {
    const { database, schema, table, column } = await sailing();
    const old = '/at/Test%20source/booking/sailing%2Fleg/Berth';
    await rename(column, 'cabin');
    await rename(table, 'leg');
    await rename(schema, 'bookings');
    await place.db.run("update source set name = 'Bookings' where id = $1", [sourceId]);
    expect(await at(old)).toBe(column);
    expect(await at('/at/Bookings/bookings/leg/Berth')).toBe(column);
    const other = await asset('archive', 'schema', database, 1);
    await place.db.run('update asset set parent_id = $2 where id = $1', [table, other]);
    expect(await at(old)).toBe(column);
    expect(await at('/at/Bookings/archive/leg/cabin')).toBe(column);
    const fresh = await asset('leg', 'table', schema, 2);
    expect(await at('/at/Bookings/bookings/leg')).toBe(fresh);
    await place.db.run("update source set name = 'Test source' where id = $1", [sourceId]);
  });

  it('leads nowhere for whom it is not, as one at which nothing is', async () => {
    await sailing();
    for (const [address, by] of [
      ['/at/Test%20source/booking', stranger],
      ['/at/Test%20source/none', reader],
      ['/at/None/booking', reader],
      ['/at/Test%20source', reader],
    ] as const)
      expect(await refused(at(address, by))).toMatchObject({ code: 'not-found' });
    expect(await refused(at('/assets/x'))).toMatchObject({ code: 'invalid' });
  });
});

describe('what an address shows where it is pasted', () => {
  const show = (id: string, shown: boolean, by = who) =>
    place.db.transaction(async (tx) => {
      const domain = (await listDomains(tx)).find((entry) => entry.id === id);
      if (!domain) throw new Error('there is no such domain');
      const { version, owner, name, purpose, parentId } = domain;
      return changeDomain(tx, by, id, version, {
        name,
        purpose,
        parentId,
        ownerId: owner?.id ?? null,
        shownOutside: shown,
      });
    });

  it('is nothing, as long as the domain is not shown outside; whether something is there is not told', async () => {
    const { table } = await sailing();
    await place.db.run("update asset set description = 'Secret' where id = $1", [table]);
    for (const address of [`/assets/${table}`, '/at/Test%20source/booking', `/assets/${domainId}`, '/assets/x', ''])
      expect(await cardAt(place.db, address)).toEqual(CLOSED);
  });

  it('is title, standing, owner and meaning of what is shown, by both addresses', async () => {
    const { table } = await sailing();
    await place.db.run("update asset set description = $2, standing = 'trusted' where id = $1", [
      table,
      `One  departure\n${'x'.repeat(400)}`,
    ]);
    await place.db.run("insert into asset_person (asset_id, person_id, role) values ($1, $2, 'owner')", [
      table,
      editor.id,
    ]);
    await show(domainId, true);
    const card = await cardAt(place.db, `/assets/${table}`);
    expect(card).toMatchObject({ title: 'booking.sailing/leg', standing: 'trusted', owners: ['Edda'] });
    expect(card.description).toMatch(/^Table in Test source · trusted · owner: Edda\. One departure x+ …$/);
    expect(card.description.length).toBeLessThan(310);
    expect(await cardAt(place.db, '/at/Test%20source/booking/sailing%2Fleg')).toEqual(card);
    await show(domainId, false);
    expect(await cardAt(place.db, `/assets/${table}`)).toEqual(CLOSED);
  });

  it('is said by administrators of the domain, and told in the journal', async () => {
    expect(await refused(show(domainId, true, editor))).toMatchObject({ code: 'forbidden' });
    await show(domainId, true);
    await show(domainId, true);
    const told = await place.db.rows('select action, after from journal');
    expect(told).toEqual([{ action: 'edited', after: { 'shown outside': 'yes' } }]);
  });
});

describe('links', () => {
  const body = { kind: 'ticket', url: 'https://tickets.example.org/12', title: 'Why berths are doubled' } as const;
  it('are added, changed, taken away and brought back by editors, and told of the asset', async () => {
    const { table } = await sailing();
    const add = (by: Who) => place.db.transaction((tx) => addLink(tx, by, table, body));
    expect(await refused(add(reader))).toMatchObject({ code: 'forbidden' });
    expect(await refused(add(stranger))).toMatchObject({ code: 'not-found' });
    const link = await add(editor);
    expect(await listLinks(place.db, reader, table)).toMatchObject([{ ...body, maker: 'Edda' }]);
    const changed = await place.db.transaction((tx) =>
      changeLink(tx, editor, link.id, link.version, { ...body, title: 'Berths' }),
    );
    expect(
      await refused(place.db.transaction((tx) => changeLink(tx, editor, link.id, link.version, body))),
    ).toMatchObject({ code: 'changed-meanwhile', current: { title: 'Berths' } });
    expect(changed.title).toBe('Berths');
    await place.db.transaction((tx) => removeLink(tx, editor, link.id));
    expect(await listLinks(place.db, reader, table)).toEqual([]);
    await place.db.transaction((tx) => bringBackLink(tx, editor, link.id));
    expect(await listLinks(place.db, reader, table)).toHaveLength(1);
    const told = await place.db.rows<{ action: string; subject_id: string }>(
      'select action, subject_id from journal order by id',
    );
    expect(told.map(({ action }) => action)).toEqual([
      'link added',
      'link changed',
      'link taken away',
      'link brought back',
    ]);
    expect(new Set(told.map(({ subject_id }) => subject_id))).toEqual(new Set([table]));
    expect(await refused(listLinks(place.db, stranger, table))).toMatchObject({ code: 'not-found' });
  });
});
