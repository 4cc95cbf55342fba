import type { NoticeBody } from '@idrel/contract/curation';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { notesOn } from '../src/catalog/index.ts';
import { findAssets, getAsset, tree } from '../src/catalog/service.ts';
import {
  addNotice,
  bringBackNotice,
  changeNotice,
  listNotices,
  removeNotice,
  tendNotices,
} from '../src/curation/notices.ts';
import { loadWho, type Who } from '../src/people/index.ts';
import { finderHere, freshDatabase, furnish, personWith, refused } from './place.ts';

let place: Awaited<ReturnType<typeof freshDatabase>>;
let finder: ReturnType<typeof finderHere>;
let who: Who;
let reader: Who;
let stranger: Who;
let sourceId: string;
let domainId: string;

const one = async (sql: string, bind: unknown[]) => (await place.db.one<{ id: string }>(sql, bind))?.id ?? '';
beforeAll(async () => {
  place = await freshDatabase();
  const made = await furnish(place.db);
  ({ sourceId, domainId } = made);
  const elsewhere = await one("insert into domain (name) values ('Crewing') returning id", []);
  who = (await loadWho(place.db, made.personId)) as Who;
  reader = await personWith(place.db, 'Rune', 'reader', domainId);
  stranger = await personWith(place.db, 'Sten', 'editor', elsewhere);
  finder = finderHere(place.db);
});
afterAll(() => place.drop());
beforeEach(async () => {
  for (const table of ['asset', 'journal', 'flow']) await place.db.run(`delete from ${table}`);
});

const asset = (kind: string, name: string, parent: string | null = null, depth = 0) =>
  one(
    `
      insert into asset (source_id, domain_id, kind, name, key, depth, parent_id)
      select $1, $2, $3, $4, coalesce((select key || chr(31) from asset where id = $6), '') || $4, $5, $6
      returning id`,
    [sourceId, domainId, kind, name, depth, parent],
  );
/** The day so many days from today. */
const inDays = (days: number) => new Date(Date.now() + days * 86_400_000).toISOString().slice(0, 10);
const body = (more: Partial<NoticeBody> = {}): NoticeBody => ({
  kind: 'stop',
  text: 'Doubled since Tuesday.',
  starts: inDays(0),
  ends: null,
  ...more,
});
const give = (id: string, more: Partial<NoticeBody> = {}, by = who) =>
  place.db.transaction((tx) => addNotice(tx, by, id, body(more)));
const found = async (filter: string) =>
  (
    await findAssets(place.db, finder, who, { filter, sort: 'name', descending: false, limit: 50, offset: 0 })
  ).items.map(({ name, notices }) => [name, notices.map(({ kind }) => kind)]);

describe('a notice', () => {
  it('stands wherever its asset does, the gravest first, and is found by its kind', async () => {
    const schema = await asset('schema', 'booking');
    const table = await asset('table', 'refund', schema, 1);
    await asset('table', 'payment', schema, 1);
    await give(table, { kind: 'note', text: 'Moves in May.' });
    await give(table);
    expect(await found('notice:any')).toEqual([['refund', ['stop', 'note']]]);
    expect(await found('kind:table notice:none')).toEqual([['payment', []]]);
    expect((await getAsset(place.db, reader, table)).notices[0]).toEqual({
      kind: 'stop',
      text: 'Doubled since Tuesday.',
    });
    const nodes = await tree(place.db, finder, who, { by: 'source', parent: schema, parentType: 'asset' });
    expect(nodes.map(({ name, notice }) => [name, notice])).toEqual([
      ['payment', null],
      ['refund', 'stop'],
    ]);
    expect(await notesOn(place.db, [table])).toEqual([
      'stop on refund: Doubled since Tuesday.',
      'note on refund: Moves in May.',
    ]);
  });

  it('is told where something lies in it or is made from it, as far as that may be seen', async () => {
    const schema = await asset('schema', 'booking');
    const table = await asset('table', 'refund', schema, 1);
    const amount = await asset('column', 'amount', table, 2);
    const view = await asset('view', 'totals', schema, 1);
    const sum = await asset('column', 'sum', view, 2);
    const flow = await one(
      "insert into flow (source_id, asset_id, kind, statement) values ($1, $2, 'view', '') returning id",
      [sourceId, view],
    );
    await place.db.run("insert into lineage_edge (flow_id, from_id, to_id, kind) values ($1, $2, $3, 'aggregated')", [
      flow,
      amount,
      sum,
    ]);
    await give(table);
    await give(schema, { kind: 'caution', text: 'Is taken apart.' });
    const told = async (id: string, by = reader) =>
      (await listNotices(place.db, by, id)).around.map(({ notice, why, asset: { kind }, distance }) => [
        notice.kind,
        why,
        kind,
        distance,
      ]);
    expect(await told(view)).toEqual([
      ['stop', 'made from', 'table', 1],
      ['caution', 'lies in', 'schema', 1],
    ]);
    expect(await told(sum)).toEqual([
      ['stop', 'made from', 'table', 1],
      ['caution', 'lies in', 'schema', 2],
    ]);
    expect(await told(amount)).toEqual([
      ['stop', 'lies in', 'table', 1],
      ['caution', 'lies in', 'schema', 2],
    ]);
    expect(await notesOn(place.db, [view])).toEqual(['caution on booking: Is taken apart.']);
    const old = await asset('table', 'old');
    await place.db.run("update asset set standing = 'retiring' where id = $1", [table]);
    await place.db.run("insert into retirement (asset_id, replacement_id, on_day) values ($1, $2, '2999-06-30')", [
      table,
      old,
    ]);
    expect((await listNotices(place.db, reader, view)).retiring).toEqual([
      {
        why: 'made from',
        asset: { id: table, kind: 'table', path: expect.stringContaining('refund') },
        distance: 1,
        on: '2999-06-30',
        replacement: { id: old, path: 'old' },
      },
    ]);
    expect(await refused(told(view, stranger))).toMatchObject({ status: 404 });
  });

  it('holds from its first day to its last, whoever begins the day', async () => {
    const table = await asset('table', 'refund');
    const coming = await give(table, { starts: inDays(2), ends: inDays(3) });
    expect(coming.holds).toBe(false);
    const over = await give(table, { starts: inDays(-5), ends: inDays(-1) });
    expect(over.holds).toBe(false);
    const last = await give(table, { kind: 'note', starts: inDays(-5), ends: inDays(0) });
    expect(last.holds).toBe(true);
    expect(await found('notice:stop')).toEqual([]);
    // Two days later.
    await place.db.run('update notice set starts = starts - 2, ends = ends - 2');
    expect(await tendNotices(place.db)).toBe(2);
    expect(await found('notice:any')).toEqual([['refund', ['stop']]]);
    expect(await tendNotices(place.db)).toBe(0);
    expect(await refused(give(table, { starts: inDays(1), ends: inDays(0) }))).toMatchObject({
      status: 422,
      detail: 'The notice ends before it begins.',
    });
  });

  it('is changed, taken away and brought back, each told with the asset', async () => {
    const table = await asset('table', 'refund');
    const made = await give(table);
    const changed = await place.db.transaction((tx) =>
      changeNotice(tx, who, made.id, 1, body({ kind: 'caution', ends: inDays(-1), starts: inDays(-3) })),
    );
    expect(changed).toMatchObject({ kind: 'caution', holds: false, version: 2 });
    expect(
      await refused(place.db.transaction((tx) => changeNotice(tx, who, made.id, 1, body({ text: 'Late.' })))),
    ).toMatchObject({ status: 412 });
    await place.db.transaction((tx) => changeNotice(tx, who, made.id, 2, body()));
    await place.db.transaction((tx) => removeNotice(tx, who, made.id));
    expect(await found('notice:any')).toEqual([]);
    expect(await place.db.transaction((tx) => bringBackNotice(tx, who, made.id))).toMatchObject({ holds: true });
    expect(await found('notice:stop')).toEqual([['refund', ['stop']]]);
    const journal = await place.db.rows<{ action: string; subject_kind: string; after: { notice?: string } | null }>(
      'select action, subject_kind, after from journal where subject_id = $1 order by id',
      [table],
    );
    expect(journal.map(({ action, subject_kind }) => [action, subject_kind])).toEqual([
      ['notice given', 'table'],
      ['notice changed', 'table'],
      ['notice changed', 'table'],
      ['notice taken away', 'table'],
      ['notice brought back', 'table'],
    ]);
    expect(journal[0]?.after?.notice).toBe('stop: Doubled since Tuesday.');
  });

  it('is given by who may edit there alone', async () => {
    const table = await asset('table', 'refund');
    const made = await give(table);
    expect(await refused(give(table, {}, reader))).toMatchObject({ status: 403 });
    expect(await refused(give(table, {}, stranger))).toMatchObject({ status: 404 });
    for (const by of [reader, stranger]) {
      const status = by === reader ? 403 : 404;
      expect(
        await refused(place.db.transaction((tx) => changeNotice(tx, by, made.id, 1, body({ text: 'x' })))),
      ).toMatchObject({ status });
      expect(await refused(place.db.transaction((tx) => removeNotice(tx, by, made.id)))).toMatchObject({ status });
    }
    await place.db.transaction((tx) => removeNotice(tx, who, made.id));
    expect(await refused(place.db.transaction((tx) => bringBackNotice(tx, reader, made.id)))).toMatchObject({
      status: 403,
    });
  });
});
