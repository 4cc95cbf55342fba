import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { anyFilter, anyWord } from '../../testing/filters.ts';
import {
  type AssetFacts,
  type Called,
  type Filter,
  parseFilter,
  passes,
  type Standing,
  searchWords,
  someLeaf,
  writeFilter,
} from '../index.ts';
import { type Ask, Finder, type FinderAsset, type PageAsk } from './index.ts';

const id = (number: number) => `00000000-0000-4000-8000-${number.toString(16).padStart(12, '0')}`;
const NAMES = ['passenger', 'booking_leg', 'emailAddress', 'Größe', 'øre_2', "o'hare", 'ÅRSAK', 'x'];
const TEXTS = [null, 'Everybody who travels', 'Ein Straßenname', 'the e-mail of the booking', 'naïve café'];
const PEOPLE = new Map([
  ['p1', 'Ida Holm'],
  ['p2', 'Bjørn Åse'],
]);
const TERMS = new Map([
  ['t1', { name: 'Traveller', labels: ['Traveller', 'Passenger', 'pax'] }],
  ['t2', { name: 'Fare band', labels: ['Fare band', 'Tariff'] }],
]);
const TAGS = new Map([
  ['g1', 'retention'],
  ['g2', 'Pilot'],
]);
const DOMAINS = new Map([
  ['d1', { name: 'Travel', parentId: null }],
  ['d2', { name: 'Wake Card', parentId: 'd1' }],
]);
const PATHS = new Map([
  ['s2', { separator: '/', topHidden: false }],
  ['s1', { separator: '.', topHidden: true }],
]);
const SOURCES = new Map([
  ['s1', 'Booking system'],
  ['s2', 'Accounts'],
]);
const CLASSES = new Map([['email', 'Email address']]);
const READ = new Map([['s1', Date.UTC(2026, 1, 28, 12)]]);
const NAMED = {
  classes: CLASSES,
  sources: SOURCES,
  paths: PATHS,
  read: READ,
  told: new Set(['s1']),
  domains: DOMAINS,
  people: PEOPLE,
  terms: TERMS,
  tags: TAGS,
};
const DAYS = [Date.UTC(2025, 11, 31, 23), Date.UTC(2026, 0, 1), Date.UTC(2026, 1, 28, 12), Date.UTC(2026, 10, 27)];
const EVERYWHERE = ['d1', 'd2'];
/** These, and what policies let others see of each. */
const SIGHTS = [...EVERYWHERE, 'd1 opened', 'd2 opened'];

const pathOf = ({ key, sourceId }: FinderAsset): string =>
  sourceId === 's1' ? key.split('\u001f').slice(1).join('.') : key.split('\u001f').join('/');

const isSeen = ({ domainId, openedId }: FinderAsset, ids: readonly string[]): boolean =>
  ids.includes(domainId) || (openedId !== null && ids.includes(openedId));

/** What an asset is made into, or made from, at any number of steps, in some domains. */
function namesAround(
  asset: FinderAsset,
  all: readonly FinderAsset[],
  way: 'into' | 'from',
  domains: readonly string[],
): Called[] {
  const met = new Set<string>();
  const next = (one: string) =>
    all.flatMap((other) =>
      way === 'into' ? (other.madeFrom.includes(one) ? [other.id] : []) : other.id === one ? other.madeFrom : [],
    );
  for (let ring = next(asset.id); ring.length > 0; ring = ring.flatMap(next).filter((one) => !met.has(one)))
    for (const one of ring) met.add(one);
  return all
    .filter((other) => met.has(other.id) && isSeen(other, domains))
    .map((other) => ({ name: other.name, path: pathOf(other) }));
}

/** What a member of a set of tags is called in filters. */
function tagCalled(member: string): string {
  const [tag = '', ...value] = member.split('/');
  return [TAGS.get(tag), ...value].join('/');
}

/** What an asset of the finder is to the plain definition of a filter. */
function factsOf(asset: FinderAsset, all: readonly FinderAsset[], domains: readonly string[]): AssetFacts {
  const named = (ids: readonly string[], names: ReadonlyMap<string, string>) => ids.map((one) => names.get(one) ?? '');
  return {
    kind: asset.kind,
    source: SOURCES.get(asset.sourceId) ?? '',
    domains: asset.domainId === 'd2' ? ['Wake Card', 'Travel'] : ['Travel'],
    classes: asset.gone ? [] : asset.classes,
    arrived: asset.gone ? [] : asset.arrived,
    owners: named(asset.owners, PEOPLE),
    stewards: named(asset.stewards, PEOPLE),
    custodians: named(asset.custodians, PEOPLE),
    experts: named(asset.experts, PEOPLE),
    terms: asset.terms.map((term) => TERMS.get(term)?.name ?? ''),
    tags: asset.tags.map(tagCalled),
    came: asset.came.map(tagCalled),
    level: asset.level,
    priority: asset.priority,
    standing: asset.standing,
    notices: asset.notices,
    described: asset.described,
    gone: asset.gone,
    name: asset.name,
    type: asset.type,
    uses: asset.uses,
    usesTold: NAMED.told.has(asset.sourceId),
    bytes: asset.bytes,
    asked: asset.asked,
    created: asset.created,
    changed: asset.changed,
    certified: asset.certified,
    read: READ.get(asset.sourceId) ?? null,
    path: pathOf(asset),
    above: [],
    upstreamOf: namesAround(asset, all, 'into', domains),
    downstreamOf: namesAround(asset, all, 'from', domains),
    isMade: all.some((other) => asset.madeFrom.includes(other.id) && isSeen(other, domains)),
    makesOthers: all.some((other) => other.madeFrom.includes(asset.id) && isSeen(other, domains)),
    words: [...searchWords([asset.name], []).names, ...asset.words],
    wordsCarried: searchWords(
      [
        ...asset.terms.flatMap((term) => TERMS.get(term)?.labels ?? []),
        ...asset.tags.flatMap((member) => [
          TAGS.get(member.split('/')[0] ?? '') ?? '',
          member.split('/').slice(1).join('/'),
        ]),
      ],
      [],
    ).names,
  };
}

const one = (number: number, more: Partial<FinderAsset> = {}): FinderAsset => ({
  id: id(number),
  parentId: null,
  sourceId: 's1',
  domainId: 'd1',
  openedId: null,
  kind: 'table',
  name: `table_${number}`,
  key: `db\u001ftable_${number}`,
  position: 0,
  words: [],
  classes: [],
  arrived: [],
  owners: [],
  stewards: [],
  custodians: [],
  experts: [],
  terms: [],
  tags: [],
  came: [],
  notices: [],
  type: null,
  asked: null,
  created: 0,
  changed: 0,
  certified: null,
  level: null,
  priority: 0,
  standing: 'unreviewed',
  described: false,
  gone: false,
  uses: 0,
  bytes: null,
  madeFrom: [],
  ...more,
});

const assets: fc.Arbitrary<FinderAsset> = fc
  .record({
    number: fc.integer({ min: 0, max: 60 }),
    name: fc.constantFrom(...NAMES),
    text: fc.constantFrom(...TEXTS),
    kind: fc.constantFrom('table', 'view', 'column', 'materialised view', 'database'),
    sourceId: fc.constantFrom(...SOURCES.keys()),
    domainId: fc.constantFrom(...DOMAINS.keys()),
    isOpened: fc.boolean(),
    classes: fc.subarray(['email', 'iban']),
    arrived: fc.subarray(['email', 'iban']),
    owners: fc.subarray([...PEOPLE.keys()]),
    stewards: fc.subarray([...PEOPLE.keys()]),
    custodians: fc.subarray([...PEOPLE.keys()]),
    experts: fc.subarray([...PEOPLE.keys()]),
    type: fc.constantFrom(null, 'text', 'Varchar(40)', 'numeric(9,2)'),
    asked: fc.constantFrom(null, ...DAYS),
    created: fc.constantFrom(...DAYS),
    changed: fc.constantFrom(...DAYS),
    certified: fc.constantFrom(null, ...DAYS),
    terms: fc.subarray([...TERMS.keys()]),
    notices: fc.subarray(['note', 'caution', 'stop']),
    tags: fc.constantFrom([], ['g2'], ['g1', 'g1/short'], ['g1', 'g1/a/b', 'g2']),
    came: fc.constantFrom([], ['g2'], ['g1', 'g1/short']),
    level: fc.constantFrom(null, 1, 2, 3, 4),
    priority: fc.constantFrom(0, 1, 2),
    standing: fc.constantFrom<Standing>('unreviewed', 'reviewed', 'trusted', 'retiring'),
    gone: fc.boolean(),
    uses: fc.nat(5000),
    bytes: fc.constantFrom(null, 0, 1, 20_000_000, 20_000_001, 1_500_000_000),
    madeFrom: fc.array(fc.integer({ min: 0, max: 60 }).map(id), { maxLength: 2 }),
  })
  .map(({ number, name, text, isOpened, ...more }) =>
    one(number, {
      ...more,
      openedId: isOpened ? `${more.domainId} opened` : null,
      name,
      key: `db\u001f${number}\u001f${name}`,
      words: searchWords([name], [text]).texts,
      described: text !== null,
    }),
  );

// In quotation marks: other forms of a word are no condition of the filter.
const tree = anyFilter(
  ['booking system', 'Accounts'],
  anyWord(
    fc.constantFrom(
      'passenger',
      'booking',
      'email',
      'grosse',
      'ore',
      'hare',
      'cafe',
      'arsak',
      'mail of',
      '2',
      'retention',
      'pilot',
    ),
    fc.constant(true),
  ),
);

/** What a person sees of what passes, told plainly. */
const seen = (filter: Filter, all: Iterable<FinderAsset>, domains: readonly string[]) =>
  [...all].filter(
    (asset, _, there) =>
      passes(filter, factsOf(asset, there, domains)) &&
      isSeen(asset, domains) &&
      (!asset.gone || someLeaf(filter, (part) => part.type === 'is' && part.key === 'gone')) &&
      (!['column', 'database'].includes(asset.kind) ||
        someLeaf(filter, (part) => part.type === 'word' || (part.type === 'is' && part.key === 'kind'))),
  );

const page = (more: Partial<PageAsk> = {}): PageAsk => ({
  sort: 'path',
  descending: false,
  offset: 0,
  limit: 200,
  ...more,
});
function made(all: Iterable<FinderAsset>): Finder {
  const finder = new Finder();
  finder.rename(NAMED);
  for (const asset of all) finder.put(asset);
  return finder;
}
const ask = (text: string, more: Partial<Ask> = {}): Ask => ({
  filter: parseFilter(text),
  domains: EVERYWHERE,
  ...more,
});

describe('a finder', () => {
  it('finds and counts what the plain definition does, after whatever came, changed and went', () => {
    let told = 0;
    fc.assert(
      fc.property(
        fc.array(fc.oneof({ weight: 6, arbitrary: assets }, fc.integer({ min: 0, max: 60 })), { maxLength: 90 }),
        fc.array(fc.tuple(tree, fc.subarray(SIGHTS)), { minLength: 4, maxLength: 8 }),
        (steps, asks) => {
          const finder = made([]);
          const all = new Map<string, FinderAsset>();
          const compare = ([filter, domains]: (typeof asks)[number]) => {
            const expected = seen(filter, all.values(), domains);
            const found = finder.find({ filter, domains }, page());
            expect(new Set(found.ids), writeFilter(filter)).toEqual(new Set(expected.map((asset) => asset.id)));
            expect([found.total, found.ids.length, found.readAs]).toEqual([expected.length, expected.length, null]);
            if (expected.length > 0 && expected.length < all.size) told += 1;
            const plain: Filter = { type: 'all', of: [{ type: 'not', of: { type: 'not', of: filter } }] };
            const counted = Object.fromEntries(
              finder.count({ filter: plain, domains }).map(({ key, values }) => [key, values]),
            );
            const tally = (of: (asset: FinderAsset) => readonly string[]) => {
              const counts = new Map<string, number>();
              for (const asset of expected) for (const one of of(asset)) counts.set(one, (counts.get(one) ?? 0) + 1);
              return counts;
            };
            const counts = (key: string) => new Map(counted[key]?.map((entry) => [entry.value, entry.count]));
            expect(counts('kind')).toEqual(tally((asset) => [asset.kind]));
            expect(counts('class')).toEqual(tally((asset) => (asset.gone ? [] : asset.classes)));
            expect(counts('owner')).toEqual(tally((asset) => asset.owners.map((person) => PEOPLE.get(person) ?? '')));
            expect(counts('described')).toEqual(tally((asset) => [asset.described ? 'yes' : 'no']));
          };
          steps.forEach((step, at) => {
            if (typeof step === 'number') {
              finder.drop(id(step));
              all.delete(id(step));
            } else {
              finder.put(step);
              all.set(step.id, step);
            }
            // Questions between the changes see what has come so far.
            if (at % 20 === 10) compare(asks[at % asks.length] as (typeof asks)[number]);
          });
          for (const one of asks) compare(one);
        },
      ),
      { numRuns: 150 },
    );
    expect(told).toBeGreaterThan(100);
  });

  it('finds what lies below what is called so, at any depth, after whatever came and went', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.nat(), fc.constantFrom('core', 'stage_a', 'stage_b', 'x'), fc.boolean()), {
          maxLength: 40,
        }),
        fc.constantFrom('core', 'stage_*', '*', 'x', 'none of them'),
        (list, wanted) => {
          const finder = made([]);
          const above: string[][] = [];
          const keys: string[] = [];
          const gone = new Set<number>();
          list.forEach(([within, name, goes], at) => {
            const parent = at === 0 || within % 3 === 0 ? -1 : within % at;
            above.push(parent < 0 ? [] : [...(above[parent] ?? []), list[parent]?.[1] ?? '']);
            keys.push(`${parent < 0 ? '' : `${keys[parent]}\u001f`}${at} ${name}`);
            const parentId = parent < 0 ? null : id(parent);
            finder.put(one(at, { name, kind: 'table', parentId, key: keys[at] ?? '' }));
            // What holds nothing goes again.
            if (goes && !list.some(([other], later) => later > at && other % 3 !== 0 && other % later === at))
              gone.add(at);
          });
          for (const at of gone) finder.drop(id(at));
          const found = finder.find(ask(`under:"${wanted}" kind:any`), page());
          const pattern = new RegExp(`^${wanted.replace('*', '.*')}$`);
          const expected = list.flatMap((_, at) =>
            !gone.has(at) && above[at]?.some((name) => pattern.test(name)) ? [id(at)] : [],
          );
          expect(new Set(found.ids)).toEqual(new Set(expected));
        },
      ),
    );
  });

  it('pages fit together in every order, however deep', () => {
    const all = fc.sample(assets, { numRuns: 400, seed: 7 }).map((asset, at) => ({ ...asset, id: id(at) }));
    const there = new Map(all.map((asset) => [asset.id, asset]));
    const finder = made(all);
    const whole = ask('kind:any gone:yes,no');
    const told: Record<string, (asset: FinderAsset) => string | number> = {
      name: (asset) => asset.name.toLowerCase(),
      kind: (asset) => asset.kind,
      source: (asset) => SOURCES.get(asset.sourceId) ?? '',
      level: (asset) => asset.level ?? 0,
      priority: (asset) => asset.priority,
      urgency: (asset) => asset.priority * 5 + (asset.level ?? 0),
      standing: (asset) => ['trusted', 'reviewed', 'unreviewed', 'retiring'].indexOf(asset.standing),
    };
    for (const sort of [
      'name',
      'kind',
      'source',
      'standing',
      'level',
      'priority',
      'urgency',
      'path',
      'relevance',
    ] as const)
      for (const descending of [false, true]) {
        const ids: string[] = [];
        for (let offset = 0; offset < 400; offset += 37)
          ids.push(...finder.find(whole, page({ sort, descending, offset, limit: 37 })).ids);
        expect(ids).toHaveLength(400);
        expect(new Set(ids).size).toBe(400);
        const of = told[sort];
        if (!of || sort === 'name') continue;
        const values = ids.map((one) => of(there.get(one) as FinderAsset));
        const sorted = [...values].sort((a, b) => (a < b ? -1 : a > b ? 1 : 0) * (descending ? -1 : 1));
        expect(values).toEqual(sorted);
      }
    expect(finder.find(whole, page({ offset: 400 })).ids).toEqual([]);
  });

  it('what changes while it is kept is found as it is now: other words, another place, another name', () => {
    const finder = made([one(1, { name: 'ledger', words: ['harbour'] }), one(2, { name: 'harbour_fee' })]);
    const found = (text: string) => finder.find(ask(text), page()).ids;
    expect(found('"harbour"')).toEqual([id(1), id(2)]);
    finder.put(one(1, { name: 'ledger', words: ['berth'] }));
    expect(found('"harbour"')).toEqual([id(2)]);
    expect(found('"berth"')).toEqual([id(1)]);
    finder.put(one(1, { name: 'quay', words: ['berth'] }));
    expect(found('"ledger"')).toEqual([]);
    expect(found('"quay" "berth"')).toEqual([id(1)]);
    expect(found('owner:"Ida Holm"')).toEqual([]);
    finder.put(one(2, { name: 'harbour_fee', owners: ['p1'] }));
    expect(found('owner:"Ida Holm"')).toEqual([id(2)]);
    finder.rename({ ...NAMED, people: new Map([['p1', 'Ida Holm-Berg']]) });
    expect(found('owner:"Ida Holm"')).toEqual([]);
    expect(found('owner:"ida holm-berg"')).toEqual([id(2)]);
  });
});

describe('what the glossary calls the same', () => {
  const passenger = one(1, { name: 'passenger' });
  const band = one(2, { name: 'fare_band' });
  const travel = one(3, { name: 'trip', words: ['traveller'] });
  const carrying = one(4, { name: 'ledger', terms: ['t2'] });
  const pax = one(5, { name: 'pax_list' });
  const finder = made([passenger, band, travel, carrying, pax]);
  const found = (text: string) => finder.find(ask(text), page({ sort: 'relevance' })).ids;

  it('is found by each of its names, what is called as it was asked for first', () => {
    expect(found('traveller')[0]).toBe(id(3));
    expect(new Set(found('traveller'))).toEqual(new Set([id(3), id(1), id(5)]));
    expect(found('travellers')[0]).toBe(id(3));
    expect(found('passenger')[0]).toBe(id(1));
    expect(found('passengers')).toContain(id(3));
    expect(found('tariff')).toEqual([id(4), id(2)]);
    expect(found('"tariff"')).toEqual([id(4)]);
  });

  it('also by a name of several words, beside other conditions', () => {
    const under = made([
      one(1, { name: 'tariff', kind: 'view' }),
      one(2, { name: 'tariff' }),
      one(3, { name: 'fare' }),
    ]);
    const asked = (text: string) => under.find(ask(text), page({ sort: 'relevance' })).ids;
    expect(asked('fare band')).toEqual([id(2), id(1)]);
    expect(asked('fare_band kind:view')).toEqual([id(1)]);
    expect(asked('fare')).toEqual([id(3)]);
    expect(asked('band or fare')).toEqual([id(3)]);
    expect(asked('fare -band')).toEqual([id(3)]);
  });

  it('also where systems write together what people part', () => {
    const mail = made([one(1, { name: 'email' }), one(2, { name: 'eml_addr' })]);
    mail.rename({ ...NAMED, terms: new Map([['t3', { name: 'E-mail', labels: ['E-mail', 'eml'] }]]) });
    const asked = (text: string) => mail.find(ask(text), page({ sort: 'relevance' })).ids;
    expect(asked('eml')).toEqual([id(2), id(1)]);
    expect(new Set(asked('e-mail'))).toEqual(new Set([id(1), id(2)]));
  });

  it('is told: how the words were read', () => {
    expect(finder.find(ask('tariff'), page()).readAs).toEqual({ filter: 'tariff or ("fare" "band")', slip: false });
    expect(finder.find(ask('fare band'), page()).readAs).toEqual({ filter: '(fare band) or tariff', slip: false });
    expect(finder.find(ask('ledger'), page()).readAs).toBeNull();
    expect(finder.find(ask('fare_list'), page()).readAs).toBeNull();
  });

  it('and what carries a term is found by its labels, also with a slip of the finger', () => {
    const alone = made([carrying]);
    const ids = (text: string) => alone.find(ask(text), page()).ids;
    expect(ids('tarif')).toEqual([id(4)]);
    expect(ids('tarfif')).toEqual([id(4)]);
    // Of a name that stands nowhere but in the glossary.
    const named = made([passenger]);
    expect(named.find(ask('travelelr'), page())).toMatchObject({ ids: [id(1)], readAs: { slip: true } });
    expect(ids('ledger band')).toEqual([id(4)]);
    alone.rename({ ...NAMED, terms: new Map([['t2', { name: 'Price', labels: ['Price'] }]]) });
    expect(ids('tariff')).toEqual([]);
    expect(ids('price')).toEqual([id(4)]);
    alone.put({ ...carrying, terms: [] });
    expect(ids('price')).toEqual([]);
  });
});

describe('names that are written otherwise', () => {
  it('are found where words run together in them, behind those that have the words', () => {
    const finder = made([
      one(1, { name: 'TBLPAXEML' }),
      one(2, { name: 'passenger_email' }),
      one(3, { name: 'PAXPHONE' }),
    ]);
    const { ids, readAs } = finder.find(ask('passenger email'), page({ sort: 'relevance' }));
    expect(ids).toEqual([id(2), id(1)]);
    expect(readAs).toEqual({ filter: '((passenger or traveller or "pax") email) or "tblpaxeml"', slip: false });
    expect(finder.find(ask('"passenger" "email"'), page()).ids).toEqual([id(2)]);
    // Nothing is told of names that stand only where somebody may not look.
    const hidden = made([one(1, { name: 'TBLPAXEML', domainId: 'd2' }), one(2, { name: 'passenger_email' })]);
    expect(hidden.find(ask('passenger email', { domains: ['d1'] }), page()).readAs?.filter).not.toContain('tblpaxeml');
  });

  it('are found in Latin letters, and as they are', () => {
    const finder = made([one(1, { name: 'Кунде_адреса' }), one(2, { name: '客户' }), one(3, { name: 'Þór' })]);
    const found = (text: string) => finder.find(ask(text), page()).ids;
    expect([found('kunde adresa'), found('кунде'), found('kehu'), found('客户'), found('thor')]).toEqual([
      [id(1)],
      [id(1)],
      [id(2)],
      [id(2)],
      [id(3)],
    ]);
  });

  it('and what carries a tag is found by its key, as long as that is its key', () => {
    const finder = made([one(1, { tags: ['g1', 'g1/short'] }), one(2, { name: 'retention_rule' })]);
    const found = (text: string) => finder.find(ask(text), page({ sort: 'relevance' })).ids;
    expect(found('retention')).toEqual([id(2), id(1)]);
    expect(found('retent')).toEqual([id(2), id(1)]);
    finder.rename({ ...NAMED, tags: new Map([['g1', 'keep for']]) });
    expect([found('retention'), found('keep')]).toEqual([[id(2)], [id(1)]]);
    // By its value, too, whatever the key is called.
    expect([found('short'), found('shor')]).toEqual([[id(1)], [id(1)]]);
    finder.put(one(3, { tags: ['g1', 'g1/until_audit'] }));
    expect(found('audit')).toEqual([id(3)]);
    finder.put(one(1));
    expect([found('keep'), found('short')]).toEqual([[id(3)], []]);
  });
});

describe('what lies below', () => {
  const key = (...names: string[]) => names.join('\u001f');
  const place = (number: number, kind: string, parent: number | null, names: string[], more = {}) =>
    one(number, {
      kind,
      parentId: parent === null ? null : id(parent),
      name: names.at(-1) ?? '',
      key: key(...names),
      ...more,
    });
  const all = [
    place(1, 'database', null, ['db']),
    place(2, 'schema', 1, ['db', 'sales'], { position: 2 }),
    // Begins as the schema does, and lies beside it.
    place(3, 'schema', 1, ['db', 'sales!old'], { position: 1 }),
    place(4, 'table', 2, ['db', 'sales', 'fare']),
    place(5, 'column', 4, ['db', 'sales', 'fare', 'price']),
    place(6, 'table', 3, ['db', 'sales!old', 'fare']),
    place(7, 'table', 2, ['db', 'sales', 'berth'], { gone: true }),
    place(8, 'table', 2, ['db', 'sales', 'crew'], { domainId: 'd2' }),
    place(9, 'schema', null, ['db'], { sourceId: 's2' }),
  ];

  it('and what has a path is found by it, whatever its source calls the top', () => {
    const found = (text: string) => new Set(made(all).find(ask(`${text} kind:any`), page()).ids);
    expect(found('path:sales.fare.price')).toEqual(new Set([id(5)]));
    expect(found('path:sales*.fare')).toEqual(new Set([id(4), id(6)]));
    expect(found('path:db')).toEqual(new Set([id(1), id(9)]));
    expect(found('path:db.*')).toEqual(new Set());
    expect(found('under:sales.fare')).toEqual(new Set([id(5)]));
    expect(found('path:*')).toHaveLength(8);
  });

  it('is found by its path as people paste it, with the database before it or a column behind it', () => {
    const tells = one(10, { name: 'sales', words: ['fare'] });
    const finder = made([...all, tells]);
    const found = (text: string) => finder.find(ask(text), page({ sort: 'relevance' }));
    expect(found('sales.fare')).toMatchObject({
      ids: [id(4), id(10)],
      readAs: { filter: 'sales.fare or path:sales.fare', slip: false },
    });
    for (const text of ['db.sales.fare', 'sales.fare.price', 'SALES.Fare.price', 'sales.fare standing:unreviewed'])
      expect([text, found(text).ids[0]]).toEqual([text, id(4)]);
    expect(found('sales.fare kind:view').ids).toEqual([]);
    // With spaces between it is read as a path as well, where something is called so.
    expect(found('sales fare')).toMatchObject({
      ids: [id(4), id(10)],
      readAs: { filter: '(sales fare) or path:sales.fare,*.sales.fare' },
    });
    expect(found('db SALES Fare').ids[0]).toBe(id(4));
    expect(found('sales fare kind:view').ids).toEqual([]);
    expect(found('fare sales').ids[0]).toBe(id(4));
    expect(found('kind:column price fare').ids).toEqual([id(5)]);
    expect(found('price fare').ids).toEqual([id(5)]);
    for (const text of ['sales crew', 'crew sales', 'sales berth'])
      expect([text, made(all).find(ask(text, { domains: ['d1'] }), page()).ids]).toEqual([text, []]);
    // In quotation marks words stay words, and what is not theirs to see is not found by its path either.
    expect(found('"sales.fare"').ids).toEqual([id(10)]);
    expect(finder.find(ask('sales.crew', { domains: ['d1'] }), page()).ids).toEqual([]);
    expect(finder.find(ask('sales.crew'), page()).ids).toEqual([id(8)]);
    // What is no path is read as words alone.
    for (const text of ['sales.', '.fare', 'sales..fare'])
      expect([text, found(text).readAs?.filter ?? '']).toEqual([text, expect.not.stringContaining('path:')]);
  });

  it('is there in whatever order it comes', () => {
    const finder = made([...all].reverse());
    expect(finder.branches({ asset: id(2) }, EVERYWHERE).map((branch) => [branch.name, branch.kids])).toEqual(
      made(all)
        .branches({ asset: id(2) }, EVERYWHERE)
        .map((branch) => [branch.name, branch.kids]),
    );
    expect(finder.find(ask('path:sales.fare.price kind:any'), page()).ids).toEqual([id(5)]);
    expect(finder.find(ask('under:sales kind:any'), page()).total).toBe(3);
    expect(finder.size).toBe(all.length);
  });

  it('leads upstream and downstream of what holds it; nothing is told of what lies where somebody may not read', () => {
    const finder = made([
      ...all,
      place(10, 'table', null, ['feed'], { sourceId: 's2' }),
      place(11, 'column', 10, ['feed', 'amount'], { sourceId: 's2', madeFrom: [id(5)] }),
      place(12, 'table', null, ['report'], { sourceId: 's2', madeFrom: [id(10)] }),
    ]);
    const found = (text: string, domains = EVERYWHERE) =>
      new Set(finder.find(ask(`${text} kind:any`, { domains }), page()).ids);
    expect(found('downstream:fare')).toEqual(new Set([id(11)]));
    expect(found('upstream:feed')).toEqual(new Set([id(5)]));
    expect(found('downstream:sales')).toEqual(new Set([id(11)]));
    finder.put(place(10, 'table', null, ['feed'], { sourceId: 's2', madeFrom: [id(8), id(4)] }));
    expect(found('downstream:sales')).toEqual(new Set([id(10), id(11), id(12)]));
    expect(found('upstream:report')).toEqual(new Set([id(10), id(4), id(8)]));
    expect(found('downstream:crew')).toEqual(new Set([id(10), id(12)]));
    expect(found('downstream:crew', ['d1'])).toEqual(new Set());
    // Through what is hidden the way leads on.
    expect(found('upstream:report', ['d1'])).toEqual(new Set([id(10), id(4)]));
    finder.drop(id(12));
    expect(found('upstream:report')).toEqual(new Set());
  });

  it('is what its names begin with, in its own source', () => {
    const finder = made(all);
    const under = (number: number, text = '', domains = EVERYWHERE) =>
      finder
        .find(ask(text, { under: id(number), domains }), page())
        .ids.map((one) => Number.parseInt(one.slice(-4), 16));
    expect(under(2)).toEqual([8, 4]);
    expect(under(2, 'kind:any')).toEqual([8, 4, 5]);
    expect(under(2, 'gone:yes')).toEqual([7]);
    expect(under(2, '', ['d1'])).toEqual([4]);
    expect(under(1)).toEqual([2, 8, 4, 3, 6]);
    expect(under(99)).toEqual([]);
    finder.drop(id(4));
    expect(under(2, 'kind:any')).toEqual([8, 5]);
  });

  it('stands in the tree, in its own order, with what each holds', () => {
    const finder = made(all);
    expect(finder.branches({ source: 's1' }, EVERYWHERE)).toEqual([
      { id: id(1), kind: 'database', name: 'db', kids: 2, hasHolders: true, notice: null },
    ]);
    expect(finder.branches({ asset: id(1) }, EVERYWHERE).map((branch) => branch.name)).toEqual(['sales!old', 'sales']);
    expect(finder.branches({ asset: id(2) }, EVERYWHERE)).toEqual([
      { id: id(8), kind: 'table', name: 'crew', kids: 0, hasHolders: false, notice: null },
      { id: id(4), kind: 'table', name: 'fare', kids: 1, hasHolders: false, notice: null },
    ]);
    expect(finder.branches({ asset: id(2) }, ['d1']).map((branch) => branch.name)).toEqual(['fare']);
    expect(finder.branches({ asset: id(4) }, EVERYWHERE)).toEqual([]);
    expect(finder.branches({ source: 'nowhere' }, EVERYWHERE)).toEqual([]);
  });

  it('is counted where lists show it', () => {
    const finder = made(all);
    const counts = () =>
      Object.fromEntries(
        finder.bySource().map((entry) => [`${entry.sourceId} ${entry.domainId}`, [entry.here, entry.shown]]),
      );
    expect(counts()).toEqual({ 's1 d1': [6, 4], 's1 d2': [1, 1], 's2 d1': [1, 1] });
    finder.put(place(4, 'table', 2, ['db', 'sales', 'fare'], { gone: true }));
    finder.drop(id(9));
    expect(counts()).toEqual({ 's1 d1': [5, 3], 's1 d2': [1, 1], 's2 d1': [0, 0] });
  });
});

it('measures what is found by filters, kind by kind and domain by domain', () => {
  const finder = made([
    one(1, { owners: ['p1'], described: true, bytes: 500 }),
    one(2, { kind: 'view', domainId: 'd2', bytes: 70 }),
    one(3, { domainId: 'd2', owners: ['p2'], level: 3 }),
    one(4, { kind: 'column', owners: ['p2'] }),
    one(5, { gone: true, owners: ['p2'] }),
  ]);
  const filters = ['owner:any', 'described:yes'].map(parseFilter);
  expect(finder.measure(ask(''), 'kind', filters)).toEqual([
    { value: 'table', domain: 'd1', assets: 1, met: [1, 1], bytes: 500, metBytes: [500, 500] },
    { value: 'view', domain: 'd2', assets: 1, met: [0, 0], bytes: 70, metBytes: [0, 0] },
    { value: 'table', domain: 'd2', assets: 1, met: [1, 0], bytes: 0, metBytes: [0, 0] },
  ]);
  expect(finder.measure(ask(''), 'owner', filters.slice(1))).toEqual([
    { value: 'p1', domain: 'd1', assets: 1, met: [1], bytes: 500, metBytes: [500] },
    { value: '', domain: 'd2', assets: 1, met: [0], bytes: 70, metBytes: [0] },
    { value: 'p2', domain: 'd2', assets: 1, met: [0], bytes: 0, metBytes: [0] },
  ]);
  expect(finder.measure(ask(''), 'level', []).map(({ value, domain, assets }) => [value, domain, assets])).toEqual([
    ['none', 'd1', 1],
    ['none', 'd2', 1],
    ['guarded', 'd2', 1],
  ]);
  expect(finder.measure(ask('', { domains: ['d2'] }), 'domain', filters)).toEqual([
    { value: 'd2', domain: 'd2', assets: 2, met: [1, 0], bytes: 70, metBytes: [0, 0] },
  ]);
});

describe('words are read as they may have been meant', () => {
  const finder = made([
    one(1, { name: 'passenger' }),
    one(2, { name: 'customer_email', domainId: 'd1' }),
    one(3, { name: 'booking', words: ['sum', 'of', 'the', 'fare'] }),
    one(4, { name: 'bookings_history' }),
    one(5, { name: 'Buchung' }),
    one(6, { name: 'secret_cargo', domainId: 'd2' }),
    one(7, { name: 'berth' }),
    one(8, { name: 'porter' }),
    one(9, { name: 'port_call' }),
  ]);
  const found = (text: string, domains = EVERYWHERE) => {
    const { ids, readAs } = finder.find(ask(text, { domains }), page({ sort: 'relevance' }));
    return [ids.map((one) => Number(one.slice(-1))), readAs?.filter ?? null, readAs?.slip ?? false];
  };

  it.each<[string, number[], string | null, boolean]>([
    ['passanger', [1], 'passenger', true],
    ['pasenger', [1], 'passenger', true],
    ['passneger', [1], 'passenger', true],
    ['passengger', [1], 'passenger', true],
    ['custmer email', [2], 'customer email', true],
    ['custmer_email', [2], 'customer email', true],
    // Two slips in a long word; none in a short one.
    ['pasengre', [1], 'passenger', true],
    ['bx', [], null, false],
    ['"passanger"', [], null, false],
    // What begins so is no slip.
    ['passen', [1], null, false],
    // Exact first, always; another form stands behind it.
    ['bookings', [4, 3], 'bookings or "booking"', false],
    ['booked', [3, 4], 'booked or "booking" or "bookings"', false],
    ['Buchungen', [5], 'Buchungen or "buchung"', false],
    // Endings of one language do not cut the words of another.
    ['porter', [8], null, false],
    ['zzzzqqq', [], null, false],
  ])('%s', (text, ids, readAs, slip) => {
    const [at, filter, slipped] = found(text);
    expect([at, slipped]).toEqual([ids, slip]);
    expect(filter === null ? null : String(filter).toLowerCase()).toEqual(
      readAs === null ? null : readAs.toLowerCase(),
    );
  });

  it('conditions hold beside them', () => {
    expect(found('passanger kind:view')).toEqual([[], null, false]);
    expect(found('passanger kind:table')).toEqual([[1], 'passenger kind:table', true]);
    expect(found('not passanger kind:table')[0]).toHaveLength(9);
  });

  it('nothing is told of words that stand only where the person may not look', () => {
    expect(found('secrt cargo')).toEqual([[6], 'secret cargo', true]);
    expect(found('secrt cargo', ['d1'])).toEqual([[], null, false]);
    expect(found('cargos', ['d1'])).toEqual([[], null, false]);
  });
});

describe('the order of what is found', () => {
  const order = (all: readonly FinderAsset[], text: string, more: Partial<Ask> = {}) =>
    made(all)
      .find(ask(text, more), page({ sort: 'relevance' }))
      .ids.map((one) => Number(one.slice(-1)));

  it('what is called so comes before what begins so, what has more words, and what only tells of it', () => {
    expect(
      order(
        [
          one(1, { name: 'invoice', words: ['customer'] }),
          one(2, { name: 'customer_email_old' }),
          one(3, { name: 'customers' }),
          one(4, { name: 'customer' }),
          one(5, { name: 'customer_email' }),
        ],
        'customer',
      ),
    ).toEqual([4, 5, 2, 3, 1]);
  });

  it('of two that fit as well, the one that is more to be relied on, more used, nearer to oneself comes first', () => {
    const fare = (number: number, more: Partial<FinderAsset>) =>
      one(number, { name: 'fare', key: `k${number}`, ...more });
    expect(order([fare(1, { standing: 'retiring' }), fare(2, {}), fare(3, { standing: 'trusted' })], 'fare')).toEqual([
      3, 2, 1,
    ]);
    expect(order([fare(1, { uses: 3 }), fare(2, { uses: 9000 })], 'fare')).toEqual([2, 1]);
    expect(order([fare(1, {}), fare(2, { described: true, owners: ['p1'] })], 'fare')).toEqual([2, 1]);
    expect(order([fare(1, {}), fare(2, { domainId: 'd2' })], 'fare', { own: ['d2'] })).toEqual([2, 1]);
    expect(order([fare(1, { kind: 'column' }), fare(2, {})], 'fare')).toEqual([2, 1]);
  });

  it('says why, in parts that add up to the order', () => {
    const finder = made([one(1, { name: 'fare', standing: 'trusted' }), one(2, { name: 'fare_band', uses: 100 })]);
    const [best, other] = [1, 2].map((number) => finder.why(ask('fare'), id(number)));
    const sum = (reasons: object | undefined) =>
      Object.values(reasons ?? {}).reduce((a: number, b: number) => a + b, 0);
    expect(sum(best)).toBeGreaterThan(sum(other));
    expect(best).toMatchObject({ text: 1, name: 0.6, standing: 0.12, use: 0 });
    expect(other?.name).toBe(0);
    expect(other?.use).toBeGreaterThan(0);
    expect(finder.why(ask('berth'), id(1))).toBeUndefined();
  });
});
