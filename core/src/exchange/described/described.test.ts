import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { variableOf } from './csvw.ts';
import type { Described, DescribedColumn } from './described.ts';
import {
  catalogStatements,
  DCAT_PREFIXES,
  dcatStatements,
  mostLetters,
  toCsvw,
  toTableSchema,
  valueTypeOf,
} from './index.ts';

const BASE = 'https://idrel.example.org';
const uri = (id: string) => `${BASE}/assets/${id}`;
const column = (name: string, more: Partial<DescribedColumn> = {}): DescribedColumn => ({
  uri: uri(`c-${name}`),
  name,
  type: 'text',
  nullable: null,
  primaryKey: false,
  unique: false,
  description: null,
  level: null,
  classes: [],
  terms: [],
  ...more,
});
const asset = (more: Partial<Described> = {}): Described => ({
  uri: uri('fares'),
  name: 'fares',
  kind: 'table',
  path: 'mart.fares',
  page: `${BASE}/at/Warehouse/mart/fares`,
  source: { uri: `${BASE}/sources/w`, name: 'Warehouse' },
  domain: { uri: `${BASE}/settings/domains?domain=t`, name: 'Travel' },
  within: uri('mart'),
  withinKind: 'schema',
  description: null,
  comment: null,
  standing: 'unreviewed',
  level: null,
  people: [],
  terms: [],
  classes: [],
  tags: [],
  notices: [],
  firstSeen: '2026-01-01T00:00:00.000Z',
  changed: '2026-02-01T00:00:00.000Z',
  gone: false,
  bytes: null,
  format: null,
  columns: [],
  references: [],
  from: [],
  by: [],
  reads: [],
  writes: [],
  runs: [],
  ...more,
});

/** What is said of a subject, in short names: `dct:title fares`. */
function said(about: Described, subject = about.uri): string[] {
  const short = (long: string) => {
    const [name, start] = Object.entries(DCAT_PREFIXES).find(([, prefix]) => long.startsWith(prefix)) ?? [];
    return name && start ? `${name}:${long.slice(start.length)}` : long.replace(BASE, '');
  };
  return dcatStatements([about], BASE)
    .filter((statement) => statement.subject.value === subject)
    .map(({ predicate, object }) => `${short(predicate.value)} ${short(object.value)}`);
}

describe('what values are', () => {
  it.each([
    ['integer', 'integer'],
    ['BIGINT', 'integer'],
    ['int(10) unsigned', 'integer'],
    ['numeric(10, 2)', 'decimal'],
    ['double precision', 'double'],
    ['double', 'double'],
    ['timestamp(3) with time zone', 'moment in a zone'],
    ['timestamp without time zone', 'moment'],
    ['timestamptz', 'moment in a zone'],
    ['time without time zone', 'time'],
    ['character varying(40)', 'text'],
    ['integer[]', 'list'],
    ['VARCHAR[]', 'list'],
    ['text[3]', 'list'],
    ['STRUCT(a INTEGER)', 'object'],
    ['jsonb', 'object'],
    ['interval year to month', 'duration'],
    ['bytea', 'binary'],
    ['uuid', 'uuid'],
    ["enum('a','b')", 'text'],
    ['toString', 'any'],
    ['constructor', 'any'],
    ['money_of_ours', 'any'],
    ['', 'any'],
    [null, 'any'],
  ] as const)('of %s: %s', (type, meant) => expect(valueTypeOf(type)).toBe(meant));

  it('are as long as their type says', () => {
    expect(['character varying(40)', 'CHAR(2)', 'varchar', 'numeric(4)', null].map(mostLetters)).toEqual([
      40,
      2,
      undefined,
      undefined,
      undefined,
    ]);
  });
});

describe('a name in a template', () => {
  it('keeps letters and figures, and writes all else as its bytes', () => {
    expect(['given_name', '_id', 'né', 'a b', 'x-y', '100%'].map(variableOf)).toEqual([
      'given_name',
      '%5Fid',
      'n%C3%A9',
      'a%20b',
      'x%2Dy',
      '100%25',
    ]);
  });

  it('can be read back, whatever it is', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme', minLength: 1 }), (name) => {
        const written = variableOf(name);
        expect(written).toMatch(/^(?:[A-Za-z0-9]|%[0-9A-F]{2})(?:[A-Za-z0-9_]|%[0-9A-F]{2})*$/);
        expect(decodeURIComponent(written)).toBe(name);
      }),
    );
  });
});

describe('an asset by DCAT', () => {
  it('is a dataset with what DCAT-AP asks for', () => {
    expect(said(asset({ description: 'What a passage costs.' }))).toEqual([
      'rdf:type dcat:Dataset',
      'rdf:type prov:Entity',
      'dct:title mart.fares',
      'dct:description What a passage costs.',
      'dct:identifier /assets/fares',
      'dct:type /#kind-table',
      'dcat:landingPage /at/Warehouse/mart/fares',
      'dct:publisher /settings/domains?domain=t',
      'dct:issued 2026-01-01T00:00:00.000Z',
      'dct:modified 2026-02-01T00:00:00.000Z',
      'adms:status /#standing-unreviewed',
      'dct:isPartOf /assets/mart',
      'dcat:distribution /assets/fares#rows',
    ]);
  });

  it('is described by people before its source, and where neither does, that is said', () => {
    const described = (more: Partial<Described>) => said(asset(more)).filter((one) => /description|comment/.test(one));
    expect(described({ description: 'Ours', comment: 'Theirs' })).toEqual([
      'dct:description Ours',
      'rdfs:comment Theirs',
    ]);
    expect(described({ comment: 'Theirs' })).toEqual(['dct:description Theirs']);
    expect(described({})).toEqual(['dct:description A table in Warehouse; nobody has described it yet.']);
    expect(described({ kind: 'application' })).toEqual([
      'dct:description An application in Warehouse; nobody has described it yet.',
    ]);
  });

  it('is part of a series, of what holds it, or of its source', () => {
    const where = (more: Partial<Described>) => said(asset(more)).filter((one) => /isPartOf|inSeries/.test(one));
    expect(where({ kind: 'file', within: uri('set'), withinKind: 'file set' })).toEqual(['dcat:inSeries /assets/set']);
    expect(where({ within: null, withinKind: null })).toEqual(['dct:isPartOf /sources/w']);
    expect(said(asset({ kind: 'file set' }))).toContain('rdf:type dcat:DatasetSeries');
  });

  it('tells who answers for it, and whom to ask: the owner, else the steward', () => {
    const ada = { role: 'owner', uri: `${BASE}/people/ada`, name: 'Ada', isGroup: false } as const;
    const desk = { role: 'steward', uri: `${BASE}/people/desk`, name: 'The desk', isGroup: true } as const;
    const contact = (people: Described['people']) => said(asset({ people }), `${uri('fares')}#contact`);
    expect(contact([desk, ada])).toContain('vcard:fn Ada');
    expect(contact([desk])).toEqual(expect.arrayContaining(['rdf:type vcard:Group', 'vcard:fn The desk']));
    expect(contact([])).toEqual([]);
    const about = asset({ people: [ada] });
    expect(said(about)).toEqual(
      expect.arrayContaining(['dct:rightsHolder /people/ada', 'prov:qualifiedAttribution /assets/fares#answers-1']),
    );
    expect(said(about, `${uri('fares')}#answers-1`)).toEqual([
      'rdf:type prov:Attribution',
      'prov:agent /people/ada',
      'dcat:hadRole /#role-owner',
    ]);
  });

  it('carries meaning, notices, level, and says when it is gone', () => {
    const about = asset({
      tags: [
        { name: 'kept for', value: '7 years' },
        { name: 'report', value: '' },
      ],
      terms: [{ uri: 'urn:fare', name: 'Fare' }],
      classes: [{ uri: `${BASE}/classes/email`, name: 'E-mail address' }],
      notices: [{ kind: 'stop', text: 'Do not use.' }],
      level: 3,
      gone: true,
    });
    expect(said(about)).toEqual(
      expect.arrayContaining([
        'dcat:keyword kept for: 7 years',
        'dcat:keyword report',
        'dcat:theme urn:fare',
        'dct:subject /classes/email',
        'dct:accessRights /#level-guarded',
        'owl:deprecated true',
      ]),
    );
    expect(said(about, `${uri('fares')}#notice-1`)).toContain('oa:bodyValue stop: Do not use.');
    expect(said(about, 'urn:fare')).toEqual(['rdf:type skos:Concept', 'skos:prefLabel Fare']);
  });

  it('lists its columns in their order, once', () => {
    const about = asset({
      columns: [column('id', { primaryKey: true, nullable: false, type: 'integer' }), column('né')],
    });
    const next = (subject: string) =>
      said(about, subject)
        .find((one) => one.startsWith('rdf:rest '))
        ?.slice(9);
    const first =
      said(about, `${uri('fares')}#schema`)
        .find((one) => one.startsWith('csvw:column '))
        ?.slice(12) ?? '';
    expect(said(about, first)[0]).toBe('rdf:first /assets/c-id');
    expect(said(about, next(first))[0]).toBe('rdf:first /assets/c-né');
    expect(next(next(first) ?? '')).toBe('rdf:nil');
    expect(said(about, uri('c-id'))).toEqual([
      'rdf:type csvw:Column',
      'csvw:name id',
      'csvw:title id',
      'csvw:datatype /assets/c-id#type',
      'csvw:required true',
    ]);
  });

  it('is an activity where it runs, with its runs', () => {
    const about = asset({
      kind: 'flow',
      reads: [uri('a')],
      writes: [uri('b')],
      runs: [{ uri: `${uri('fares')}#run-1`, state: 'failed', began: '2026-01-01T00:00:00.000Z', ended: null }],
    });
    expect(said(about)).toEqual(
      expect.arrayContaining([
        'rdf:type dcat:Resource',
        'rdf:type prov:Activity',
        'prov:used /assets/a',
        'prov:generated /assets/b',
      ]),
    );
    expect(said(about, `${uri('fares')}#run-1`)).toEqual([
      'rdf:type prov:Activity',
      'dct:isPartOf /assets/fares',
      'rdfs:label failed',
      'prov:startedAtTime 2026-01-01T00:00:00.000Z',
    ]);
  });

  it('says of what several share that it is once, and of a list that they are of it', () => {
    const all = dcatStatements([asset(), asset({ uri: uri('other') })], BASE, 'urn:list');
    const kinds = all.filter(
      ({ subject, predicate }) => subject.value === `${BASE}/#kind-table` && predicate.value.endsWith('type'),
    );
    expect(kinds).toHaveLength(1);
    expect(all.filter(({ subject }) => subject.value === 'urn:list').map(({ object }) => object.value)).toEqual([
      uri('fares'),
      uri('other'),
    ]);
    expect(
      catalogStatements({
        uri: 'urn:list',
        name: 'All',
        description: 'Two',
        publisher: { uri: 'urn:t', name: 'T' },
        at: '2026-01-01T00:00:00Z',
      }).map(({ predicate }) => predicate.value),
    ).toContain(`${DCAT_PREFIXES.dct}publisher`);
  });
});

describe('the columns of a table', () => {
  const columns = [
    column('id', { type: 'integer', nullable: false, primaryKey: true }),
    column('boss', { type: 'integer' }),
    column('mail', {
      type: 'character varying(40)',
      unique: true,
      level: 3,
      description: 'Where',
      classes: [{ uri: 'urn:mail', name: 'E-mail address' }],
    }),
    column('port', { type: 'text' }),
  ];
  const about = asset({
    columns,
    references: [
      { columns: ['boss'], table: { uri: uri('fares'), name: 'mart.fares' }, theirs: ['id'] },
      { columns: ['port'], table: { uri: uri('port'), name: 'ref.port' }, theirs: ['code'] },
    ],
  });

  it('as Table Schema', () => {
    expect(toTableSchema(about)).toEqual({
      title: 'mart.fares',
      description: 'A table in Warehouse; nobody has described it yet.',
      homepage: `${BASE}/at/Warehouse/mart/fares`,
      fields: [
        { name: 'id', type: 'integer', constraints: { required: true }, sourceType: 'integer' },
        { name: 'boss', type: 'integer', sourceType: 'integer' },
        {
          name: 'mail',
          type: 'string',
          description: 'Where',
          constraints: { unique: true, maxLength: 40 },
          sourceType: 'character varying(40)',
          sensitivity: 3,
          classes: ['E-mail address'],
        },
        { name: 'port', type: 'string', sourceType: 'text' },
      ],
      primaryKey: ['id'],
      foreignKeys: [
        { fields: ['boss'], reference: { resource: '', fields: ['id'] } },
        { fields: ['port'], reference: { resource: 'ref.port', fields: ['code'] } },
      ],
      missingValues: [''],
    });
  });

  it('as CSVW, which knows references within one document alone', () => {
    const { tableSchema, url } = toCsvw(about) as { url: string; tableSchema: Record<string, unknown> };
    expect(url).toBe('fares.csv');
    expect(tableSchema).toMatchObject({
      primaryKey: ['id'],
      foreignKeys: [
        {
          columnReference: ['boss'],
          reference: { schemaReference: `${uri('fares')}#schema`, columnReference: ['id'] },
        },
      ],
    });
    expect((tableSchema.columns as object[])[2]).toEqual({
      '@id': uri('c-mail'),
      name: 'mail',
      titles: 'mail',
      datatype: { base: 'string', maxLength: 40 },
      'dc:description': 'Where',
      'dc:subject': [{ '@id': 'urn:mail', 'skos:prefLabel': 'E-mail address' }],
    });
    expect(toCsvw(asset({ kind: 'file', name: 'a b.csv', format: 'csv', columns }))).toMatchObject({
      url: 'a%20b.csv',
    });
  });
});
