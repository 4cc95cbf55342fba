import { DETECTORS } from '@idrel/core/recognition';
import { beforeAll, describe, expect, it } from 'vitest';
import { Caller } from './caller.ts';

const steward = new Caller();
const analyst = new Caller();
const fresh = () => `Set ${Math.random().toString(36).slice(2)}`;
let crewing: { id: string; name: string };
beforeAll(async () => {
  await steward.as('Sunniva Dahlmark');
  await analyst.as('Maud Ilkley');
  crewing = ((await steward.call('GET', '/sources')).body as (typeof crewing)[]).find(
    (source) => source.name === 'Crewing',
  ) as typeof crewing;
});
const EVERYTHING = { cover: 'everything', chosen: [], include: [], exclude: [] };
const ended = async (id: string) => {
  await expect
    .poll(async () => Boolean((await steward.call('GET', `/runs/${id}`)).body.endedAt), {
      interval: 200,
    })
    .toBe(true);
  return (await steward.call('GET', `/runs/${id}`)).body;
};
const classes = async () =>
  ((await steward.call('GET', '/findings?limit=500')).body.items as { source: string; classKey: string }[])
    .filter((finding) => finding.source === 'Crewing')
    .map((finding) => finding.classKey);

describe('a detector set', () => {
  it('says which detectors look in the runs of the plans that use it, and which plans these are', async () => {
    const emails = DETECTORS.filter((detector) => detector.classKey === 'email').map((detector) => detector.id);
    const made = await steward.call('POST', '/detector-sets', { name: fresh(), leavesOut: emails });
    expect([made.status, made.body.detectors, made.body.all, made.body.plans]).toEqual([
      200,
      DETECTORS.length - emails.length,
      DETECTORS.length,
      [],
    ]);
    const before = await classes();
    expect(before).toContain('email');
    const plan = (
      await steward.call('POST', `/sources/${crewing.id}/plans`, {
        name: fresh(),
        scope: EVERYTHING,
        options: { detectorSetId: made.body.id },
      })
    ).body;
    const [listed] = ((await steward.call('GET', '/detector-sets')).body as { id: string; plans: unknown[] }[]).filter(
      (set) => set.id === made.body.id,
    );
    expect(listed?.plans).toEqual([{ id: plan.id, name: plan.name, source: 'Crewing' }]);
    expect((await ended((await steward.call('POST', `/plans/${plan.id}/runs`)).body.id)).state).toBe('done');
    const without = await classes();
    expect(without).not.toContain('email');
    expect(without.sort()).toEqual(before.filter((key) => key !== 'email').sort());

    const refused = await steward.call('DELETE', `/detector-sets/${made.body.id}`);
    expect([refused.status, refused.body.detail]).toEqual([409, expect.stringContaining(`${plan.name} of Crewing`)]);
    await steward.call('DELETE', `/plans/${plan.id}`);
    expect((await steward.call('DELETE', `/detector-sets/${made.body.id}`)).status).toBe(204);
    // A scan without a set lets all detectors look again.
    await ended((await steward.call('POST', `/sources/${crewing.id}/runs`, {})).body.id);
    expect((await classes()).sort()).toEqual(before.sort());
  });

  it('is changed with its version, kept apart by name, and knows only detectors that there are', async () => {
    const name = fresh();
    const { body: set } = await steward.call('POST', '/detector-sets', { name, leavesOut: [] });
    const url = `/detector-sets/${set.id}`;
    expect((await steward.call('PUT', url, { name, leavesOut: [] })).status).toBe(428);
    const changed = await steward.call(
      'PUT',
      url,
      { name, description: 'For files', leavesOut: [DETECTORS[0]?.id] },
      { 'if-match': '"v1"' },
    );
    expect(changed.body).toMatchObject({ version: 2, description: 'For files', detectors: DETECTORS.length - 1 });
    expect((await steward.call('PUT', url, { name, leavesOut: [] }, { 'if-match': '"v1"' })).body.code).toBe(
      'changed-meanwhile',
    );
    expect((await steward.call('POST', '/detector-sets', { name: name.toUpperCase(), leavesOut: [] })).body.code).toBe(
      'name-taken',
    );
    const unknown = await steward.call('POST', '/detector-sets', { name: fresh(), leavesOut: ['no.such'] });
    expect([unknown.status, unknown.body.detail]).toEqual([422, 'There is no detector no.such.']);
    expect(
      (
        await steward.call('POST', '/detector-sets', {
          name: fresh(),
          leavesOut: DETECTORS.map((detector) => detector.id),
        })
      ).body.detail,
    ).toContain('leaves out every detector');
    expect(
      (await steward.call('GET', `/journal?subject=${set.id}`)).body.map((entry: { action: string }) => entry.action),
    ).toEqual(['edited', 'created']);
    await steward.call('DELETE', url);
  });

  it('must be there for a plan, and is made by stewards and source administrators alone', async () => {
    const plan = await steward.call('POST', `/sources/${crewing.id}/plans`, {
      name: fresh(),
      scope: EVERYTHING,
      options: { detectorSetId: '00000000-0000-4000-8000-000000000000' },
    });
    expect([plan.status, plan.body.detail]).toEqual([422, expect.stringContaining('not there')]);
    expect((await analyst.call('POST', '/detector-sets', { name: fresh(), leavesOut: [] })).status).toBe(403);
    expect((await analyst.call('GET', '/detector-sets')).status).toBe(200);
  });

  it('says of which files and rows values are looked at, for every plan that uses it', async () => {
    const { body: set } = await steward.call('POST', '/detector-sets', {
      name: fresh(),
      leavesOut: [],
      fileKinds: ['csv'],
      sampling: { rows: 40, method: 'first' },
    });
    expect(set).toMatchObject({ fileKinds: ['csv'], sampling: { rows: 40, method: 'first' } });
    expect(
      (
        await steward.call('POST', '/detector-sets', {
          name: fresh(),
          leavesOut: [],
          sampling: { rows: 1, method: 'first' },
        })
      ).status,
    ).toBe(422);
    // The plan itself says otherwise.
    const plan = (
      await steward.call('POST', `/sources/${crewing.id}/plans`, {
        name: fresh(),
        scope: EVERYTHING,
        options: { detectorSetId: set.id, rows: 500, method: 'random' },
      })
    ).body;
    const run = await ended((await steward.call('POST', `/plans/${plan.id}/runs`)).body.id);
    expect(run.state).toBe('done');
    const sampled = async () =>
      ((await steward.call('GET', '/findings?limit=500')).body.items as { source: string; sampled: number }[])
        .filter((finding) => finding.source === 'Crewing')
        .map((finding) => finding.sampled);
    expect(Math.max(...(await sampled()))).toBe(40);
    // Without it the plan says so itself again.
    const changed = await steward.call(
      'PUT',
      `/detector-sets/${set.id}`,
      { name: set.name, leavesOut: [], fileKinds: null, sampling: null },
      { 'if-match': '"v1"' },
    );
    expect(changed.body).toMatchObject({ fileKinds: null, sampling: null });
    await ended((await steward.call('POST', `/plans/${plan.id}/runs`)).body.id);
    expect(Math.max(...(await sampled()))).toBeGreaterThan(40);
    await steward.call('DELETE', `/plans/${plan.id}`);
    await steward.call('DELETE', `/detector-sets/${set.id}`);
  });
});
