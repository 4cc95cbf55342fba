import type { ManyAction } from '@idrel/contract/curation';
import { beforeAll, describe, expect, it } from 'vitest';
import { Caller } from './caller.ts';

const steward = new Caller();
const analyst = new Caller();
const owner = new Caller();
const engineer = new Caller();
let people: { id: string; name: string }[] = [];
const idOf = (name: string) => people.find((person) => person.name === name)?.id ?? '';
const FILTER = 'kind:file,"file set" source:"Shore store"';
const fresh = () => `Routine ${Math.random().toString(36).slice(2)}`;

beforeAll(async () => {
  await steward.as('Sunniva Dahlmark');
  await analyst.as('Maud Ilkley');
  await owner.as('Tobias Marrow');
  await engineer.as('Rafe Quillon');
  people = (await steward.call('GET', '/people')).body;
});

const stepsOf = (action: ManyAction) => [{ do: 'act', action }];
const preview = async (who: Caller, filter: string, action: ManyAction) =>
  (await who.call('POST', '/routines/preview', { filter, steps: stepsOf(action) })).body.steps[0].effects;
const make = async (who: Caller, filter: string, action: ManyAction, name = fresh()) =>
  (await who.call('POST', '/routines', { name, filter, steps: stepsOf(action) })).body;
/** What became of a run, when a worker is done with it. */
const over = async (id: string) => {
  let run = { state: 'running' } as Record<string, unknown>;
  await expect
    .poll(
      async () => {
        run = (await steward.call('GET', `/routine-runs/${id}`)).body;
        return run.state;
      },
      { timeout: 60_000 },
    )
    .toMatch(/^(done|undone)$/);
  return run;
};
const ran = async (who: Caller, routineId: string, changes: number) =>
  over((await who.call('POST', `/routines/${routineId}/runs`, { changes })).body.id);
const undone = async (runId: unknown) => {
  await steward.call('POST', `/routine-runs/${runId}/undo`, { assetId: null });
  return over(String(runId));
};
const found = async (filter: string) =>
  (await steward.call('GET', `/assets?limit=200&filter=${encodeURIComponent(filter)}`)).body.items as {
    id: string;
    version: number;
    standing: string;
    owners: { name: string }[];
  }[];

describe('a routine', () => {
  /** A tag that nobody has decided on: what is taken back counts as decided by hand, and this may run again. */
  const freshTag = async () => {
    const name = `tag ${Math.random().toString(36).slice(2)}`;
    const body = { name, description: '', permitted: null, kinds: null, groupIds: [], travels: [] };
    return { name, id: (await steward.call('POST', '/tags', body)).body.id as string };
  };

  it('shows what it would do, does just that, and takes it back', async () => {
    const tag = await freshTag();
    const action: ManyAction = { kind: 'tag', id: tag.id };
    const before = await found(FILTER);
    const seen = await preview(steward, FILTER, action);
    expect(seen).toMatchObject({ found: before.length, changes: before.length, refused: 0, decided: 0 });
    expect(seen.changes).toBeGreaterThan(1);
    const routine = await make(steward, FILTER, action);
    const run = await ran(steward, routine.id, seen.changes);
    expect([run.changed, run.found]).toEqual([seen.changes, seen.found]);
    const carrying = `${FILTER} tag:"${tag.name}"`;
    const after = await found(carrying);
    expect(after).toHaveLength(before.length);
    expect((await preview(steward, FILTER, action)).changes).toBe(0);
    const changed = after.find((asset) => asset.version > (before.find((old) => old.id === asset.id)?.version ?? 0));
    const [entry] = (await steward.call('GET', `/journal?subject=${changed?.id}`)).body;
    expect([entry.action, entry.person, entry.after.tags]).toEqual([
      `routine “${routine.name}”: With tag: ${tag.name}`,
      'Sunniva Dahlmark',
      expect.arrayContaining([expect.stringContaining(tag.name)]),
    ]);

    expect((await undone(run.id)).restored).toBe(seen.changes);
    expect(await found(carrying)).toEqual([]);
    expect((await steward.call('POST', `/routine-runs/${run.id}/undo`, { assetId: null })).body.code).toBe('undone');
    expect(await preview(steward, FILTER, action)).toMatchObject({ changes: 0, decided: before.length });
  });

  it('leaves alone on the way back what somebody changed since', async () => {
    const tag = await freshTag();
    const routine = await make(steward, FILTER, { kind: 'tag', id: tag.id, value: 'new' });
    const { changes } = await preview(steward, FILTER, routine.steps[0].action);
    const run = await ran(steward, routine.id, changes);
    const [first] = await found(`${FILTER} tag:"${tag.name}/new"`);
    const patch = async (tags: object[]) => {
      const { version } = (await steward.call('GET', `/assets/${first?.id}`)).body;
      return steward.call('PATCH', `/assets/${first?.id}`, { tags }, { 'if-match': `"v${version}"` });
    };
    expect((await patch([{ id: tag.id, value: 'old' }])).status).toBe(200);
    expect((await undone(run.id)).restored).toBe(changes - 1);
    expect((await found(`${FILTER} tag:"${tag.name}"`)).map(({ id }) => id)).toEqual([first?.id]);
    await patch([]);
  });

  it('does nothing when it would do something else than was seen', async () => {
    const routine = await make(steward, FILTER, { kind: 'steward', id: idOf('Jorun Pell') });
    const { action } = routine.steps[0];
    const { changes } = await preview(steward, FILTER, action);
    const answer = await steward.call('POST', `/routines/${routine.id}/runs`, { changes: changes + 1 });
    expect([answer.status, answer.body.code]).toEqual([409, 'finds-other']);
    expect(answer.body.detail).toContain(`${changes}`);
    expect((await preview(steward, FILTER, action)).changes).toBe(changes);
  });

  it('changes only what the person who runs it may change, and says how much that leaves out', async () => {
    const action: ManyAction = { kind: 'owner', id: idOf('Tobias Marrow') };
    const hers = await preview(analyst, 'kind:table,file,"file set"', action);
    const all = await preview(steward, 'kind:table,file,"file set"', action);
    expect(hers.found).toBeLessThan(all.found);
    const ofBookings = hers.items.filter((item: { source: string }) => item.source === 'Booking system');
    expect(ofBookings.map((item: { path: string }) => item.path.split('.')[0])).toEqual(ofBookings.map(() => 'ref'));
    // An editor everywhere may add people, but not set the standing: that asks for a steward.
    expect(await preview(engineer, 'kind:table,file,"file set"', action)).toMatchObject({
      found: all.found,
      refused: 0,
    });
    const standing = await preview(engineer, 'kind:table,file,"file set"', { kind: 'standing', standing: 'reviewed' });
    expect([standing.changes, standing.refused + standing.same]).toEqual([0, all.found]);
    expect(standing.refused).toBeGreaterThan(0);
    const routine = await make(engineer, FILTER, { kind: 'standing', standing: 'reviewed' });
    expect(await ran(engineer, routine.id, 0)).toMatchObject({ changed: 0 });
  });

  it('is changed, removed and brought back by who made it alone', async () => {
    const routine = await make(steward, 'kind:view', { kind: 'standing', standing: 'reviewed' });
    const { name, filter, steps } = routine;
    const body = { name, filter: 'kind:view owner:none', steps };
    expect((await owner.call('PUT', `/routines/${routine.id}`, body, { 'if-match': '"v1"' })).status).toBe(403);
    expect((await owner.call('DELETE', `/routines/${routine.id}`)).status).toBe(403);
    expect((await steward.call('PUT', `/routines/${routine.id}`, body)).status).toBe(428);
    expect((await steward.call('PUT', `/routines/${routine.id}`, body, { 'if-match': '"v1"' })).body).toMatchObject({
      filter: body.filter,
      version: 2,
    });
    expect(
      (await steward.call('PUT', `/routines/${routine.id}`, { name, filter, steps }, { 'if-match': '"v1"' })).body.code,
    ).toBe('changed-meanwhile');
    expect((await steward.call('DELETE', `/routines/${routine.id}`)).status).toBe(204);
    const listed = async () =>
      (await steward.call('GET', '/routines')).body.some((entry: { id: string }) => entry.id === routine.id);
    expect(await listed()).toBe(false);
    expect((await steward.call('POST', `/routines/${routine.id}/runs`, { changes: 0 })).status).toBe(404);
    await steward.call('POST', `/routines/${routine.id}/bring-back`);
    expect(await listed()).toBe(true);
  });

  it('refuses what cannot be read: the filter, the action, a person who is not there, a name that is taken', async () => {
    const action: ManyAction = { kind: 'standing', standing: 'reviewed' };
    const bad = await steward.call('POST', '/routines', {
      name: fresh(),
      filter: 'kind:table and (',
      steps: stepsOf(action),
    });
    expect([bad.status, bad.body.mend]).toEqual([422, expect.any(String)]);
    expect(
      (await steward.call('POST', '/routines', { name: fresh(), filter: 'kind:table', steps: [{ do: 'drop' }] }))
        .status,
    ).toBe(422);
    const nobody = await steward.call('POST', '/routines/preview', {
      filter: 'kind:table',
      steps: stepsOf({ kind: 'owner', id: '00000000-0000-4000-8000-000000000000' }),
    });
    expect([nobody.status, nobody.body.detail]).toEqual([422, expect.stringContaining('not there')]);
    const { name } = await make(steward, 'kind:table', action);
    expect(
      (
        await steward.call('POST', '/routines', {
          name: name.toUpperCase(),
          filter: 'kind:table',
          steps: stepsOf(action),
        })
      ).body.code,
    ).toBe('name-taken');
    expect(
      (await analyst.call('POST', '/routines', { name: fresh(), filter: 'kind:table', steps: stepsOf(action) })).status,
    ).toBe(403);
  });
});
