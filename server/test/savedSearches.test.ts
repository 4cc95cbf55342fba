import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import {
  addSearch,
  bringBackSearch,
  changeSearch,
  listSearches,
  pinSearch,
  removeSearch,
} from '../src/catalog/searches.ts';
import { loadWho, type Who } from '../src/people/index.ts';
import type { Db } from '../src/platform/database.ts';
import { freshDatabase, furnish } from './place.ts';

let place: Awaited<ReturnType<typeof freshDatabase>>;
let one: Who;
let other: Who;

beforeAll(async () => {
  place = await freshDatabase();
  const { personId } = await furnish(place.db);
  one = (await loadWho(place.db, personId)) as Who;
  const made = await place.db.one<{ id: string }>(
    "insert into person (name, email) values ('Ida Holm', 'ida@example.org') returning id",
  );
  other = (await loadWho(place.db, made?.id ?? '')) as Who;
});
afterAll(() => place.drop());
beforeEach(() => place.db.run('delete from saved_search'));

const within = <T>(work: (tx: Db) => Promise<T>) => place.db.transaction(work);
const keep = (name: string, shared: boolean, who = one, filter = 'kind:table owner:none') =>
  within((tx) => addSearch(tx, who, { name, filter, shared }));
const seen = async (who: Who) =>
  (await listSearches(place.db, who)).map(({ name, madeBy, pinned }) => [name, madeBy, pinned]);

describe('searches that are kept', () => {
  it('are one’s own until they are shared; each puts them into their rail', async () => {
    const own = await keep('To do', false);
    const shared = await keep('Nobody’s', true);
    expect(await seen(one)).toEqual([
      ['Nobody’s', null, true],
      ['To do', null, true],
    ]);
    expect(await seen(other)).toEqual([['Nobody’s', 'Nils Test', false]]);
    await within((tx) => pinSearch(tx, other, shared.id, true));
    await within((tx) => pinSearch(tx, one, shared.id, false));
    expect([await seen(other), (await seen(one))[0]]).toEqual([
      [['Nobody’s', 'Nils Test', true]],
      ['Nobody’s', null, false],
    ]);
    await expect(within((tx) => pinSearch(tx, other, own.id, true))).rejects.toMatchObject({ code: 'not-found' });
    // Shared no more, it stands in no other rail, also when it is shared again.
    const now = await within((tx) => changeSearch(tx, one, shared.id, 1, { ...shared, shared: false }));
    expect(await seen(other)).toEqual([]);
    await within((tx) => changeSearch(tx, one, shared.id, now.version, { ...shared, shared: true }));
    expect(await seen(other)).toEqual([['Nobody’s', 'Nils Test', false]]);
  });

  it('are changed and removed by whoever made them alone, and come back into the rails that they stood in', async () => {
    const shared = await keep('Nobody’s', true);
    await within((tx) => pinSearch(tx, other, shared.id, true));
    await expect(within((tx) => changeSearch(tx, other, shared.id, 1, shared))).rejects.toMatchObject({
      code: 'forbidden',
    });
    await expect(within((tx) => removeSearch(tx, other, shared.id))).rejects.toMatchObject({ code: 'forbidden' });
    await within((tx) => removeSearch(tx, one, shared.id));
    expect([await seen(one), await seen(other)]).toEqual([[], []]);
    await expect(within((tx) => bringBackSearch(tx, other, shared.id))).rejects.toMatchObject({ code: 'forbidden' });
    await within((tx) => bringBackSearch(tx, one, shared.id));
    expect(await seen(other)).toEqual([['Nobody’s', 'Nils Test', true]]);
  });

  it('have a name once, and a filter that can be read', async () => {
    await keep('To do', false);
    await expect(keep('TO DO', true)).rejects.toMatchObject({ code: 'name-taken' });
    await keep('To do', false, other);
    await expect(keep('Odd', false, one, 'kind:(')).rejects.toMatchObject({ code: 'invalid' });
    await expect(
      within(async (tx) => {
        const [mine] = await listSearches(tx, one);
        return changeSearch(tx, one, mine?.id ?? '', 9, { name: 'Late', filter: 'kind:view', shared: false });
      }),
    ).rejects.toMatchObject({ code: 'changed-meanwhile' });
  });
});
