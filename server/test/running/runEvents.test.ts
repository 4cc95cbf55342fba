import type { EventsAnswer } from '@idrel/contract/scanning';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { Caller } from './caller.ts';

const engineer = new Caller();
const pipeline = new Caller();
let sourceId = '';
let key = '';

beforeAll(async () => {
  await engineer.as('Rafe Quillon');
  const domains = (await engineer.call('GET', '/domains')).body as { id: string; name: string }[];
  const made = await engineer.call('POST', '/sources', {
    name: `Night jobs ${Math.random().toString(36).slice(2)}`,
    kind: 'events',
    address: { system: 'of the test' },
    domainId: domains.find((domain) => domain.name === 'Fleet')?.id,
  });
  expect([made.status, made.body.isRead, made.body.addressLine]).toEqual([200, false, 'of the test']);
  sourceId = made.body.id;
  key = (await engineer.call('POST', `/sources/${sourceId}/event-key`)).body.key;
});
// The source goes with what the events told: other tests look at the same catalog.
afterAll(async () => {
  await engineer.call('DELETE', `/sources/${sourceId}?assets=0`).then(async ({ status, body }) => {
    if (status !== 204)
      await engineer.call(
        'DELETE',
        `/sources/${sourceId}?assets=${/\d[\d,]*/.exec(body.detail)?.[0]?.replaceAll(',', '')}`,
      );
  });
  expect((await engineer.call('GET', `/sources/${sourceId}`)).status).toBe(404);
});

const send = (event: object, bearer = `Bearer ${key}`) =>
  pipeline.call('POST', '/lineage', event, { authorization: bearer });
const event = (more: object = {}) => ({
  eventType: 'COMPLETE',
  eventTime: new Date().toISOString(),
  run: { runId: 'run-1' },
  job: { namespace: 'night', name: 'a job' },
  ...more,
});
/** An event of so many columns that it is looked at in a thread. */
const large = (fields: Record<string, unknown>) =>
  event({
    job: { namespace: 'night', name: 'a large job' },
    outputs: [{ namespace: 'kafka://night', name: 'wide', facets: { columnLineage: { fields } } }],
  });
const wide = Object.fromEntries(
  Array.from({ length: 600 }, (_, at) => [
    `column_${at}`,
    {
      inputFields: [
        {
          namespace: 'kafka://night',
          name: 'from',
          field: `field_${at}`,
          transformations: [{ type: 'DIRECT', subtype: 'IDENTITY' }],
        },
      ],
    },
  ]),
);

describe('events that a pipeline sends', () => {
  it('are taken with the key of a source, and with nothing else', async () => {
    for (const wrong of ['', 'Bearer idrel_events_no', `Basic ${key}`, `Bearer ${key}x`])
      expect([(await send(event(), wrong)).status, (await send(large(wide), wrong)).status]).toEqual([401, 401]);
    // A session does not do, and the key opens nothing but this.
    expect((await engineer.call('POST', '/lineage', event())).status).toBe(401);
    expect((await pipeline.call('GET', '/sources', undefined, { authorization: `Bearer ${key}` })).status).toBe(401);
    expect((await send(event())).status).toBe(204);
  });

  it('that do not fit are refused with the field, small ones and large ones', async () => {
    const small = await send(event({ run: { runId: 7 } }));
    expect([small.status, small.body.fields[0].field]).toEqual([422, 'run.runId']);
    const broken = await send(large({ ...wide, column_7: { inputFields: [{ namespace: 'kafka://night' }] } }));
    expect(broken.status).toBe(422);
    expect(broken.body.fields.map(({ field }: { field: string }) => field)).toContain(
      'outputs.0.facets.columnLineage.fields.column_7.inputFields.0.name',
    );
  });

  it('are put together soon after, also large ones', async () => {
    expect((await send(large(wide))).status).toBe(204);
    let told: EventsAnswer | undefined;
    for (let tries = 0; tries < 150; tries += 1) {
      told = (await engineer.call('GET', `/sources/${sourceId}/events`)).body as EventsAnswer;
      if (told.waiting === 0 && told.jobs === 2) break;
      await new Promise((resolve) => setTimeout(resolve, 200));
    }
    expect(told).toMatchObject({ waiting: 0, jobs: 2, received: 2, problems: [] });
    const flows = (await engineer.call('GET', '/assets?filter=kind:flow name:"a large job"')).body.items as {
      id: string;
    }[];
    const runs = (await engineer.call('GET', `/assets/${flows[0]?.id}/runs`)).body;
    expect(runs).toMatchObject({ total: 1, items: [{ id: 'run-1', state: 'done' }] });
    const impact = (await engineer.call('GET', `/lineage/impact?asset=${flows[0]?.id}`)).body as { path: string }[];
    expect(impact.map(({ path }) => path)).toEqual(['kafka://night/wide']);
  });
});
