import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { getAsset } from '../src/catalog/index.ts';
import { editAsset } from '../src/curation/index.ts';
import { mustFit, takeSheet, writeAssets } from '../src/curation/sheets.ts';
import { addTag } from '../src/curation/tags.ts';
import { addTerm } from '../src/glossary/index.ts';
import { loadWho, type Who } from '../src/people/index.ts';
import { readCsv } from '../src/platform/sheets.ts';
import { freshDatabase, furnish, refused } from './place.ts';

let place: Awaited<ReturnType<typeof freshDatabase>>;
let who: Who;
let editor: Who;
let sourceId: string;
let domainId: string;
let elsewhereId: string;

const one = async (sql: string, bind: unknown[]) => (await place.db.one<{ id: string }>(sql, bind))?.id ?? '';
beforeAll(async () => {
  place = await freshDatabase();
  const made = await furnish(place.db);
  ({ sourceId, domainId } = made);
  elsewhereId = await one("insert into domain (name) values ('Crewing') returning id", []);
  who = (await loadWho(place.db, made.personId)) as Who;
  const id = await one("insert into person (name, email) values ('Edda', 'edda@example.org') returning id", []);
  await place.db.run(
    "insert into role_grant (person_id, role, domain_id) values ($1, 'editor', $2), ($1, 'reader', $3)",
    [id, domainId, elsewhereId],
  );
  await place.db.run("insert into person (name, email) values ('Ole', 'ole@example.org'), ('ole', 'ole@other.org')");
  editor = (await loadWho(place.db, id)) as Who;
  await place.db.transaction(async (tx) => {
    await addTerm(tx, who, { name: 'Fare' });
    await addTag(tx, who, {
      name: 'retention',
      description: '',
      permitted: ['short', 'long'],
      kinds: null,
      groupIds: [],
      travels: [],
    });
    await addTag(tx, who, { name: 'ticket', description: '', permitted: null, kinds: null, groupIds: [], travels: [] });
  });
});
afterAll(() => place.drop());
beforeEach(async () => {
  for (const table of ['asset', 'journal']) await place.db.run(`delete from ${table}`);
});

const asset = (name: string, domain = domainId) =>
  one(
    `insert into asset (source_id, domain_id, kind, name, key, depth) values ($1, $2, 'table', $3, $3, 0) returning id`,
    [sourceId, domain, name],
  );
const edit = async (id: string, change: Parameters<typeof editAsset>[4]) => {
  const { version } = await getAsset(place.db, who, id);
  return place.db.transaction((tx) => editAsset(tx, who, id, version, change));
};
/** The cells of a sheet of assets, to be written over. */
const out = async (...ids: string[]) =>
  readCsv(Buffer.from((await writeAssets(place.db, who, ids, 'csv')).content, 'base64').toString());
const asFile = (rows: string[][]) => ({
  name: 'assets.csv',
  content: Buffer.from(
    rows.map((row) => row.map((cell) => `"${cell.replaceAll('"', '""')}"`).join(',')).join('\n'),
  ).toString('base64'),
  leave: [] as string[],
});
const write = (rows: string[][], line: number, column: string, text: string) => {
  const at = (rows[0] ?? []).indexOf(column);
  (rows[line] as string[])[at] = text;
};
const take = (body: Parameters<typeof takeSheet>[2], preview = false, by = who) =>
  takeSheet(place.db, by, body, preview);

describe('a sheet of assets', () => {
  it.each(['csv', 'xlsx'] as const)('that comes back as it went out changes nothing, as %s', async (format) => {
    const [first, second] = [await asset('fare'), await asset('=band')];
    const [tag] = await place.db.rows<{ id: string }>("select id from tag where name = 'ticket'");
    const ole = await one("select id from person where email = 'ole@other.org'", []);
    await edit(first, {
      description: '=1+1\n"two" | lines',
      ownerIds: [ole],
      stewardIds: [who.id, ole],
      tags: [{ id: tag?.id ?? '', value: 'A/1 | x' }],
      standing: 'reviewed',
    });
    const file = await writeAssets(place.db, who, [second, first], format);
    const told = await take({ name: file.name, content: file.content, leave: [] });
    expect(told).toMatchObject({ cellCount: 0, same: 2, flaws: [], notKept: [], changed: 0 });
  });

  it('is taken in as it was seen, cell by cell, each as an edit by hand', async () => {
    const [first, second] = [await asset('fare'), await asset('band')];
    const rows = await out(first, second);
    write(rows, 1, 'description', 'What it costs.');
    write(rows, 1, 'owners', 'ole@example.org');
    write(rows, 1, 'tags', 'Retention/SHORT | ticket/77');
    write(rows, 2, 'terms', 'fare');
    write(rows, 2, 'standing', 'reviewed');
    const body = asFile(rows);
    const seen = await take(body, true);
    expect(seen).toMatchObject({ assets: 2, cellCount: 5, changed: 0 });
    expect((await getAsset(place.db, who, first)).description).toBeNull();
    const told = await take({ ...body, seen: seen.seen, leave: ['line 3 standing'] });
    expect(told).toMatchObject({ changed: 2, refused: [] });
    const [fare, band] = [await getAsset(place.db, who, first), await getAsset(place.db, who, second)];
    expect(fare).toMatchObject({ description: 'What it costs.', version: 2 });
    expect(fare.owners.map(({ name }) => name)).toEqual(['Ole']);
    expect(fare.tags.map(({ name, value }) => `${name}/${value}`)).toEqual(['retention/short', 'ticket/77']);
    expect(band).toMatchObject({ standing: 'unreviewed', terms: [expect.objectContaining({ name: 'Fare' })] });
    const journal = await place.db.rows('select 1 from journal where subject_id = any($1::text[])', [[first, second]]);
    expect(journal).toHaveLength(2);
  });

  it('tells what somebody else wrote since, and is refused where more was', async () => {
    const [first, second] = [await asset('fare'), await asset('band')];
    const rows = await out(first, second);
    write(rows, 1, 'description', 'Mine.');
    await edit(first, { description: 'Theirs.' });
    const body = asFile(rows);
    const seen = await take(body, true);
    expect(seen.cells).toMatchObject([{ field: 'description', before: 'Theirs.', after: 'Mine.', newer: true }]);
    await edit(first, { description: 'Theirs again.' });
    expect(await refused(take({ ...body, seen: seen.seen }))).toMatchObject({ code: 'differs-now' });
    expect(await take({ ...body, leave: ['line 2 description'] })).toMatchObject({ changed: 0 });
    expect((await getAsset(place.db, who, first)).description).toBe('Theirs again.');
  });

  it('changes nothing beyond the rights of who takes it in, and goes on with the rest', async () => {
    const [own, other] = [await asset('fare'), await asset('crew', elsewhereId)];
    const rows = await out(own, other);
    for (const line of [1, 2]) write(rows, line, 'description', 'Written by Edda.');
    write(rows, 1, 'standing', 'reviewed');
    const told = await take(asFile(rows), false, editor);
    expect(told.refused.map(({ path }) => path)).toEqual(['fare', 'crew']);
    write(rows, 1, 'standing', 'unreviewed');
    expect(await take(asFile(rows), false, editor)).toMatchObject({ changed: 1, refused: [{ path: 'crew' }] });
    expect((await getAsset(place.db, who, other)).description).toBeNull();
    // What they may not see is not there for them, whatever its id.
    const hidden = await asset('payroll', await one("insert into domain (name) values ('Hidden') returning id", []));
    const line = ['id', 'version', 'description'];
    expect(await take(asFile([line, [hidden, '1', 'x']]), true, editor)).toMatchObject({
      cellCount: 0,
      flaws: [{ what: 'No asset has this id, or you may not see it.' }],
    });
    expect((await writeAssets(place.db, editor, [hidden], 'csv')).content.length).toBeLessThan(300);
  });

  it('that is none, or too large, is refused in words', async () => {
    const content = Buffer.from('x').toString('base64');
    expect(await refused(take({ name: 'a.doc', content, leave: [] }))).toMatchObject({ code: 'invalid' });
    expect(await take({ name: 'a.csv', content, leave: [] })).toMatchObject({ flaws: [{ at: 'line 1' }], changed: 0 });
    expect(() => mustFit(Array.from({ length: 20_001 }, () => ''))).toThrow('More than 20,000 assets are found.');
    await place.db.run(
      "insert into asset (source_id, domain_id, kind, name, key, depth) select $1, $2, 'table', 't' || i, 't' || i, 0 from generate_series(1, 2001) i",
      [sourceId, domainId],
    );
    const all = await place.db.rows<{ id: string }>('select id from asset', []);
    const rows = [['id', 'version', 'description'], ...all.map(({ id }) => [id, '1', 'The same for all.'])];
    expect(await refused(take(asFile(rows)))).toMatchObject({ detail: 'The sheet changes 2,001 assets.' });
  });
});
