import type { CertaintyPreview, FindingAnswer } from '@idrel/contract/recognition';
import { beforeAll, describe, expect, it } from 'vitest';
import { Caller } from './caller.ts';

const steward = new Caller();
const analyst = new Caller();
beforeAll(async () => {
  await steward.as('Sunniva Dahlmark');
  await analyst.as('Maud Ilkley');
});
const findings = async (): Promise<FindingAnswer[]> => (await steward.call('GET', '/findings')).body.items;
const finding = async (path: string, classKey: string) =>
  (await findings()).find((entry) => entry.path === path && entry.classKey === classKey);
const preview = async (change: object): Promise<CertaintyPreview> =>
  (await steward.call('POST', '/certainty/preview', change)).body;

describe('thresholds of a class', () => {
  it('are shown before they are set, decide at once, and go again', async () => {
    const change = { classKey: 'country', threshold: { certain: 0.94, settle: 0.6 } };
    expect((await finding('ref.country.name', 'country'))?.state).toBe('to-settle');
    const told = await preview(change);
    expect(told.counts).toEqual([{ before: 'to-settle', after: 'certain', count: 1 }]);
    expect(told.shown.map((entry) => entry.path)).toEqual(['ref.country.name']);
    // Nothing happened yet.
    expect((await finding('ref.country.name', 'country'))?.state).toBe('to-settle');
    expect((await analyst.call('POST', '/certainty/preview', change)).status).toBe(403);
    expect(
      (await analyst.call('PUT', '/certainty/thresholds/country', change.threshold, { 'if-match': '"v0"' })).status,
    ).toBe(403);
    expect((await steward.call('PUT', '/certainty/thresholds/country', change.threshold)).status).toBe(428);
    expect(
      (
        await steward.call(
          'PUT',
          '/certainty/thresholds/country',
          { certain: 0.6, settle: 0.9 },
          { 'if-match': '"v0"' },
        )
      ).body.fields,
    ).toEqual([{ field: 'settle', message: 'is above what is certain' }]);
    expect(
      (await steward.call('PUT', '/certainty/thresholds/country', change.threshold, { 'if-match': '"v0"' })).body
        .version,
    ).toBe(1);
    expect((await finding('ref.country.name', 'country'))?.state).toBe('certain');
    expect(
      (await steward.call('PUT', '/certainty/thresholds/country', change.threshold, { 'if-match': '"v0"' })).status,
    ).toBe(412);
    // What lies below is not shown at all.
    const hidden = await preview({ classKey: 'country', threshold: { certain: 0.99, settle: 0.95 } });
    expect(hidden.counts).toContainEqual({ before: 'certain', after: 'ignored', count: 1 });
    expect(
      (
        await steward.call(
          'PUT',
          '/certainty/thresholds/country',
          { certain: 0.99, settle: 0.95 },
          { 'if-match': '"v1"' },
        )
      ).status,
    ).toBe(200);
    expect(await finding('ref.country.name', 'country')).toBeUndefined();
    const carried = (await steward.call('GET', '/assets?filter=class:country&limit=200')).body.items as {
      path: string;
    }[];
    expect(carried.map((asset) => asset.path)).not.toContain('ref.country');
    expect((await steward.call('DELETE', '/certainty/thresholds/country')).status).toBe(204);
    expect((await finding('ref.country.name', 'country'))?.state).toBe('to-settle');
    const journal = (await steward.call('GET', '/journal?subject=country')).body as unknown as {
      action: string;
      after: object | null;
    }[];
    expect(journal.slice(0, 3).map((entry) => entry.action)).toEqual(['removed', 'edited', 'created']);
  });
});

describe('a rule that confirms findings', () => {
  const RULE = {
    name: 'Country by name',
    classKeys: ['country'],
    checked: false,
    named: false,
    minShare: 0.85,
    minConfidence: 0.9,
    minDistinct: 4,
  };
  const CHECKED = {
    ...RULE,
    name: 'Checked digits',
    classKeys: null,
    checked: true,
    minShare: 0.95,
    minConfidence: 0.5,
  };
  it('shows what it would confirm, confirms it, says so, and lets it go', async () => {
    expect(await finding('ref.country.name', 'country')).toMatchObject({ state: 'to-settle', rule: null });
    const told = await preview({ id: null, rule: RULE });
    expect(told.counts).toContainEqual({ before: 'to-settle', after: 'confirmed', count: 1 });
    expect(told.shown.every((entry) => entry.after === 'confirmed' && entry.classKey === 'country')).toBe(true);
    expect((await analyst.call('POST', '/certainty/rules', RULE)).status).toBe(403);
    expect((await steward.call('POST', '/certainty/rules', { ...RULE, classKeys: ['nothing'] })).body.fields).toEqual([
      { field: 'classKey', message: 'is not in use' },
    ]);
    const made = (await steward.call('POST', '/certainty/rules', RULE)).body;
    expect(made.confirms).toBe(told.total);
    const after = await finding('ref.country.name', 'country');
    expect(after).toMatchObject({ state: 'confirmed', rule: 'Country by name', decidedBy: null });
    // What it confirms gives the column its level.
    expect((await steward.call('GET', `/assets/${after?.assetId}`)).body.level).toBe(1);
    // A person's word stands above it.
    const decide = (decision: string) =>
      steward.call('POST', '/findings/decisions', {
        decisions: [{ assetId: after?.assetId, classKey: 'country', decision }],
      });
    await decide('dismissed');
    expect(await finding('ref.country.name', 'country')).toMatchObject({
      state: 'dismissed',
      rule: null,
      decidedBy: 'Sunniva Dahlmark',
    });
    expect((await steward.call('GET', `/assets/${after?.assetId}`)).body.level).toBeNull();
    await decide('open');
    expect((await steward.call('POST', '/certainty/rules', RULE)).body.code).toBe('name-taken');
    const changed = await steward.call(
      'PUT',
      `/certainty/rules/${made.id}`,
      { ...RULE, named: true },
      { 'if-match': '"v1"' },
    );
    expect(changed.body).toMatchObject({ version: 2, named: true });
    expect((await finding('ref.country.name', 'country'))?.state).toBe('to-settle');
    expect((await preview({ id: made.id, rule: null })).counts).toEqual([
      { before: 'confirmed', after: 'certain', count: changed.body.confirms },
    ]);
    expect((await steward.call('DELETE', `/certainty/rules/${made.id}`)).status).toBe(204);
    expect((await steward.call('DELETE', `/certainty/rules/${made.id}`)).status).toBe(404);
    expect((await finding('booking.payment.card_number', 'payment-card'))?.state).toBe('certain');
  });

  it('can ask for check digits that a detector verified', async () => {
    const told = await preview({ id: null, rule: CHECKED });
    const classes = told.shown.map((entry) => entry.classKey);
    expect(classes).toContain('payment-card');
    expect(classes).toContain('iban');
    expect(classes).not.toContain('email');
    expect(told.shown.every((entry) => entry.share >= 0.95)).toBe(true);
    expect((await preview({ id: null, rule: { ...CHECKED, minDistinct: 100_000 } })).total).toBe(0);
  });
});

describe('a remembered dismissal', () => {
  it('holds for columns of the same name and type in the domain and below, and is forgotten again', async () => {
    const here = (await finding('ref.port.latitude', 'coordinates')) as FindingAnswer;
    const decide = (decision: string) =>
      steward.call('POST', '/findings/decisions', {
        decisions: [
          { assetId: here.assetId, classKey: 'coordinates', decision, reason: 'Ports are public', remember: true },
        ],
      });
    expect((await decide('dismissed')).body).toMatchObject({ decided: 1 });
    const [kept] = (await steward.call('GET', '/certainty')).body.remembered;
    expect(kept).toMatchObject({
      classKey: 'coordinates',
      column: 'latitude',
      reason: 'Ports are public',
      by: 'Sunniva Dahlmark',
      mayForget: true,
    });
    // Without a decision of its own the column is still dismissed: by what was remembered.
    await steward.call('POST', '/findings/decisions', {
      decisions: [{ assetId: here.assetId, classKey: 'coordinates', decision: 'open' }],
    });
    expect(await finding('ref.port.latitude', 'coordinates')).toMatchObject({
      state: 'dismissed',
      decidedBy: null,
      remembered: { id: kept.id, reason: 'Ports are public' },
    });
    expect((await steward.call('GET', '/certainty')).body.remembered[0].columns).toBe(1);
    expect((await finding('ref.port.longitude', 'coordinates'))?.state).toBe('certain');
    expect((await analyst.call('DELETE', `/certainty/dismissals/${kept.id}`)).status).toBe(403);
    expect((await steward.call('DELETE', `/certainty/dismissals/${kept.id}`)).status).toBe(204);
    expect(await finding('ref.port.latitude', 'coordinates')).toMatchObject({ state: 'certain', remembered: null });
    // Taking the decision back takes what was remembered with it.
    await decide('dismissed');
    await decide('open');
    expect((await steward.call('GET', '/certainty')).body.remembered).toEqual([]);
    expect((await finding('ref.port.latitude', 'coordinates'))?.state).toBe('certain');
  });

  it('holds for what comes later under that name, unless it says much more; then it comes back with what was dismissed', async () => {
    const engineer = await new Caller().as('Rafe Quillon');
    const domains = (await engineer.call('GET', '/domains')).body as { id: string; name: string }[];
    const name = `Lists ${Math.random().toString(36).slice(2, 8)}`;
    const { id } = (
      await engineer.call('POST', '/sources', {
        name,
        kind: 'pushed',
        address: { system: 'lists' },
        domainId: domains.find((domain) => domain.name === 'Fleet')?.id,
      })
    ).body;
    const column = (table: string, every: number) => [
      { path: ['Lists', table], kind: 'table' },
      {
        path: ['Lists', table, 'mail_to'],
        kind: 'column',
        type: 'text',
        values: Array.from({ length: 60 }, (_, index) =>
          index % 10 < every ? `agent${index}@example.org` : `desk ${index}`,
        ),
      },
    ];
    const push = async (...tables: [string, number][]) =>
      engineer.call('POST', `/sources/${id}/push`, {
        assets: [{ path: ['Lists'], kind: 'application' }, ...tables.flatMap(([table, every]) => column(table, every))],
      });
    const stateOf = async (table: string) =>
      (await findings()).find((entry) => entry.path === `Lists/${table}/mail_to` && entry.classKey === 'email');
    await push(['first', 5]);
    const first = (await stateOf('first')) as FindingAnswer;
    expect(first.state).toBe('to-settle');
    await steward.call('POST', '/findings/decisions', {
      decisions: [
        { assetId: first.assetId, classKey: 'email', decision: 'dismissed', reason: 'Desks', remember: true },
      ],
    });
    await push(['first', 5], ['second', 6], ['third', 10]);
    expect(await stateOf('second')).toMatchObject({
      state: 'dismissed',
      decidedBy: null,
      remembered: { reason: 'Desks' },
    });
    expect(await stateOf('third')).toMatchObject({
      state: 'to-settle',
      remembered: { share: 0.5, by: 'Sunniva Dahlmark' },
    });
    // What is held back carries nothing: neither class nor level.
    const held = (
      await steward.call(
        'GET',
        `/assets?limit=50&filter=${encodeURIComponent(`source:"${name}" kind:table class:email`)}`,
      )
    ).body.items as { path: string }[];
    expect(held.map((asset) => asset.path)).toEqual(['Lists/third']);
    const kept = (
      (await steward.call('GET', '/certainty')).body.remembered as { id: string; column: string; columns: number }[]
    ).find((entry) => entry.column === 'mail_to');
    expect(kept?.columns).toBe(2); // the first one, too
    expect((await steward.call('DELETE', `/certainty/dismissals/${kept?.id}`)).status).toBe(204);
    expect((await stateOf('second'))?.state).toBe('to-settle');
    const refused = await engineer.call('DELETE', `/sources/${id}?assets=0`);
    await engineer.call(
      'DELETE',
      `/sources/${id}?assets=${/\d[\d,]*/.exec(refused.body?.detail ?? '')?.[0]?.replaceAll(',', '')}`,
    );
  });
});
