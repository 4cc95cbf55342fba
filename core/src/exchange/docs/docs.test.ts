import { Ajv2020 } from 'ajv/dist/2020.js';
import fc from 'fast-check';
import { beforeAll, describe, expect, it } from 'vitest';
import { stringify } from 'yaml';
import { loadParser } from '../../sql/index.ts';
import { DOCS_FORMAT, DOCS_SCHEMA, type DocEntry, isDocs, readComments, readDocs, saidOnce } from './index.ts';

const fits = new Ajv2020({ strict: false }).compile(DOCS_SCHEMA);
const head = `format: ${DOCS_FORMAT}\nsource: Ware house\n`;
const flawsOf = (text: string) => readDocs(text).flaws.map(({ at, what }) => `${at}: ${what}`);

describe('a file of documentation', () => {
  it('says of assets and columns, by their addresses, with the line where it stands', () => {
    const { entries, flaws } = readDocs(`${head}wins:
  description: file
assets:
  mart/fares:
    description: |
      What a passage costs.
    owner: Ada
    terms: [Fare]
    columns:
      fare: In euros
      "2026":
        tags: kept/7y
  mart/a%2Fb: The other
`);
    expect(flaws).toEqual([]);
    expect(entries).toEqual([
      {
        at: 'line 6',
        of: '/at/Ware%20house/mart/fares',
        column: false,
        said: { description: 'What a passage costs.', owner: 'Ada', terms: ['Fare'] },
        keep: ['owner', 'terms'],
      },
      {
        at: 'line 12',
        of: '/at/Ware%20house/mart/fares/fare',
        column: true,
        said: { description: 'In euros' },
        keep: [],
      },
      {
        at: 'line 13',
        of: '/at/Ware%20house/mart/fares/2026',
        column: true,
        said: { tags: ['kept/7y'] },
        keep: ['tags'],
      },
      { at: 'line 15', of: '/at/Ware%20house/mart/a%2Fb', column: false, said: { description: 'The other' }, keep: [] },
    ]);
  });

  it('takes away by saying nothing: null, and lists that are empty', () => {
    const { entries } = readDocs(`${head}assets: {mart/x: {owner: ~, terms: [], description: null}}`);
    expect(entries[0]?.said).toEqual({ owner: null, terms: [], description: null });
  });

  it('is read but for what is wrong with it, which is named with its line and what mends it', () => {
    expect(
      flawsOf(`${head}assets:
  mart/x: once
  mart/x: twice
`),
    ).toEqual([expect.stringMatching(/^line 5: The file is no YAML: Map keys must be unique/)]);
    const read = readDocs(`${head}wins: {terms: nobody}
asets: {}
assets:
  mart/x:
    ownr: Ada
    standing: good
    terms: [1, Fare]
    description: Still read
    columns:
      a: {columns: {}}
      b: [1]
  mart//y: z
`);
    expect(read.flaws.map(({ at, what, mend }) => `${at}: ${what} ${mend}`)).toEqual([
      'line 4: “asets” is nothing that a file of documentation says. Is “assets” meant?',
      'line 3: “nobody” cannot win. Write people or file.',
      'line 7: “ownr” is nothing that an asset says. Is “owner” meant?',
      'line 8: “good” is no standing. Use one of unreviewed, reviewed, trusted, retiring.',
      'line 9: terms is a list of names. Write each on a line of its own, behind a dash; quote what looks like a number.',
      expect.stringContaining('line 12: “columns” is nothing that a column says.'),
      'line 13: Nothing can be read of it. Write its description, or what is known of it line by line.',
      'line 14: A name is missing. Write the names from the top with a stroke between, as in mart/fares.',
    ]);
    expect(read.entries.map(({ said }) => said)).toEqual([{ description: 'Still read' }]);
  });

  it.each([
    ['', 'line 1: The file says nothing.'],
    ['format: idrel-docs/2\nsource: x', 'line 1: The file is of the format idrel-docs/2.'],
    [`format: ${DOCS_FORMAT}`, 'line 1: The file does not say of which source it is.'],
    [head, 'line 1: The file says nothing of any asset.'],
    ['a: [', 'line 1: The file is no YAML: '],
  ])('that is none says so: %j', (text, wanted) => {
    expect(flawsOf(text)[0]).toContain(wanted);
  });

  it('is known among other YAML by what it says of itself', () => {
    expect(isDocs(`# x\nformat: "${DOCS_FORMAT}"\n`)).toBe(true);
    expect(isDocs('version: 2\nmodels: []\n')).toBe(false);
  });

  it('fits its form where it is read without a flaw, and the other way round', () => {
    const word = fc.constantFrom('a', 'b c', '7', 'trusted', 'people', '');
    const value = fc.oneof(word, fc.array(word, { maxLength: 3 }), fc.constant(null), fc.constant(3));
    const facts = (more: Record<string, fc.Arbitrary<unknown>> = {}) =>
      fc.record(
        { description: value, owner: value, terms: value, tags: value, standing: value, odd: value, ...more },
        { requiredKeys: [] },
      );
    const names = fc.constantFrom('a', 'b/c', 'd');
    const asset = fc.oneof(word, facts({ columns: fc.dictionary(names, fc.oneof(word, facts()), { maxKeys: 2 }) }));
    const file = fc.record(
      {
        format: fc.constantFrom(DOCS_FORMAT, DOCS_FORMAT, 'x'),
        source: fc.constantFrom('S', 'S', ''),
        assets: fc.dictionary(names, asset, { maxKeys: 2 }),
      },
      { requiredKeys: ['assets'] },
    );
    let [well, ill] = [0, 0];
    fc.assert(
      fc.property(file, (made) => {
        const { flaws } = readDocs(stringify(made));
        const fit = fits(made);
        // A single name may stand without its dash, which the form does not have to know; all else is held to it.
        if (fit) expect(flaws).toEqual([]);
        if (fit) well += 1;
        else if (flaws.length > 0) ill += 1;
      }),
      { numRuns: 2000 },
    );
    expect(Math.min(well, ill)).toBeGreaterThan(50);
  });
});

describe('several files', () => {
  const entry = (of: string, said: DocEntry['said'], at = 'line 1'): DocEntry => ({
    at,
    of,
    column: false,
    said,
    keep: ['description'],
  });
  it('say each fact once: what two say otherwise is a flaw of the later, and a comment gives way', () => {
    const { entries, flaws } = saidOnce([
      {
        file: 'a.sql',
        comments: true,
        entries: [entry('/at/W/x', { description: 'By a comment' }), entry('/at/W/y', { description: 'Y' })],
      },
      { file: 'b.yaml', comments: false, entries: [entry('/at/W/x', { description: 'X', owner: 'Ada' })] },
      {
        file: 'c.yaml',
        comments: false,
        entries: [entry('/at/W/x', { description: 'Another', owner: 'Ada', terms: ['T'] }, 'line 7')],
      },
    ]);
    expect(entries.map(({ file, of, said, keep }) => [file, of, said, keep])).toEqual([
      ['b.yaml', '/at/W/x', { description: 'X', owner: 'Ada' }, ['description']],
      ['c.yaml', '/at/W/x', { terms: ['T'] }, []],
      ['a.sql', '/at/W/y', { description: 'Y' }, ['description']],
    ]);
    expect(flaws.map(({ file, at, what }) => `${file} ${at}: ${what}`)).toEqual([
      'c.yaml line 7: The description of /at/W/x is another one in b.yaml, line 1.',
    ]);
  });
});

describe('comments in SQL', () => {
  beforeAll(loadParser);
  const read = (sql: string, schema: string | null = null) => readComments(sql, { source: 'Ware', schema });

  it('are read by the parser, of what has descriptions, the last word on each', () => {
    const { entries, flaws } = read(`
      create table mart.x (a int); -- comment on table mart.no is 'not this';
      comment on table mart.x is 'One';
      comment on column mart.x."A b" is E'Two\\nlines';
      comment on materialized view mart.m is $$It's$$;
      comment on schema mart is 'All';
      comment on function mart.f() is 'no asset of this kind here';
      comment on table mart.x is 'Later';
      comment on table mart.gone is null;
    `);
    expect(flaws).toEqual([]);
    expect(entries.map(({ at, of, said }) => [at, of, said.description])).toEqual([
      ['line 8', '/at/Ware/mart/x', 'Later'],
      ['line 4', '/at/Ware/mart/x/A%20b', 'Two\nlines'],
      ['line 5', '/at/Ware/mart/m', "It's"],
      ['line 6', '/at/Ware/mart', 'All'],
    ]);
  });

  it('without a schema take the one that is named, and are a flaw without', () => {
    const sql = "comment on table x is 'One'; comment on column db.mart.x.a is 'Two';";
    expect(read(sql, 'core').entries.map(({ of }) => of)).toEqual(['/at/Ware/core/x', '/at/Ware/mart/x/a']);
    expect(read(sql).flaws[0]).toMatchObject({ at: 'line 1', what: 'x is written without its schema.' });
  });

  it('that cannot be read are told, and other statements that cannot be are not', () => {
    const { flaws } = read("comment on table mart.x 'One';\nselec 1;\ncomment on table mart.y is 'Two';");
    expect(flaws).toHaveLength(1);
    expect(flaws[0]?.at).toBe('line 1');
  });
});
