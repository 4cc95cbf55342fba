import {
  type AssetFacts,
  type Called,
  type Filter,
  type GivenTag,
  parseFilter,
  passes,
  type Standing,
  searchWords,
  travelledTags,
  writeFilter,
} from '@idrel/core/catalog';
import { type Carrier, type CarryingStep, carriedBy, type Said } from '@idrel/core/recognition/carried';
import fc from 'fast-check';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { anyFilter, anyWord } from '../../core/src/testing/filters.ts';
import { Binder, FROM, filterToSql } from '../src/catalog/index.ts';
import { wordsVector } from '../src/scanning/index.ts';
import { freshDatabase, furnish } from './place.ts';

let place: Awaited<ReturnType<typeof freshDatabase>>;
const facts = new Map<string, AssetFacts>();
/** What is said of classes, and of whom. */
const carriers = new Map<string, Carrier>();
const said: Said[] = [];
const given: GivenTag[] = [];
/** Domains in which whoever asks may read. */
let mine: string[] = [];
const NAMES = ['passenger', 'booking_leg', 'emailAddress', 'Größe', 'øre_2', "o'hare", 'ÅRSAK', 'x'];
const TEXTS = [null, 'Everybody who travels', 'Ein Straßenname', 'the e-mail of the booking', 'naïve café'];
const PEOPLE = ['Ida Holm', 'Bjørn Åse'];
const TERMS = ['Traveller', 'Fare band'];
/** Their other labels: what carries a term is found by each. */
const LABELS = [['Guest', 'pax'], ['Booking tariff']];
const DAYS = [
  new Date(Date.UTC(2025, 11, 31, 23)),
  new Date(Date.UTC(2026, 0, 1)),
  new Date(Date.UTC(2026, 1, 28, 12)),
  new Date(Date.UTC(2026, 10, 27)),
];

/** Assets with every mixture of what a filter can ask for, from a fixed plan: number i takes its facts from the digits of i. */
beforeAll(async () => {
  place = await freshDatabase();
  const { db } = place;
  const { sourceId, domainId } = await furnish(db);
  const below = (
    await db.rows<{ id: string }>("insert into domain (name, parent_id) values ('Wake Card', $1) returning id", [
      domainId,
    ])
  )[0]?.id;
  const elsewhere = (await db.rows<{ id: string }>("insert into domain (name) values ('Elsewhere') returning id"))[0]
    ?.id;
  mine = [domainId, below ?? ''];
  const people = await Promise.all(
    PEOPLE.map(
      async (name) =>
        (await db.rows<{ id: string }>('insert into person (name, email) values ($1, $1) returning id', [name]))[0]?.id,
    ),
  );
  for (const name of ['retention', 'Pilot'])
    await db.run('insert into tag (name, words) values ($1, $2::tsvector)', [name, wordsVector([name], [])]);
  const terms = await Promise.all(
    TERMS.map(
      async (name, at) =>
        (
          await db.rows<{ id: string }>(
            'insert into term (name, scheme_id, words) select $1, id, $2::tsvector from scheme returning id',
            [name, wordsVector([name, ...(LABELS[at] ?? [])], [])],
          )
        )[0]?.id,
    ),
  );
  for (const value of ['short', 'a/b'])
    await db.run('insert into tag_value_words values ($1, $2::tsvector)', [value, wordsVector([value], [])]);
  // Words of a name without a description stand with the name, as a scan leaves them.
  for (const name of NAMES)
    await db.run('insert into name_words values ($1, $2::tsvector)', [name, wordsVector([name], [])]);
  await db.run(
    "insert into scan_run (source_id, state, ended_at) values ($1, 'done', '2026-02-28T12:00:00Z'), ($1, 'failed', '2026-03-28T12:00:00Z'), ($1, 'partly done', '2025-03-28T12:00:00Z')",
    [sourceId],
  );
  /** What an asset lies in: schemas within each other, of its own, the innermost first. */
  const within = async (names: readonly string[], of: number): Promise<string | null> => {
    let holder: string | null = null;
    for (const name of [...names].reverse()) {
      const [made]: { id: string }[] = await db.rows<{ id: string }>(
        "insert into asset (source_id, domain_id, parent_id, kind, name, key, depth) values ($1, $2, $3, 'schema', $4, $5, 0) returning id",
        [sourceId, domainId, holder, name, [`k${of}`, ...upTo(names, name)].join('\u001f')],
      );
      holder = made?.id ?? null;
    }
    return holder;
  };
  for (let i = 0; i < 160; i += 1) {
    const pick = <T>(list: readonly T[], step: number): T => list[Math.floor(i / step) % list.length] as T;
    const kind = pick(['table', 'view', 'column', 'materialised view'], 1);
    const name = pick(NAMES, 3);
    const description = pick(TEXTS, 7);
    const level = pick([null, 1, 2, 3, 4], 2);
    const stated = pick([null, null, 0, 1, 2], 5);
    const [found, inherited] = [pick([0, 0, 1, 2], 7), pick([0, 0, 1, 2], 11)];
    const standing = pick<Standing>(['unreviewed', 'reviewed', 'trusted', 'retiring'], 5);
    const gone = i % 11 === 0;
    const classes = pick([[], ['email'], ['email', 'iban']], 4);
    const owners = pick([[], [0], [1]], 6);
    const term = pick([null, 0, 1], 8);
    // What a guide says of it: words that stand with none of its own.
    const guide = pick([null, 'Passenger lists by tide', null], 5);
    const words = searchWords([name], [description, guide]);
    const type = pick([null, 'text', 'Varchar(40)', 'numeric(9,2)'], 9);
    const uses = pick([0, 1, 100, 2500], 4);
    const bytes = pick([null, 0, 20_000_000, 20_000_001, 1_500_000_000], 3);
    const asked = pick(DAYS, 5);
    const created = pick(DAYS, 3);
    const touched = pick([null, ...DAYS], 7);
    const changed = touched ?? created;
    const tag = pick([null, 'retention', 'retention/short', 'Pilot', 'retention/a/b'], 6);
    const notices = pick<string[]>([[], ['stop'], ['note', 'stop'], ['caution']], 3);
    const certified = pick([null, ...DAYS], 4);
    const above = pick([[], ['booking'], ['passenger', 'booking']], 5);
    const names = [...above].reverse();
    const hidden = i % 7 === 3;
    const custodian = pick([null, PEOPLE[0], PEOPLE[1]], 10);
    const expert = pick([null, PEOPLE[1], null], 13);
    const rows = await db.rows<{ id: string }>(
      `insert into asset (source_id, domain_id, kind, name, key, depth, description, standing, level_set, level, gone_at, words, native, first_seen, parent_id, changed_at, priority_set, stats) values ($1, $2, $3, $4, $5, 0, $6, $7, $8, $8, $9, $10::tsvector, $11, $12, $13, $14, $15, $16) returning id`,
      [
        sourceId,
        hidden ? elsewhere : i % 2 ? below : domainId,
        kind,
        name,
        [`k${i}`, ...names, name].join('\u001f'),
        description,
        standing,
        level,
        gone ? new Date() : null,
        description ? wordsVector([name], [description]) : '',
        JSON.stringify(type === null ? {} : { type }),
        created,
        await within(above, i),
        touched,
        stated,
        // What is no number is no size.
        JSON.stringify(bytes === null ? { bytes: i % 2 ? 'much' : undefined } : { bytes }),
      ],
    );
    const id = rows[0]?.id ?? '';
    if (certified)
      await db.run('insert into certification (asset_id, at, lapsed_at) values ($1, $2, $3)', [
        id,
        certified,
        i % 9 === 0 ? created : null,
      ]);
    for (const key of classes)
      await db.run(
        "insert into claim (asset_id, class_key, detector, detector_version, share, matched, sampled, distinct_values, confidence, state, evidence) values ($1, $2, 'd', '1', 1, 1, 1, 1, 1, 'certain', '{}')",
        [id, key],
      );
    // A dismissed finding is no class any more; of a vanished column none counts.
    const dismissed = classes.length > 0 && i % 3 === 0 ? classes[0] : undefined;
    if (dismissed)
      await db.run(
        "insert into finding_decision (asset_id, class_key, decision, decided_by) values ($1, $2, 'dismissed', $3)",
        [id, dismissed, people[0]],
      );
    if (guide)
      await db.run("insert into said_words (asset_id, said_in, words) values ($1, 'guide', $2::tsvector)", [
        id,
        wordsVector([], [guide]),
      ]);
    for (const index of owners)
      await db.run("insert into asset_person (asset_id, person_id, role) values ($1, $2, 'owner')", [
        id,
        people[index],
      ]);
    if (custodian)
      await db.run("insert into asset_person (asset_id, person_id, role) values ($1, $2, 'custodian')", [
        id,
        people[PEOPLE.indexOf(custodian)],
      ]);
    if (expert)
      await db.run("insert into asset_person (asset_id, person_id, role) values ($1, $2, 'expert')", [
        id,
        people[PEOPLE.indexOf(expert)],
      ]);
    if (uses > 0)
      await db.run('insert into asset_use (asset_id, calls, roles, statements, moved_at) values ($1, $2, 1, 1, $3)', [
        id,
        uses,
        asked,
      ]);
    if (found > 0 || inherited > 0)
      await db.run(
        'insert into asset_priority (asset_id, found, inherited, from_id) values ($1::uuid, $2, $3::smallint, case when $3::smallint > 0 then $1::uuid end)',
        [id, found, inherited],
      );
    if (tag !== null)
      await db.run('insert into asset_tag (asset_id, tag_id, value) select $1, id, $3 from tag where name = $2', [
        id,
        tag.split('/')[0],
        tag.split('/').slice(1).join('/'),
      ]);
    for (const kind of notices)
      await db.run(
        "insert into notice (asset_id, kind, text, starts, holds) values ($1, $2, 'x', '2026-01-01', true), ($1, 'note', 'over', '2026-01-01', false)",
        [id, kind],
      );
    if (term !== null) await db.run('insert into asset_term (asset_id, term_id) values ($1, $2)', [id, terms[term]]);
    if (tag !== null) {
      const [key = '', ...value] = tag.split('/');
      given.push({ assetId: id, tagId: key, value: value.join('/') });
    }
    carriers.set(id, { id, parentId: above.length > 0 ? await holderOf(id) : null, kind, gone });
    for (const key of classes)
      said.push({ assetId: id, classKey: key, found: 'certain', decided: key === dismissed ? 'dismissed' : null });
    facts.set(id, {
      kind,
      source: 'Test source',
      domains: hidden ? ['Elsewhere'] : i % 2 ? ['Wake Card', 'Travel'] : ['Travel'],
      // Once the edges are there: `arrive`.
      classes: [],
      arrived: [],
      owners: owners.map((index) => PEOPLE[index] ?? ''),
      stewards: [],
      custodians: custodian ? [custodian] : [],
      experts: expert ? [expert] : [],
      terms: term === null ? [] : [TERMS[term] ?? ''],
      tags: tag === null ? [] : [...new Set([tag.split('/')[0] ?? '', tag])],
      came: [],
      level,
      priority: Math.max(stated ?? found, inherited),
      standing,
      notices,
      described: Boolean(description),
      gone,
      name,
      type,
      uses,
      usesTold: true,
      bytes,
      isMade: false,
      makesOthers: false,
      asked: uses === 0 ? null : asked.getTime(),
      created: created.getTime(),
      changed: changed.getTime(),
      certified: certified && standing === 'trusted' && i % 9 !== 0 ? certified.getTime() : null,
      read: Date.UTC(2026, 1, 28, 12),
      path: [...names, name].join('.'),
      above: names.map((name, at) => ({ name, path: names.slice(0, at + 1).join('.') })),
      upstreamOf: [],
      downstreamOf: [],
      words: [...words.names, ...words.texts],
      wordsCarried: searchWords(
        [
          ...(term === null ? [] : [TERMS[term] ?? '', ...(LABELS[term] ?? [])]),
          tag?.split('/')[0] ?? '',
          tag?.split('/').slice(1).join('/') ?? '',
        ],
        [],
      ).names,
    });
  }
  // Its source tells what is asked of it.
  const [told] = await db.rows<{ id: string }>(
    "insert into asked_statement (id, source_id, print) values (gen_random_uuid(), $1, 'p') returning id",
    [sourceId],
  );
  await db.run("insert into asked_by (statement_id, role, calls) values ($1, 'app', 1)", [told?.id]);
  await flow(sourceId);
  await arrive();
  await arriveTags();
});
afterAll(() => place.drop());

/** The first of some names, up to one of them. */
const upTo = (names: readonly string[], last: string): string[] =>
  [...names].reverse().slice(0, names.length - names.indexOf(last));

/** Steps between the assets, a circle among them, and what follows from these for each, told plainly. */
async function flow(sourceId: string): Promise<void> {
  const { db } = place;
  const ids = [...facts.keys()];
  const made = await db.one<{ id: string }>(
    "insert into flow (source_id, kind, statement) values ($1, 'view', '') returning id",
    [sourceId],
  );
  for (const [at, id] of ids.entries())
    if (at % 4 === 0)
      await db.run(
        "insert into lineage_edge (flow_id, from_id, to_id, kind) select $1, $2, to_id, 'copied' from unnest($3::uuid[]) to_id",
        [made?.id, id, [ids[(at * 3 + 5) % ids.length], ids[(at + 36) % ids.length]]],
      );
  const steps = await db.rows<{ from: string; to: string }>(
    'select from_id as "from", to_id as "to" from lineage_edge union select from_id, to_id from lineage_feed',
  );
  const holders = await db.rows<{ id: string; names: Called[]; hidden: boolean }>(
    `
      select
        a.id,
        (
          select json_agg(json_build_object('name', h.name, 'path', replace(substr(h.key, position(chr(31) in h.key) + 1), chr(31), '.')))
          from asset h
          where a.key = h.key or a.key like h.key || chr(31) || '%'
        ) as names,
        d.name = 'Elsewhere' as hidden
      from asset a
      join domain d on d.id = a.domain_id`,
  );
  const calledBy = new Map(holders.map(({ id, names, hidden }) => [id, hidden ? [] : names]));
  const reached = (from: string, next: (id: string) => string[]): string[] => {
    const met = new Set<string>();
    for (let ring = next(from); ring.length > 0; ring = ring.flatMap(next).filter((id) => !met.has(id)))
      for (const id of ring) met.add(id);
    return [...met];
  };
  const named = (met: string[]) => met.flatMap((id) => calledBy.get(id) ?? []);
  const isSeen = new Map(holders.map(({ id, hidden }) => [id, !hidden]));
  for (const [id, known] of facts)
    facts.set(id, {
      ...known,
      isMade: steps.some(({ from, to }) => to === id && isSeen.get(from)),
      makesOthers: steps.some(({ from, to }) => from === id && isSeen.get(to)),
      upstreamOf: named(reached(id, (one) => steps.filter(({ from }) => from === one).map(({ to }) => to))),
      downstreamOf: named(reached(id, (one) => steps.filter(({ to }) => to === one).map(({ from }) => from))),
    });
}

const holderOf = async (id: string): Promise<string | null> =>
  (await place.db.one<{ holder: string | null }>('select parent_id as holder from asset where id = $1', [id]))
    ?.holder ?? null;

/** Which classes each carries, and which of them came along lineage: by their plain definition. */
async function arrive(): Promise<void> {
  const steps = await place.db.rows<CarryingStep>(
    'select from_id as "from", to_id as "to", kind, wrong from lineage_edge',
  );
  const carried = carriedBy(carriers, said, steps);
  const came = new Set(
    carried.filter(({ via }) => via === 'lineage').map(({ assetId, classKey }) => `${assetId} ${classKey}`),
  );
  for (const [id, known] of facts) {
    const here = known.gone ? [] : carried.filter(({ assetId }) => assetId === id);
    facts.set(id, {
      ...known,
      classes: [...new Set(here.map(({ classKey }) => classKey))],
      arrived: [
        ...new Set(
          here
            .filter(
              ({ via, fromId, classKey }) =>
                via === 'lineage' || (via === 'inside' && came.has(`${fromId} ${classKey}`)),
            )
            .map(({ classKey }) => classKey),
        ),
      ],
    });
  }
}

/** Which tags came along lineage, of the one that travels: by their plain definition. */
async function arriveTags(): Promise<void> {
  const { db } = place;
  await db.run("update tag set travels = '{copied}' where name = 'retention'");
  const steps = await db.rows<CarryingStep>('select from_id as "from", to_id as "to", kind, wrong from lineage_edge');
  const rules = new Map([['retention', { travels: ['copied'], kinds: null }]]);
  const came = travelledTags(given, [], steps, carriers, rules);
  // A test of what came that nothing came in would show nothing.
  expect(came.length).toBeGreaterThan(10);
  for (const { assetId, tagId, value } of came) {
    const known = facts.get(assetId);
    // Schemas stand beside: they are not asked for.
    if (!known) continue;
    const names = [tagId, ...(value ? [`${tagId}/${value}`] : [])];
    facts.set(assetId, {
      ...known,
      tags: [...new Set([...known.tags, ...names])],
      came: [...new Set([...known.came, ...names])],
      wordsCarried: [...known.wordsCarried, ...searchWords([tagId, value], []).names],
    });
  }
}

async function found(filter: Filter): Promise<Set<string>> {
  const binder = new Binder();
  const seen = binder.add(mine);
  const rows = await place.db.rows<{ id: string }>(
    `select a.id from ${FROM} where a.kind <> 'schema' and ${seen}::uuid[] is not null and (${filterToSql(filter, binder, seen)})`,
    binder.values,
  );
  return new Set(rows.map((row) => row.id));
}
const expected = (filter: Filter) => new Set([...facts].filter(([, asset]) => passes(filter, asset)).map(([id]) => id));

const tree = anyFilter(
  ['test source'],
  anyWord(
    fc.oneof(
      fc.constantFrom(
        'pass',
        'booking',
        'guest',
        'tariff',
        'fare booking',
        'email',
        'gross',
        'ore',
        'hare',
        'cafe',
        'arsak',
        'strasse',
        'mail of',
        'pilot',
        'reten',
      ),
      fc.string({ maxLength: 6 }),
    ),
    fc.boolean(),
  ),
);

it('finds in the database exactly what it finds in memory', async () => {
  let nonEmpty = 0;
  await fc.assert(
    fc.asyncProperty(tree, async (filter) => {
      const [inDatabase, inMemory] = [await found(filter), expected(filter)];
      if (inMemory.size > 0 && inMemory.size < facts.size) nonEmpty += 1;
      expect(inDatabase, writeFilter(filter)).toEqual(inMemory);
    }),
    { numRuns: 600 },
  );
  expect(nonEmpty).toBeGreaterThan(100);
});

it.each([
  'pass kind:table',
  'class:email level>=guarded',
  'class:email via:lineage',
  'via:lineage not class:iban',
  'arrived:none class:any',
  'tag:retention/short via:lineage',
  'tag:retention not came:any',
  'came:none tag:any kind:view',
  'kind:view or (class:iban,email via:lineage)',
  'owner:none or term:traveller',
  'not described:yes',
  'upstream:booking.*',
  'downstream:passenger kind:view',
  'path:booking.*e',
  '"strassenname"',
  "o'hare",
])('agrees on %s', async (text) => {
  const filter = parseFilter(text);
  expect(await found(filter)).toEqual(expected(filter));
});
