import { openDocuments, reachRest } from '../rest.ts';
import { runSteps } from '../steps.ts';
import {
  type Connector,
  type ConnectorInput,
  type FoundAsset,
  type FoundFlow,
  KEY_SEPARATOR,
  OUTLINE_MOST,
  type Reading,
  SourceProblem,
} from '../types.ts';
import { found, listsSomething, nextPage } from './found.ts';
import { Graph } from './graph.ts';
import { ACCEPTED, readStatements, writingOf } from './statements.ts';

/** So many pages are read of one catalog. */
const PAGES_MOST = 2000;

/** A catalog that somebody publishes by DCAT: its datasets with what is said of them, in Turtle, JSON-LD or RDF/XML. It holds no values of its own. */
export const dcat: Connector = { test, open };

type Documents = ReturnType<typeof openDocuments>;

/** One document, in whichever writing it is. @throws SourceProblem */
async function readPage(documents: Documents, url: string) {
  const { text, type } = await documents.get(url, ACCEPTED);
  const writing = writingOf(type, text);
  if (!writing)
    throw new SourceProblem(
      `${url} answers with ${type.split(';')[0] || 'something'}, which is no Turtle, JSON-LD or RDF/XML.`,
      'Give the address of the catalog’s data, not that of its page.',
    );
  const quads = await readStatements(text, writing, url);
  return { quads, writing, bytes: text.length };
}

/** The whole catalog, page by page. @throws SourceProblem where it lists nothing */
async function readCatalog(documents: Documents, first: string): Promise<Graph> {
  const graph = new Graph();
  const seen = new Set<string>();
  for (let url: string | undefined = first; url !== undefined && !seen.has(url); ) {
    if (seen.size >= PAGES_MOST)
      throw new SourceProblem(
        `The catalog has more than ${PAGES_MOST.toLocaleString('en')} pages.`,
        'Give the address of a part of it, or of larger pages.',
      );
    seen.add(url);
    const { quads } = await readPage(documents, url);
    const page = new Graph();
    page.add(quads);
    graph.add(quads, `${seen.size}.`);
    url = nextPage(page);
  }
  if (!listsSomething(graph))
    throw new SourceProblem(
      `${first} tells of no dataset and no catalog by DCAT.`,
      'Check the address: another document may lie there.',
    );
  return graph;
}

const addressOf = ({ address }: ConnectorInput): string =>
  String(address.url) + (address.query ? `?${String(address.query).replace(/^\?/, '')}` : '');

async function test(input: ConnectorInput) {
  const url = addressOf(input);
  let documents: Documents | undefined;
  const at = () => documents as Documents;
  const graph = new Graph();
  return runSteps([
    ...reachRest(input),
    [
      'Read the document',
      async () => {
        documents = openDocuments(input);
        const { quads, writing, bytes } = await readPage(at(), url);
        graph.add(quads);
        return `${quads.length.toLocaleString('en')} statements in ${writing === 'rdf/xml' ? 'RDF/XML' : writing === 'turtle' ? 'Turtle' : 'JSON-LD'} (${Math.ceil(bytes / 1024).toLocaleString('en')} kB).`;
      },
    ],
    [
      'Rights to read the catalog',
      async () => {
        if (!listsSomething(graph))
          throw new SourceProblem(
            `${url} tells of no dataset and no catalog by DCAT.`,
            'Check the address: another document may lie there.',
          );
        const { assets } = found(input.name, graph, {});
        const listed = assets.filter(({ kind }) => kind !== 'column').length - 1;
        return `${listed.toLocaleString('en')} ${listed === 1 ? 'resource is' : 'resources are'} listed${nextPage(graph) === undefined ? '' : ' on the first page'}.`;
      },
    ],
  ]);
}

async function open(input: ConnectorInput): Promise<Reading> {
  const documents = openDocuments(input);
  const url = addressOf(input);
  const top = new URL(url).hostname;
  let flows: readonly FoundFlow[] = [];
  const read = async (): Promise<readonly FoundAsset[]> => {
    const all = found(top, await readCatalog(documents, url), { address: url });
    flows = all.flows;
    return all.assets;
  };
  return {
    async outline() {
      return (await read())
        .filter(({ kind, depth }) => kind !== 'column' && depth > 0)
        .slice(0, OUTLINE_MOST)
        .map(({ key, kind }) => ({ path: key.split(KEY_SEPARATOR).slice(1).join('/'), kind }));
    },
    async structure(progress) {
      const assets = await read();
      const columns = assets.filter(({ kind }) => kind === 'column').length;
      progress(assets.length - columns, columns);
      return { assets, sampleable: [] };
    },
    sample: async () => ({ values: [] }),
    flows: async () => [...flows],
    abort: () => documents.abort(),
    close: async () => undefined,
  };
}
