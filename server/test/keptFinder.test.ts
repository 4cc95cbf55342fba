import { randomUUID } from 'node:crypto';
import { parseFilter } from '@idrel/core/catalog';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { Binder, FROM, filterToSql, forgetTouched } from '../src/catalog/index.ts';
import { KeptFinder } from '../src/catalog/keptFinder.ts';
import type { Db } from '../src/platform/database.ts';
import { wordsVector } from '../src/scanning/index.ts';
import { freshDatabase, furnish } from './place.ts';

let place: Awaited<ReturnType<typeof freshDatabase>>;
let one: KeptFinder;
let other: KeptFinder;
let sourceId: string;
let domainId: string;
let personId: string;
let termId: string;
let tagId: string;
const seed = { value: 20_261_127 };
/** Random numbers that are the same in each run. */
const random = (below: number) => {
  seed.value = (Math.imul(seed.value, 1_103_515_245) + 12_345) >>> 0;
  return Math.floor((seed.value / 2 ** 32) * below);
};

beforeAll(async () => {
  place = await freshDatabase();
  ({ sourceId, domainId, personId } = await furnish(place.db));
  termId =
    (
      await place.db.one<{ id: string }>(
        "insert into term (name, scheme_id) values ('Traveller', (select id from scheme)) returning id",
      )
    )?.id ?? '';
  tagId = (await place.db.one<{ id: string }>("insert into tag (name) values ('retention') returning id"))?.id ?? '';
  one = new KeptFinder(place.db);
  other = new KeptFinder(place.db);
});
afterAll(() => place.drop());

let counted = 0;
const count = () => {
  counted += 1;
  return counted;
};

const FILTERS = [
  'kind:any gone:yes,no',
  '"berth"',
  '"harbour" kind:table',
  'owner:"Nils Test"',
  'owner:none kind:any',
  'term:traveller',
  'tag:retention kind:any',
  'tag:retention/short kind:any',
  'tag:none kind:any',
  'class:email',
  'level>=guarded kind:any',
  'described:yes kind:any',
  'standing:trusted',
  'source:"Test source"',
  'domain:Travel kind:any',
  'gone:yes kind:any',
  '"cancelled"',
  'certified:any kind:any',
  'fresh>=2026-01-01 kind:table',
  'under:harbour* kind:any',
  'kind:column "email"',
  'path:berth_* kind:any',
  'upstream:berth_* kind:any',
  'downstream:berth_* kind:any',
];

const inMemory = async (kept: KeptFinder, text: string): Promise<string[]> => {
  const finder = await kept.upToDate();
  const domains = (await place.db.rows<{ id: string }>('select id from domain')).map((row) => row.id);
  const page = { sort: 'path', descending: false, offset: 0, limit: 200 } as const;
  return [...finder.find({ filter: parseFilter(text), domains }, page).ids].sort();
};
const inDatabase = async (text: string): Promise<string[]> => {
  const binder = new Binder();
  const seen = binder.add((await place.db.rows<{ id: string }>('select id from domain')).map((row) => row.id));
  const shown = /gone:/.test(text) ? 'true' : 'a.gone_at is null';
  const kinds = /kind:|"/.test(text.replace(/\w+:"[^"]*"/g, '')) ? 'true' : "a.kind not in ('column', 'database')";
  const rows = await place.db.rows<{ id: string }>(
    `select a.id from ${FROM} where a.domain_id = any(${seen}::uuid[]) and (${filterToSql(parseFilter(text), binder, seen)}) and ${shown} and ${kinds}`,
    binder.values,
  );
  return rows.map((row) => row.id).sort();
};

const add = async (db: Db, name: string, kind = 'table', parent: string | null = null) => {
  const id = randomUUID();
  await db.run(
    `insert into asset (id, source_id, domain_id, parent_id, kind, name, key, depth, words)
     values ($1, $2, $3, $4::uuid, $5, $6, coalesce((select key from asset where id = $4::uuid) || chr(31), '') || $6, case when $4::uuid is null then 0 else 1 end, $7::tsvector)`,
    [id, sourceId, domainId, parent, kind, name, kind === 'column' ? '' : wordsVector([name], [])],
  );
  if (kind === 'column')
    await db.run('insert into name_words values ($1, $2::tsvector) on conflict do nothing', [
      name,
      wordsVector([name], []),
    ]);
  return id;
};
/** One of them, the same in each run of the tests. */
const someAsset = async () => {
  const all = await place.db.rows<{ id: string }>('select id from asset order by key');
  return all[random(all.length)]?.id ?? null;
};

/** Values flow from an asset into another one. */
const flow = async (from: string | null, to: string | null) => {
  const made = await place.db.one<{ id: string }>(
    "insert into flow (source_id, kind, statement) values ($1, 'view', '') returning id",
    [sourceId],
  );
  await place.db.run(
    "insert into lineage_edge (flow_id, from_id, to_id, kind) select $1, f.id, t.id, 'copied' from asset f, asset t where f.id = $2 and t.id = $3",
    [made?.id, from, to],
  );
};

/** Every way in which something about assets changes, as statements of their own. */
const CHANGES: readonly ((id: string | null) => Promise<unknown>)[] = [
  () => add(place.db, `berth_${count()}`),
  async (id) => {
    const holder = await place.db.one<{ id: string }>("select id from asset where id = $1 and kind = 'table'", [id]);
    return holder && add(place.db, `email_${count()}`, 'column', holder.id);
  },
  (id) =>
    place.db.run("update asset set description = $2, words = words || $3::tsvector where id = $1 and kind = 'table'", [
      id,
      'Of the harbour',
      wordsVector([], ['Of the harbour']),
    ]),
  (id) => place.db.run('update asset set description = null where id = $1', [id]),
  (id) => place.db.run("update asset set standing = 'trusted', level_set = 3 where id = $1", [id]),
  (id) => place.db.run('update asset set level_set = null where id = $1', [id]),
  (id) => place.db.run('update asset set gone_at = case when gone_at is null then now() end where id = $1', [id]),
  (id) =>
    place.db.run(
      "insert into asset_person (asset_id, person_id, role) select id, $2, 'owner' from asset where id = $1 on conflict do nothing",
      [id, personId],
    ),
  (id) => place.db.run('delete from asset_person where asset_id = $1', [id]),
  async (id) => flow(id, await someAsset()),
  async (id) => flow(await someAsset(), id),
  (id) => place.db.run('delete from flow where id in (select flow_id from lineage_edge where to_id = $1)', [id]),
  (id) =>
    place.db.run(
      'insert into asset_term (asset_id, term_id) select id, $2 from asset where id = $1 on conflict do nothing',
      [id, termId],
    ),
  (id) => place.db.run('delete from asset_term where asset_id = $1', [id]),
  (id) =>
    place.db.run(
      "insert into asset_tag (asset_id, tag_id, value) select id, $2, 'short' from asset where id = $1 on conflict do nothing",
      [id, tagId],
    ),
  (id) =>
    place.db.run("update asset_tag set value = case value when '' then 'short' else '' end where asset_id = $1", [id]),
  (id) => place.db.run('delete from asset_tag where asset_id = $1', [id]),
  () => place.db.run('update tag set removed_at = case when removed_at is null then now() end'),
  (id) =>
    place.db.run(
      "insert into claim (asset_id, class_key, detector, detector_version, share, matched, sampled, distinct_values, confidence, state, evidence) select id, 'email', 'd', '1', 1, 1, 1, 1, 1, 'certain', '{}' from asset where id = $1 on conflict do nothing",
      [id],
    ),
  (id) => place.db.run('delete from claim where asset_id = $1', [id]),
  (id) =>
    place.db.run(
      "insert into claim (asset_id, class_key, detector, detector_version, share, matched, sampled, distinct_values, confidence, state, evidence) select id, 'phone', 'd', '1', 0.5, 1, 2, 1, 0.6, 'to-settle', '{}' from asset where id = $1 on conflict do nothing",
      [id],
    ),
  (id) =>
    place.db.run("update claim set confidence = 0.9, share = 0.9 where asset_id = $1 and class_key = 'phone'", [id]),
  (id) =>
    place.db.run(
      `insert into finding_decision (asset_id, class_key, decision, decided_by, seen)
       select c.asset_id, c.class_key, 'dismissed', $2, json_build_object('confidence', c.confidence, 'share', c.share)
       from claim c where c.asset_id = $1 and c.class_key = 'phone' on conflict do nothing`,
      [id, personId],
    ),
  (id) => place.db.run('delete from finding_decision where asset_id = $1', [id]),
  (id) =>
    place.db.run(
      `
        insert into said_words (asset_id, said_in, words)
        select id, v.said_in, v.words::tsvector
        from asset, (values ('guide', $2), ('discussion', $3)) v(said_in, words)
        where id = $1
        on conflict (asset_id, said_in)
        do update set words = excluded.words`,
      [id, wordsVector([], ['cancelled']), wordsVector([], [`cancelled ${count()}`])],
    ),
  (id) =>
    place.db.run(
      'insert into certification (asset_id) select id from asset where id = $1 on conflict (asset_id) do update set lapsed_at = case when certification.lapsed_at is null then now() end',
      [id],
    ),
  () =>
    place.db.run("insert into scan_run (source_id, state) values ($1, 'waiting') on conflict do nothing", [sourceId]),
  () => place.db.run("update scan_run set state = 'done', ended_at = '2026-05-01' where state = 'waiting'"),
  (id) => place.db.run("delete from said_words where asset_id = $1 and said_in = 'guide'", [id]),
  (id) => place.db.run('delete from asset where id = $1', [id]),
  () => place.db.run("update person set name = case name when 'Nils Test' then 'Nils Holm' else 'Nils Test' end"),
  () => place.db.run("update term set name = case name when 'Traveller' then 'Guest' else 'Traveller' end"),
  () => place.db.run("update domain set name = case name when 'Travel' then 'Voyages' else 'Travel' end"),
  () => place.db.run("update source set name = case name when 'Test source' then 'Another' else 'Test source' end"),
];

describe('what is kept in memory', () => {
  it('follows whatever is written, on every server alike', async () => {
    for (let start = 0; start < 12; start += 1) await add(place.db, `harbour_${start}`);
    const told = new Set<string>();
    for (let round = 0; round < 90; round += 1) {
      // Several at once, so that an asset is also written twice between two questions.
      for (let step = 0; step < 1 + random(4); step += 1)
        await (CHANGES[(round + step * 7) % CHANGES.length] as (typeof CHANGES)[number])(await someAsset());
      const kept = round % 3 === 0 ? other : one;
      for (const text of FILTERS) {
        const expected = await inDatabase(text);
        expect([round, text, await inMemory(kept, text)]).toEqual([round, text, expected]);
        if (expected.length > 0) told.add(text);
      }
      const waiting = await place.db.rows<{ id: string }>(
        `select w.asset_id || ' ' || w.class_key as id
         from finding_waiting w join asset a on a.id = w.asset_id
         where a.gone_at is null order by w.confidence desc`,
      );
      const held = (await kept.upToDate()).waiting([domainId], { offset: 0, limit: 200 });
      expect(held.total).toBe(waiting.length);
      expect(new Set(held.findings.map((one) => `${one.assetId} ${one.classKey}`))).toEqual(
        new Set(waiting.map((row) => row.id)),
      );
      if (held.total > 1) told.add('waiting');
    }
    expect([...told].sort()).toEqual([...FILTERS, 'waiting'].sort());
    // Read anew, it is the same again.
    const anew = new KeptFinder(place.db);
    for (const text of FILTERS) expect(await inMemory(anew, text)).toEqual(await inMemory(one, text));
  });

  it('sees what was written early and committed late', async () => {
    let letGo: () => void = () => undefined;
    const held = new Promise<void>((resolve) => {
      letGo = resolve;
    });
    let written: () => void = () => undefined;
    const isWritten = new Promise<void>((resolve) => {
      written = resolve;
    });
    let early = '';
    const slow = place.db.transaction(async (tx) => {
      early = await add(tx, 'quay_early');
      written();
      await held;
    });
    await isWritten;
    const late = await add(place.db, 'quay_late');
    expect(await inMemory(one, '"quay"')).toEqual([late]);
    const later = await add(place.db, 'quay_later');
    expect(await inMemory(one, '"quay"')).toEqual([late, later].sort());
    letGo();
    await slow;
    expect(await inMemory(one, '"quay"')).toEqual([early, late, later].sort());
  });

  it('loses nothing when the database fails on the way', async () => {
    let fails = false;
    const failing = {
      ...place.db,
      rows: <T extends object>(sql: string, bind?: readonly unknown[]) =>
        fails && sql.includes('order by a.depth') ? Promise.reject(new Error('gone')) : place.db.rows<T>(sql, bind),
    };
    const kept = new KeptFinder(failing);
    expect(await inMemory(kept, '"pier"')).toEqual([]);
    const id = await add(place.db, 'pier');
    fails = true;
    await expect(kept.upToDate()).rejects.toThrow('gone');
    fails = false;
    expect(await inMemory(kept, '"pier"')).toEqual([id]);
  });

  it('does not see what was taken back', async () => {
    await place.db
      .transaction(async (tx) => {
        await add(tx, 'jetty');
        throw new Error('taken back');
      })
      .catch(() => undefined);
    expect(await inMemory(one, '"jetty"')).toEqual([]);
  });

  it('counts the classes of the organisation by what they are called', async () => {
    const id = await add(place.db, 'pilot_card');
    await place.db.run(
      "insert into claim (asset_id, class_key, detector, detector_version, share, matched, sampled, distinct_values, confidence, state, evidence) values ($1, 'email', 'd', '1', 1, 1, 1, 1, 1, 'certain', '{}')",
      [id],
    );
    const labels = async () =>
      (await one.upToDate())
        .count({ filter: parseFilter('"pilot"'), domains: [domainId] })
        .find(({ key }) => key === 'class')?.values;
    expect(await labels()).toEqual([{ value: 'email', label: 'E-mail address', count: 1 }]);
    await place.db.run(
      "insert into data_class (key, own, label, theme, level) values ('email', false, 'Post address', 'contact', 2)",
    );
    expect(await labels()).toEqual([{ value: 'email', label: 'Post address', count: 1 }]);
  });

  it('a scan that finds everything as it was writes nothing down; what was read long ago goes', async () => {
    await place.db.run('update asset set last_seen = now(), stats = \'{"rows": 3}\'');
    const floor = async () => (await place.db.one<{ n: number }>('select count(*)::int as n from touched'))?.n ?? 0;
    const before = await floor();
    await place.db.run('update asset set last_seen = now()');
    expect(await floor()).toBe(before);
    await place.db.run("update touched set noted = now() - interval '2 days'");
    expect(await forgetTouched(place.db)).toBe(before);
    expect(await floor()).toBe(0);
  });
});
