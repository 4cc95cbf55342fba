import { catalogEndpoints } from '@idrel/contract/catalog';
import { lineageEndpoints } from '@idrel/contract/lineage';
import { ENDPOINTS } from '@idrel/contract/operations';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { Caller } from './caller.ts';

interface Listed {
  items: { id: string; path: string; source: string }[];
  total: number;
}

/** Sunniva administers the policies of all domains, Tobias those of one; Maud is an analyst. */
const steward = new Caller();
const engineer = new Caller();
let other: string;
const as = () => ({ 'x-idrel-as': other });
const list = async (who: Caller, filter: string, headers: Record<string, string> = {}) =>
  (await who.call('GET', `/assets?limit=50&filter=${encodeURIComponent(filter)}`, undefined, headers)).body as Listed;
const look = (who: Caller, personId: string | null) => who.call('PUT', '/session/looking', { personId });

beforeAll(async () => {
  await steward.as('Sunniva Dahlmark');
  await engineer.as('Maud Ilkley');
  const people = (await steward.call('GET', '/people')).body as { id: string; name: string }[];
  other = people.find(({ name }) => name === 'Maud Ilkley')?.id ?? '';
});
afterAll(() => look(steward, null));

describe('looking at the catalog as somebody else', () => {
  it('takes the right over policies, and saying so; it stands in the journal', async () => {
    expect((await look(engineer, other)).status).toBe(403);
    expect((await look(engineer, null)).status).toBe(200);
    // The header alone opens nothing.
    expect((await steward.call('GET', '/assets', undefined, as())).status).toBe(403);
    expect((await engineer.call('GET', '/assets', undefined, as())).status).toBe(403);
    expect((await look(steward, '6b0e2ac4-0c57-4e62-9a1a-0e0e36ba1b0a')).status).toBe(404);
    const begun = await look(steward, other);
    expect(begun.body).toMatchObject({ person: { name: 'Sunniva Dahlmark' }, lookingAs: { name: 'Maud Ilkley' } });
    const admin = new Caller();
    await admin.as('Jorun Pell');
    const journal = (await admin.call('GET', '/journal?limit=20')).body as {
      action: string;
      person: string;
      subject: string;
    }[];
    expect(journal).toContainEqual(
      expect.objectContaining({
        action: 'looked at the catalog as them',
        person: 'Sunniva Dahlmark',
        subject: 'Maud Ilkley',
      }),
    );
  });

  it('shows what they see, of what who looks administers, and nothing beyond either', async () => {
    const [mine, theirs, seen] = [
      await list(steward, 'kind:table'),
      await list(engineer, 'kind:table'),
      await list(steward, 'kind:table', as()),
    ];
    expect(seen.total).toBeGreaterThan(0);
    expect(seen.total).toBeLessThan(Math.max(mine.total, theirs.total));
    const reachable = new Set([...theirs.items].map(({ id }) => id));
    for (const { id, path } of seen.items)
      expect([path, reachable.has(id) || (await engineer.call('GET', `/assets/${id}`)).status === 200]).toEqual([
        path,
        true,
      ]);
    // Nothing can be edited that way, whatever they may.
    const [first] = seen.items;
    const shown = await steward.call('GET', `/assets/${first?.id}`, undefined, as());
    expect(shown.body).toMatchObject({ mayEdit: false, mayCertify: false });
  });

  it('ends where who looks administers no policies, however much the other sees', async () => {
    const travel = new Caller();
    await travel.as('Tobias Marrow');
    const admin = new Caller();
    await admin.as('Jorun Pell');
    const people = (await travel.call('GET', '/people')).body as { id: string; name: string }[];
    const jorun = people.find(({ name }) => name === 'Jorun Pell')?.id ?? '';
    await look(travel, jorun);
    const seen = await list(travel, 'kind:table', { 'x-idrel-as': jorun });
    const inTravel = await list(admin, 'kind:table domain:Travel');
    expect(seen.total).toBe(inTravel.total);
    expect(seen.total).toBeLessThan((await list(admin, 'kind:table')).total);
    // Another one than was said is nobody.
    expect((await travel.call('GET', '/assets', undefined, as())).status).toBe(403);
    await look(travel, null);
  });

  it('changes nothing but what is looked at: the session stays who it is', async () => {
    expect(
      ((await steward.call('GET', '/session', undefined, as())).body as { person: { name: string } }).person.name,
    ).toBe('Sunniva Dahlmark');
    const [first] = (await list(steward, 'kind:table source:"Freight desk"')).items;
    const rows = await steward.call('GET', `/assets/${first?.id}/rows?limit=1`, undefined, as());
    expect(rows).toMatchObject({ status: 403, body: { detail: expect.stringContaining('values are not shown here') } });
    await look(steward, null);
    expect((await steward.call('GET', '/assets', undefined, as())).status).toBe(403);
    expect((await list(steward, 'kind:table')).total).toBeGreaterThan(0);
  });

  it('is for operations that only read, at once and in no thread', () => {
    const flagged = ENDPOINTS.filter(({ asOther }) => asOther === true);
    expect(flagged.length).toBeGreaterThan(10);
    for (const { id, method, heavy } of flagged) expect([id, method, heavy]).toEqual([id, 'get', undefined]);
    expect([catalogEndpoints.list.asOther, lineageEndpoints.picture.asOther]).toEqual([true, true]);
  });
});
