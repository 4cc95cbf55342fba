import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import fc from 'fast-check';
import { Parser } from 'n3';
import { afterEach, describe, expect, it } from 'vitest';
import { type ConnectorInput, type FoundAsset, keyOf, type SourceProblem } from '../types.ts';
import { found } from './found.ts';
import { Graph } from './graph.ts';
import { dcat } from './index.ts';
import { writingOf } from './statements.ts';

const HEAD = `@prefix dcat: <http://www.w3.org/ns/dcat#> . @prefix dct: <http://purl.org/dc/terms/> . @prefix foaf: <http://xmlns.com/foaf/0.1/> .
@prefix csvw: <http://www.w3.org/ns/csvw#> . @prefix prov: <http://www.w3.org/ns/prov#> . @prefix skos: <http://www.w3.org/2004/02/skos/core#> .
@prefix xsd: <http://www.w3.org/2001/XMLSchema#> . @prefix hydra: <http://www.w3.org/ns/hydra/core#> . @prefix : <urn:x:> .\n`;
const graphOf = (turtle: string): Graph => {
  const graph = new Graph();
  graph.add(new Parser().parse(HEAD + turtle));
  return graph;
};
/** What is found, as paths with kinds: `Tides/tides.csv file`. */
const pathOf = ({ key }: FoundAsset) => key.split('\u001f').slice(1).join('/');
const listed = (turtle: string) =>
  found('top', graphOf(turtle), {})
    .assets.filter(({ depth }) => depth > 0)
    .map((asset) => `${pathOf(asset)} ${asset.kind}`);
const named = (turtle: string, path: string) => {
  const asset = found('top', graphOf(turtle), {}).assets.find((one) => pathOf(one) === path);
  if (!asset) throw new Error(`no ${path}`);
  return asset;
};

describe('what a document lists', () => {
  it('is datasets with their files, below the catalogs and series that they are of', () => {
    expect(
      listed(`:all a dcat:Catalog ; dcat:catalog :sea ; dcat:dataset :a ; dcat:service :s .
:sea a dcat:Catalog ; dct:title "Sea" ; dcat:dataset :t .
:a a dcat:Dataset ; dct:title "Calls" ; dcat:distribution [ dcat:downloadURL <http://h/calls%202026.csv> ] , [ dct:title "As JSON" ; dcat:accessURL <http://h/x> ] .
:t a dcat:Dataset , dcat:DatasetSeries ; dct:title "Tides" .
:y a dcat:Dataset ; dct:title "2026" ; dcat:inSeries :t .
:s a dcat:DataService ; dct:title "Notices" .`),
    ).toEqual([
      'Calls file set',
      'Notices application',
      'Sea folder',
      'Sea/Tides file set',
      'Calls/calls 2026.csv file',
      'Calls/As JSON file',
      'Sea/Tides/2026 file set',
    ]);
  });

  it('is a table where it has columns, in their order, with their types and keys', () => {
    const table = `:t a dcat:Dataset ; dct:title "Levels" ; csvw:tableSchema [ csvw:primaryKey "gauge%20no" ;
  csvw:column ( [ csvw:name "gauge%20no" ; csvw:title "gauge no" ; csvw:datatype xsd:string ; csvw:required true ; dct:description "Which" ]
    [ csvw:name "at" ; csvw:datatype [ csvw:base "dateTime" ] ] [ csvw:name "at" ] [ csvw:title "note" ] ) ] .`;
    expect(listed(table)).toEqual(['Levels table', 'Levels/gauge no column', 'Levels/at column', 'Levels/note column']);
    expect(named(table, 'Levels/gauge no')).toMatchObject({
      comment: 'Which',
      native: { type: 'string', nullable: false, primaryKey: true },
      position: 0,
    });
    expect(named(table, 'Levels/at').native).toEqual({ type: 'dateTime', nullable: true });
    expect(named(table, 'Levels/note').native).toEqual({ type: 'not told', nullable: true });
  });

  it('is told in English where it can be, with who publishes it, its words and its pages', () => {
    const dataset = named(
      `:a a dcat:Dataset ; dct:title "Anløb"@da , "Calls"@en-GB ; dct:description "Alle"@da ; dct:publisher [ foaf:name "The trust" ] ;
  dcat:keyword "skibe"@da , "ships"@en , "boats"@en ; dcat:theme [ skos:prefLabel "Transport"@en ] , <http://eu/theme/TRAN> ; dct:license <http://l/by> ;
  dcat:landingPage <http://h/calls> ; dct:issued "2025-01-01"^^xsd:date ; dct:modified "2026-02-03"^^xsd:date .`,
      'Calls',
    );
    expect(dataset).toMatchObject({ comment: 'Alle', stats: { modified: '2026-02-03T00:00:00.000Z' } });
    expect(dataset.native).toEqual({
      identifier: 'urn:x:a',
      publisher: 'The trust',
      keywords: ['ships', 'boats'],
      themes: ['Transport', 'TRAN'],
      license: 'by',
      page: 'http://h/calls',
      issued: '2025-01-01',
    });
  });

  it('is told apart where it is called the same, and has a name where it has no title', () => {
    expect(
      listed(
        `:a a dcat:Dataset ; dct:title "Calls" . :b a dcat:Dataset ; dct:title "Calls" . <http://h/d/fares> a dcat:Dataset . [] a dcat:Dataset ; dct:title "  Odd \\n name " .`,
      ),
    ).toEqual(['Calls (a) file set', 'Calls (b) file set', 'fares file set', 'Odd name file set']);
  });

  it('holds the same file in each dataset that has it, by an address that may be a text', () => {
    expect(
      listed(`:a a dcat:Dataset ; dct:title "A" ; dcat:distribution :x . :b a dcat:Dataset ; dct:title "B" ; dcat:distribution :x .
:x a dcat:Distribution ; dcat:downloadURL "http://h/same.csv"^^xsd:anyURI . :c a dcat:Dataset ; dct:title "C" ; dcat:distribution [ dcat:accessURL "soon" ] .`),
    ).toEqual(['A file set', 'B file set', 'C file set', 'A/same.csv file', 'B/same.csv file']);
  });

  it('lies nowhere below itself, whatever a document says', () => {
    expect(
      listed(`:a a dcat:Dataset ; dct:title "A" ; dct:isPartOf :b . :b a dcat:Dataset ; dct:title "B" ; dct:isPartOf :a .
:c a dcat:Dataset ; dct:title "C" ; dct:isPartOf :c . :d a dcat:Dataset ; dct:title "D" ; dct:isPartOf :a .`).sort(),
    ).toEqual(['A file set', 'B file set', 'C file set', 'D file set']);
  });

  it('comes from what it is said to be derived from, where that is listed too', () => {
    const { flows } = found(
      'top',
      graphOf(
        `:a a dcat:Dataset ; dct:title "A" . :b a dcat:Dataset ; dct:title "B" ; prov:wasDerivedFrom :a , :b , :elsewhere .`,
      ),
      {},
    );
    expect(flows).toEqual([
      expect.objectContaining({
        key: keyOf('top', 'B'),
        origin: 'provenance',
        edges: [{ from: keyOf('top', 'A'), to: keyOf('top', 'B'), kind: 'transformed' }],
      }),
    ]);
  });

  it('is one asset for each key, each in one that is there, for any graph', () => {
    const things = ['a', 'b', 'c', 'd', 'e'].map((name) => `:${name}`);
    const word = fc.constantFrom(...things);
    const statement = fc.oneof(
      fc
        .tuple(word, fc.constantFrom('dcat:Dataset', 'dcat:Catalog', 'dcat:DatasetSeries', 'dcat:DataService'))
        .map(([s, o]) => `${s} a ${o} .`),
      fc
        .tuple(
          word,
          fc.constantFrom(
            'dcat:dataset',
            'dcat:catalog',
            'dct:isPartOf',
            'dcat:inSeries',
            'dcat:distribution',
            'prov:wasDerivedFrom',
            'csvw:tableSchema',
            'csvw:column',
          ),
          word,
        )
        .map(([s, p, o]) => `${s} ${p} ${o} .`),
      fc.tuple(word, fc.constantFrom('x', 'y', 'x.y')).map(([s, o]) => `${s} dct:title "${o}" .`),
      word.map((s) => `${s} dcat:downloadURL <http://h/f.csv> .`),
    );
    fc.assert(
      fc.property(fc.array(statement, { maxLength: 40, size: 'max' }), (statements) => {
        const { assets, flows } = found('top', graphOf(statements.join('\n')), {});
        const keys = assets.map(({ key }) => key);
        expect(new Set(keys).size).toBe(keys.length);
        for (const { parentKey, depth, key } of assets) {
          if (depth === 0) expect(parentKey).toBeNull();
          else expect(keys.indexOf(parentKey ?? '')).toBeLessThan(keys.indexOf(key));
          expect(key.split('\u001f').length - 1).toBe(depth);
        }
        for (const { edges } of flows)
          for (const { from, to } of edges) expect(keys).toEqual(expect.arrayContaining([from, to]));
      }),
      { numRuns: 1000 },
    );
  });
});

describe('how a document is written', () => {
  it.each([
    ['text/turtle; charset=utf-8', '', 'turtle'],
    ['application/ld+json', '', 'json-ld'],
    ['application/rdf+xml', '', 'rdf/xml'],
    ['text/plain', '@prefix x: <y> .', 'turtle'],
    ['text/plain', '<http://a> <http://b> <http://c> .', 'turtle'],
    ['application/octet-stream', ' {"@context"', 'json-ld'],
    ['text/plain', '<?xml version="1.0"?>', 'rdf/xml'],
    ['text/html', '<!doctype html>', undefined],
    ['text/html', '<html>', undefined],
    ['', 'hello', undefined],
  ])('%s %s: %s', (type, text, writing) => expect(writingOf(type, text)).toBe(writing));
});

let server: Server | undefined;
afterEach(() => {
  server?.closeAllConnections();
  server?.close();
});
const serving = async (
  answer: (request: IncomingMessage, response: ServerResponse, at: string) => void,
  token?: string,
): Promise<ConnectorInput> => {
  let at = '';
  server = createServer((request, response) => answer(request, response, at));
  await new Promise<void>((resolve) => server?.listen(0, '127.0.0.1', resolve));
  at = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  return {
    name: 'Harbour',
    address: { url: `${at}/catalog` },
    secret: token === undefined ? null : { username: '', password: token },
  };
};
const turtle = (response: ServerResponse, text: string) =>
  response.setHeader('content-type', 'text/turtle').end(HEAD + text);
const scanned = async (input: ConnectorInput) => {
  const reading = await dcat.open(input);
  const { assets } = await reading.structure(() => undefined);
  return assets.filter(({ depth }) => depth > 0).map(pathOf);
};
const refusedBy = async (input: ConnectorInput): Promise<SourceProblem> => {
  const error = await scanned(input).catch((one: unknown) => one);
  expect((error as Error).name).toBe('SourceProblem');
  return error as SourceProblem;
};

describe('a catalog at an address', () => {
  it('is read in each writing, and comes to the same', async () => {
    const JSON_LD = {
      '@context': { dcat: 'http://www.w3.org/ns/dcat#', dct: 'http://purl.org/dc/terms/' },
      '@id': 'urn:x:a',
      '@type': 'dcat:Dataset',
      'dct:title': 'Calls',
    };
    const XML = `<?xml version="1.0"?><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#" xmlns:dcat="http://www.w3.org/ns/dcat#" xmlns:dct="http://purl.org/dc/terms/"><dcat:Dataset rdf:about="urn:x:a"><dct:title>Calls</dct:title></dcat:Dataset></rdf:RDF>`;
    const bodies: [string, string][] = [
      ['text/turtle', `${HEAD}:a a dcat:Dataset ; dct:title "Calls" .`],
      ['application/ld+json', JSON.stringify(JSON_LD)],
      ['application/rdf+xml', XML],
    ];
    const short = XML.replace('?>', '?><!DOCTYPE rdf:RDF [<!ENTITY d "urn:x:">]>').replace('"urn:x:a"', '"&d;a"');
    bodies.push(['application/rdf+xml', short]);
    let nth = 0;
    const input = await serving((_request, response) => {
      const [type, body] = bodies[nth] as [string, string];
      response.setHeader('content-type', type).end(body);
    });
    for (; nth < bodies.length; nth += 1) expect(await scanned(input)).toEqual(['Calls']);
  });

  it('is read page by page, on its own server alone', async () => {
    const input = await serving((request, response, at) => {
      const page = new URL(request.url ?? '', at).searchParams.get('page') ?? '1';
      const next =
        page === '3'
          ? ''
          : `<p${page}> a hydra:PartialCollectionView ; hydra:next <${page === '2' ? 'catalog?page=3' : `${at}/catalog?page=2`}> .`;
      turtle(response, `[] a dcat:Dataset ; dct:title "Part ${page}" . ${next}`);
    });
    expect(await scanned(input)).toEqual(['Part 1', 'Part 2', 'Part 3']);
    const away = await serving((_request, response) =>
      turtle(
        response,
        ':a a dcat:Dataset . :p a hydra:PartialCollectionView ; hydra:next <http://127.0.0.1:1/inside> .',
      ),
    );
    expect((await refusedBy(away)).message).toContain('another server');
  });

  it('is asked with the token where there is one, and with the question of its address', async () => {
    const asked: string[] = [];
    const input = await serving((request, response) => {
      asked.push(`${request.url} ${request.headers.authorization ?? 'nobody'}`);
      turtle(response, ':a a dcat:Dataset .');
    }, 'secret');
    await scanned({ ...input, address: { ...input.address, query: 'as=ttl&filter=kind%3Atable' } });
    await scanned({ ...input, secret: null });
    expect(asked).toEqual(['/catalog?as=ttl&filter=kind%3Atable Bearer secret', '/catalog nobody']);
  });

  it.each([
    [
      'is no RDF',
      (response: ServerResponse) => response.setHeader('content-type', 'text/html').end('<!doctype html>'),
      'no Turtle, JSON-LD or RDF/XML',
      'not that of its page',
    ],
    ['is broken', (response: ServerResponse) => turtle(response, ':a a dcat:Dataset'), 'is no Turtle: ', 'mend it'],
    [
      'lists nothing',
      (response: ServerResponse) => turtle(response, ':a a skos:Concept .'),
      'tells of no dataset',
      'Check the address',
    ],
    [
      'leads elsewhere',
      (response: ServerResponse) => response.writeHead(302, { location: 'http://127.0.0.1:1/' }).end(),
      'leads on to another address',
      'ends up at',
    ],
    [
      'asks who is there',
      (response: ServerResponse) => response.writeHead(401).end(),
      'asks who is there',
      'credential',
    ],
    [
      'is not there',
      (response: ServerResponse) => response.writeHead(404).end(),
      'There is nothing at',
      'Check the address',
    ],
    ['fails', (response: ServerResponse) => response.writeHead(500).end('inside'), 'it answers 500', 'log'],
    [
      'would have something fetched',
      (response: ServerResponse) =>
        response
          .setHeader('content-type', 'application/ld+json')
          .end('{"@context":"http://127.0.0.1:1/c","@type":"Dataset"}'),
      'nothing is fetched',
      'Turtle',
    ],
    [
      'is no JSON',
      (response: ServerResponse) => response.setHeader('content-type', 'application/ld+json').end('{'),
      'is no JSON-LD',
      'mend it',
    ],
    [
      'is broken XML',
      (response: ServerResponse) => response.setHeader('content-type', 'application/rdf+xml').end('<rdf:RDF'),
      'is no RDF/XML',
      'mend it',
    ],
    [
      'breaks off',
      (response: ServerResponse) =>
        response
          .setHeader('content-type', 'application/rdf+xml')
          .end('<rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#"><rdf:Description rdf:about="urn:a"/>'),
      'is no RDF/XML',
      'mend it',
    ],
  ])('that %s is refused with words', async (_what, answer, message, mend) => {
    const problem = await refusedBy(await serving((_request, response) => void answer(response)));
    expect(problem.message).toContain(message);
    expect(problem.message).not.toContain('inside');
    expect(problem.mend).toContain(mend);
  });

  it('is tested step by step', async () => {
    const input = await serving((_request, response) =>
      turtle(response, ':a a dcat:Dataset ; dct:title "Calls" . :b a dcat:Dataset .'),
    );
    const steps = await dcat.test(input);
    expect(steps.map(({ step, state }) => `${step} ${state}`)).toEqual([
      'Resolve passed',
      'Connect passed',
      'Read the document passed',
      'Rights to read the catalog passed',
    ]);
    expect(steps.at(-1)?.detail).toBe('2 resources are listed.');
    const none = await dcat.test(await serving((_request, response) => void response.writeHead(404).end()));
    expect(none.map(({ state }) => state)).toEqual(['passed', 'passed', 'failed', 'not reached']);
  });
});
