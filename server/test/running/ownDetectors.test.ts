import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { openDatabase } from '../../src/platform/database.ts';
import { urlOf } from '../place.ts';
import { Caller } from './caller.ts';

const steward = new Caller();
const analyst = new Caller();
const db = openDatabase(urlOf('idrel'));
let booking: string;
beforeAll(async () => {
  await steward.as('Sunniva Dahlmark');
  await analyst.as('Maud Ilkley');
  booking =
    ((await steward.call('GET', '/sources')).body as { id: string; name: string }[]).find(
      (source) => source.name === 'Booking system',
    )?.id ?? '';
});
afterAll(() => db.close());

const CLASS = {
  label: 'Booking reference',
  theme: 'own',
  level: 2,
  meaning: 'The number under which a booking is known.',
  legalBasis: 'Contract, Art. 6 (1) b',
  synonyms: ['PNR'],
  parentKey: null,
};
const SPEC = {
  value: { kind: 'pattern', pattern: '47 22 \\d{2} \\d+', caseless: false },
  checksum: 'none',
  namePattern: 'ref',
  nameNeeded: false,
  minShare: 0.8,
  minDistinct: 10,
  accepts: ['47 22 44 000017'],
  rejects: ['KESS-1'],
};
const ended = async (id: string) => {
  await expect
    .poll(async () => Boolean((await steward.call('GET', `/runs/${id}`)).body.endedAt), {
      interval: 200,
    })
    .toBe(true);
  return (await steward.call('GET', `/runs/${id}`)).body;
};
const scanBooking = async () => ended((await steward.call('POST', `/sources/${booking}/runs`, {})).body.id);
const carrying = async (key: string) =>
  (
    (await steward.call('GET', `/assets?limit=200&filter=${encodeURIComponent(`kind:column class:${key}`)}`)).body
      .items as { path: string }[]
  ).map((item) => item.path);
const trialOf = async (body: object) => {
  const { body: trial } = await steward.call('POST', '/detector-trials', body);
  await expect
    .poll(async () => (await steward.call('GET', `/detector-trials/${trial.id}`)).body.ended, {
      interval: 200,
    })
    .toBe(true);
  return (await steward.call('GET', `/detector-trials/${trial.id}`)).body;
};

describe('classes and detectors of the organisation', () => {
  let key: string;
  let id: string;

  it('are made by stewards; a class keeps its name to itself and makes no circle', async () => {
    expect((await analyst.call('POST', '/classes', CLASS)).status).toBe(403);
    const made = await steward.call('POST', '/classes', CLASS);
    expect([made.status, made.body.key, made.body.own, made.body.columns]).toEqual([
      200,
      'own-booking-reference',
      true,
      0,
    ]);
    key = made.body.key;
    expect((await steward.call('POST', '/classes', { ...CLASS, label: 'booking REFERENCE' })).body.code).toBe(
      'name-taken',
    );
    expect((await steward.call('POST', '/classes', { ...CLASS, label: 'E-mail address' })).body.code).toBe(
      'name-taken',
    );
    expect(
      (await steward.call('PUT', `/classes/${key}`, { ...CLASS, parentKey: key }, { 'if-match': '"v1"' })).body.fields,
    ).toEqual([{ field: 'parentKey', message: 'makes a circle' }]);
    expect((await steward.call('PUT', `/classes/${key}`, CLASS)).status).toBe(428);
    expect(
      (await steward.call('PUT', `/classes/${key}`, { ...CLASS, meaning: 'Another' }, { 'if-match': '"v9"' })).status,
    ).toBe(412);
  });

  it('refuse what cannot work, naming the field, and examples that come out wrong', async () => {
    const refused = async (spec: object) =>
      (await steward.call('POST', '/own-detectors', { classKey: key, spec: { ...SPEC, ...spec }, note: '' })).body;
    expect((await refused({ value: { kind: 'pattern', pattern: '(?=a)b', caseless: false } })).fields).toEqual([
      { field: 'spec.value.pattern', message: expect.stringContaining('Look-ahead') },
    ]);
    expect((await refused({ accepts: ['TX-1'], rejects: ['47 22 44 1'] })).detail).toBe(
      "The detector's own examples come out wrong: it does not take TX-1, and it takes 47 22 44 1.",
    );
    expect((await refused({ nameNeeded: true, namePattern: '' })).fields[0].field).toBe('spec.namePattern');
    expect((await refused({ minShare: 3 })).fields[0].field).toBe('spec.minShare');
    expect(
      (await steward.call('POST', '/own-detectors', { classKey: 'nothing', spec: SPEC, note: '' })).body.fields,
    ).toEqual([{ field: 'classKey', message: 'is not in use' }]);
    expect((await analyst.call('POST', '/own-detectors', { classKey: key, spec: SPEC, note: '' })).status).toBe(403);
  });

  it('show what a draft would find in live samples before it is saved, and write nothing', async () => {
    const trial = await trialOf({ classKey: key, spec: SPEC });
    expect(trial).toMatchObject({ ended: true, cancelled: false, loses: [], keeps: 0, problems: [] });
    expect(trial.done).toBe(trial.total);
    const paths = trial.gains.map((column: { path: string }) => column.path);
    expect(paths).toContain('booking.booking.booking_ref');
    // Every reference begins with 47 and has twelve digits: only the last two of a number are ever shown.
    expect(trial.gains[0].examples[0]).toMatch(/^[•\s-]+\d\d$/);
    expect(await carrying(key)).toEqual([]);
    expect((await analyst.call('POST', '/detector-trials', { classKey: key, spec: SPEC })).status).toBe(403);
    expect((await analyst.call('GET', `/detector-trials/${trial.id}`)).status).toBe(404);
  });

  it('look in the next scan; each change is a version, and evidence names it', async () => {
    const made = await steward.call('POST', '/own-detectors', { classKey: key, spec: SPEC, note: 'First' });
    expect([made.status, made.body.version, made.body.off]).toEqual([200, 1, false]);
    id = made.body.id;
    expect((await scanBooking()).state).toBe('done');
    expect(await carrying(key)).toContain('booking.booking.booking_ref');
    const [finding] = (await steward.call('GET', `/findings?class=${key}`)).body.items;
    expect(finding).toMatchObject({ detector: id, version: '1', label: 'Booking reference' });
    const narrow = { ...SPEC, value: { ...SPEC.value, pattern: '99 \\d+' }, accepts: ['99 1'] };
    // A trial of the change tells what it would lose.
    const trial = await trialOf({ classKey: key, detectorId: id, spec: narrow });
    expect(trial.loses.map((column: { path: string }) => column.path)).toContain('booking.booking.booking_ref');
    expect((await steward.call('PUT', `/own-detectors/${id}`, { classKey: key, spec: narrow, note: '' })).status).toBe(
      428,
    );
    const changed = await steward.call(
      'PUT',
      `/own-detectors/${id}`,
      { classKey: key, spec: narrow, note: 'Narrower' },
      { 'if-match': '"v1"' },
    );
    expect(
      changed.body.versions.map((entry: { version: number; note: string; by: string }) => [
        entry.version,
        entry.note,
        entry.by,
      ]),
    ).toEqual([
      [2, 'Narrower', 'Sunniva Dahlmark'],
      [1, 'First', 'Sunniva Dahlmark'],
    ]);
    expect(
      (
        await steward.call(
          'PUT',
          `/own-detectors/${id}`,
          { classKey: 'email', spec: SPEC, note: '' },
          { 'if-match': '"v2"' },
        )
      ).body.code,
    ).toBe('other-class');
    await scanBooking();
    expect(await carrying(key)).toEqual([]);
    await steward.call(
      'PUT',
      `/own-detectors/${id}`,
      { classKey: key, spec: SPEC, note: 'Back' },
      { 'if-match': '"v2"' },
    );
  });

  it('leave as JSON and come back the same; what differs becomes a version', async () => {
    const file = (await steward.call('GET', '/detectors-file')).body;
    expect(file).toMatchObject({
      kind: 'idrel detectors',
      version: 1,
      classes: [{ key, label: 'Booking reference' }],
      detectors: [{ id, classKey: key, spec: SPEC }],
    });
    expect((await steward.call('POST', '/detectors-file', file)).body).toEqual({
      classes: [{ key, what: 'same' }],
      detectors: [{ id, what: 'same' }],
    });
    const other = {
      ...file,
      detectors: [
        { ...file.detectors[0], spec: { ...SPEC, minDistinct: 3 } },
        { id: 'own.second', classKey: key, spec: SPEC },
      ],
    };
    const told = {
      classes: [{ key, what: 'same' }],
      detectors: [
        { id, what: 'changed' },
        { id: 'own.second', what: 'new' },
      ],
    };
    expect((await steward.call('POST', '/detectors-file?preview=true', other)).body).toEqual(told);
    expect((await steward.call('GET', `/own-detectors/${id}`)).body.version).toBe(3);
    expect((await steward.call('POST', '/detectors-file', other)).body).toEqual(told);
    expect((await steward.call('GET', `/own-detectors/${id}`)).body).toMatchObject({
      version: 4,
      spec: { minDistinct: 3 },
    });
    expect(
      (
        await steward.call('POST', '/detectors-file', {
          ...file,
          detectors: [{ ...file.detectors[0], spec: { ...SPEC, rejects: ['47 22 44 1'] } }],
        })
      ).status,
    ).toBe(422);
    expect((await steward.call('POST', '/detectors-file', { ...file, kind: 'something' })).status).toBe(422);
    expect((await steward.call('DELETE', '/own-detectors/own.second')).status).toBe(204);
  });

  it('switched off look nowhere, and are told as such', async () => {
    await scanBooking();
    expect(await carrying(key)).toContain('booking.booking.booking_ref');
    expect((await analyst.call('PUT', '/detectors-off', { ids: [id], off: true })).status).toBe(403);
    expect((await steward.call('PUT', '/detectors-off', { ids: ['nothing'], off: true })).status).toBe(422);
    expect((await steward.call('PUT', '/detectors-off', { ids: [id, 'email.address'], off: true })).status).toBe(204);
    const list = (await steward.call('GET', '/detectors')).body as { id: string; off: boolean; own: boolean }[];
    expect(list.filter((detector) => detector.off).map((detector) => [detector.id, detector.own])).toEqual([
      [id, true],
      ['email.address', false],
    ]);
    await scanBooking();
    expect(await carrying(key)).toEqual([]);
    expect((await carrying('email')).filter((path) => path.startsWith('booking.'))).toEqual([]);
    await steward.call('PUT', '/detectors-off', { ids: [id, 'email.address'], off: false });
    await scanBooking();
    expect(await carrying(key)).toContain('booking.booking.booking_ref');
    expect(await carrying('email')).toContain('booking.passenger.email');
  });

  it('removed leave nothing behind: no finding, decision, detector, level; policies and searches must let go first', async () => {
    const [finding] = (await steward.call('GET', `/findings?class=${key}`)).body.items;
    await steward.call('POST', '/findings/decisions', {
      decisions: [{ assetId: finding.assetId, classKey: key, decision: 'confirmed', reason: '' }],
    });
    const policy = await steward.call('POST', '/policies', {
      name: 'References stay',
      effect: 'protect',
      everyone: true,
      classKeys: [key],
      mask: { kind: 'digest', keyed: 'installation' },
    });
    expect(policy.status).toBe(200);
    const carriers = (await steward.call('GET', `/classes/${key}/carriers`)).body;
    expect(carriers).toMatchObject({
      detectors: [id],
      policies: [{ name: 'References stay', alone: true }],
      routines: [],
      children: [],
    });
    expect(carriers.shown.map((column: { path: string }) => column.path)).toContain('booking.booking.booking_ref');
    const url = `/classes/${key}?columns=${carriers.columns}`;
    // A search names it also as one of several.
    for (const filter of [`class:${key}`, `kind:table (class:email,${key})`, `class:"${key}",phone`]) {
      const [routine] = await db.rows<{ id: string }>(
        "insert into routine (name, filter, steps) values ('names it', $1, '[]') returning id",
        [filter],
      );
      expect([filter, (await steward.call('GET', `/classes/${key}/carriers`)).body.routines]).toEqual([
        filter,
        [{ id: routine?.id, name: 'names it' }],
      ]);
      await db.run('delete from routine where id = $1', [routine?.id]);
    }
    expect((await steward.call('DELETE', url)).body.code).toBe('class-guards');
    await steward.call('DELETE', `/policies/${policy.body.id}`);
    expect((await steward.call('DELETE', `/classes/${key}?columns=${carriers.columns + 1}`)).body.code).toBe(
      'count-changed',
    );
    expect((await analyst.call('DELETE', url)).status).toBe(403);
    expect((await steward.call('DELETE', url)).status).toBe(204);
    for (const table of ['finding', 'finding_decision', 'detector', 'detector_trial'])
      expect([
        table,
        (await db.one<{ n: number }>(`select count(*)::int as n from ${table} where class_key = $1`, [key]))?.n,
      ]).toEqual([table, 0]);
    expect(await carrying(key)).toEqual([]);
    expect((await steward.call('GET', '/classes')).body.some((entry: { key: string }) => entry.key === key)).toBe(
      false,
    );
    expect((await steward.call('GET', '/detectors-file')).body).toMatchObject({ classes: [], detectors: [] });
    await scanBooking();
    expect(await carrying(key)).toEqual([]);
  });

  it('that ship with Idrel are retired, and used again', async () => {
    const { columns } = (await steward.call('GET', '/classes/vehicle-plate/carriers')).body;
    expect(columns).toBeGreaterThan(0);
    expect((await steward.call('DELETE', `/classes/vehicle-plate?columns=${columns}`)).status).toBe(204);
    expect(await carrying('vehicle-plate')).toEqual([]);
    const about = async () =>
      ((await steward.call('GET', '/classes')).body as { key: string; retired: boolean }[]).find(
        (entry) => entry.key === 'vehicle-plate',
      )?.retired;
    expect(await about()).toBe(true);
    expect(
      (await steward.call('POST', '/own-detectors', { classKey: 'vehicle-plate', spec: SPEC, note: '' })).status,
    ).toBe(422);
    expect((await steward.call('POST', '/classes/vehicle-plate/restored')).status).toBe(200);
    expect(await about()).toBe(false);
    await scanBooking();
    expect((await carrying('vehicle-plate')).length).toBeGreaterThan(0);
    await db.run("delete from data_class where key = 'vehicle-plate'");
  });

  it('change levels at once when a class changes its own', async () => {
    const level = async () =>
      (
        await db.one<{ level: number }>(
          "select a.level from asset a join asset t on t.id = a.parent_id where a.name = 'plate' and t.name = 'vehicle_carried' limit 1",
        )
      )?.level;
    expect(await level()).toBe(3);
    const plate = (
      (await steward.call('GET', '/classes')).body as { key: string; version: number; label: string }[]
    ).find((entry) => entry.key === 'vehicle-plate');
    const body = { ...CLASS, label: plate?.label ?? '', theme: 'vehicle and vessel', level: 4 };
    const changed = await steward.call('PUT', '/classes/vehicle-plate', body, { 'if-match': '"v0"' });
    expect([changed.status, changed.body.version]).toEqual([200, 1]);
    expect(await level()).toBe(4);
    await steward.call('PUT', '/classes/vehicle-plate', { ...body, level: 3 }, { 'if-match': '"v1"' });
    expect(await level()).toBe(3);
    await db.run("delete from data_class where key = 'vehicle-plate'");
  });

  it('are authored from example files, of which nothing is kept', async () => {
    const send = (name: string, content: Buffer) =>
      steward.call('POST', '/example-file', { name, content: content.toString('base64') });
    const csv = await send('people.csv', Buffer.from('id,ref\n1,TF-2026-1\n2,TF-2026-2\n3,\n'));
    expect(csv.body).toEqual({
      columns: [
        { name: 'id', values: ['1', '2', '3'] },
        { name: 'ref', values: ['TF-2026-1', 'TF-2026-2'] },
      ],
    });
    expect((await send('broken.xlsx', Buffer.from('no workbook'))).body.detail).toContain('broken.xlsx cannot be read');
    expect((await send('picture.png', Buffer.from('x'))).body.fields[0].field).toBe('name');
  });
});
