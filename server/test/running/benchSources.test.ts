import type { SwitchEffect, TrialAnswer } from '@idrel/contract/recognition';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { openDatabase } from '../../src/platform/database.ts';
import { urlOf } from '../place.ts';
import { Caller } from './caller.ts';

const steward = new Caller();
const analyst = new Caller();
const db = openDatabase(urlOf('idrel'));
let me: string;
beforeAll(async () => {
  await steward.as('Sunniva Dahlmark');
  await analyst.as('Maud Ilkley');
  me = (await steward.call('GET', '/session')).body.person.id;
});
afterAll(() => db.close());

interface Asset {
  id: string;
  path: string;
}
const find = async (filter: string, path: string) =>
  ((await steward.call('GET', `/assets?limit=200&filter=${encodeURIComponent(filter)}`)).body.items as Asset[]).find(
    (asset) => asset.path === path,
  ) as Asset;
const values = (assetId: string, rows = 2000) => steward.call('POST', '/column-values', { assetId, rows });
const policy = async (body: object) =>
  (await steward.call('POST', '/policies', { name: `P ${Math.random()}`, personIds: [me], ...body })).body.id as string;

describe('values of a catalogued column', () => {
  it('are given to those alone who may read them unmasked, and that stands in the journal', async () => {
    const [column, table] = [await find('kind:column', 'ref.port.name'), await find('kind:table port', 'ref.port')];
    expect((await values(column.id)).body).toMatchObject({
      status: 403,
      code: 'refused-column',
      detail: 'port.name is refused for you: no policy allows it.',
    });
    expect((await analyst.call('POST', '/column-values', { assetId: column.id })).status).toBe(403);
    const allow = await policy({ effect: 'allow', assetIds: [table.id] });
    const read = await values(column.id);
    expect(read.status).toBe(200);
    expect(read.body).toMatchObject({ name: 'name', path: 'port.name' });
    expect(read.body.values).toContain('Tarnholm');
    expect(new Set(read.body.values).size).toBe(read.body.values.length);
    expect((await steward.call('GET', `/journal?subject=${column.id}`)).body[0]).toMatchObject({
      action: 'values read',
      person: 'Sunniva Dahlmark',
    });
    const deny = await policy({ effect: 'deny', assetIds: [table.id], columns: ['name'] });
    expect((await values(column.id)).body.detail).toMatch(/^port\.name is refused for you by “P /);
    await steward.call('DELETE', `/policies/${deny}`);
    const limit = await policy({
      effect: 'protect',
      assetIds: [table.id],
      rows: { column: 'name', values: ['Tarnholm'] },
    });
    expect((await values(column.id)).body.detail).toMatch(/^Of port\.name you may not read every row by “P /);
    for (const id of [allow, limit]) await steward.call('DELETE', `/policies/${id}`);
    expect((await values(table.id)).body.fields).toEqual([{ field: 'assetId', message: 'is no column' }]);
    expect((await values('6e3f0b0e-0000-4000-8000-000000000000')).status).toBe(404);
  });

  it('are read from files as well', async () => {
    const [column] = (
      await steward.call(
        'GET',
        `/assets?limit=1&filter=${encodeURIComponent('kind:column source:"Shore store" receipt_to')}`,
      )
    ).body.items as (Asset & { parentId: string })[];
    const allow = await policy({ effect: 'allow', assetIds: [column?.parentId] });
    const read = await values(column?.id ?? '');
    expect(read.body.values.every((value: string) => value.includes('@'))).toBe(true);
    expect(read.body.values.length).toBeGreaterThan(5);
    await steward.call('DELETE', `/policies/${allow}`);
  });
});

describe('rows of what is no PostgreSQL table', () => {
  const rows = (who: Caller, id: string) => who.call('GET', `/assets/${id}/rows?limit=100`);
  it('are given as the policies say: masked, limited, refused, each with its reason', async () => {
    const find = async (filter: string) =>
      (await steward.call('GET', `/assets?limit=1&filter=${encodeURIComponent(filter)}`)).body.items[0] as Asset & {
        parentId: string;
      };
    const column = await find('kind:column source:"Shore store" receipt_to');
    const id = column.parentId;
    const closed = (await rows(steward, id)).body;
    expect(closed).toMatchObject({ columns: [], rows: [], table: { access: 'no' } });
    const allow = await policy({ effect: 'allow', assetIds: [id] });
    const open = (await rows(steward, id)).body as { columns: string[]; rows: (string | null)[][] };
    const at = open.columns.indexOf('receipt_to');
    expect(open.rows).toHaveLength(100);
    const known = open.rows.find((row) => row[at])?.[at] ?? '';
    expect(known).toContain('@');
    const mask = await policy({
      effect: 'protect',
      assetIds: [column.id],
      mask: { kind: 'partial', first: 1, last: 0 },
    });
    const masked = (await rows(steward, id)).body;
    expect(masked.rows.map((row: string[]) => row[at]).filter(Boolean)).toEqual(
      open.rows.flatMap((row) => (row[at] ? [`${row[at]?.[0]}•••`] : [])),
    );
    expect(JSON.stringify(masked.rows)).not.toContain('@');
    // A limit on the column that is masked: the rows are chosen by what stands there, and it is shown masked all the same.
    const limit = await policy({ effect: 'protect', assetIds: [id], rows: { column: 'receipt_to', values: [known] } });
    const limited = (await rows(steward, id)).body;
    expect(limited.rows.length).toBeGreaterThan(0);
    expect(new Set(limited.rows.map((row: string[]) => row[at]))).toEqual(new Set([`${known[0]}•••`]));
    const deny = await policy({ effect: 'deny', assetIds: [id], columns: ['receipt_to'] });
    expect((await rows(steward, id)).body.columns).not.toContain('receipt_to');
    expect((await rows(steward, column.id)).body).toMatchObject({ columns: [], rows: [] });
    for (const one of [allow, mask, limit, deny]) await steward.call('DELETE', `/policies/${one}`);
    // What opened it for one has opened it for nobody else.
    expect((await rows(analyst, id)).body).toMatchObject({ columns: [], rows: [], table: { access: 'no' } });
    const [read] = await db.rows<{ most: number }>(
      "select max(rows) as most from gateway_query where asked_by = $1 and outcome = 'answered' and statement like '%\"receipt_to\"%'",
      [me],
    );
    expect(read).toEqual({ most: 100 });
  });

  it('are not read of what holds none', async () => {
    const items = (await steward.call('GET', `/assets?limit=1&filter=${encodeURIComponent('kind:report')}`)).body.items;
    expect((await rows(steward, items[0].id)).body).toMatchObject({
      status: 422,
      detail: 'Of a report no rows can be read here.',
    });
  });
});

describe('an example file', () => {
  it('gives as many rows as a list needs', async () => {
    const content = Buffer.from(
      `code\n${Array.from({ length: 5000 }, (_, index) => `C${index}`).join('\n')}\n`,
    ).toString('base64');
    const count = async (rows?: number) =>
      (await steward.call('POST', '/example-file', { name: 'codes.csv', content, ...(rows ? { rows } : {}) })).body
        .columns[0].values.length;
    expect(await count()).toBe(2000);
    expect(await count(1_000_000)).toBe(5000);
  });
});

describe('a combination', () => {
  const SPEC = {
    value: { kind: 'combination', classKeys: ['person-name', 'email'], least: 2 },
    checksum: 'none',
    namePattern: '^id$',
    nameNeeded: false,
    minShare: 0.5,
    minDistinct: 5,
    accepts: [],
    rejects: [],
  };
  const refused = async (value: object, classKey = 'user-name') =>
    (await steward.call('POST', '/own-detectors', { classKey, spec: { ...SPEC, value }, note: '' })).body.fields[0];
  it('is tried beside all other detectors, found by runs, and kept from losing its classes', async () => {
    expect(await refused({ kind: 'combination', classKeys: ['nothing'], least: 1 })).toEqual({
      field: 'spec.value.classKeys',
      message: 'nothing cannot stand beside it',
    });
    expect(await refused({ kind: 'combination', classKeys: ['user-name', 'email'], least: 1 })).toEqual({
      field: 'spec.value.classKeys',
      message: 'user-name cannot stand beside it',
    });
    expect((await refused({ kind: 'combination', classKeys: ['email'], least: 2 })).field).toBe('spec.value.least');
    const { body: started } = await steward.call('POST', '/detector-trials', { classKey: 'user-name', spec: SPEC });
    await expect
      .poll(async () => (await steward.call('GET', `/detector-trials/${started.id}`)).body.ended, {
        interval: 200,
      })
      .toBe(true);
    const trial: TrialAnswer = (await steward.call('GET', `/detector-trials/${started.id}`)).body;
    const claimed = trial.gains.filter((column) => column.classKey === 'user-name').map((column) => column.path);
    expect(claimed).toContain('booking.passenger.id');
    expect(claimed).not.toContain('ref.port.id');
    expect(trial.loses).toEqual([]);
    const { body: made } = await steward.call('POST', '/own-detectors', {
      classKey: 'user-name',
      spec: SPEC,
      note: 'by what stands beside it',
    });
    const { columns } = (await steward.call('GET', '/classes/email/carriers')).body;
    expect((await steward.call('DELETE', `/classes/email?columns=${columns}`)).body.code).toBe('class-in-combination');
    const booking = ((await steward.call('GET', '/sources')).body as { id: string; name: string }[]).find(
      (source) => source.name === 'Booking system',
    )?.id;
    const run = (await steward.call('POST', `/sources/${booking}/runs`, {})).body.id;
    await expect
      .poll(async () => (await steward.call('GET', `/runs/${run}`)).body.state, { interval: 200 })
      .toBe('done');
    const found = (
      (await steward.call('GET', '/findings?class=user-name')).body.items as {
        path: string;
        detector: string;
        terms: { reason: string }[];
      }[]
    ).filter((entry) => entry.detector === made.id);
    expect(found.map((entry) => entry.path)).toContain('booking.passenger.id');
    expect(found[0]?.terms.at(-1)?.reason).toMatch(/^beside it stand: .*\(own\.user-name\)$/);
    // Before it is switched off it is told what carries its class.
    const effect: SwitchEffect = (await steward.call('GET', `/detectors-off/effect?ids=${made.id}`)).body;
    expect(effect).toMatchObject({ columns: found.length, confirmed: 0, alone: [] });
    expect(effect.shown.map((column) => column.path).sort()).toEqual(found.map((entry) => entry.path).sort());
    expect((await steward.call('DELETE', `/own-detectors/${made.id}`)).status).toBe(204);
  });

  it('of detectors that are switched off says which classes nothing else looks for', async () => {
    const effect: SwitchEffect = (await steward.call('GET', '/detectors-off/effect?ids=email.address')).body;
    expect(effect.alone).toEqual(['E-mail address']);
    expect(effect.columns).toBeGreaterThan(3);
    expect(effect.shown.every((column) => column.classKey === 'email')).toBe(true);
    expect((await steward.call('GET', '/detectors-off/effect?ids=nothing.there')).body).toEqual({
      columns: 0,
      confirmed: 0,
      alone: [],
      shown: [],
    });
  });
});
