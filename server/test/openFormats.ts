import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import jsonld from 'jsonld';
import { Parser, type Quad, Store, Writer } from 'n3';
import ShaclValidator from 'rdf-validate-shacl';

const require = createRequire(import.meta.url);
const folderOf = (name: string) => dirname(require.resolve(`${name}/package.json`));

export const turtle = (text: string): Quad[] => new Parser({ format: 'text/turtle' }).parse(text);

/** Nothing is fetched in a test either: what a file refers to stands in it, but for the context of CSVW, which its reader ships. */
const documentLoader = async (url: string) => {
  if (url !== 'http://www.w3.org/ns/csvw') throw new Error(`${url} would be fetched`);
  const file = join(folderOf('rdf-parser-csvw'), 'test/support/csvw.json');
  return { contextUrl: undefined, documentUrl: url, document: JSON.parse(readFileSync(file, 'utf8')) as object };
};

export async function jsonLd(text: string): Promise<Quad[]> {
  const quads = (await jsonld.toRDF(JSON.parse(text), { documentLoader } as object)) as Quad[];
  return turtle(await inNQuads(quads));
}

const inNQuads = (quads: readonly Quad[]): Promise<string> => {
  const writer = new Writer({ format: 'N-Triples' });
  for (const { subject, predicate, object } of quads) writer.addQuad(subject, predicate, object);
  return new Promise((resolve, reject) => writer.end((error, text: string) => (error ? reject(error) : resolve(text))));
};

/** The same statements are the same text, whatever nodes without an address are called (RDFC-1.0). */
export const canonical = async (quads: readonly Quad[]): Promise<string> => {
  const options = { algorithm: 'RDFC-1.0', inputFormat: 'application/n-quads', format: 'application/n-quads' };
  return (await jsonld.canonize((await inNQuads(quads)) as never, options as never)) as unknown as string;
};

const SHAPES = turtle(readFileSync(fileURLToPath(new URL('./shapes/dcat-ap.ttl', import.meta.url)), 'utf8'));

/** What the shapes of DCAT-AP say is amiss: where, with which property, and why. */
export async function amiss(quads: readonly Quad[]): Promise<string[]> {
  const validator = new ShaclValidator(new Store(SHAPES) as never);
  const { results } = await validator.validate(new Store([...quads]) as never);
  return results.map(
    ({ focusNode, path, message, sourceConstraintComponent }) =>
      `${focusNode?.value} ${JSON.stringify(path)} ${sourceConstraintComponent?.value} ${message.map(({ value }) => value).join()}`,
  );
}

/** Vocabularies as their makers publish them, by the beginnings of their names. */
const VOCABULARIES: Readonly<Record<string, string>> = {
  dcat: 'http://www.w3.org/ns/dcat#',
  csvw: 'http://www.w3.org/ns/csvw#',
  prov: 'http://www.w3.org/ns/prov#',
  dcterms: 'http://purl.org/dc/terms/',
  foaf: 'http://xmlns.com/foaf/0.1/',
  vcard: 'http://www.w3.org/2006/vcard/ns#',
  skos: 'http://www.w3.org/2004/02/skos/core#',
};
/** What version 3 of DCAT added: the vocabulary that can be had is version 2. */
const DCAT_3 = ['DatasetSeries', 'inSeries', 'resource'].map((name) => `http://www.w3.org/ns/dcat#${name}`);

/** Properties and classes that are used and that their vocabulary does not know: slips of the pen. */
export function undeclared(quads: readonly Quad[]): string[] {
  const declared = new Set(DCAT_3);
  for (const name of Object.keys(VOCABULARIES)) {
    const file = join(folderOf(`@vocabulary/${name}`), `${name}.nq`);
    for (const { subject } of new Parser({ format: 'N-Quads' }).parse(readFileSync(file, 'utf8')))
      declared.add(subject.value);
  }
  const used = new Set(
    quads.flatMap(({ predicate, object }) =>
      predicate.value.endsWith('#type') ? [predicate.value, object.value] : [predicate.value],
    ),
  );
  const beginnings = Object.values(VOCABULARIES);
  return [...used].filter((one) => beginnings.some((start) => one.startsWith(start)) && !declared.has(one));
}

/** How often something is said of anything. */
export const times = (quads: readonly Quad[], property: string, value?: string): number =>
  quads.filter(
    ({ predicate, object }) => predicate.value === property && (value === undefined || object.value === value),
  ).length;
