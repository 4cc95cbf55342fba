import type { EdgeBody } from '@idrel/contract/lineage';
import { type FoundFlow, keyOf } from '@idrel/readers/connectors';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { findAssets } from '../src/catalog/index.ts';
import { takeEdges } from '../src/lineage/edgeSheet.ts';
import { impactList } from '../src/lineage/impact.ts';
import { lineagePicture } from '../src/lineage/picture.ts';
import { edgesOf, sayEdges, sayRight, sayWrong, unsayEdge } from '../src/lineage/said.ts';
import type { Who } from '../src/people/index.ts';
import { settleRename } from '../src/scanning/renames.ts';
import { addPolicy, finderHere, freshDatabase, refused, staffed } from './place.ts';
import { scanWorld, type World } from './world.ts';

let place: Awaited<ReturnType<typeof freshDatabase>>;
let home: Awaited<ReturnType<typeof staffed>>;
const WORLD: World = {
  form: { name: 'text', berth: 'text' },
  call: { vessel: 'text', berth: 'text', dues: 'numeric' },
  bill: { vessel: 'text', amount: 'numeric' },
};
const key = (...names: string[]) => keyOf('db', 's', ...names);
/** The bill is made from calls. */
const BILL: FoundFlow = {
  key: key('bill'),
  kind: 'view',
  origin: 'view',
  statement: 'select vessel, dues from s.call',
  problems: [],
  edges: [
    { from: key('call', 'vessel'), to: key('bill', 'vessel'), kind: 'copied' },
    { from: key('call', 'dues'), to: key('bill', 'amount'), kind: 'copied' },
  ],
  influences: [],
};
const scan = (world = WORLD) => scanWorld(place.db, home, world, new Map(), [BILL]);

beforeAll(async () => {
  place = await freshDatabase();
  home = await staffed(place.db);
  await scan();
});
afterAll(() => place?.drop());

const idOf = async (path: string): Promise<string> =>
  (
    await place.db.one<{ id: string }>('select id from asset where key = $1 and gone_at is null', [
      key(...path.split('.')),
    ])
  )?.id ?? '';
const ends = async (from: string, to: string) => ({ from: { id: await idOf(from) }, to: { id: await idOf(to) } });
const say = async (who: Who, from: string, to: string, more: Partial<EdgeBody> = {}) =>
  (
    await place.db.transaction(async (tx) =>
      sayEdges(tx, who, [{ ...(await ends(from, to)), kind: 'copied', flow: null, note: '', ...more }]),
    )
  )[0];
const wrong = async (who: Who, from: string, to: string) =>
  place.db.transaction(async (tx) => sayWrong(tx, who, await idOf(from), await idOf(to), 'They only look alike.'));
const right = async (who: Who, from: string, to: string) =>
  place.db.transaction(async (tx) => sayRight(tx, who, await idOf(from), await idOf(to)));
const into = async (path: string) =>
  (await edgesOf(place.db, home.who, await idOf(path), 'upstream', { ended: false, limit: 100 })).items;
const after = async (path: string) =>
  (await impactList(place.db, home.who, await idOf(path), 'downstream')).map((row) => row.name).sort();

describe('an edge that is found', () => {
  it('says what happens to the value, to whoever may see what says it; of what was asked at a source nothing', async () => {
    const [vessel, call] = [key('call', 'vessel'), key('bill', 'vessel')];
    const told = async (expression?: string) => {
      const edge = { from: vessel, to: call, kind: 'transformed', ...(expression ? { expression } : {}) };
      await scanWorld(place.db, home, WORLD, new Map(), [{ ...BILL, edges: [edge] }]);
      return (await into('bill.vessel')).map((row) => row.expression);
    };
    expect(await told('upper(c.vessel)')).toEqual(['upper(c.vessel)']);
    // Nothing else of it changed: the edge follows all the same.
    expect(await told('trim(c.vessel)\nupper(c.vessel)')).toEqual(['trim(c.vessel)\nupper(c.vessel)']);
    await place.db.run("update flow set origin = 'asked' where origin = 'view'");
    expect((await into('bill.vessel')).map((row) => row.expression)).toEqual([null]);
    expect(await told()).toEqual([null]);
    await scan();
  });
});

describe('an edge that a person says', () => {
  it('is drawn and followed like any other, with who said it and why; again it changes nothing', async () => {
    const note = 'The harbour office types it in.';
    const said = await say(home.editor, 'form.berth', 'call.berth', { note });
    expect(said).toEqual({ state: 'said', id: expect.any(String) });
    expect(await say(home.editor, 'form.berth', 'call.berth', { note })).toEqual({ ...said, state: 'as it was' });
    expect(await into('call')).toMatchObject([
      {
        from: { path: 's.form.berth' },
        to: { path: 's.call.berth' },
        kind: 'copied',
        origin: 'by hand',
        said: { by: 'Edda', note, version: 1 },
        wrong: null,
      },
    ]);
    expect(await after('form')).toEqual(['bill', 'call']);
    const { links } = await lineagePicture(place.db, home.who, await idOf('call'), { upstream: 1, downstream: 0 });
    expect(links).toMatchObject([{ fromTable: await idOf('form'), said: true, wrong: false }]);
    const filter = 'kind:table upstream:call';
    const found = await findAssets(place.db, finderHere(place.db), home.who, {
      filter,
      sort: 'name',
      descending: false,
      limit: 10,
      offset: 0,
    });
    expect(found.items.map(({ name }) => name)).toContain('form');
    expect(await say(home.editor, 'form.berth', 'call.berth', { kind: 'transformed' })).toEqual({
      ...said,
      state: 'changed',
    });
    const journal = await place.db.rows("select action, after from journal where action like 'edge%' order by at");
    expect(journal).toEqual([
      { action: 'edge said', after: { from: 's.form.berth', kind: 'copied', note } },
      { action: 'edge said otherwise', after: { kind: 'transformed', note: null } },
    ]);
  });

  it('outlives scans, and a rename of what it leads to', async () => {
    await scan();
    expect(await into('call.berth')).toHaveLength(1);
    const { call, ...others } = WORLD;
    const { renames, runId } = await scan({ ...others, port_call: call ?? {} });
    const [rename] = renames ?? [];
    expect(rename).toBeDefined();
    await place.db.transaction((tx) =>
      settleRename(tx, home.who, runId, { from: rename?.from.id ?? '', to: rename?.to.id ?? '', same: true }),
    );
    expect(await into('port_call.berth')).toMatchObject([{ said: { by: 'Edda' }, from: { path: 's.form.berth' } }]);
    const back = await scan();
    await place.db.transaction((tx) =>
      settleRename(tx, home.who, back.runId, {
        from: back.renames?.[0]?.from.id ?? '',
        to: back.renames?.[0]?.to.id ?? '',
        same: true,
      }),
    );
    await scan();
    expect(await into('call.berth')).toHaveLength(1);
  });

  it('can lead from table to table, and through a flow', async () => {
    const [flow] = await place.db.rows<{ id: string }>(
      "insert into asset (source_id, domain_id, kind, name, key, depth) values ($1, $2, 'flow', 'night load', 'night load', 0) returning id",
      [home.sourceId, home.domainId],
    );
    expect(await say(home.editor, 'form', 'bill', { flow: flow?.id ?? '' })).toMatchObject({ state: 'said' });
    const picture = await lineagePicture(place.db, home.who, flow?.id ?? '', { upstream: 2, downstream: 2 });
    expect(picture.flows).toMatchObject([{ name: 'night load', from: [await idOf('form')], to: [await idOf('bill')] }]);
    expect((await impactList(place.db, home.who, flow?.id ?? '', 'upstream')).map(({ name }) => name)).toEqual([
      'form',
    ]);
    const [edge] = (await into('bill')).filter(({ said }) => said !== null);
    expect(edge?.flow?.name).toBe('night load');
    await place.db.transaction((tx) => unsayEdge(tx, home.editor, edge?.said?.id ?? ''));
    expect((await into('bill')).filter(({ said }) => said !== null)).toEqual([]);
  });

  it('is refused with the reason where it cannot be, and the others are said', async () => {
    const id = async (path: string) => ({ id: await idOf(path) });
    const [schema] = await place.db.rows<{ id: string }>("select id from asset where kind = 'schema'");
    const one = { kind: 'copied', flow: null, note: '' } as const;
    const answers = await place.db.transaction(async (tx) =>
      sayEdges(tx, home.editor, [
        { ...one, from: await id('form.name'), to: await id('form.name') },
        { ...one, from: await id('call.vessel'), to: await id('bill.vessel') },
        { ...one, from: { id: schema?.id ?? '' }, to: await id('bill') },
        { ...one, from: { address: '/at/Nowhere/x' }, to: await id('bill') },
        { ...one, from: await id('form.name'), to: await id('call.vessel'), flow: await idOf('bill') },
        { ...one, from: { address: '/at/Test source/s/form/name' }, to: await id('bill.vessel') },
      ]),
    );
    expect(answers.map(({ state, why }) => why ?? state)).toEqual([
      'Nothing comes from itself.',
      'found already',
      's is a schema: it holds what edges lead to.',
      expect.stringContaining('not there'),
      's.bill is a table, and no flow.',
      'said',
    ]);
    expect(await say(home.reader, 'form.name', 'call.vessel')).toMatchObject({ state: 'refused' });
    expect(await say(home.stranger, 'form.name', 'call.vessel')).toMatchObject({ state: 'refused' });
  });
});

describe('a found edge that is said to be wrong', () => {
  it('is struck, is followed no further, and stays so when it is found again', async () => {
    await wrong(home.editor, 'call.dues', 'bill.amount');
    await wrong(home.editor, 'call.vessel', 'bill.vessel');
    const struck = async () => (await into('bill')).filter((edge) => edge.wrong).map(({ to }) => to.name);
    expect(await struck()).toEqual(expect.arrayContaining(['amount', 'vessel']));
    expect(await after('call')).toEqual([]);
    expect(await after('call.dues')).toEqual([]);
    await scan();
    expect(await struck()).toHaveLength(2);
    expect(await after('call')).toEqual([]);
    await place.db.run("delete from flow where origin = 'view'");
    await scan();
    expect(await after('call')).toEqual([]);
    expect((await into('bill')).find(({ to }) => to.name === 'amount')?.wrong).toMatchObject({
      by: 'Edda',
      reason: 'They only look alike.',
    });
    expect(await say(home.editor, 'call.dues', 'bill.amount')).toMatchObject({
      state: 'refused',
      why: 'Somebody said that this edge is wrong.',
    });
  });

  it('can be taken back', async () => {
    await right(home.editor, 'call.dues', 'bill.amount');
    await right(home.editor, 'call.vessel', 'bill.vessel');
    expect(await after('call')).toEqual(['bill']);
    expect(await after('call.dues')).toEqual(['amount']);
    expect(await refused(right(home.editor, 'call.dues', 'bill.amount'))).toMatchObject({ status: 404 });
  });

  it('takes the right to edit what it leads to, and an edge that was found', async () => {
    expect(await refused(wrong(home.reader, 'call.dues', 'bill.amount'))).toMatchObject({ status: 403 });
    expect(await refused(wrong(home.stranger, 'call.dues', 'bill.amount'))).toMatchObject({ status: 404 });
    expect(await refused(wrong(home.editor, 'form.berth', 'bill.amount'))).toMatchObject({ status: 404 });
    expect(await refused(wrong(home.editor, 'form.berth', 'call.berth'))).toMatchObject({ status: 422 });
  });
});

describe('edges of a sheet', () => {
  const at = (path: string) => `Test source/s/${path}`;
  const sheet = (...lines: string[]) => ({
    name: 'pasted.csv',
    content: Buffer.from(['from;to;what happens;note', ...lines].join('\n')).toString('base64'),
    leave: [] as string[],
  });
  const LINES = [
    `${at('form/name')};${at('bill/vessel')};transformed;Typed over.`,
    `${at('call/dues')};${at('bill/amount')};;`,
    `${at('form/nothing')};${at('bill/amount')};;`,
    `${at('form/name')};${at('call/vessel')};;`,
  ];

  it('are shown with what would become of each, said as they were seen, and those that are left stay unsaid', async () => {
    const before = await into('bill.vessel');
    const told = await takeEdges(place.db, home.editor, sheet(...LINES), true);
    expect(told.rows.map(({ at: line, state }) => `${line} ${state}`)).toEqual([
      'line 2 changed',
      'line 3 found already',
      'line 4 refused',
      'line 5 said',
    ]);
    expect(told.rows[2]).toMatchObject({ why: expect.any(String), mend: expect.any(String) });
    expect(told).toMatchObject({ said: 2, same: 1, refused: 1, written: false });
    expect(await into('bill.vessel')).toEqual(before);
    const body = { ...sheet(...LINES), seen: told.seen, leave: ['line 5'] };
    const taken = await takeEdges(place.db, home.editor, body, false);
    expect(taken).toMatchObject({ said: 1, written: true });
    expect((await into('bill.vessel')).map(({ said }) => said?.note ?? null)).toContain('Typed over.');
    expect((await into('call.vessel')).filter(({ said }) => said)).toEqual([]);
    // Said already by then, something else would come of it.
    expect(await refused(takeEdges(place.db, home.editor, body, false))).toMatchObject({ code: 'differs-now' });
    expect((await takeEdges(place.db, home.editor, sheet(...LINES), true)).rows[0]?.state).toBe('as it was');
  });

  it('are refused one by one to who may not say them, and whole where they are too many', async () => {
    const told = await takeEdges(place.db, home.reader, sheet(...LINES), true);
    expect(told.rows.map(({ state }) => state)).toEqual(['refused', 'refused', 'refused', 'refused']);
    const many = Array.from({ length: 501 }, (_, n) => `${at(`form/x${n}`)};${at('bill/amount')};;`);
    expect(await refused(takeEdges(place.db, home.editor, sheet(...many), true))).toMatchObject({ status: 422 });
  });
});

describe('what policies follow', () => {
  it('is not ended by who may only edit', async () => {
    await addPolicy(place.db, {
      name: 'follows',
      effect: 'protect',
      everyone: true,
      carried: true,
      mask: { kind: 'blank' },
      assetIds: [await idOf('form.berth')],
    });
    const { factsFor } = await import('../src/access/facts.ts');
    const origins = async () =>
      (
        await factsFor(place.db, { personId: home.reader.id, purpose: null }, 't.id = $1', [await idOf('bill')], 'any')
      )?.tables[0]?.columns
        .find(({ name }) => name === 'amount')
        ?.origins.map(({ name }) => name);
    expect(await origins()).toEqual(['dues']);
    await wrong(home.editor, 'call.dues', 'bill.amount');
    expect(await origins()).toEqual(['dues']);
    await right(home.editor, 'call.dues', 'bill.amount');
    const said = (await into('call.berth'))[0]?.said?.id ?? '';
    expect(await refused(place.db.transaction((tx) => unsayEdge(tx, home.editor, said)))).toMatchObject({
      status: 403,
    });
    expect(await say(home.editor, 'form.berth', 'call.berth', { kind: 'masked' })).toMatchObject({ state: 'refused' });
    await place.db.transaction((tx) => unsayEdge(tx, home.who, said));
    expect(await into('call.berth')).toEqual([]);
  });
});
