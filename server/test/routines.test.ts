import type { ManyAction } from '@idrel/contract/curation';
import type { RoutineBody, RoutineReplay, RoutineStep } from '@idrel/contract/routines';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { getAsset } from '../src/catalog/index.ts';
import { editAsset } from '../src/curation/index.ts';
import { addTag, changeTag } from '../src/curation/tags.ts';
import { loadWho, type Who } from '../src/people/index.ts';
import {
  beginDue,
  beginHeard,
  mailOfRoutine,
  type RoutineMail,
  tendRuns,
  waitingRoutines,
  workOnRun,
} from '../src/routines/index.ts';
import { answerQuestions, questionsFor } from '../src/routines/questions.ts';
import { replayRoutine } from '../src/routines/replay.ts';
import { getRun, goOn, listRuns, runAssets, runRoutine, stopRun, undoRun } from '../src/routines/runs.ts';
import {
  addRoutine,
  changeRoutine,
  listRoutines,
  previewRoutine,
  removeRoutine,
  takeRoutine,
} from '../src/routines/service.ts';
import { storeFindings } from '../src/scanning/storeFindings.ts';
import { mailbox } from './mailbox.ts';
import { finderHere, freshDatabase, furnish, personWith, refused } from './place.ts';

let place: Awaited<ReturnType<typeof freshDatabase>>;
let who: Who;
let editor: Who;
let sourceId: string;
let domainId: string;
let elsewhereId: string;

const ids = async (sql: string, bind: unknown[] = []) =>
  (await place.db.rows<{ id: string }>(sql, bind)).map((row) => row.id);

beforeAll(async () => {
  place = await freshDatabase();
  const made = await furnish(place.db);
  ({ sourceId, domainId } = made);
  [elsewhereId = ''] = await ids("insert into domain (name) values ('Crewing') returning id");
  who = (await loadWho(place.db, made.personId)) as Who;
  editor = await personWith(place.db, 'Edda', 'editor', domainId);
  await place.db.run('delete from checklist');
});
afterAll(() => place.drop());
beforeEach(async () => {
  for (const table of ['asset', 'tag', 'routine', 'scan_run', 'journal']) await place.db.run(`delete from ${table}`);
});

/** Tables, so many here and elsewhere. */
const assets = (here: number, elsewhere = 0): Promise<string[]> =>
  ids(
    `insert into asset (source_id, domain_id, kind, name, key, depth)
     select $1, case when i <= $4::int then $2::uuid else $3::uuid end, 'table', 'quay_' || i, 'quay_' || lpad(i::text, 6, '0'), 0
     from generate_series(1, $4::int + $5::int) i returning id`,
    [sourceId, domainId, elsewhereId, here, elsewhere],
  );
const act = (action: ManyAction): RoutineStep => ({ do: 'act', action });
const standing = (to: 'reviewed' | 'retiring' | 'unreviewed') => act({ kind: 'standing', standing: to });
const body = (steps: readonly RoutineStep[], more: Partial<RoutineBody> = {}): RoutineBody => ({
  name: 'Quays',
  filter: 'kind:table',
  steps,
  starts: null,
  guard: { most: null, times: 3 },
  enabled: true,
  ...more,
});
const make = (steps: readonly RoutineStep[], more: Partial<RoutineBody> = {}, by = who) =>
  place.db.transaction((tx) => addRoutine(tx, by, body(steps, more)));
const begin = async (id: string, by = who, seen?: number) => {
  const routine = (await listRoutines(place.db, by)).find((one) => one.id === id);
  if (!routine) throw new Error('no such routine');
  const changes = seen ?? (await previewRoutine(place.db, by, routine)).changes;
  return place.db.transaction((tx) => runRoutine(tx, by, id, changes));
};
const worked = async (runId: string, by = who) => {
  await workOnRun(place.db, runId);
  return getRun(place.db, by, runId);
};
const ran = async (id: string, by = who) => worked((await begin(id, by)).id, by);
const undone = async (runId: string, assetId: string | null = null, by = who) => {
  await place.db.transaction((tx) => undoRun(tx, by, runId, assetId));
  return worked(runId, by);
};
const at = async (id: string) => getAsset(place.db, who, id);
const edit = (id: string, change: Parameters<typeof editAsset>[4], by = who) =>
  place.db.transaction(async (tx) => editAsset(tx, by, id, (await getAsset(tx, by, id)).version, change));
/** The routine is due now, and is begun; its newest run is gone through. */
const due = async (id: string, by = who) => {
  await place.db.run("update routine set next_at = now() - interval '1 minute' where id = $1", [id]);
  await beginDue(place.db);
  const [run] = await listRuns(place.db, id);
  return worked(run?.id ?? '', by);
};
const DAILY = {
  on: 'schedule',
  schedule: { rhythm: { on: 'daily' }, time: '03:00', timeZone: 'Europe/Oslo' },
} as const;

describe('the steps of a routine', () => {
  it('are done one after the other, each to what is left; taken back in the other order', async () => {
    const all = await assets(2300);
    const one = all[0] as string;
    const { id } = await make([
      standing('reviewed'),
      { do: 'only', filter: 'name:quay_1*' },
      act({ kind: 'description', text: 'A quay called {name}.' }),
    ]);
    const seen = await previewRoutine(place.db, who, body((await listRoutines(place.db, who))[0]?.steps ?? []));
    expect(seen.steps.map(({ told, goesOn, effects }) => [told, goesOn, effects?.changes])).toEqual([
      ['Standing: reviewed', 2300, 2300],
      ['Only: name:quay_1*', 1111, undefined],
      ['Description: A quay called {name}.', 1111, 1111],
    ]);
    expect(seen.changes).toBe(3411);
    const run = await ran(id);
    expect(run).toMatchObject({ state: 'done', found: 2300, changed: 3411, why: 'asked', undoable: true });
    expect(run.steps.map(({ state, changed }) => [state, changed])).toEqual([
      ['done', 2300],
      ['done', 0],
      ['done', 1111],
    ]);
    expect(await at(one)).toMatchObject({ standing: 'reviewed', description: 'A quay called quay_1.' });
    const [entry] = await place.db.rows<{ action: string; run: string; name: string }>(
      'select j.action, j.run_id as run, p.name from journal j join person p on p.id = j.person_id where j.subject_id = $1 order by j.id',
      [one],
    );
    expect(entry).toEqual({ action: 'routine “Quays”: Standing: reviewed', run: run.id, name: who.name });
    expect(await place.db.one('select count(*)::int as n from routine_asset')).toEqual({ n: 0 });

    const told = await runAssets(place.db, who, run.id, { offset: 0, limit: 2 });
    expect([told.total, told.items.map(({ path, step, effect }) => [path, step, effect])]).toEqual([
      3411,
      [
        ['quay_000001', 0, 'changes'],
        ['quay_000002', 0, 'changes'],
      ],
    ]);
    // One of them alone, then all the others.
    expect(await undone(run.id, one)).toMatchObject({ state: 'done', restored: 2 });
    expect(await at(one)).toMatchObject({ standing: 'unreviewed', description: null });
    await edit(all[1] as string, { standing: 'retiring' });
    expect(await undone(run.id)).toMatchObject({ state: 'undone', restored: 3410 });
    expect([(await at(all[1] as string)).standing, (await at(all[2] as string)).standing]).toEqual([
      'retiring',
      'unreviewed',
    ]);
    expect((await refused(undone(run.id)))?.code).toBe('undone');
  });

  it('wait, and then ask again what is still so', async () => {
    const all = await assets(3);
    const { id } = await make([
      act({ kind: 'notice', notice: 'caution', text: 'Nobody asks for it.' }),
      { do: 'wait', days: 30 },
      { do: 'only', filter: '-standing:reviewed' },
      standing('retiring'),
    ]);
    const run = await ran(id);
    expect(run).toMatchObject({ state: 'waiting', changed: 3 });
    expect(Date.parse(run.dueAt ?? '')).toBeGreaterThan(Date.now() + 29 * 86_400_000);
    // Not before its day.
    await tendRuns(place.db);
    expect((await worked(run.id)).state).toBe('waiting');
    await edit(all[1] as string, { standing: 'reviewed' });
    await place.db.run('update routine_run set due_at = now()');
    await tendRuns(place.db);
    expect(await worked(run.id)).toMatchObject({ state: 'done', changed: 5 });
    expect(await Promise.all(all.map(async (one) => (await at(one)).standing))).toEqual([
      'retiring',
      'reviewed',
      'retiring',
    ]);
    // What a run goes through is not begun with again by the next one that begins by itself.
    await place.db.run('delete from routine_run');
    const daily = await make([standing('reviewed'), { do: 'wait', days: 2 }, standing('unreviewed')], {
      name: 'Daily',
      starts: DAILY,
    });
    expect(await due(daily.id)).toMatchObject({ state: 'waiting', found: 3 });
    expect(await due(daily.id)).toMatchObject({ state: 'done', found: 0 });
  });

  it('are refused where they do nothing, wait for nothing, or cannot be read', async () => {
    const flaws = await Promise.all(
      (
        [
          [{ do: 'only', filter: 'kind:table' }],
          [standing('reviewed'), { do: 'wait', days: 3 }],
          [{ do: 'only', filter: 'kind:(' }, standing('reviewed')],
          [act({ kind: 'term', id: sourceId })],
          [{ do: 'tell', to: { personId: sourceId }, text: 'Look.' }],
        ] satisfies RoutineStep[][]
      ).map((steps) => refused(make(steps))),
    );
    expect(flaws.map((flaw) => flaw?.status)).toEqual([422, 422, 422, 422, 422]);
    expect(new Set(flaws.map((flaw) => flaw?.mend)).size).toBe(5);
  });

  it('are stopped, and end with words where what they give is gone', async () => {
    await assets(4);
    const pilot = await place.db.transaction((tx) =>
      addTag(tx, who, { name: 'pilot', description: '', permitted: null, kinds: null, groupIds: [], travels: [] }),
    );
    const { id } = await make([standing('reviewed'), { do: 'wait', days: 1 }, act({ kind: 'tag', id: pilot.id })]);
    const first = await ran(id);
    expect(await place.db.transaction((tx) => stopRun(tx, who, first.id))).toMatchObject({
      state: 'skipped',
      changed: 4,
      undoable: true,
    });
    expect(await undone(first.id)).toMatchObject({ state: 'undone', restored: 4 });
    await place.db.run('delete from journal');
    const second = await ran(id);
    await place.db.run('delete from tag');
    await place.db.run('update routine_run set due_at = now()');
    await tendRuns(place.db);
    const over = await worked(second.id);
    expect([over.state, over.problem]).toEqual(['failed', expect.stringContaining('Choose')]);
    expect(over.steps.map(({ state }) => state)).toEqual(['done', 'done', 'ahead']);
  });
});

describe('what people decided by hand', () => {
  const pilotTag = () =>
    place.db.transaction((tx) =>
      addTag(tx, who, { name: 'pilot', description: '', permitted: null, kinds: null, groupIds: [], travels: [] }),
    );

  it('is left by a routine, which says whose decision it is; what Idrel or a routine did is not one', async () => {
    const all = await assets(4);
    await edit(all[0] as string, { standing: 'reviewed' }, who);
    await place.db.run("update asset set standing = 'reviewed' where id = $1", [all[1]]);
    const { id } = await make([standing('retiring')]);
    const run = await ran(id);
    expect(run).toMatchObject({ state: 'done', changed: 3, decided: 1 });
    const left = await runAssets(place.db, who, run.id, { effect: 'decided', offset: 0, limit: 9 });
    expect(left.items).toMatchObject([{ id: all[0], before: 'reviewed', decided: { by: who.name } }]);
    // Another routine may change what a routine did; and not what a person took back.
    await place.db.transaction((tx) => undoRun(tx, who, run.id, all[3] as string));
    const other = await make([standing('reviewed')], { name: 'Other' });
    expect(await ran(other.id)).toMatchObject({ changed: 2, decided: 1, same: 1 });
    expect((await at(all[3] as string)).standing).toBe('unreviewed');
  });

  it('is known of what was given and taken away, under the name that it has now', async () => {
    const all = await assets(3);
    const pilot = await pilotTag();
    await edit(all[0] as string, { tags: [{ id: pilot.id, value: 'x' }] });
    await edit(all[0] as string, { tags: [] });
    await edit(all[1] as string, { tags: [{ id: pilot.id, value: 'by hand' }] });
    await place.db.transaction((tx) => changeTag(tx, who, pilot.id, 1, { ...pilot, name: 'trial' }));
    const give = act({ kind: 'tag', id: pilot.id, value: 'x' });
    const take = act({ kind: 'tag', id: pilot.id, remove: true });
    const seen = async (step: RoutineStep) => (await previewRoutine(place.db, who, body([step]))).steps[0]?.effects;
    expect(await seen(give)).toMatchObject({ changes: 1, decided: 2 });
    expect(await seen(take)).toMatchObject({ changes: 0, decided: 1, same: 2 });
    // Somebody by the name of another thing: what else the field says does not matter.
    const steward = act({ kind: 'steward', id: editor.id });
    await edit(all[2] as string, { stewardIds: [who.id] });
    await edit(all[2] as string, { stewardIds: [] });
    expect(await seen(steward)).toMatchObject({ changes: 3, decided: 0 });
    await edit(all[2] as string, { stewardIds: [editor.id] });
    await edit(all[2] as string, { stewardIds: [] });
    expect(await seen(steward)).toMatchObject({ changes: 2, decided: 1 });
  });

  it('is known of classes, notices and links that were taken back', async () => {
    const [table = ''] = await assets(1);
    await ids(
      `insert into asset (source_id, domain_id, kind, name, key, depth, parent_id) values ($1, $2, 'column', 'c', 'c', 1, $3) returning id`,
      [sourceId, domainId, table],
    );
    const given: readonly ManyAction[] = [
      { kind: 'class', key: 'email', reason: 'By rule' },
      { kind: 'notice', notice: 'note', text: "It's new." },
      { kind: 'link', link: 'document', url: 'https://example.org/', title: "Quay's book" },
    ];
    for (const [nth, action] of given.entries()) {
      const { id } = await make([act(action)], { name: `Gives ${nth}`, filter: 'name:c kind:column' });
      const run = await ran(id);
      expect(run).toMatchObject({ changed: 1, decided: 0 });
      expect(await undone(run.id)).toMatchObject({ state: 'undone', restored: 1 });
      expect(await ran(id)).toMatchObject({ changed: 0, decided: 1 });
    }
  });

  it('is asked once more when a run that asked goes on', async () => {
    const all = await assets(30);
    const { id } = await make([standing('reviewed')], { starts: DAILY, guard: { most: 5, times: null } });
    const asks = await due(id);
    expect(asks).toMatchObject({ state: 'asks', guard: { changes: 30, most: 5, usual: false } });
    await edit(all[4] as string, { standing: 'retiring' });
    await edit(all[4] as string, { standing: 'unreviewed' });
    await place.db.transaction((tx) => goOn(tx, who, asks.id, false));
    expect(await worked(asks.id)).toMatchObject({ state: 'done', changed: 29, passedOver: 1 });
    expect((await at(all[4] as string)).standing).toBe('unreviewed');
  });
});

describe('a routine that acts by itself', () => {
  it('does so when it is due, with the rights of who keeps it and never more', async () => {
    await assets(3, 2);
    const { id } = await make([act({ kind: 'owner', id: editor.id })], { starts: DAILY }, editor);
    const [routine] = await listRoutines(place.db, editor);
    expect(routine).toMatchObject({ stands: 'acts', mine: true, keeper: { name: 'Edda' } });
    expect(Date.parse(routine?.nextAt ?? '')).toBeGreaterThan(Date.now());
    const run = await due(id, editor);
    expect(run).toMatchObject({ why: 'schedule', state: 'done', found: 3, changed: 3, person: 'Edda' });
    expect(Date.parse((await listRoutines(place.db, editor))[0]?.nextAt ?? '')).toBeGreaterThan(Date.now());
    await place.db.run("update routine set next_at = now() - interval '1 minute', enabled = false");
    expect(await beginDue(place.db)).toBe(0);
  });

  it('asks where it would change far more than usual, and is let go on, or skipped, by who keeps it', async () => {
    await assets(4);
    const { id } = await make([standing('reviewed')], { starts: DAILY });
    expect(await due(id)).toMatchObject({ state: 'done', changed: 4 });
    await assetsMore(61);
    const asks = await due(id);
    expect(asks).toMatchObject({ state: 'asks', changed: 0, guard: { changes: 61, most: 20, usual: true } });
    expect((await listRoutines(place.db, who))[0]?.asks).toBe(asks.id);
    expect((await refused(place.db.transaction((tx) => goOn(tx, editor, asks.id, false))))?.status).toBe(403);
    await place.db.transaction((tx) => goOn(tx, who, asks.id, true));
    expect(await worked(asks.id)).toMatchObject({ state: 'skipped', changed: 0 });
    const again = await due(id);
    await place.db.transaction((tx) => goOn(tx, who, again.id, false));
    expect(await worked(again.id)).toMatchObject({ state: 'done', changed: 61 });
    expect((await refused(place.db.transaction((tx) => goOn(tx, who, again.id, false))))?.code).toBe('begun-already');
    // What was let go on is usual from then on.
    await assetsMore(100);
    expect(await due(id)).toMatchObject({ state: 'done', changed: 100 });
  });

  it('waits for somebody to take it on when who kept it leaves', async () => {
    await assets(2);
    const leaver = await personWith(place.db, 'Lars', 'editor', domainId);
    const { id } = await make([act({ kind: 'owner', id: editor.id })], { starts: DAILY }, leaver);
    await place.db.run('update person set left_at = now() where id = $1', [leaver.id]);
    const stands = async (by: Who) => (await listRoutines(place.db, by))[0]?.stands;
    expect(await stands(who)).toBe('unkept');
    await place.db.run("update routine set next_at = now() - interval '1 minute'");
    expect(await beginDue(place.db)).toBe(0);
    // Who it is given to must agree first: nobody is acted for without their knowledge.
    await place.db.run('update routine set made_by = $1', [editor.id]);
    expect([await stands(editor), await beginDue(place.db)]).toEqual(['not agreed', 0]);
    const reader = await personWith(place.db, 'Rolf', 'editor', elsewhereId);
    expect((await refused(place.db.transaction((tx) => takeRoutine(tx, reader, id))))?.status).toBe(403);
    expect(await place.db.transaction((tx) => takeRoutine(tx, editor, id))).toMatchObject({
      stands: 'acts',
      mine: true,
    });
    expect(await due(id, editor)).toMatchObject({ changed: 2, person: 'Edda' });
  });

  it('is kept by whoever changes it', async () => {
    const routine = await make([standing('reviewed')], { starts: DAILY }, who);
    await place.db.run('update routine set made_by = $1', [editor.id]);
    const changed = await place.db.transaction((tx) =>
      changeRoutine(
        tx,
        who,
        routine.id,
        routine.version,
        body([standing('reviewed')], { starts: DAILY, filter: 'kind:view' }),
      ),
    );
    expect(changed).toMatchObject({ stands: 'acts', keeper: { id: who.id } });
  });

  it('goes no further once it is removed', async () => {
    await assets(30);
    const { id } = await make([standing('reviewed')], { starts: DAILY, guard: { most: 5, times: null } });
    const asks = await due(id);
    await place.db.transaction((tx) => removeRoutine(tx, who, id));
    await workOnRun(place.db, asks.id);
    expect(await place.db.one('select state, changed from routine_run')).toEqual({ state: 'skipped', changed: 0 });
  });
});

const assetsMore = (count: number) =>
  ids(
    `insert into asset (source_id, domain_id, kind, name, key, depth)
     select $1, $2, 'table', 'pier_' || gen_random_uuid(), gen_random_uuid()::text, 0 from generate_series(1, $3::int) returning id`,
    [sourceId, domainId, count],
  );

describe('a routine that listens', () => {
  const scanned = async (changes: readonly (readonly [string, string])[], state = 'done') => {
    const [run = ''] = await ids(
      'insert into scan_run (source_id, state, started_at, ended_at) values ($1, $2, now(), now()) returning id',
      [sourceId, state],
    );
    for (const [asset, change] of changes)
      await place.db.run(
        "insert into run_change (run_id, asset_id, path, kind, change) values ($1, $2, 'x', 'table', $3)",
        [run, asset, change],
      );
    return run;
  };
  const heard = async (id: string) => {
    const before = new Set((await listRuns(place.db, id)).map((run) => run.id));
    await beginHeard(place.db);
    const runs = (await listRuns(place.db, id)).filter((run) => !before.has(run.id));
    return Promise.all(runs.map(({ id: run }) => worked(run)));
  };

  it('begins with what a scan brought, of what its search finds, once', async () => {
    const all = await assets(4);
    const { id } = await make([act({ kind: 'owner', id: editor.id })], {
      filter: 'kind:table -name:quay_2',
      starts: { on: 'happening', what: ['new', 'changed'] },
    });
    const run = await scanned([
      [all[0] as string, 'new'],
      [all[1] as string, 'new'],
      [all[2] as string, 'changed'],
      [all[3] as string, 'gone'],
    ]);
    const begun = await heard(id);
    expect(begun.map(({ why, found, changed, cause }) => [why, found, changed, cause?.runId])).toEqual(
      expect.arrayContaining([
        ['new', 1, 1, run],
        ['changed', 1, 1, run],
      ]),
    );
    expect(begun).toHaveLength(2);
    expect(await heard(id)).toEqual([]);
    // A scan that brings nothing of it begins nothing.
    await scanned([[all[1] as string, 'new']]);
    expect(await heard(id)).toEqual([]);
  });

  it('begins where a source could not be read, and with findings that were not there before', async () => {
    const all = await assets(2);
    const failing = await make([act({ kind: 'notice', notice: 'caution', text: 'Not read.' })], {
      name: 'Failing',
      starts: { on: 'happening', what: ['failed'] },
    });
    await scanned([], 'failed');
    expect(await heard(failing.id)).toMatchObject([{ why: 'failed', changed: 2 }]);
    const found = await make([standing('reviewed')], {
      name: 'Found',
      filter: 'kind:column',
      starts: { on: 'happening', what: ['found'] },
    });
    const columns = await ids(
      `insert into asset (source_id, domain_id, kind, name, key, depth, parent_id)
       select $1, $2, 'column', 'c' || i, 'c' || i, 1, $3 from generate_series(1, 2) i returning id`,
      [sourceId, domainId, all[0]],
    );
    const claim = async (names: readonly string[]) => {
      const run = await scanned([]);
      const finding = {
        classKey: 'email',
        detector: 'd',
        version: '1',
        share: 1,
        matched: 9,
        sampled: 9,
        distinct: 9,
        confidence: 1,
        state: 'to-settle',
        name: 1,
        terms: [],
        examples: [],
      };
      await storeFindings(
        place.db,
        run,
        new Map(names.map((name) => [name, [finding as never]])),
        new Map(columns.map((column, nth) => [`c${nth + 1}`, column])),
      );
    };
    await claim(['c1']);
    expect(await heard(found.id)).toMatchObject([{ why: 'found', found: 1 }]);
    await claim(['c1', 'c2']);
    expect(await heard(found.id)).toMatchObject([{ why: 'found', found: 1, changed: 1 }]);
    await claim(['c1', 'c2']);
    expect(await heard(found.id)).toEqual([]);
  });
});

describe('a routine that asks', () => {
  const question = (silence: 'go on' | 'keep' = 'go on'): RoutineStep => ({
    do: 'ask',
    to: 'owner',
    text: 'Do you still need it?',
    days: 30,
    silence,
  });
  const owned = async (by: Who, id: string) =>
    place.db.run("insert into asset_person (asset_id, person_id, role) values ($1, $2, 'owner')", [id, by.id]);
  const asked = async (by: Who) =>
    (await waitingRoutines(place.db, by))
      .filter(({ why }) => why === 'question')
      .map(({ runId, changes }) => [runId, changes]);
  const answer = (by: Who, runId: string, assetIds: string[], what: 'keep' | 'go on') =>
    place.db.transaction((tx) => answerQuestions(tx, by, runId, { assetIds, answer: what }));

  it('asks who answers for each, goes on with the last answer, and leaves what is to be kept', async () => {
    const all = await assets(3);
    const [one, two, three] = all as [string, string, string];
    const group = await place.db.one<{ id: string }>(
      "insert into person_group (name) values ('Quay office') returning id",
    );
    const member = await personWith(place.db, 'Mette', 'reader', domainId);
    await place.db.run('insert into group_member (group_id, person_id) values ($1, $2)', [group?.id, member.id]);
    await owned(editor, one);
    await owned(editor, two);
    await place.db.run("insert into asset_person (asset_id, person_id, role) values ($1, $2, 'owner')", [
      three,
      group?.id,
    ]);
    const { id } = await make([question(), standing('retiring')], { starts: DAILY });
    const run = await due(id);
    expect(run).toMatchObject({ state: 'waiting', changed: 0 });
    expect([await asked(editor), await asked(member), await asked(who)]).toEqual([[[run.id, 2]], [[run.id, 1]], []]);
    expect(await questionsFor(place.db, editor, run.id)).toMatchObject({
      text: 'Do you still need it?',
      total: 2,
      assets: [{ id: one }, { id: two }],
    });
    expect((await refused(answer(member, run.id, [one], 'keep')))?.status).toBe(403);
    await answer(editor, run.id, [one], 'keep');
    expect((await refused(answer(editor, run.id, [one], 'go on')))?.code).toBe('begun-already');
    await answer(editor, run.id, [two], 'go on');
    expect((await worked(run.id)).state).toBe('waiting');
    await answer(member, run.id, [three], 'go on');
    expect(await worked(run.id)).toMatchObject({ state: 'done', changed: 2 });
    expect(await Promise.all(all.map(async (asset) => (await at(asset)).standing))).toEqual([
      'unreviewed',
      'retiring',
      'retiring',
    ]);
    expect(
      await place.db.one(
        "select principal_kind as kind, action, after from journal where subject_id = $1 and after ? 'answer'",
        [one],
      ),
    ).toEqual({ kind: 'person', action: 'answered the routine “Quays”', after: { answer: 'keep' } });
    // What is kept is not asked of again; nor by a run that begins by itself changed.
    expect(await due(id)).toMatchObject({ found: 2 });
  });

  it('takes no answer for what was said, and asks nobody any more when the time is over', async () => {
    const all = await assets(2);
    await owned(editor, all[0] as string);
    const finished = async (silence: 'go on' | 'keep', name: string) => {
      const { id } = await make([question(silence), standing('retiring')], { name });
      const run = await ran(id);
      await place.db.run('update routine_run set due_at = now()');
      await tendRuns(place.db);
      return worked(run.id);
    };
    expect(await finished('keep', 'Kept')).toMatchObject({ state: 'done', changed: 0 });
    const over = await finished('go on', 'Gone on with');
    expect(over).toMatchObject({ state: 'done', changed: 2 });
    expect(await asked(editor)).toEqual([]);
    expect((await refused(answer(editor, over.id, [all[0] as string], 'keep')))?.code).toBe('begun-already');
  });

  it('writes to each of what concerns them, once, and tells what no answer means', async () => {
    const box = await mailbox();
    try {
      const all = await assets(3);
      await place.db.run("update person set email = 'edda@example.org' where id = $1", [editor.id]);
      await owned(editor, all[0] as string);
      await owned(editor, all[1] as string);
      const { id } = await make([question('keep'), standing('retiring')]);
      const run = await ran(id);
      const [job] = await place.db.rows<{ payload: RoutineMail }>(
        "select payload from graphile_worker._private_jobs where task_id = (select id from graphile_worker._private_tasks where identifier = 'routine-mail') order by id desc limit 1",
      );
      expect(Object.keys(job?.payload.people ?? {})).toEqual([editor.id]);
      expect(await mailOfRoutine(place.db, box.config, job?.payload as RoutineMail)).toBe(1);
      expect(await mailOfRoutine(place.db, box.config, job?.payload as RoutineMail)).toBe(0);
      expect(box.mails).toMatchObject([{ to: 'edda@example.org' }]);
      const { text = '' } = box.mails[0] ?? {};
      expect(text).toContain('Do you still need it?');
      expect(text).toContain('without an answer all stays as it is');
      expect(text).toMatch(/quay_0*1 in/);
      expect(text).not.toContain('quay_000003');
      expect((await getRun(place.db, who, run.id)).told).toBe(1);
    } finally {
      await box.close();
    }
  });
});

describe('what a routine would have done', () => {
  const back = (days: number) => new Date(Date.now() - days * 86_400_000).toISOString();
  /** An entry of so many days ago. */
  const then = (id: string, days: number, field: string, before: unknown, after: unknown) =>
    place.db.run(
      "insert into journal (at, person_id, action, subject_kind, subject_id, subject_name, domain_id, before, after) values ($1, $2, 'edited', 'table', $3, 'x', $4, $5, $6)",
      [back(days), who.id, id, domainId, JSON.stringify({ [field]: before }), JSON.stringify({ [field]: after })],
    );
  const told = async (filter: string, steps: RoutineStep[], by = who) =>
    replayRoutine({ db: place.db, finder: finderHere(place.db) }, by, { filter, steps });
  /** Days on which it differs from the day before, the newest being 0, with what was found and changed. */
  const course = ({ days }: RoutineReplay) =>
    [...days]
      .reverse()
      .map(({ found, changed }, ago) => [ago, found, changed] as const)
      .filter(([ago, found, changed], nth, all) => changed > 0 || found !== all[nth + 1]?.[1] || ago === 29);

  it('follows from what people said since, day by day', async () => {
    const all = await assets(4);
    await place.db.run("update asset set first_seen = now() - interval '90 days'");
    const [one, two, three, four] = all as [string, string, string, string];
    // One was owned until 10 days ago; two got an owner 5 days ago; three came 3 days ago; four was retiring for some days.
    await then(one, 10, 'owners', ['Ida Holm'], []);
    await place.db.run("insert into asset_person (asset_id, person_id, role) values ($1, $2, 'owner')", [
      two,
      editor.id,
    ]);
    await then(two, 5, 'owners', [], ['Edda']);
    await place.db.run('update asset set first_seen = $2 where id = $1', [three, back(3)]);
    await then(four, 20, 'standing', 'unreviewed', 'retiring');
    await then(four, 15, 'standing', 'retiring', 'unreviewed');
    const answer = await told('kind:table owner:none -standing:retiring', [act({ kind: 'owner', id: editor.id })]);
    expect(answer.days).toHaveLength(30);
    expect(answer.days.at(-1)?.day).toBe(new Date().toISOString().slice(0, 10));
    expect(answer).toMatchObject({ step: 'With owner: Edda', asNow: [] });
    expect(course(answer)).toEqual([
      [3, 3, 1],
      [5, 2, 0],
      [10, 3, 1],
      [15, 2, 0],
      [20, 1, 0],
      [29, 2, 2],
    ]);
    // What already is as the routine wants it is found, and not changed.
    const reviewed = await told('kind:table', [standing('unreviewed')]);
    expect(reviewed.days.map(({ found }) => found).slice(-1)).toEqual([4]);
    expect(reviewed.days.reduce((sum, { changed }) => sum + changed, 0)).toBe(1);
    // Of what somebody may not see nothing is told.
    const stranger = await personWith(place.db, 'Sigrid', 'reader', elsewhereId);
    expect((await told('kind:table', [standing('unreviewed')], stranger)).days.at(-1)?.found).toBe(0);
  });

  it('knows what was gone, of which level, and which days dates count back from', async () => {
    const all = await assets(3);
    await place.db.run("update asset set first_seen = now() - interval '40 days'");
    const [one, two] = all as [string, string, string];
    await place.db.run("update past.begun set at = now() - interval '60 days'");
    const was = (id: string, days: number, level: number | null, gone: string | null) =>
      place.db.run(
        'insert into past.asset_gone (id, source_id, domain_id, kind, name, key, native, level, gone_at, past_since, ended_at) select id, source_id, domain_id, kind, name, key, native, $2, $3, $4, $5 from asset where id = $1',
        [id, level, gone, back(50), back(days)],
      );
    await was(one, 8, 3, null);
    await was(two, 4, null, back(12));
    expect(course(await told('kind:table level:guarded', [standing('reviewed')]))).toEqual([
      [8, 0, 0],
      [29, 1, 1],
    ]);
    expect(course(await told('kind:table', [standing('reviewed')]))).toEqual([
      [4, 3, 1],
      [29, 2, 2],
    ]);
    // They are thirty days old since ten days.
    const dated = course(await told('kind:table created<-30d', [standing('reviewed')]));
    expect(dated.at(-1)).toEqual([29, 0, 0]);
    expect(dated.at(-2)?.[0]).toBeGreaterThanOrEqual(9);
    expect(dated.reduce((sum, [, , changed]) => sum + changed, 0)).toBe(3);
    expect((await told('kind:table used:no quay', [standing('reviewed')])).asNow).toEqual(['used', 'words']);
  });
});
