import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { copyLine } from '../src/platform/database.ts';
import { freshDatabase, furnish } from './place.ts';

let place: Awaited<ReturnType<typeof freshDatabase>>;
let sourceId: string;
let domainId: string;
beforeAll(async () => {
  place = await freshDatabase();
  ({ sourceId, domainId } = await furnish(place.db));
});
afterAll(() => place.drop());

const insert = (facts: { source?: string; parent?: string | null; domain?: string; name?: string; kind?: string }) => {
  const name = facts.name ?? randomUUID();
  return place.db.rows<{ id: string }>(
    'insert into asset (source_id, parent_id, domain_id, kind, name, key, depth) values ($1, $2, $3, $4, $5, $6, 0) returning id',
    [facts.source ?? sourceId, facts.parent ?? null, facts.domain ?? domainId, facts.kind ?? 'table', name, name],
  );
};
const count = async () => (await place.db.one<{ n: number }>('select count(*)::int as n from asset'))?.n;

describe('references of assets, checked per statement', () => {
  it.each([
    ['a source that does not exist', { source: randomUUID() }, 'source that does not exist'],
    ['a domain that does not exist', { domain: randomUUID() }, 'domain that does not exist'],
    ['a parent that does not exist', { parent: randomUUID() }, 'parent that its source does not have'],
  ])('refuses %s', async (_, facts, message) => {
    const before = await count();
    await expect(insert(facts)).rejects.toThrow(message);
    expect(await count()).toBe(before);
  });

  it('refuses a parent of another source, and moving to what does not exist', async () => {
    const [other] = await place.db.rows<{ id: string }>(
      "insert into source (name, kind, address, domain_id) values ('Other', 'folder', '{}', $1) returning id",
      [domainId],
    );
    const [parent] = await insert({});
    await expect(insert({ source: other?.id as string, parent: parent?.id as string })).rejects.toThrow(
      'parent that its source does not have',
    );
    await expect(
      place.db.run('update asset set domain_id = $2 where id = $1', [parent?.id, randomUUID()]),
    ).rejects.toThrow('does not exist');
  });

  it('takes a parent and its children in one statement', async () => {
    const [parent, child] = [randomUUID(), randomUUID()];
    await place.db.transaction((tx) =>
      tx.copyIn('copy asset (id, source_id, parent_id, domain_id, kind, name, key, depth) from stdin', [
        copyLine([child, sourceId, parent, domainId, 'column', 'tab\tand\\slash\nline', `${parent}c`, 1]),
        copyLine([parent, sourceId, null, domainId, 'table', 'both', parent, 0]),
      ]),
    );
    expect(await place.db.one('select name, parent_id as parent from asset where id = $1', [child])).toEqual({
      name: 'tab\tand\\slash\nline',
      parent,
    });
  });

  it('refuses two columns of one name in one table', async () => {
    const [parent] = await insert({});
    await insert({ parent: parent?.id as string, kind: 'column', name: 'twice' });
    await expect(insert({ parent: parent?.id as string, kind: 'column', name: 'twice' })).rejects.toThrow();
  });

  it('keeps a domain that assets belong to, and lets assets go with their parent and their source', async () => {
    const [parent] = await insert({});
    const [child] = await insert({ parent: parent?.id as string, kind: 'column' });
    await expect(place.db.run('delete from domain where id = $1', [domainId])).rejects.toThrow();
    await place.db.run('delete from asset where id = $1', [parent?.id]);
    expect(await place.db.one('select 1 as there from asset where id = $1', [child?.id])).toBeUndefined();
    await place.db.run('delete from source');
    expect(await count()).toBe(0);
  });
});
