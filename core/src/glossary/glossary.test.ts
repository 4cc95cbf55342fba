import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { anyVocabulary } from '../testing/vocabularies.ts';
import {
  type Concept,
  compareVocabulary,
  conflictsIn,
  type Given,
  readRows,
  readStatements,
  rowsOf,
  statementsOf,
  statusAllowed,
  type Taking,
  type Vocabulary,
} from './index.ts';

const NOBODY: Taking = {
  scheme: 'https://example.org/scheme/0',
  makeUri: () => 'urn:test:made',
  people: [['Ida Holm', 'ida@example.org'], ['Bjørn Åse']],
  mayApprove: () => true,
};
const NONE: Vocabulary = { schemes: [], concepts: [] };
const SCHEME = { uri: 'https://example.org/scheme/0', name: 'Travel', language: 'en', description: '' };
const concept = (name: string, more: Partial<Concept> = {}): Concept => ({
  uri: `urn:test:${name}`,
  scheme: SCHEME.uri,
  name,
  language: 'en',
  labels: [],
  definition: '',
  notes: [],
  broader: [],
  related: [],
  matches: [],
  status: 'draft',
  owner: null,
  ...more,
});
const glossary = (...concepts: Concept[]): Vocabulary => ({ schemes: [SCHEME], concepts });
const change = (now: Vocabulary, given: Given, more: Partial<Taking> = {}) =>
  compareVocabulary(now, given, { ...NOBODY, ...more });
const sheet = (...rows: string[][]) => readRows(rows);

describe('what is written out and taken in again', () => {
  it.each([
    ['statements', (vocabulary: Vocabulary) => readStatements(statementsOf(vocabulary))],
    ['rows', (vocabulary: Vocabulary) => readRows(rowsOf(vocabulary))],
  ] as const)('changes nothing, as %s', (_, through) => {
    fc.assert(
      fc.property(anyVocabulary, (vocabulary) => {
        const { fresh, changed, same, flaws, schemes } = change(vocabulary, through(vocabulary));
        expect({ fresh, changed, flaws, schemes }).toEqual({ fresh: [], changed: [], flaws: [], schemes: [] });
        expect(same).toBe(vocabulary.concepts.length);
      }),
      { numRuns: 400 },
    );
  });

  it('is the same where nothing was before', () => {
    fc.assert(
      fc.property(anyVocabulary, (vocabulary) => {
        const { fresh, schemes, flaws } = change(NONE, readStatements(statementsOf(vocabulary)));
        expect(flaws).toEqual([]);
        expect(change({ schemes, concepts: fresh }, readStatements(statementsOf(vocabulary))).changed).toEqual([]);
        expect(change(vocabulary, readStatements(statementsOf({ schemes, concepts: fresh }))).changed).toEqual([]);
        expect(fresh).toHaveLength(vocabulary.concepts.length);
      }),
      { numRuns: 200 },
    );
  });

  it('neutralises what a spreadsheet would work out', () => {
    const rows = rowsOf(glossary(concept('=HYPERLINK("x")', { definition: '+1', owner: '@home' })));
    for (const cell of rows[1] ?? []) expect(cell).not.toMatch(/^[=+\-@\t\r]/);
    expect(readRows(rows).concepts[0]).toMatchObject({ name: '=HYPERLINK("x")', definition: '+1' });
  });
});

describe('what is read of SKOS', () => {
  const SKOS = 'http://www.w3.org/2004/02/skos/core#';
  const iri = (value: string) => ({ termType: 'NamedNode', value });
  const say = (subject: string, property: string, object: string | [string, string?]) => ({
    subject: iri(subject),
    predicate: iri(property.startsWith('http') ? property : SKOS + property),
    object:
      typeof object === 'string' ? iri(object) : { termType: 'Literal', value: object[0], language: object[1] ?? '' },
  });
  const TYPE = 'http://www.w3.org/1999/02/22-rdf-syntax-ns#type';

  it('takes what is said in the other direction, and tells what it does not keep', () => {
    const { concepts, schemes, notKept, flaws } = readStatements([
      say('urn:s', TYPE, `${SKOS}ConceptScheme`),
      say('urn:s', 'prefLabel', ['Sea', 'en']),
      say('urn:s', 'hasTopConcept', 'urn:a'),
      say('urn:a', TYPE, `${SKOS}Concept`),
      say('urn:a', 'prefLabel', ['Ship', 'en']),
      say('urn:a', 'narrower', 'urn:b'),
      say('urn:b', TYPE, `${SKOS}Concept`),
      say('urn:b', 'prefLabel', ['Fähre', 'de']),
      say('urn:b', 'prefLabel', ['Ferry', 'en']),
      say('urn:b', 'prefLabel', ['Ferry boat', 'en']),
      say('urn:b', 'http://purl.org/dc/terms/created', ['2020-01-01']),
    ]);
    expect(schemes).toEqual([{ uri: 'urn:s', name: 'Sea', language: 'en', description: '' }]);
    expect(concepts.map(({ uri, name, scheme, broader }) => ({ uri, name, scheme, broader }))).toEqual([
      { uri: 'urn:a', name: 'Ship', scheme: 'urn:s', broader: [] },
      { uri: 'urn:b', name: 'Ferry', scheme: undefined, broader: ['urn:a'] },
    ]);
    expect(concepts[1]?.labels?.values).toEqual([
      { kind: 'preferred', language: 'de', text: 'Fähre' },
      { kind: 'alternative', language: 'en', text: 'Ferry boat' },
    ]);
    expect(flaws.map(({ what }) => what)).toEqual(['It has two preferred labels in “en”.']);
    expect(notKept).toEqual([{ what: 'http://purl.org/dc/terms/created', times: 1 }]);
  });
});

describe('what a file changes', () => {
  const now = glossary(
    concept('Traveller', {
      labels: [
        { kind: 'alternative', language: 'en', text: 'Passenger' },
        { kind: 'hidden', language: 'en', text: 'pax' },
      ],
      status: 'agreed',
      owner: 'Ida Holm',
    }),
    concept('Guest'),
  );

  it('is only what it speaks of', () => {
    const { changed, fresh, flaws } = change(
      now,
      sheet(
        ['name', 'other names', 'broader'],
        ['traveller', 'Passenger | Guest of the ship', ''],
        ['Minor', '', 'Traveller'],
      ),
    );
    expect(changed).toHaveLength(1);
    expect(changed[0]?.fields).toEqual(['name', 'labels']);
    expect(changed[0]?.after).toMatchObject({ name: 'traveller', owner: 'Ida Holm', status: 'agreed' });
    expect(changed[0]?.after.labels.map(({ text }) => text).sort()).toEqual(['Guest of the ship', 'Passenger', 'pax']);
    expect(fresh).toMatchObject([
      { name: 'Minor', uri: 'urn:test:made', broader: ['urn:test:Traveller'], language: 'en' },
    ]);
    expect(flaws).toEqual([]);
  });

  it('says of a name that is not known which one is near', () => {
    const { flaws } = change(
      now,
      sheet(['name', 'broader', 'owner', 'scheme'], ['Minor', 'Travelller', 'Ida Hlm', 'Travl']),
    );
    expect(flaws).toMatchObject([
      { at: 'line 2', what: 'There is no scheme “Travl”.', mend: expect.stringContaining('“Travel”') },
    ]);
    const other = change(now, sheet(['name', 'broader', 'owner'], ['Minor', 'Travelller', 'Ida Hlm']));
    expect(other.flaws).toMatchObject([
      { what: 'Nobody here is called “Ida Hlm”.', mend: expect.stringContaining('“Ida Holm”') },
      { what: 'There is no term “Travelller”, named as broader.', mend: expect.stringContaining('“Traveller”') },
    ]);
    expect(other.fresh).toMatchObject([{ name: 'Minor', broader: [], owner: null }]);
  });

  it('closes no circle, and leaves out no more than what would', () => {
    const { fresh, flaws } = change(
      NONE,
      sheet(
        ['name', 'uri', 'broader'],
        ['A', 'urn:a', 'urn:b'],
        ['B', 'urn:b', 'urn:c'],
        ['C', 'urn:c', 'urn:a | urn:d'],
        ['D', 'urn:d', 'urn:d'],
      ),
      { scheme: SCHEME.uri },
    );
    expect(fresh.map(({ name, broader }) => [name, broader])).toEqual([
      ['A', ['urn:b']],
      ['B', ['urn:c']],
      ['C', ['urn:d']],
      ['D', []],
    ]);
    expect(flaws.map(({ what }) => what)).toEqual([
      '“D” is named as its own broader term.',
      '“C” would lie below itself, by way of “A”.',
    ]);
  });

  it('makes two related both ways, and parts them both ways', () => {
    const related = change(now, sheet(['name', 'related'], ['Guest', 'Traveller']));
    expect(related.changed.map(({ after }) => [after.name, after.related])).toEqual([
      ['Guest', ['urn:test:Traveller']],
    ]);
    const both = glossary(concept('A', { related: ['urn:test:B'] }), concept('B', { related: ['urn:test:A'] }));
    const parted = change(both, sheet(['name', 'related'], ['A', ''], ['B', 'A']));
    expect(parted.changed.map(({ after }) => [after.name, after.related])).toEqual([
      ['A', []],
      ['B', []],
    ]);
  });

  it('is a proposal where who takes it in may not agree to it', () => {
    const mayApprove = () => false;
    const { changed, fresh, flaws } = change(
      now,
      sheet(['name', 'definition', 'status'], ['Traveller', 'Who travels.', 'agreed'], ['Minor', '', 'agreed']),
      { mayApprove },
    );
    expect(changed[0]?.after.status).toBe('proposed');
    expect(fresh[0]?.status).toBe('proposed');
    expect(flaws).toHaveLength(2);
    expect(change(now, sheet(['name', 'status'], ['Traveller', 'draft']), { mayApprove }).changed).toEqual([]);
    expect(statusAllowed('agreed', 'agreed', false)).toBe('agreed');
    expect(statusAllowed('draft', 'proposed', true)).toBe('proposed');
  });

  it('is nothing where it says the same in another order', () => {
    const said = { text: 'Passenger', kind: 'alternative', language: 'en' } as const;
    const other = glossary(concept('Traveller', { labels: [said, { ...said, text: 'Guest' }] }));
    const { changed, same } = change(other, sheet(['name', 'other names'], ['Traveller', 'Guest | Passenger']));
    expect({ changed, same }).toEqual({ changed: [], same: 1 });
  });

  it('is nothing where the sheet names no column', () => {
    expect(sheet(['a', 'b'], ['x', 'y'])).toMatchObject({
      concepts: [],
      flaws: [{ at: 'line 1', what: 'No column is called “name”.' }],
    });
    expect(sheet(['name', 'colour'], ['x', 'red'])).toMatchObject({
      notKept: [{ what: 'the column “colour”', times: 1 }],
    });
  });
});

describe('what is amiss among terms', () => {
  it('is told', () => {
    const label = (text: string, kind: 'alternative' | 'hidden' = 'alternative') => ({ kind, language: 'en', text });
    const concepts = [
      concept('Fare', { labels: [label('Price')], status: 'agreed' }),
      concept('Price', { related: ['urn:test:Tariff'], definition: 'What is paid.', broader: ['urn:test:Tariff'] }),
      concept('Tariff', { related: ['urn:test:Price'], broader: ['urn:test:Old'], labels: [label('fare', 'hidden')] }),
      concept('Old', { status: 'retired' }),
      concept('Alone', {
        matches: [
          { kind: 'exact', uri: 'urn:x' },
          { kind: 'broad', uri: 'urn:x' },
        ],
        labels: [label('Lone'), label('Lone', 'hidden')],
      }),
    ];
    const found = conflictsIn(concepts, new Map([['urn:test:Old', 3]]));
    expect(found.map(({ kind, terms }) => `${kind}: ${terms.map((uri) => uri.slice(9)).join(', ')}`).sort()).toEqual([
      'below retired: Tariff, Old',
      'matched twice: Alone',
      'orphaned: Alone',
      'orphaned: Fare',
      'related above: Price, Tariff',
      'retired in use: Old',
      'said twice: Alone',
      'same name: Fare, Price',
      'undefined: Fare',
    ]);
  });
});
