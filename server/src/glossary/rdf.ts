import { PREFIXES, type Statement } from '@idrel/core/glossary';
import jsonld from 'jsonld';
import { DataFactory, Parser, Writer } from 'n3';
import { NOTHING_FETCHED, readingJsonLd } from '../platform/jsonld.ts';
import { cannotRead } from '../platform/sheets.ts';

/** More statements than this are no glossary: some ten thousand terms with all that is said of them. */
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

export function writeTurtle(statements: Iterable<Statement>): Promise<string> {
  const writer = new Writer({ prefixes: PREFIXES });
  for (const { subject, predicate, object } of statements)
    writer.addQuad(
      DataFactory.namedNode(subject.value),
      DataFactory.namedNode(predicate.value),
      object.termType === 'NamedNode'
        ? DataFactory.namedNode(object.value)
        : DataFactory.literal(object.value, object.language || undefined),
    );
  return new Promise((resolve, reject) =>
    writer.end((error: Error | null, text: string) => (error ? reject(error) : resolve(text))),
  );
}

/** One object for each subject, in the order of the statements: fromRDF of the library sorts and groups by the same rules, but takes apart what stands in order. */
export async function asJsonLd(statements: Iterable<Statement>): Promise<object> {
  const nodes = new Map<string, Record<string, unknown>>();
  for (const { subject, predicate, object } of statements) {
    const node = nodes.get(subject.value) ?? { '@id': subject.value };
    nodes.set(subject.value, node);
    const isType = predicate.value === `${PREFIXES.rdf}type`;
    const value = isType
      ? object.value
      : object.termType === 'NamedNode'
        ? { '@id': object.value }
        : { '@value': object.value, ...(object.language ? { '@language': object.language } : {}) };
    const property = isType ? '@type' : predicate.value;
    node[property] = [...((node[property] as unknown[] | undefined) ?? []), value];
  }
  return jsonld.compact({ '@graph': [...nodes.values()] } as object, { ...PREFIXES }, {
    ...NOTHING_FETCHED,
    graph: true,
  } as object);
}
