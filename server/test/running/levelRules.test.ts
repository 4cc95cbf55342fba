import { beforeAll, describe, expect, it } from 'vitest';
import { Caller } from './caller.ts';

const steward = new Caller();
const analyst = new Caller();
beforeAll(async () => {
  await steward.as('Sunniva Dahlmark');
  await analyst.as('Maud Ilkley');
});
interface Asset {
  id: string;
  path: string;
  level: number | null;
}
const find = async (filter: string) =>
  (await steward.call('GET', `/assets?limit=200&filter=${encodeURIComponent(filter)}`)).body.items as Asset[];
const passenger = async () =>
  (await find('kind:table passenger')).find((asset) => asset.path === 'booking.passenger') as Asset;
const RULE = {
  name: 'A whole person',
  classKeys: ['person-name', 'date-of-birth', 'email'],
  level: 4,
  kinds: ['table'],
};

describe('a rule of levels', () => {
  let id: string;
  it('shows what it would change before it is saved, and changes nothing yet', async () => {
    expect((await passenger()).level).toBe(3);
    const preview = await steward.call('POST', '/level-rules/preview', { id: null, rule: RULE });
    expect(preview.body.counts).toEqual([{ before: 3, after: 4, count: preview.body.total }]);
    expect(preview.body.shown.map((asset: Asset) => asset.path)).toContain('booking.passenger');
    expect(preview.body.total).toBe(preview.body.shown.length);
    expect((await passenger()).level).toBe(3);
    // Views carry the same classes, but are not among its kinds.
    expect(preview.body.shown.every((asset: { kind: string }) => asset.kind === 'table')).toBe(true);
    expect(
      (
        await steward.call('POST', '/level-rules/preview', {
          id: null,
          rule: { ...RULE, classKeys: [...RULE.classKeys, 'religion'] },
        })
      ).body.total,
    ).toBe(0);
    expect((await analyst.call('POST', '/level-rules/preview', { id: null, rule: RULE })).status).toBe(403);
  });

  it('raises at once what it said, says why, and stays through a scan', async () => {
    expect((await analyst.call('POST', '/level-rules', RULE)).status).toBe(403);
    expect((await steward.call('POST', '/level-rules', { ...RULE, classKeys: ['nothing'] })).body.fields).toEqual([
      { field: 'classKey', message: 'is not in use' },
    ]);
    const preview = (await steward.call('POST', '/level-rules/preview', { id: null, rule: RULE })).body;
    const made = await steward.call('POST', '/level-rules', RULE);
    expect([made.status, made.body.version]).toEqual([200, 1]);
    id = made.body.id;
    const raised = await Promise.all(
      preview.shown.map(async (asset: Asset) => (await steward.call('GET', `/assets/${asset.id}`)).body.level),
    );
    expect(new Set(raised)).toEqual(new Set([4]));
    expect((await steward.call('GET', `/assets/${(await passenger()).id}/level-reasons`)).body).toContain(
      'by the rule “A whole person”',
    );
    const email = (await find('kind:column email')).find((asset) => asset.path === 'booking.passenger.email') as Asset;
    expect(email.level).toBe(3);
    expect((await steward.call('GET', `/assets/${email.id}/level-reasons`)).body).toEqual(['it holds: E-mail address']);
    expect((await steward.call('POST', '/level-rules', RULE)).body.code).toBe('name-taken');
    const source = ((await steward.call('GET', '/sources')).body as { id: string; name: string }[]).find(
      (entry) => entry.name === 'Booking system',
    );
    const run = (await steward.call('POST', `/sources/${source?.id}/runs`, {})).body.id;
    await expect
      .poll(async () => (await steward.call('GET', `/runs/${run}`)).body.state, { interval: 200 })
      .toBe('done');
    expect((await passenger()).level).toBe(4);
    // A class that a rule rests on is not removed under it.
    const { columns } = (await steward.call('GET', '/classes/date-of-birth/carriers')).body;
    expect((await steward.call('DELETE', `/classes/date-of-birth?columns=${columns}`)).body.code).toBe('class-in-rule');
  });

  it('is changed with its version, and lets everything go when it is removed', async () => {
    expect((await steward.call('PUT', `/level-rules/${id}`, RULE)).status).toBe(428);
    const changed = await steward.call(
      'PUT',
      `/level-rules/${id}`,
      { ...RULE, kinds: ['view'] },
      { 'if-match': '"v1"' },
    );
    expect(changed.body).toMatchObject({ version: 2, kinds: ['view'] });
    expect((await passenger()).level).toBe(3);
    await steward.call('PUT', `/level-rules/${id}`, RULE, { 'if-match': '"v2"' });
    expect((await passenger()).level).toBe(4);
    const gone = (await steward.call('POST', '/level-rules/preview', { id, rule: null })).body;
    expect(gone.counts).toEqual([{ before: 4, after: 3, count: gone.total }]);
    expect((await steward.call('DELETE', `/level-rules/${id}`)).status).toBe(204);
    expect((await passenger()).level).toBe(3);
    expect((await steward.call('GET', '/level-rules')).body).toEqual([]);
  });
});
