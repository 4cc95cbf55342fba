import type { AnswerOf } from '@idrel/contract/http';
import type { proposedEndpoints } from '@idrel/contract/lineage';
import { type FoundFlow, keyOf } from '@idrel/readers/connectors';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { keepAsked } from '../src/catalog/index.ts';
import { takeSheet, writeImpact } from '../src/curation/sheets.ts';
import { proposedImpact } from '../src/lineage/index.ts';
import { tellOfProposed } from '../src/lineage/tellOfProposed.ts';
import { loadWho, type Who } from '../src/people/index.ts';
import { readCsv, readWorkbook } from '../src/platform/sheets.ts';
import { storeRuns } from '../src/scanning/flowRuns.ts';
import { listDiscussions, waitingFor } from '../src/writing/discussions.ts';
import { addPolicy, freshDatabase, personWith, refused, staffed } from './place.ts';
import { scanWorld, type World } from './world.ts';

let place: Awaited<ReturnType<typeof freshDatabase>>;
let home: Awaited<ReturnType<typeof staffed>>;
const WORLD: World = {
  person: { id: 'integer', mail: 'character varying(80)', joined: 'date' },
  address: { mail: 'character varying(80)', digest: 'text' },
  yearly: { year: 'integer', people: 'bigint' },
  copy: { mail: 'character varying(80)' },
  office: { person: 'integer' },
};
const key = (...names: string[]) => keyOf('db', 's', ...names);
const view = (
  to: string,
  from: string,
  edges: [string, string, 'copied' | 'masked' | 'transformed'][],
  filters: string[] = [],
): FoundFlow => ({
  key: key(to),
  kind: 'view',
  origin: 'view',
  statement: '',
  problems: [],
  influences: filters.map((column) => ({ from: key(from, column), kind: 'filter' as const, to: key(to) })),
  edges: edges.map(([a, b, kind]) => ({ from: key(from, a), to: key(to, b), kind })),
});
const FLOWS = [
  view('address', 'person', [
    ['mail', 'mail', 'copied'],
    ['mail', 'digest', 'masked'],
  ]),
  view('yearly', 'person', [['joined', 'year', 'transformed']], ['mail']),
];
let load = '';
let olga: Who;
const idOf = async (path: string) =>
  (await place.db.one<{ id: string }>('select id from asset where key = $1', [key(...path.split('.'))]))?.id ?? '';
type What = Parameters<typeof proposedImpact>[2]['what'];
const ask = async (path: string, what: What, to?: string, who: Who = home.reader) => {
  const told = await proposedImpact(place.db, who, { asset: await idOf(path), what, to });
  return { ...told, all: told.rows.map((row) => `${row.consequence} ${row.path}`).sort() };
};

beforeAll(async () => {
  place = await freshDatabase();
  home = await staffed(place.db);
  await scanWorld(place.db, home, WORLD, new Map(), FLOWS);
  await place.db.run("update source set kind = 'postgresql' where id = $1", [home.sourceId]);
  const night = await place.db.one<{ id: string }>(
    "insert into source (name, kind, address, domain_id) values ('Night', 'events', '{}', $1) returning id",
    [home.domainId],
  );
  load =
    (
      await place.db.one<{ id: string }>(
        "insert into asset (source_id, domain_id, kind, name, key, depth) values ($1, $2, 'flow', 'load', 'load', 0) returning id",
        [night?.id, home.domainId],
      )
    )?.id ?? '';
  await place.db.run(
    `
      with f as (
        insert into flow (source_id, asset_id, kind, statement, origin, key) values ($1, $2, 'load', '', 'run event', 'load') returning id
      )
      insert into lineage_edge (flow_id, from_id, to_id, kind) select id, $3, $4, 'copied' from f`,
    [night?.id, load, await idOf('address.mail'), await idOf('copy.mail')],
  );
  olga = await personWith(place.db, 'Olga', 'editor', home.domainId);
  // Who knows an asset answers for nothing.
  await place.db.run(
    "insert into asset_person (asset_id, person_id, role) values ($1, $2, 'owner'), ($3, $2, 'steward'), ($1, $4, 'expert')",
    [await idOf('copy'), olga.id, load, home.editor.id],
  );
});
afterAll(() => place?.drop());

it('tells what refuses, fails or gets nothing new, each with the way, the flows between, and who answers for them', async () => {
  const told = await ask('person.mail', 'drop');
  expect(told.all).toEqual(['refused s.address', 'refused s.yearly', 'stale s.copy']);
  expect(told.rows.find(({ path }) => path === 's.copy')).toMatchObject({
    way: ['s.person.mail', 's.address', 's.copy'],
    distance: 2,
    owners: ['Olga'],
    why: 'What fills it reads address, which cannot be read any more.',
  });
  expect(told.flows).toMatchObject([
    { id: load, consequence: 'fails', why: 'It reads address, which cannot be read any more: its next run fails.' },
  ]);
  expect(told.people).toMatchObject([{ name: 'Olga', group: false, roles: ['owner', 'steward'], assets: 2 }]);
  expect({ hidden: told.hidden, more: told.more }).toEqual({ hidden: 0, more: 0 });
});

it('tells of a table what is made of it as a whole, and of a flow what it fills', async () => {
  expect((await ask('person', 'drop')).all).toEqual(['refused s.address', 'refused s.yearly', 'stale s.copy']);
  expect((await ask('person', 'rename')).all).toEqual(['unharmed s.address', 'unharmed s.yearly']);
  const stopped = await proposedImpact(place.db, home.reader, { asset: load, what: 'stop' });
  expect(stopped.rows).toMatchObject([
    { path: 's.copy', consequence: 'stale', why: 'load fills it: nothing new comes.' },
  ]);
});

it('finds where a value still shows that is to be masked', async () => {
  expect((await ask('person.mail', 'mask')).all).toEqual([
    'rows s.yearly',
    'shows s.address.mail',
    'shows s.copy.mail',
    'unharmed s.address.digest',
  ]);
});

it('says what has to be known of the asset itself', async () => {
  await place.db.run(`update asset set native = native || '{"references": ["s.person.id"]}' where id = $1`, [
    await idOf('office.person'),
  ]);
  await place.db.run(`update asset set native = native || '{"primaryKey": true}' where id = $1`, [
    await idOf('person.id'),
  ]);
  await place.db.run(`insert into column_profile (asset_id, facts) values ($1, '{"rows": 4000, "nulls": 12}')`, [
    await idOf('person.mail'),
  ]);
  expect((await ask('person.id', 'drop')).facts).toEqual([
    'It is part of the primary key.',
    'Foreign keys refer to it: s.office.person.',
  ]);
  expect((await ask('person.mail', 'rename', 'joined')).facts).toEqual([
    'There is a column of the name joined beside it already.',
  ]);
  const steward = await personWith(place.db, 'Stine', 'steward', home.domainId);
  expect((await ask('person.mail', 'forbid nulls', undefined, steward)).facts).toEqual([
    '12 of 4,000 values that were looked at are empty: they need a value first.',
  ]);
  // No figure of values that somebody may not read.
  expect((await ask('person.mail', 'forbid nulls')).facts).toEqual([
    'How many rows have no value is not known, or not for you to see.',
  ]);
  expect((await ask('person.joined', 'forbid nulls', undefined, steward)).facts).toEqual([
    'How many rows have no value is not known, or not for you to see.',
  ]);
});

it('refuses what suits no such asset, and a type that is not said', async () => {
  const asset = await idOf('person');
  expect(await refused(proposedImpact(place.db, home.reader, { asset, what: 'retype', to: 'text' }))).toMatchObject({
    status: 422,
  });
  expect(
    await refused(proposedImpact(place.db, home.reader, { asset: await idOf('person.id'), what: 'retype' })),
  ).toMatchObject({
    status: 422,
    detail: 'The new type is missing.',
  });
  expect(await refused(proposedImpact(place.db, home.stranger, { asset, what: 'drop' }))).toMatchObject({
    status: 404,
  });
});

it('names policies and checks that look at what changes, and who asked, to who may see that', async () => {
  await addPolicy(place.db, {
    name: 'Mails stay',
    effect: 'protect',
    everyone: true,
    mask: { kind: 'blank' },
    assetIds: [await idOf('person')],
    columns: ['mail'],
  });
  await storeRuns(place.db, [
    {
      assetId: load,
      runs: [
        {
          id: '1',
          state: 'done',
          began: null,
          ended: new Date().toISOString(),
          rows: null,
          message: null,
          checks: [{ of: 's.copy.mail', what: 'not null', passed: true }],
        },
      ],
    },
  ]);
  await place.db.transaction(async (tx) =>
    keepAsked(tx, home.sourceId, null, [
      {
        print: 'a',
        text: 'select mail from s.copy',
        person: { id: home.reader.id, times: 3 },
        reads: [
          [await idOf('copy'), ['shown']],
          [await idOf('copy.mail'), ['shown']],
        ],
        words: '',
        whole: true,
      },
    ]),
  );
  await addPolicy(place.db, {
    name: 'No mails for programs',
    effect: 'deny',
    everyone: true,
    classKeys: ['iban'],
  });
  await place.db.run(
    "insert into carried (asset_id, class_key, from_id, via, how) values ($1, 'iban', $1, 'itself', 'person')",
    [await idOf('person.mail')],
  );
  const seen = await ask('person.mail', 'mask', undefined, olga);
  expect(seen.policies).toMatchObject([
    { name: 'No mails for programs', effect: 'deny', why: 'holds by the class Bank account (IBAN)' },
    { name: 'Mails stay', effect: 'protect', why: 'names the column' },
  ]);
  expect(seen.checks).toEqual([{ of: 's.copy.mail', what: 'not null', flow: 'load' }]);
  expect(seen.people).toContainEqual(expect.objectContaining({ id: home.reader.id, roles: ['asks'], asked: 3 }));
  expect(seen.rows.find(({ path }) => path === 's.copy.mail')).toMatchObject({ asked: 3 });
  // Who asks is told to who may edit there.
  expect((await ask('person.mail', 'mask')).people.map(({ name }) => name)).toEqual(['Olga']);
});

it('tells those concerned in one discussion; who may not see it, where they may', async () => {
  await place.db.run('update asset set domain_id = $1 where id = $2 or parent_id = $2', [
    home.elsewhere,
    await idOf('copy'),
  ]);
  const stranger = await personWith(place.db, 'Stranger', 'reader', home.elsewhere);
  const admin = await personWith(place.db, 'Adele', 'administrator', null);
  await place.db.run(
    "insert into asset_person (asset_id, person_id, role) values ($1, $2, 'steward'), ($3, $2, 'custodian')",
    [await idOf('copy'), stranger.id, await idOf('yearly')],
  );
  const change = { asset: await idOf('person.mail'), what: 'drop' as const };
  const people = [olga.id, stranger.id];
  const told: AnswerOf<typeof proposedEndpoints.tell> = await place.db.transaction((tx) =>
    tellOfProposed(tx, admin, { ...change, text: 'It **goes** on the 31st.', people }),
  );
  expect(told).toMatchObject({ told: 2, notTold: [], discussions: [{ path: 's.person.mail' }, { path: 's.copy' }] });
  expect((await waitingFor(place.db, olga, 10)).items).toMatchObject([
    { why: 'mentioned', discussion: { asset: { path: 's.person.mail' } } },
  ]);
  const theirs = (await waitingFor(place.db, (await loadWho(place.db, stranger.id)) as Who, 10)).items;
  expect(theirs).toMatchObject([{ discussion: { asset: { path: 's.copy' } } }]);
  expect(theirs[0]?.discussion.remarks[0]?.text).toContain('It **goes** on the 31st.');
  expect(
    await refused(
      place.db.transaction((tx) => tellOfProposed(tx, admin, { ...change, text: 'x', people: [admin.id] })),
    ),
  ).toMatchObject({ status: 422 });
});

it('lets names of what somebody may not see out of reasons and ways', async () => {
  const told = await ask('person.mail', 'drop');
  expect(told.all).toEqual(['refused s.address', 'refused s.yearly']);
  expect(told.hidden).toBe(1);
  await place.db.run('update asset set domain_id = $1 where id = $2 or parent_id = $2', [
    home.elsewhere,
    await idOf('address'),
  ]);
  await place.db.run('update asset set domain_id = $1 where id = $2 or parent_id = $2', [
    home.domainId,
    await idOf('copy'),
  ]);
  const behind = (await ask('person.mail', 'drop')).rows.find(({ path }) => path === 's.copy');
  expect(behind).toMatchObject({
    why: 'What fills it reads something that you may not see, which cannot be read any more.',
    way: ['s.person.mail', 'an asset you may not see', 's.copy'],
  });
  expect(JSON.stringify(await ask('person.mail', 'drop'))).not.toContain('address');
  await place.db.run('update asset set domain_id = $1 where id = $2 or parent_id = $2', [
    home.domainId,
    await idOf('address'),
  ]);
});

it('goes out as a sheet with what a spreadsheet would take for a formula made harmless, and comes back filled in', async () => {
  await place.db.run("update source set name = '=cmd()' where id = $1", [home.sourceId]);
  const asset = await idOf('person.mail');
  const csv = await writeImpact(place.db, olga, {
    asset,
    direction: 'downstream',
    what: 'drop',
    to: undefined,
    format: 'csv',
  });
  expect({ name: csv.name, type: csv.type }).toEqual({ name: 'impact of mail.csv', type: 'text/csv; charset=utf-8' });
  const [heads = [], ...rows] = readCsv(Buffer.from(csv.content, 'base64').toString('utf8').slice(1));
  const place_ = (head: string) => heads.indexOf(head);
  const line = rows.find((row) => row[place_('path')] === 's.copy') as string[];
  expect([line[place_('source')], line[place_('consequence')], line[place_('steps')], line[place_('owners')]]).toEqual([
    "'=cmd()",
    'stale',
    '2',
    'Olga',
  ]);
  line[place_('notices')] = 'caution until 2099-12-31: Gets nothing new from there';
  line[place_('remark')] = 'Will read the register instead.';
  const content = Buffer.from(
    [heads, ...rows].map((row) => row.map((cell) => `"${cell.replaceAll('"', '""')}"`).join(',')).join('\n'),
  ).toString('base64');
  const body = { name: 'impact.csv', content, leave: [], seen: undefined };
  const preview = await takeSheet(place.db, olga, body, true);
  expect(preview.cells).toMatchObject([
    { field: 'notices', before: '', newer: false },
    { field: 'remark', after: 'Will read the register instead.' },
  ]);
  expect({ flaws: preview.flaws, notKept: preview.notKept }).toEqual({ flaws: [], notKept: [] });
  expect(await takeSheet(place.db, olga, { ...body, seen: preview.seen }, false)).toMatchObject({
    changed: 1,
    refused: [],
  });
  const said = (await listDiscussions(place.db, olga, await idOf('copy'), false)).items.map(
    ({ remarks }) => remarks[0]?.text,
  );
  expect(said).toContain('Will read the register instead.');
  expect(
    await place.db.rows('select kind, text, ends::text from notice where asset_id = $1', [await idOf('copy')]),
  ).toEqual([{ kind: 'caution', text: 'Gets nothing new from there', ends: '2099-12-31' }]);
  // The same sheet once more says nothing new.
  expect((await takeSheet(place.db, olga, body, true)).cells).toEqual([]);
  const book = await readWorkbook(
    Buffer.from(
      (
        await writeImpact(place.db, olga, {
          asset: await idOf('person'),
          direction: 'downstream',
          what: undefined,
          to: undefined,
          format: 'xlsx',
        })
      ).content,
      'base64',
    ),
  );
  expect(book[1]?.[book[0]?.indexOf('path') ?? -1]).toBe('s.address');
});
