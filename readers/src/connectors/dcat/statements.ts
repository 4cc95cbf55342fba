import jsonld from 'jsonld';
import { Parser, type Quad } from 'n3';
import { RdfXmlParser } from 'rdfxml-streaming-parser';
import { SaxesParser } from 'saxes';
import { SourceProblem } from '../types.ts';

/** More statements than this are not read of one document. */
export const MOST_STATEMENTS = 2_000_000;

/** Writings of RDF that are read, by their media types; what else a server may call them stands beside. */
const WRITINGS = {
  turtle: ['text/turtle', 'application/x-turtle', 'application/n-triples', 'application/trig', 'text/n3'],
  'json-ld': ['application/ld+json', 'application/json'],
  'rdf/xml': ['application/rdf+xml', 'application/xml', 'text/xml'],
} as const;
export type Writing = keyof typeof WRITINGS;
export const ACCEPTED =
  'text/turtle, application/ld+json;q=0.9, application/rdf+xml;q=0.8, application/n-triples;q=0.7';

/** How a document is written: as its server says, or else as it begins. */
export function writingOf(type: string, text: string): Writing | undefined {
  const said = type.split(';')[0]?.trim().toLowerCase() ?? '';
  for (const [writing, types] of Object.entries(WRITINGS))
    if ((types as readonly string[]).includes(said)) return writing as Writing;
  const start = text.trimStart();
  if (/^[{[]/.test(start)) return 'json-ld';
  if (/^<\?xml|^<rdf:RDF/i.test(start)) return 'rdf/xml';
  if (/^(?:@prefix|@base|prefix\s|base\s|#|<[a-z][a-z0-9+.-]*:|_:)/i.test(start) && !/^<(?:!doctype|html)/i.test(start))
    return 'turtle';
  return undefined;
}

const NAMES: Record<Writing, string> = { turtle: 'Turtle', 'json-ld': 'JSON-LD', 'rdf/xml': 'RDF/XML' };

/**
 * The statements of a document. Nothing is fetched for it: what it refers to must stand in it.
 * @param base the address from which it was fetched
 * @throws SourceProblem with what is wrong and where
 */
export async function readStatements(text: string, writing: Writing, base: string): Promise<Quad[]> {
  let quads: Quad[];
  try {
    quads = await READ[writing](text, base);
  } catch (error) {
    if (error instanceof SourceProblem) throw error;
    const { cause } = (error as { details?: { cause?: unknown } }).details ?? {};
    if (cause instanceof SourceProblem) throw cause;
    throw new SourceProblem(
      `The document is no ${NAMES[writing]}: ${(error as Error).message}`,
      'Let whoever publishes it mend it, or give the address of another writing of it.',
    );
  }
  if (quads.length > MOST_STATEMENTS) throw tooMany();
  return quads;
}

const tooMany = () =>
  new SourceProblem(
    `The document holds more than ${MOST_STATEMENTS.toLocaleString('en')} statements.`,
    'Give the address of a part of it.',
  );

const READ: Record<Writing, (text: string, base: string) => Promise<Quad[]>> = {
  turtle: async (text, base) => new Parser({ baseIRI: base }).parse(text),
  'json-ld': async (text, base) =>
    (await jsonld.toRDF(JSON.parse(text), { base, documentLoader: fetchNothing } as object)) as Quad[],
  'rdf/xml': (text, base) =>
    new Promise((resolve, reject) => {
      mustBeWhole(text);
      const quads: Quad[] = [];
      const parser = new RdfXmlParser({ baseIRI: base });
      parser.on('data', (quad: Quad) => {
        if (quads.push(quad) > MOST_STATEMENTS) parser.destroy(tooMany());
      });
      parser.on('error', reject);
      parser.on('end', () => resolve(quads));
      parser.end(text);
    }),
};

/** What reads statements takes what broke off for the end: what was not heard would be taken for gone. @throws Error where it is no XML from beginning to end */
function mustBeWhole(text: string): void {
  const parser = new SaxesParser();
  parser.on('error', (error) => {
    throw error;
  });
  // Short names of the document's own, as in &dcat;Dataset.
  for (const [, name = ''] of text.matchAll(/<!ENTITY\s+([^\s%"'>]+)/g)) parser.ENTITIES[name] = '';
  parser.write(text).close();
}

const fetchNothing = (url: string): Promise<never> =>
  Promise.reject(
    new SourceProblem(
      `The document takes what its words mean from ${url}, and nothing is fetched.`,
      'Give the address of it in Turtle or RDF/XML, or let its context stand in it.',
    ),
  );
