import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { endApiKey, listApiKeys, makeApiKey, rotateApiKey, whoByKey } from '../src/people/apiKeys.ts';
import { loadWho, type Who } from '../src/people/index.ts';
import { leave } from '../src/people/manage.ts';
import { once, printOf } from '../src/platform/idempotent.ts';
import { ApiProblem } from '../src/platform/problems.ts';
import { freshDatabase, furnish, personWith, refused } from './place.ts';

let place: Awaited<ReturnType<typeof freshDatabase>>;
let made: Awaited<ReturnType<typeof furnish>>;
let [below, elsewhere] = ['', ''];
let [steward, admin] = [] as unknown as [Who, Who];
const one = async (sql: string, bind: unknown[] = []) => (await place.db.one<{ id: string }>(sql, bind))?.id ?? '';
const make = (who: Who, more: object = {}) =>
  place.db.transaction((tx) =>
    makeApiKey(tx, who, { name: 'K', scopes: ['read'], domainIds: null, days: 30, perMinute: 60, ...more } as never),
  );

beforeAll(async () => {
  place = await freshDatabase();
  made = await furnish(place.db);
  below = await one("insert into domain (name, parent_id) values ('Wake Card', $1) returning id", [made.domainId]);
  elsewhere = await one("insert into domain (name) values ('Crewing') returning id");
  steward = await personWith(place.db, 'Sten', 'steward', made.domainId);
  admin = (await loadWho(place.db, made.personId)) as Who;
});
afterAll(() => place?.drop());

describe('a key', () => {
  it('has the rights that its person has at the time, and no more than in its domains and below', async () => {
    const { id } = await make(admin, { domainIds: [made.domainId] });
    const who = (await whoByKey(place.db, id)) as Who;
    expect(who.domainsAs('steward').sort()).toEqual([made.domainId, below].sort());
    expect([who.is('administrator', below), who.is('reader', elsewhere)]).toEqual([true, false]);
    expect([admin.isEverywhere('administrator'), who.isEverywhere('administrator')]).toEqual([true, false]);
    expect(who.key).toEqual({ id, name: 'K' });
    const whole = (await whoByKey(place.db, (await make(admin)).id)) as Who;
    expect(whole.isEverywhere('administrator')).toBe(true);
    const hers = await make(steward);
    await place.db.run('delete from role_grant where person_id = $1', [steward.id]);
    expect((await whoByKey(place.db, hers.id))?.domainsAs('reader')).toEqual([]);
    await place.db.run("insert into role_grant (person_id, role, domain_id) values ($1, 'steward', $2)", [
      steward.id,
      made.domainId,
    ]);
  });

  it('follows a domain that moves, and holds nowhere once its domains are gone', async () => {
    const gone = await one("insert into domain (name, parent_id) values ('Gone', $1) returning id", [elsewhere]);
    const who = (await loadWho(place.db, made.personId)) as Who;
    const { id } = await make(who, { domainIds: [gone] });
    await place.db.run('update domain set parent_id = $2 where id = $1', [below, gone]);
    expect((await whoByKey(place.db, id))?.domainsAs('reader').sort()).toEqual([gone, below].sort());
    await place.db.run('update domain set parent_id = $2 where id = $1', [below, made.domainId]);
    await place.db.run('delete from domain where id = $1', [gone]);
    expect((await whoByKey(place.db, id))?.domainsAs('reader')).toEqual([]);
    expect((await listApiKeys(place.db, admin, false)).find((key) => key.id === id)?.domains).toEqual([]);
  });

  it('ends on its day, when it is ended, and when its person leaves', async () => {
    const [dated, ended, left] = [await make(steward), await make(steward), await make(steward)];
    await place.db.run('update api_key set ends_at = now() where id = $1', [dated.id]);
    await place.db.transaction((tx) => endApiKey(tx, steward, ended.id));
    expect(await whoByKey(place.db, left.id)).toBeDefined();
    await place.db.run('update person set left_at = now() where id = $1', [steward.id]);
    for (const { id } of [dated, ended, left]) expect(await whoByKey(place.db, id)).toBeUndefined();
    await place.db.run('update person set left_at = null where id = $1', [steward.id]);
    // Who leaves has none any more, also when they come back.
    await place.db.transaction((tx) => leave(tx, admin, [], steward.id, { to: null, seen: 0 }));
    await place.db.run('update person set left_at = null where id = $1', [steward.id]);
    expect(await whoByKey(place.db, left.id)).toBeUndefined();
    await place.db.run("insert into role_grant (person_id, role, domain_id) values ($1, 'steward', $2)", [
      steward.id,
      made.domainId,
    ]);
  });

  it('is one of twenty at most, also when many are made at once; what is replaced does not count', async () => {
    await place.db.run('delete from api_key');
    const all = await Promise.allSettled(Array.from({ length: 24 }, () => make(steward)));
    expect(all.filter(({ status }) => status === 'fulfilled')).toHaveLength(20);
    const [first] = await listApiKeys(place.db, steward, false);
    const next = await place.db.transaction((tx) => rotateApiKey(tx, steward, first?.id ?? '', 5));
    expect(await whoByKey(place.db, next.id)).toBeDefined();
    expect(await refused(make(steward))).toMatchObject({ code: 'too-many-keys' });
    // Its digest alone is kept.
    expect(JSON.stringify(await place.db.rows('select * from api_key'))).not.toContain(next.key.slice(10));
    expect(JSON.stringify(await place.db.rows('select * from journal'))).not.toContain(next.key.slice(10));
  });
});

describe('a call that is sent again', () => {
  const answer = { json: '{"id":1}', etag: '"v1"' };
  const call = (key: string, work: () => Promise<typeof answer>, about: unknown = 1) =>
    once(place.db, admin.id, key, printOf('x', about, []), work);

  it('is not done again where nobody knows how it ended, and says so', async () => {
    const failed = () => Promise.reject(new Error('the connection broke'));
    await expect(call('lost', failed)).rejects.toThrow('the connection broke');
    expect(await refused(call('lost', async () => answer))).toMatchObject({ code: 'call-under-way' });
    await place.db.run("update idempotent_call set at = now() - interval '1 hour'");
    expect((await refused(call('lost', async () => answer)))?.detail).toContain('Nobody knows');
    await place.db.run("update idempotent_call set at = now() - interval '2 days'");
    expect(await call('lost', async () => answer)).toEqual({ answer, again: false });
    expect(await call('lost', () => Promise.reject(new Error('done twice')))).toEqual({ answer, again: true });
  });

  it('is done where it was refused before, and belongs to who sent it', async () => {
    const refusedFirst = () => Promise.reject(new ApiProblem('name-taken', 'Taken.'));
    expect(await refused(call('mended', refusedFirst))).toMatchObject({ code: 'name-taken' });
    expect((await call('mended', async () => answer)).again).toBe(false);
    expect(await refused(call('mended', async () => answer, 2))).toMatchObject({ code: 'call-differs' });
    expect((await once(place.db, steward.id, 'mended', printOf('x', 1, []), async () => answer)).again).toBe(false);
  });
});
