import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { AssetKind } from '@idrel/contract/things';
import { type ColumnProfile, measureOf, PROFILE_ROWS, profileOf } from '@idrel/core/scanning';
import { CONNECTORS, type Reading } from '@idrel/readers/connectors';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Database } from '../src/platform/database.ts';
import { settleLevels } from '../src/recognition/settling.ts';
import { applyRun } from '../src/scanning/apply.ts';
import { freshDatabase, furnish, inputOf, withClient } from './place.ts';

// What databases work out themselves must be what core works out from the same values.
const folder = mkdtempSync(join(tmpdir(), 'profiles-'));
let place: Awaited<ReturnType<typeof freshDatabase>>;
let db: Database;
const TEXTS = ['', 'Åse', 'ab12', 'AB-7', "o'hara", 'tab\tin', 'ünïcode', '😀', null, 'x'.repeat(500), '2026-01-01'];
const VALUES = Array.from({ length: 900 }, (_, index) => ({
  t: TEXTS[index % TEXTS.length] ?? null,
  n: index % 13 === 0 ? null : ((index * 7919) % 1000) / 8,
  i: index % 17,
  d: index % 5 === 0 ? null : `20${String(10 + (index % 15)).padStart(2, '0')}-0${1 + (index % 9)}-1${index % 9}`,
}));

beforeAll(async () => {
  place = await freshDatabase();
  db = place.db;
});
afterAll(async () => {
  await place.drop();
  rmSync(folder, { recursive: true, force: true });
});

/** Profiles by column's name of the one table of a source. */
async function profilesOf(reading: Reading, path: string, rows = PROFILE_ROWS): Promise<Map<string, ColumnProfile>> {
  const { sampleable, assets } = await reading.structure(() => undefined);
  const table = sampleable.find((entry) => entry.label === path);
  if (!table || !reading.profile)
    throw new Error(`${path} cannot be profiled: ${sampleable.map((entry) => entry.label)}`);
  const types = new Map(assets.map((asset) => [asset.key, String(asset.native.type)]));
  const profiles = await reading.profile(
    table,
    table.columns.map((column) => measureOf(types.get(column.key) ?? '')),
    rows,
  );
  return new Map(table.columns.map((column, index) => [column.name, profiles[index] as ColumnProfile]));
}

/** Sums of floats differ in their last digits by the order of adding. */
const rounded = (value: unknown): unknown =>
  JSON.parse(JSON.stringify(value), (_, entry) => (typeof entry === 'number' ? Number(entry.toPrecision(10)) : entry));

describe('profiles worked out at the source', () => {
  it('are in PostgreSQL what core makes of the same values', async () => {
    await withClient(place.url, async (client) => {
      await client.query('create schema p');
      await client.query(
        'create table p.all_kinds (t text, n numeric, i integer, d date, at timestamptz, flag boolean, doc jsonb)',
      );
      await client.query(
        `insert into p.all_kinds select r.t, r.n, r.i, r.d, r.d::timestamp at time zone 'UTC', r.i > 3, case when r.i > 3 then jsonb_build_object('a', r.i) end from json_to_recordset($1) as r(t text, n numeric, i int, d date)`,
        [JSON.stringify(VALUES)],
      );
      await client.query('analyze p.all_kinds');
    });
    const reading = await CONNECTORS.postgresql.open(inputOf(new URL(place.url).pathname.slice(1)));
    try {
      const found = await profilesOf(reading, 'p.all_kinds');
      expect(rounded(found.get('t'))).toEqual(
        rounded(
          profileOf(
            VALUES.map((row) => row.t),
            'text',
            true,
          ),
        ),
      );
      expect(rounded(found.get('n'))).toEqual(
        rounded(
          profileOf(
            VALUES.map((row) => (row.n === null ? null : String(row.n))),
            'number',
            true,
          ),
        ),
      );
      expect(rounded(found.get('i'))).toEqual(
        rounded(
          profileOf(
            VALUES.map((row) => String(row.i)),
            'number',
            true,
          ),
        ),
      );
      expect(rounded(found.get('d'))).toEqual(
        rounded(
          profileOf(
            VALUES.map((row) => row.d),
            'time',
            true,
          ),
        ),
      );
      expect(rounded(found.get('at')?.span)).toEqual(rounded(found.get('d')?.span));
      expect(found.get('flag')).toMatchObject({ measure: 'text', distinct: 2, first: 'false', last: 'true' });
      expect(found.get('doc')?.nulls).toBe(VALUES.filter((row) => row.i <= 3).length);
      // Of a table larger than what is looked at: a random part, and it says so.
      const part = (await profilesOf(reading, 'p.all_kinds', 100)).get('i');
      expect(part?.whole).toBe(false);
      expect(part?.rows).toBeGreaterThan(50);
      expect(part?.rows).toBeLessThanOrEqual(100);
    } finally {
      await reading.close();
    }
  });

  it('survive values that are no ordinary numbers or times', async () => {
    await withClient(place.url, async (client) => {
      await client.query('create table p.odd (f float8, d date, n numeric)');
      await client.query(
        "insert into p.odd values ('NaN', 'infinity', 'NaN'), ('Infinity', '-infinity', 1e300), ('-Infinity', '0044-03-15 BC', -1e300), (1e-300, '9999-12-31', 7), (null, null, null)",
      );
      await client.query('create table p.empty (a int, b text)');
    });
    const reading = await CONNECTORS.postgresql.open(inputOf(new URL(place.url).pathname.slice(1)));
    try {
      const odd = await profilesOf(reading, 'p.odd');
      expect(odd.get('f')).toMatchObject({ rows: 5, nulls: 1, distinct: 4, span: { from: 1e-300, to: 1e-300 } });
      expect(odd.get('d')?.span?.from).toBeLessThan(-6e10);
      expect(odd.get('n')?.histogram?.reduce((sum, n) => sum + n, 0)).toBe(3);
      expect((await profilesOf(reading, 'p.empty')).get('a')).toMatchObject({
        rows: 0,
        whole: true,
        distinct: 0,
        span: null,
        length: null,
      });
    } finally {
      await reading.close();
    }
  });

  it('are in files what core makes of the same values', async () => {
    writeFileSync(join(folder, 'all.ndjson'), VALUES.map((row) => JSON.stringify(row)).join('\n'));
    const quoted = (value: unknown) => (value === null ? '' : `"${String(value).replaceAll('"', '""')}"`);
    writeFileSync(
      join(folder, 'all.csv'),
      `t,n,i,d\n${VALUES.map((row) => [row.t === '' ? null : row.t, row.n, row.i, row.d].map(quoted).join(',')).join('\n')}\n`,
    );
    const reading = await CONNECTORS.folder.open({ name: 'x', address: { path: folder }, secret: null });
    try {
      const found = await profilesOf(reading, 'all.ndjson');
      expect(rounded(found.get('t'))).toEqual(
        rounded(
          profileOf(
            VALUES.map((row) => row.t),
            'text',
            true,
          ),
        ),
      );
      expect(rounded(found.get('i'))).toEqual(
        rounded(
          profileOf(
            VALUES.map((row) => String(row.i)),
            'number',
            true,
          ),
        ),
      );
      expect(rounded(found.get('n')?.quantiles)).toEqual(
        rounded(
          profileOf(
            VALUES.map((row) => (row.n === null ? null : String(row.n))),
            'number',
            true,
          ).quantiles,
        ),
      );
      const csv = await profilesOf(reading, 'all.csv');
      expect(rounded(csv.get('d'))).toEqual(
        rounded(
          profileOf(
            VALUES.map((row) => row.d),
            'time',
            true,
          ),
        ),
      );
      expect(csv.get('n')?.histogram).toEqual(found.get('n')?.histogram);
    } finally {
      await reading.close();
    }
  });
});

describe('profiles in the catalog', () => {
  it('lose their values as soon as a column is guarded, and stay when it was not looked at again', async () => {
    const { domainId, sourceId, personId } = await furnish(db);
    const source = { id: sourceId, domainId, address: {} };
    const asset = (key: string, kind: AssetKind, parentKey: string | null) => ({
      key,
      parentKey,
      kind,
      name: key,
      depth: 0,
      position: 0,
      comment: null,
      native: { type: 'text' },
      stats: {},
    });
    const assets = [asset('db', 'database', null), asset('t', 'table', 'db'), asset('c', 'column', 't')];
    const profile = profileOf(['+47 123', '+47 456'], 'text', true);
    const write = async (profiles: Map<string, ColumnProfile>) => {
      const [run] = await db.rows<{ id: string }>(
        "insert into scan_run (source_id, asked_by, state, ended_at) values ($1, $2, 'done', now()) returning id",
        [sourceId, personId],
      );
      await db.transaction((tx) =>
        applyRun(tx, source, run?.id ?? '', {
          structure: { assets, sampleable: [] },
          findings: new Map(),
          sampled: new Map(),
          profiles,
          flows: [],
          covers: () => true,
        }),
      );
    };
    const kept = () =>
      db.one<{ facts: ColumnProfile }>(
        "select p.facts from column_profile p join asset a on a.id = p.asset_id where a.key = 'c'",
      );
    await write(new Map([['c', profile]]));
    expect((await kept())?.facts).toEqual(profile);
    await write(new Map());
    expect((await kept())?.facts).toEqual(profile);
    await db.run("update asset set level_set = 3 where key = 'c'");
    await db.transaction((tx) => settleLevels(tx, sourceId));
    const facts = (await kept())?.facts;
    expect(facts).toMatchObject({ guarded: true, rows: 2, distinct: 2, frequent: [], first: null });
    expect(JSON.stringify(facts)).not.toContain('+47 123');
    // A run that brings the values again does not put them back.
    await write(new Map([['c', profile]]));
    expect(JSON.stringify((await kept())?.facts)).not.toContain('+47 123');
  });
});
