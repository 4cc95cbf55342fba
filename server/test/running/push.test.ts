import type { AssetRow } from '@idrel/contract/catalog';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { Caller } from './caller.ts';

const engineer = new Caller();
const analyst = new Caller();
let sourceId = '';
let name = '';
const push = (body: object, who = engineer) => who.call('POST', `/sources/${sourceId}/push`, body);
const held = async (): Promise<AssetRow[]> =>
  (
    await engineer.call(
      'GET',
      `/assets?limit=200&filter=${encodeURIComponent(`source:"${name}" kind:application,table,view,column`)}`,
    )
  ).body.items;
const paths = async () => (await held()).map((asset) => asset.path).sort();

const FORMS = { path: ['Forms'], kind: 'application' };
const arrivals = (...columns: object[]) => [
  { path: ['Forms', 'arrivals'], kind: 'table', comment: 'Ships that call', rows: 400 },
  ...columns,
];
const column = (own: string, more: object = {}) => ({
  path: ['Forms', 'arrivals', own],
  kind: 'column',
  type: 'text',
  ...more,
});
const EMAILS = Array.from({ length: 60 }, (_, index) => `agent${index}@example.org`);

beforeAll(async () => {
  await engineer.as('Rafe Quillon');
  await analyst.as('Maud Ilkley');
  const domains = (await engineer.call('GET', '/domains')).body as { id: string; name: string }[];
  name = `Harbour forms ${Math.random().toString(36).slice(2)}`;
  const made = await engineer.call('POST', '/sources', {
    name,
    kind: 'pushed',
    address: { system: 'paper forms of the harbour' },
    domainId: domains.find((domain) => domain.name === 'Fleet')?.id,
  });
  expect([made.status, made.body.addressLine]).toEqual([200, 'paper forms of the harbour']);
  sourceId = made.body.id;
});

// The source goes with all that was pushed: other tests look at the same catalog.
afterAll(async () => {
  const [source] = ((await engineer.call('GET', '/sources')).body as { id: string; assets: number }[]).filter(
    (entry) => entry.id === sourceId,
  );
  const gone = await engineer.call('DELETE', `/sources/${sourceId}?assets=${source?.assets}`);
  if (gone.status !== 204)
    await engineer.call(
      'DELETE',
      `/sources/${sourceId}?assets=${/\d[\d,]*/.exec(gone.body.detail)?.[0]?.replaceAll(',', '')}`,
    );
  expect((await engineer.call('GET', `/sources/${sourceId}`)).status).toBe(404);
});

describe('a source that is pushed', () => {
  it('holds what was pushed: found by search, with findings, levels and profiles as after a scan', async () => {
    const run = await push({
      assets: [
        FORMS,
        ...arrivals(
          column('agent_email', { values: EMAILS }),
          column('berth', { type: 'integer', values: ['1', '2', '2', null] }),
        ),
      ],
    });
    expect([run.status, run.body.state, run.body.counts.findings, run.body.comparison.first]).toEqual([
      200,
      'done',
      1,
      true,
    ]);
    const assets = await held();
    const email = assets.find((asset) => asset.name === 'agent_email');
    expect([email?.classes, email?.level, email?.type]).toEqual([['email'], 3, 'text']);
    const berth = assets.find((asset) => asset.name === 'berth');
    const [profile] = (await engineer.call('GET', `/assets/${berth?.id}/profiles`)).body;
    expect(profile.profile).toMatchObject({ rows: 4, nulls: 1, distinct: 2, measure: 'number', whole: false });
    expect(JSON.stringify((await engineer.call('GET', `/assets/${email?.id}/profiles`)).body)).not.toContain('agent7@');
  });

  it('changes nothing when the same is pushed again, and says what is different when it is not', async () => {
    const same = { assets: [FORMS, ...arrivals(column('agent_email'), column('berth', { type: 'integer' }))] };
    expect((await push(same)).body.comparison.counts).toEqual({ new: 0, changed: 0, gone: 0, back: 0 });
    const other = await push({ assets: [...arrivals(column('agent_email', { nullable: false }), column('captain'))] });
    expect(other.body.comparison.counts).toEqual({ new: 1, changed: 1, gone: 1, back: 0 });
    // What was recognised stays when nothing new is said of it.
    expect((await held()).find((asset) => asset.name === 'agent_email')?.classes).toEqual(['email']);
  });

  it('keeps what is not named, unless what is pushed is all there is', async () => {
    await push({ assets: [{ path: ['Forms', 'departures'], kind: 'table' }] });
    expect(await paths()).toEqual([
      'Forms',
      'Forms/arrivals',
      'Forms/arrivals/agent_email',
      'Forms/arrivals/captain',
      'Forms/departures',
    ]);
    await push({ whole: true, assets: [FORMS, ...arrivals(column('agent_email'))] });
    expect(await paths()).toEqual(['Forms', 'Forms/arrivals', 'Forms/arrivals/agent_email']);
  });

  it('takes lineage along', async () => {
    const list = { path: ['Forms', 'list'], kind: 'view' };
    const address = { path: ['Forms', 'list', 'address'], kind: 'column', type: 'text' };
    const pushed = await push({
      assets: [list, address],
      flows: [
        {
          path: list.path,
          statement: 'copied by hand',
          edges: [{ from: ['Forms', 'arrivals', 'agent_email'], to: address.path }],
        },
      ],
    });
    expect(pushed.status).toBe(200);
    const email = (await held()).find((asset) => asset.path === 'Forms/arrivals/agent_email');
    const down = (await engineer.call('GET', `/lineage/impact?asset=${email?.id}&direction=downstream`)).body;
    expect(JSON.stringify(down)).toContain('Forms/list');
  });

  it('refuses what cannot stand in a catalog, naming each place, and writes nothing of it', async () => {
    const before = await paths();
    const bad = await push({
      assets: [
        { path: ['Forms', 'nowhere', 'deep'], kind: 'table' },
        { path: ['Forms', 'twice'], kind: 'table' },
        { path: ['Forms', 'twice'], kind: 'table' },
        { path: ['alone'], kind: 'column' },
        { path: ['Forms', 'typed'], kind: 'table', type: 'text' },
        { path: ['Forms', 'list', 'late'], kind: 'column' },
      ],
      flows: [{ path: ['Forms', 'twice'], edges: [{ from: ['not'], to: ['there'] }] }],
    });
    expect(bad.status).toBe(422);
    expect(bad.body.fields.map((field: { field: string }) => field.field).sort()).toEqual(
      [
        'assets[0].path',
        'assets[2].path',
        'assets[3].path',
        'assets[4]',
        'assets[5].path',
        'flows[0].edges[0].from',
        'flows[0].edges[0].to',
      ].sort(),
    );
    expect(await paths()).toEqual(before);
    expect((await push({ assets: [] })).status).toBe(422);
    expect((await push({ assets: [{ path: ['a\u001fb'], kind: 'table' }] })).status).toBe(422);
    expect((await push({ assets: [{ path: ['a'], kind: 'spaceship' }] })).status).toBe(422);
  });

  it('is pushed by source administrators alone, and only where nothing is scanned', async () => {
    expect((await push({ assets: [FORMS] }, analyst)).status).toBe(403);
    const scanned = ((await engineer.call('GET', '/sources')).body as { id: string; name: string }[]).find(
      (source) => source.name === 'Booking system',
    );
    const answer = await engineer.call('POST', `/sources/${scanned?.id}/push`, { assets: [FORMS] });
    expect([answer.status, answer.body.code]).toEqual([409, 'not-pushed']);
    const scan = await engineer.call('POST', `/sources/${sourceId}/test`);
    expect(scan.body[0].detail).toContain('programs push');
  });

  it('takes more than a form sends', async () => {
    const assets = [
      FORMS,
      ...Array.from({ length: 3000 }, (_, index) => ({
        path: ['Forms', `sheet ${index}`],
        kind: 'table',
        comment: 'x'.repeat(1500),
      })),
    ];
    expect(JSON.stringify(assets).length).toBeGreaterThan(4.3e6);
    expect((await push({ assets })).body.comparison.counts.new).toBe(3000);
    await push({ whole: true, assets: [FORMS] });
    expect(await paths()).toEqual(['Forms']);
  });
});

describe('a finding that was dismissed', () => {
  const values = (share: number) =>
    Array.from({ length: 60 }, (_, index) => (index < 60 * share ? `agent${index}@example.org` : `desk ${index}`));
  const finding = async () =>
    (
      (await engineer.call('GET', '/findings?class=email&limit=500')).body.items as {
        path: string;
        state: string;
        dismissedAt: { share: number } | null;
        assetId: string;
      }[]
    ).find((entry) => entry.path.endsWith('desk_note'));
  const pushed = (share: number) =>
    push({ assets: [FORMS, ...arrivals(column('desk_note', { values: values(share) }))] });
  const decide = async (decision: string) => {
    const steward = await new Caller().as('Sunniva Dahlmark');
    expect(
      (
        await steward.call('POST', '/findings/decisions', {
          decisions: [{ assetId: (await finding())?.assetId, classKey: 'email', decision, reason: '' }],
        })
      ).body,
    ).toMatchObject({ decided: 1 });
  };

  it('stays dismissed, and comes back when it says much more', async () => {
    expect((await pushed(0.62)).status).toBe(200);
    expect(await finding()).toMatchObject({ state: 'to-settle', dismissedAt: null });
    await decide('dismissed');
    await pushed(0.7);
    expect(await finding()).toMatchObject({ state: 'dismissed', dismissedAt: null });
    await pushed(1);
    expect(await finding()).toMatchObject({ state: 'to-settle', dismissedAt: { share: expect.closeTo(0.63, 1) } });
    await decide('dismissed');
    expect(await finding()).toMatchObject({ state: 'dismissed', dismissedAt: null });
  });
});
