import type { LevelReport } from '@idrel/contract/coverage';
import { beforeAll, describe, expect, it } from 'vitest';
import { Caller } from './caller.ts';

const steward = new Caller();
const analyst = new Caller();
const administrator = new Caller();
beforeAll(async () => {
  await steward.as('Sunniva Dahlmark');
  await analyst.as('Maud Ilkley');
  await administrator.as('Jorun Pell');
});
interface Asset {
  id: string;
  path: string;
  kind: string;
  level: number | null;
  version: number;
}
const find = async (filter: string) =>
  (await steward.call('GET', `/assets?limit=200&filter=${encodeURIComponent(filter)}`)).body.items as Asset[];
const folderOfStore = async () =>
  (await find('kind:folder source:"Shore store" level:any')).map((asset) => asset.path).sort();

describe('levels', () => {
  it('rise from columns through file sets to their folders, and to those kinds alone that are chosen', async () => {
    const [set] = await find('kind:"file set" source:"Shore store" level:guarded');
    expect(set).toBeDefined();
    const folders = await folderOfStore();
    expect(folders.length).toBeGreaterThan(0);
    const folder = (await find('kind:folder source:"Shore store" level:guarded'))[0] as Asset;
    expect((await steward.call('GET', `/assets/${folder.id}/level-reasons`)).body[0]).toMatch(/^of /);
    const { kinds, version } = (await steward.call('GET', '/level-kinds')).body;
    const without = kinds.filter((kind: string) => kind !== 'folder');
    const told = await steward.call('POST', '/level-rules/preview', { kinds: without });
    expect(told.body.counts.every((entry: { after: number | null }) => entry.after === null)).toBe(true);
    expect(told.body.shown.every((asset: Asset) => asset.kind === 'folder')).toBe(true);
    expect(await folderOfStore()).toEqual(folders);
    expect(
      (await analyst.call('PUT', '/level-kinds', { kinds: without }, { 'if-match': `"v${version}"` })).status,
    ).toBe(403);
    expect((await steward.call('PUT', '/level-kinds', { kinds: without })).status).toBe(428);
    expect(
      (await steward.call('PUT', '/level-kinds', { kinds: ['cupboard'] }, { 'if-match': `"v${version}"` })).status,
    ).toBe(422);
    expect(
      (await steward.call('PUT', '/level-kinds', { kinds: without }, { 'if-match': `"v${version}"` })).status,
    ).toBe(200);
    expect(await folderOfStore()).toEqual([]);
    expect(
      (await steward.call('PUT', '/level-kinds', { kinds }, { 'if-match': `"v${version + 1}"` })).body.version,
    ).toBe(version + 2);
    expect(await folderOfStore()).toEqual(folders);
  });

  it('rise to files, and to reports and dashboards that show the values, but not by what only counts them', async () => {
    const engineer = new Caller();
    await engineer.as('Rafe Quillon');
    const domains = (await engineer.call('GET', '/domains')).body as { id: string; name: string }[];
    const name = `Office ${Math.random().toString(36).slice(2, 8)}`;
    const { id } = (
      await engineer.call('POST', '/sources', {
        name,
        kind: 'pushed',
        address: { system: 'the office' },
        domainId: domains.find((domain) => domain.name === 'Fleet')?.id,
      })
    ).body;
    const column = (path: string[], values?: string[]) => ({
      path,
      kind: 'column',
      type: 'text',
      ...(values ? { values } : {}),
    });
    const emails = Array.from({ length: 40 }, (_, index) => `agent${index}@example.org`);
    const assets = [
      { path: ['Office'], kind: 'folder' },
      { path: ['Office', 'desks'], kind: 'folder' },
      { path: ['Office', 'desks', 'list.csv'], kind: 'file' },
      column(['Office', 'desks', 'list.csv', 'mail'], emails),
      { path: ['Office', 'Shown'], kind: 'report' },
      column(['Office', 'Shown', 'who']),
      { path: ['Office', 'Wall'], kind: 'dashboard' },
      column(['Office', 'Wall', 'newest']),
      { path: ['Office', 'Counted'], kind: 'report' },
      column(['Office', 'Counted', 'how many']),
    ];
    const mail = ['Office', 'desks', 'list.csv', 'mail'];
    const flow = (path: string[], from: string[], to: string, kind: string) => ({
      path,
      statement: 'by the office',
      edges: [{ from, to: [...path, to], kind }],
    });
    const flows = [
      flow(['Office', 'Shown'], mail, 'who', 'copied'),
      flow(['Office', 'Wall'], ['Office', 'Shown', 'who'], 'newest', 'transformed'),
      flow(['Office', 'Counted'], mail, 'how many', 'aggregated'),
    ];
    expect((await engineer.call('POST', `/sources/${id}/push`, { assets, flows })).status).toBe(200);
    const found = await find(`source:"${name}" level:any`);
    expect(found.map((asset) => [asset.path, asset.level]).sort()).toEqual([
      ['Office', 3],
      ['Office/Shown', 3],
      ['Office/Wall', 3],
      ['Office/desks', 3],
      ['Office/desks/list.csv', 3],
    ]);
    const shown = (await find(`source:"${name}" kind:column who`)).find(
      (asset) => asset.path === 'Office/Shown/who',
    ) as Asset;
    expect((await steward.call('GET', `/assets/${shown.id}/level-reasons`)).body).toEqual([
      'E-mail address came along lineage',
      'it shows Office/desks/list.csv/mail',
    ]);
    // What somebody sets at the source of the values is what the report has.
    const source = (await find(`source:"${name}" kind:column mail`))[0] as Asset;
    const { version } = (await steward.call('GET', `/assets/${source.id}`)).body;
    expect(
      (
        await steward.call(
          'PATCH',
          `/assets/${source.id}`,
          { level: 4, levelReason: null },
          { 'if-match': `"v${version}"` },
        )
      ).status,
    ).toBe(200);
    expect((await find(`source:"${name}" level:sealed`)).map((asset) => asset.path)).toContain('Office/Wall');
    const refused = await engineer.call('DELETE', `/sources/${id}?assets=0`);
    await engineer.call(
      'DELETE',
      `/sources/${id}?assets=${/\d[\d,]*/.exec(refused.body?.detail ?? '')?.[0]?.replaceAll(',', '')}`,
    );
  });

  it('set by hand count upwards in place of what was found', async () => {
    const [set] = (await find('kind:"file set" source:"Shore store" level:guarded')) as [Asset];
    const put = async (level: number | null, levelReason: string | null) => {
      const { version } = (await steward.call('GET', `/assets/${set.id}`)).body;
      return steward.call('PATCH', `/assets/${set.id}`, { level, levelReason }, { 'if-match': `"v${version}"` });
    };
    expect((await put(4, null)).status).toBe(200); // up freely
    expect((await find('kind:folder source:"Shore store" level:sealed')).length).toBeGreaterThan(0);
    expect((await put(2, null)).body.fields).toEqual([{ field: 'levelReason', message: 'a reason is needed' }]);
    expect((await put(2, 'Receipts of the shop are anonymous')).status).toBe(200);
    expect((await put(null, null)).status).toBe(200);
    expect(await find('kind:folder source:"Shore store" level:sealed')).toEqual([]);
  });

  it('are set by several people at once in one source without one being in the way of another', async () => {
    const columns = (await find('kind:column source:Crewing')).slice(0, 6);
    const put = async (column: Asset, level: number | null) => {
      const { version } = (await steward.call('GET', `/assets/${column.id}`)).body;
      return (
        await steward.call(
          'PATCH',
          `/assets/${column.id}`,
          { level, levelReason: level === null ? null : 'At once' },
          { 'if-match': `"v${version}"` },
        )
      ).status;
    };
    for (let round = 0; round < 4; round += 1) {
      expect(await Promise.all(columns.map((column) => put(column, round % 2 === 0 ? 4 : 3)))).toEqual(
        columns.map(() => 200),
      );
    }
    expect(await Promise.all(columns.map((column) => put(column, null)))).toEqual(columns.map(() => 200));
  });

  it('show what another level of a class would change before it is saved', async () => {
    const told = await steward.call('POST', '/level-rules/preview', { classKey: 'email', level: 4 });
    expect(told.body.total).toBeGreaterThan(0);
    expect(told.body.shown.every((asset: { after: number }) => asset.after === 4)).toBe(true);
    expect(told.body.shown.map((asset: Asset) => asset.path)).toContain('booking.passenger.email');
    expect((await find('kind:column email')).find((asset) => asset.path === 'booking.passenger.email')?.level).toBe(3);
  });

  it('are called as an administrator says, and found by their key', async () => {
    const level = async () =>
      (
        (await analyst.call('GET', '/levels')).body as { level: number; key: string; name: string; version: number }[]
      )[2];
    const before = (await level()) as NonNullable<Awaited<ReturnType<typeof level>>>;
    expect(before).toMatchObject({ key: 'guarded', name: 'guarded' });
    const body = { name: 'confidential', meaning: 'Only for work', advice: 'Lock it away' };
    const put = (caller: Caller, change: object, version: number) =>
      caller.call('PUT', '/levels/3', change, { 'if-match': `"v${version}"` });
    expect((await put(analyst, body, before.version)).status).toBe(403);
    expect((await put(administrator, { ...body, name: 'Sealed' }, before.version)).body.code).toBe('name-taken');
    expect((await put(administrator, body, before.version)).body).toMatchObject(body);
    expect((await put(administrator, body, before.version)).status).toBe(412);
    expect((await find('level:guarded')).length).toBeGreaterThan(0);
    const { name, meaning, advice } = before as unknown as { name: string; meaning: string; advice: string };
    expect((await put(administrator, { name, meaning, advice }, before.version + 1)).status).toBe(200);
  });
});

describe('the report of levels', () => {
  it('counts by domain, source and kind what each figure opens, and keeps every day', async () => {
    for (const by of ['domain', 'source', 'kind']) {
      const report: LevelReport = (await steward.call('GET', `/coverage/levels?by=${by}`)).body;
      expect(report.rows.length).toBeGreaterThan(1);
      for (const row of [report.all, ...report.rows.slice(0, 3)])
        for (const [index, measure] of report.measures.entries())
          expect(
            (
              await steward.call(
                'GET',
                `/assets?limit=1&filter=${encodeURIComponent(`${row.filter} ${measure.filter}`)}`,
              )
            ).body.total,
            `${row.name} ${measure.key}`,
          ).toBe(row.counts[index]);
      // The last day is today: the same figures, without those that have no level.
      expect(report.trends.map((days) => days.at(-1))).toEqual(
        [report.all, ...report.rows].map((row) => row.counts.slice(1)),
      );
    }
    const mine: LevelReport = (await analyst.call('GET', '/coverage/levels')).body;
    expect(mine.all.assets).toBeLessThanOrEqual((await steward.call('GET', '/coverage/levels')).body.all.assets);
  });
});
