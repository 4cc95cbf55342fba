import { type Line, LineAnswer } from '@idrel/contract/exchange';
import fc from 'fast-check';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { editAsset } from '../src/curation/index.ts';
import { linesHandler } from '../src/exchange/lines.ts';
import { loadWho, type Who } from '../src/people/index.ts';
import type { KeyInUse } from '../src/platform/keyInUse.ts';
import { freshDatabase, furnish, personWith } from './place.ts';

// What is said by lines, many at once: each answered by itself, and written as if it had been said alone.
let place: Awaited<ReturnType<typeof freshDatabase>>;
let made: Awaited<ReturnType<typeof furnish>>;
let [admin, editor, reader] = [] as unknown as [Who, Who, Who];
const one = async (sql: string, bind: unknown[] = []) => (await place.db.one<{ id: string }>(sql, bind))?.id ?? '';

type Answer = Omit<LineAnswer, 'line'>;
const say = async (
  who: Who,
  lines: readonly object[],
  { preview = false, key = null }: { preview?: boolean; key?: KeyInUse | null } = {},
): Promise<Answer[]> => {
  const given = lines.map((value, index) => ({ line: index + 1, value: value as Line }));
  const said = [...(await linesHandler(place.db)({ who, key, query: { preview }, lines: given }))];
  for (const answer of said) expect(LineAnswer.validate(answer, { convert: false }).error).toBeUndefined();
  expect(said.map(({ line }) => line).sort((a, b) => a - b)).toEqual(given.map(({ line }) => line));
  return said.sort((a, b) => a.line - b.line).map(({ line: _line, ...answer }) => answer);
};
const said = (of: string, more: object) => ({ said: { of, keep: [], ...more } });
const table = (more: object = {}) => ({ asset: { of: '/at/Feed/s/log', kind: 'table', ...more } });
const LOG = '/at/Feed/s/log';
const outcomes = (answers: readonly Answer[]) => answers.map(({ outcome }) => outcome);
const entries = () =>
  place.db.rows<{ name: string; before: object; after: object; by: string | null }>(
    "select subject_name as name, before, after, by_key as by from journal where action = 'edited by lines' order by id",
  );

beforeAll(async () => {
  place = await freshDatabase();
  made = await furnish(place.db);
  admin = (await loadWho(place.db, made.personId)) as Who;
  editor = await personWith(place.db, 'Ada', 'editor', made.domainId);
  reader = await personWith(place.db, 'Bo', 'reader', made.domainId);
});
afterAll(() => place.drop());
beforeEach(async () => {
  await place.db.run("delete from source where name = 'Feed'");
  await place.db.run('delete from journal');
  await one("insert into source (name, kind, address, domain_id) values ('Feed', 'pushed', '{}', $1) returning id", [
    made.domainId,
  ]);
  await say(admin, [
    { asset: { of: '/at/Feed/s', kind: 'schema' } },
    table({
      comment: 'What came in',
      columns: [
        { name: 'mail', type: 'text' },
        { name: 'n', type: 'integer' },
      ],
    }),
  ]);
  await place.db.run("delete from journal where action like 'edited%'");
});

describe('assets by lines', () => {
  const columns = () =>
    place.db.rows<{ name: string; comment: string | null }>(
      "select name, native_comment as comment from asset where kind = 'column' and gone_at is null order by position",
    );

  it('are made, stay as they are when they are said again, and are changed by what is other', async () => {
    const again = [
      table({
        comment: 'What came in',
        columns: [
          { name: 'mail', type: 'text' },
          { name: 'n', type: 'integer' },
        ],
      }),
    ];
    expect(outcomes(await say(admin, again))).toEqual(['same']);
    expect(outcomes(await say(admin, [table({ comment: 'All that came in' })]))).toEqual(['changed']);
    // A line that does not speak of columns leaves them; one that does says all that there are.
    expect((await columns()).map(({ name }) => name)).toEqual(['mail', 'n']);
    expect(
      outcomes(await say(admin, [table({ columns: [{ name: 'mail', type: 'text', comment: 'Where to write' }] })])),
    ).toEqual(['changed']);
    expect(await columns()).toEqual([{ name: 'mail', comment: 'Where to write' }]);
    // So do its comment, its facts and its rows.
    await say(admin, [table({ facts: { berth: 'N3' }, rows: 12 })]);
    expect(outcomes(await say(admin, [table({})]))).toEqual(['same']);
    expect(
      await place.db.one(
        "select native_comment as comment, native, stats from asset where name = 'log' and kind = 'table'",
      ),
    ).toEqual({ comment: 'All that came in', native: { berth: 'N3' }, stats: { rows: 12 } });
  });

  it('lie in what an earlier or a later line says, and not in what is not there or was refused', async () => {
    const answers = await say(admin, [
      { asset: { of: '/at/Feed/t/deep/x', kind: 'table' } },
      { asset: { of: '/at/Feed/t/deep', kind: 'schema' } },
      { asset: { of: '/at/Feed/t', kind: 'database' } },
      { asset: { of: '/at/Feed/u/x', kind: 'table' } },
      { asset: { of: '/at/Nothing/x', kind: 'table' } },
    ]);
    expect(outcomes(answers)).toEqual(['made', 'made', 'made', 'refused', 'refused']);
    expect(answers[3]?.why).toContain('What it lies in, u, is not there');
    expect(answers[4]?.code).toBe('not-found');
  });

  it('said twice among the same lines stand as they were said last', async () => {
    const answers = await say(admin, [table({ comment: 'one' }), table({ comment: 'two' })]);
    expect(outcomes(answers)).toEqual(['changed', 'changed']);
    expect(await place.db.one("select native_comment as said from asset where name = 'log'")).toEqual({ said: 'two' });
  });

  it('of a source that is scanned, or by who does not administer it, are refused', async () => {
    await place.db.run("update source set name = 'Read' where id = $1", [made.sourceId]);
    const [scanned] = await say(admin, [{ asset: { of: '/at/Read/x', kind: 'table' } }]);
    expect(scanned).toMatchObject({ outcome: 'refused', code: 'not-pushed' });
    expect((await say(editor, [table()]))[0]).toMatchObject({ outcome: 'refused', code: 'forbidden' });
  });

  it('with samples are recognised, and the samples are not kept', async () => {
    const values = Array.from({ length: 40 }, (_, n) => `person.${n}@example.org`);
    await say(admin, [table({ columns: [{ name: 'mail', type: 'text', values }] })]);
    const found = await place.db.rows<{ key: string }>(
      "select f.class_key as key from finding f join asset a on a.id = f.asset_id where a.name = 'mail'",
    );
    expect(found.map(({ key }) => key)).toContain('email');
  });
});

describe('what people say, by lines', () => {
  it('is written field by field, tells what is other now, and is the same when it is said again', async () => {
    await say(admin, [{ tag: { name: 'quay', permitted: null } }, { term: { name: 'Berth' } }]);
    const all = {
      description: 'What ships do',
      owner: 'Ada',
      stewards: ['Ada', 'Bo'],
      terms: ['berth'],
      tags: ['Quay/north'],
    };
    const [answer] = await say(editor, [said(LOG, all)]);
    expect(answer?.changes).toEqual([
      { field: 'description', before: '', after: 'What ships do' },
      { field: 'owner', before: '', after: 'Ada' },
      { field: 'stewards', before: '', after: 'Ada, Bo' },
      { field: 'terms', before: '', after: 'Berth' },
      { field: 'tags', before: '', after: 'Quay/north' },
    ]);
    expect(outcomes(await say(editor, [said(LOG, all)]))).toEqual(['same']);
    const [entry] = await entries();
    expect(entry?.after).toEqual({
      description: 'What ships do',
      owners: ['Ada'],
      stewards: ['Ada', 'Bo'],
      terms: ['Berth'],
      tags: ['Quay/north'],
    });
    await say(editor, [said(LOG, { description: null, owner: null, stewards: ['Bo'], terms: [], tags: [] })]);
    expect((await entries()).at(-1)?.after).toEqual({
      description: null,
      owners: [],
      stewards: ['Bo'],
      terms: [],
      tags: [],
    });
  });

  it('holds up no other line where it cannot be', async () => {
    const answers = await say(editor, [
      said(LOG, { owner: 'Adda' }),
      said(`${LOG}/mail`, { description: 'Where to write' }),
      said('/at/Feed/s/none', { description: 'x' }),
      said(LOG, { tags: ['nothing'] }),
      said(LOG, { standing: 'trusted' }),
      said(LOG, { description: 'Still' }),
    ]);
    expect(outcomes(answers)).toEqual(['refused', 'changed', 'refused', 'refused', 'refused', 'changed']);
    expect(answers[0]).toMatchObject({ why: 'owner: Nothing here is called “Adda”.', mend: 'Is “Ada” meant?' });
    expect(answers[2]?.code).toBe('not-found');
    expect(answers[4]?.code).toBe('forbidden'); // standing takes a steward
  });

  it('is refused to who may not write there, and leaves nothing', async () => {
    expect((await say(reader, [said(LOG, { description: 'x' })]))[0]).toMatchObject({
      outcome: 'refused',
      code: 'forbidden',
    });
    expect(await entries()).toEqual([]);
  });

  it('of a tag that only some give is refused, as it is when its value or its kind of asset is not permitted', async () => {
    await say(admin, [{ tag: { name: 'kept', permitted: ['1y', '7y'], kinds: ['table'] } }]);
    const answers = await say(editor, [
      said(LOG, { tags: ['kept/2y'] }),
      said(`${LOG}/mail`, { tags: ['kept/7y'] }),
      said(LOG, { tags: ['kept/7y'] }),
    ]);
    expect(outcomes(answers)).toEqual(['refused', 'refused', 'changed']);
    const group = await one("insert into person_group (name) values ('Keepers') returning id");
    await place.db.run("update tag set group_ids = array[$1::uuid] where name = 'kept'", [group]);
    expect((await say(editor, [said(LOG, { tags: [] })]))[0]).toMatchObject({ outcome: 'refused', code: 'forbidden' });
  });

  it('leaves what somebody decided by hand where the line says so, and names them', async () => {
    const byKey = editor.byKey({ id: made.personId, name: 'A build' }, null);
    const { id, version } = (await place.db.one<{ id: string; version: number }>(
      "select id, version from asset where name = 'log'",
    )) as { id: string; version: number };
    await place.db.transaction((tx) => editAsset(tx, editor, id, version, { description: 'By Ada' }));
    const [kept] = await say(byKey, [
      said(LOG, { description: 'By a file', stewards: ['Bo'], keep: ['description', 'stewards'] }),
    ]);
    expect(kept?.outcome).toBe('changed');
    expect(kept?.kept).toMatchObject([{ field: 'description', by: 'Ada' }]);
    expect(kept?.changes).toEqual([{ field: 'stewards', before: '', after: 'Bo' }]);
    // What a program said last is not by hand, and is changed.
    expect(outcomes(await say(byKey, [said(LOG, { stewards: [], keep: ['stewards'] })]))).toEqual(['changed']);
    expect(outcomes(await say(byKey, [said(LOG, { description: 'By a file' })]))).toEqual(['changed']);
    // Nor is what the same person brought in by lines, without a key.
    await say(editor, [said(LOG, { description: 'By another file' })]);
    expect(outcomes(await say(byKey, [said(LOG, { description: 'By a file', keep: ['description'] })]))).toEqual([
      'changed',
    ]);
  });

  it('stands as it was said last, however lines are put together', async () => {
    const texts = fc.constantFrom('one', 'two', '');
    const line = fc.record({
      of: fc.constantFrom(LOG, `${LOG}/mail`, `${LOG}/n`),
      description: texts,
      stewards: fc.subarray(['Ada', 'Bo']),
    });
    await fc.assert(
      fc.asyncProperty(fc.array(line, { minLength: 1, maxLength: 12 }), async (lines) => {
        await say(
          editor,
          lines.map(({ of, ...more }) => said(of, more)),
        );
        const wanted = new Map(lines.map((last) => [last.of.split('/').at(-1), last]));
        const rows = await place.db.rows<{ name: string; description: string | null; stewards: string[] }>(`
          select a.name, a.description, array(
            select p.name from asset_person x join person p on p.id = x.person_id where x.asset_id = a.id and x.role = 'steward' order by 1
          ) as stewards
          from asset a`);
        for (const { name, description, stewards } of rows) {
          const last = wanted.get(name);
          if (last) expect([description ?? '', stewards]).toEqual([last.description, last.stewards]);
        }
      }),
      { numRuns: 40, endOnFailure: true },
    );
  });
});

describe('the other lines', () => {
  it('make and change terms, tags, people and edges, and leave what they do not speak of', async () => {
    const first = await say(admin, [
      { term: { name: 'Harbour', definition: 'Where ships lie', alternatives: ['Port'] } },
      { term: { name: 'Quay side', broader: ['harbour'] } },
      { tag: { name: 'wet', description: 'Near water' } },
      { person: { email: 'new@example.org', name: 'New Person', job: 'Pilot' } },
      { edge: { from: `${LOG}/mail`, to: `${LOG}/n`, kind: 'copied', note: '' } },
      { person: { email: 'nobody@example.org' } },
    ]);
    expect(outcomes(first)).toEqual(['made', 'made', 'made', 'made', 'made', 'refused']);
    const again = await say(admin, [
      { term: { name: 'harbour', definition: 'Where ships lie' } },
      { term: { name: 'Harbour', status: 'proposed' } },
      { tag: { name: 'WET' } },
      { person: { email: 'NEW@example.org', job: 'Harbour pilot' } },
      { edge: { from: `${LOG}/mail`, to: `${LOG}/n`, kind: 'copied', note: '' } },
    ]);
    expect(outcomes(again)).toEqual(['changed', 'changed', 'changed', 'changed', 'same']);
    expect(
      await place.db.one("select labels->0->>'text' as label, definition from term where name = 'Harbour'"),
    ).toEqual({
      label: 'Port',
      definition: 'Where ships lie',
    });
    expect(await place.db.one("select name, job from person where email = 'new@example.org'")).toEqual({
      name: 'New Person',
      job: 'Harbour pilot',
    });
  });

  it('take the same roles as in their own places', async () => {
    const answers = await say(editor, [
      { tag: { name: 'dry' } },
      { person: { email: 'x@example.org', name: 'X' } },
      { term: { name: 'Tide' } },
    ]);
    expect(answers.map(({ outcome, code }) => code ?? outcome)).toEqual(['forbidden', 'forbidden', 'made']);
    expect(outcomes(await say(reader, [{ term: { name: 'Ebb' } }]))).toEqual(['refused']);
  });
});

describe('a key', () => {
  const lines = () => [
    table(),
    said(LOG, { description: 'k' }),
    { tag: { name: 'keyed' } },
    { person: { email: 'k@example.org', name: 'K' } },
  ];
  it('opens the lines of its scopes, and with domains only what lies in them', async () => {
    const of = async (scopes: KeyInUse['scopes'], everywhere = true) =>
      (await say(admin, lines(), { key: { scopes, everywhere }, preview: true })).map(({ code }) => code ?? '');
    const no = 'key-scope';
    expect(await of(['read'])).toEqual([no, no, no, no]);
    expect(await of(['read', 'scan'])).toEqual(['', no, no, no]);
    expect(await of(['write', 'admin'])).toEqual([no, '', '', '']);
    expect(await of(['scan', 'write', 'admin'], false)).toEqual(['', '', no, no]);
  });
});

describe('a preview', () => {
  it('tells what would come of it, and writes nothing', async () => {
    const lines = [table({ comment: 'Other' }), said(LOG, { description: 'Seen' }), { term: { name: 'Neap' } }];
    const before = await place.db.one('select count(*)::int as n from journal');
    expect(outcomes(await say(admin, lines, { preview: true }))).toEqual(['changed', 'changed', 'made']);
    expect(await place.db.one('select count(*)::int as n from journal')).toEqual(before);
    expect(outcomes(await say(admin, lines))).toEqual(['changed', 'changed', 'made']);
  });
});
