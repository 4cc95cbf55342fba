import type { Statement } from '@idrel/core/glossary';
import jsonld from 'jsonld';
import { type BlankNode, DataFactory, type NamedNode, Parser, Writer } from 'n3';
import { NOTHING_FETCHED, readingJsonLd } from './jsonld.ts';
import { cannotRead } from './sheets.ts';

/** More statements than this are not read at once: some ten thousand terms with all that is said of them. */
const MOST_STATEMENTS = 1_000_000;

export function readTurtle(text: string): Statement[] {
  let statements: Statement[];
  try {
    statements = new Parser({ format: 'text/turtle' }).parse(text) as Statement[];
  } catch (error) {
    throw cannotRead(
      `The file is no Turtle: ${(error as Error).message}`,
      'Mend that line, or save it as Turtle anew.',
    );
  }
  if (statements.length > MOST_STATEMENTS) throw tooMany();
  return statements;
}

const tooMany = () =>
  cannotRead(`The file holds more than ${MOST_STATEMENTS.toLocaleString('en')} statements.`, 'Take it in parts.');

export async function readJsonLd(text: string): Promise<Statement[]> {
  return readingJsonLd(text, async (json) => {
    const statements = (await jsonld.toRDF(json, NOTHING_FETCHED)) as Statement[];
    if (statements.length > MOST_STATEMENTS) throw tooMany();
    return statements;
  });
}

const RDF_TYPE = 'http://www.w3.org/1999/02/22-rdf-syntax-ns#type';
type Prefixes = Readonly<Record<string, string>>;

const DATA = new Map<string, (value: string) => NamedNode | BlankNode>([
  ['NamedNode', DataFactory.namedNode],
  ['BlankNode', DataFactory.blankNode],
]);
const asNode = ({ termType, value }: Statement['subject']) => (DATA.get(termType) ?? DataFactory.namedNode)(value);

/** Statements as Turtle. @param prefixes short names of vocabularies */
export function writeTurtle(statements: Iterable<Statement>, prefixes: Prefixes): Promise<string> {
  const writer = new Writer({ prefixes });
  for (const { subject, predicate, object } of statements)
    writer.addQuad(
      asNode(subject),
      DataFactory.namedNode(predicate.value),
      object.termType === 'Literal'
        ? DataFactory.literal(
            object.value,
            object.language || (object.datatype ? DataFactory.namedNode(object.datatype.value) : undefined),
          )
        : asNode(object),
    );
  return new Promise((resolve, reject) =>
    writer.end((error: Error | null, text: string) => (error ? reject(error) : resolve(text))),
  );
}

const idOf = ({ termType, value }: Statement['subject']) => (termType === 'BlankNode' ? `_:${value}` : value);

/** One object for each subject, in the order of the statements: fromRDF of the library sorts and groups by the same rules, but takes apart what stands in order. */
export async function asJsonLd(statements: Iterable<Statement>, prefixes: Prefixes): Promise<object> {
  const nodes = new Map<string, Record<string, unknown>>();
  for (const { subject, predicate, object } of statements) {
    const id = idOf(subject);
    const node = nodes.get(id) ?? { '@id': id };
    nodes.set(id, node);
    const isType = predicate.value === RDF_TYPE;
    const value = isType
      ? object.value
      : object.termType === 'Literal'
        ? {
            '@value': object.value,
            ...(object.language ? { '@language': object.language } : {}),
            ...(object.datatype ? { '@type': object.datatype.value } : {}),
          }
        : { '@id': idOf(object) };
    const property = isType ? '@type' : predicate.value;
    node[property] = [...((node[property] as unknown[] | undefined) ?? []), value];
  }
  return jsonld.compact({ '@graph': [...nodes.values()] } as object, { ...prefixes }, {
    ...NOTHING_FETCHED,
    graph: true,
  } as object);
}
