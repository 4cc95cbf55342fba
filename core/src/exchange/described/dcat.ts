import type { Statement } from '../../glossary/index.ts';
import { isKindThat, LEVELS } from '../../things/index.ts';
import { datatypeOf, variableOf } from './csvw.ts';
import { type Called, type Described, type DescribedColumn, type DescribedPerson, saidOf } from './described.ts';

/** Short names of the vocabularies that are written; all of them are standards of the W3C or DCMI, or what DCAT-AP builds on. */
export const DCAT_PREFIXES = {
  dcat: 'http://www.w3.org/ns/dcat#',
  dct: 'http://purl.org/dc/terms/',
  foaf: 'http://xmlns.com/foaf/0.1/',
  vcard: 'http://www.w3.org/2006/vcard/ns#',
  prov: 'http://www.w3.org/ns/prov#',
  csvw: 'http://www.w3.org/ns/csvw#',
  skos: 'http://www.w3.org/2004/02/skos/core#',
  adms: 'http://www.w3.org/ns/adms#',
  dqv: 'http://www.w3.org/ns/dqv#',
  oa: 'http://www.w3.org/ns/oa#',
  owl: 'http://www.w3.org/2002/07/owl#',
  rdf: 'http://www.w3.org/1999/02/22-rdf-syntax-ns#',
  rdfs: 'http://www.w3.org/2000/01/rdf-schema#',
  xsd: 'http://www.w3.org/2001/XMLSchema#',
} as const;
const { dcat, dct, foaf, vcard, prov, csvw, skos, adms, dqv, oa, owl, rdf, rdfs, xsd } = DCAT_PREFIXES;

type Object = Statement['object'];
const node = (value: string): Object => ({ termType: 'NamedNode', value });
const text = (value: string): Object => ({ termType: 'Literal', value });
const value = (of: string | number | boolean, type: string): Object => ({
  termType: 'Literal',
  value: String(of),
  datatype: { value: xsd + type },
});
const inWords = (words: string): Object => ({ termType: 'Literal', value: words, language: 'en' });

/** Media types of files (IANA), by how they are written. */
const MEDIA: Readonly<Record<string, string>> = {
  csv: 'text/csv',
  tsv: 'text/tab-separated-values',
  json: 'application/json',
  ndjson: 'application/x-ndjson',
  parquet: 'application/vnd.apache.parquet',
  xlsx: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
  xml: 'application/xml',
};

/** What says that a role is meant: whom people ask, in words. */
const roleUri = (base: string, role: DescribedPerson['role']) => `${base}/#role-${role}`;

/** Gathers statements, subject by subject; what is said of what several assets share is said once, after them. */
class Said {
  readonly #own = new Map<string, Statement[]>();
  readonly #shared = new Map<string, Statement[]>();

  of(about: string | Object, pairs: readonly (readonly [string, Object])[], into = this.#own): void {
    const subject = typeof about === 'string' ? node(about) : about;
    const known = into.get(subject.value) ?? [];
    into.set(subject.value, known);
    for (const [predicate, object] of pairs) known.push({ subject, predicate: node(predicate), object });
  }

  once(subject: string, pairs: readonly (readonly [string, Object])[]): void {
    if (!this.#shared.has(subject)) this.of(subject, pairs, this.#shared);
  }

  get statements(): Statement[] {
    return [...this.#own.values(), ...this.#shared.values()].flat();
  }

  /** A word of Idrel's or an organisation's, as a concept; what a term is is told where the term is. */
  concept({ uri, name }: Called): Object {
    this.once(uri, [
      [`${rdf}type`, node(`${skos}Concept`)],
      [`${skos}prefLabel`, text(name)],
    ]);
    return node(uri);
  }

  word(base: string, kind: string, word: string): Object {
    const uri = `${base}/#${kind}-${word.replaceAll(' ', '-')}`;
    this.once(uri, [
      [`${rdf}type`, node(`${skos}Concept`)],
      [`${skos}prefLabel`, inWords(word)],
    ]);
    return node(uri);
  }

  agent({ uri, name }: Called, type: 'Person' | 'Group' | 'Organization'): Object {
    this.once(uri, [
      [`${rdf}type`, node(`${foaf}Agent`)],
      [`${rdf}type`, node(foaf + type)],
      [`${foaf}name`, text(name)],
    ]);
    return node(uri);
  }
}

const isFlow = (asset: Described): boolean => isKindThat('runs', asset.kind);
/** Whether it is a collection of data, as DCAT means it; reports, applications, flows and types are resources of another kind. */
const isDataset = ({ kind }: Described): boolean =>
  isKindThat('holdsRows', kind) || isKindThat('holdsOthers', kind) || kind === 'database';

/** A list of what is exported, as the catalog that it is. */
export interface DescribedCatalog extends Called {
  readonly description: string;
  readonly publisher: Called;
  /** When it was written, ISO 8601. */
  readonly at: string;
}

/** What is said of the catalog itself. Its parts are said with them, by {@link dcatStatements}. */
export function catalogStatements({ uri, name, description, publisher, at }: DescribedCatalog): Statement[] {
  const said = new Said();
  said.of(uri, [
    [`${rdf}type`, node(`${dcat}Catalog`)],
    [`${dct}title`, inWords(name)],
    [`${dct}description`, inWords(description)],
    [`${dct}publisher`, said.agent(publisher, 'Organization')],
    [`${dct}issued`, value(at, 'dateTime')],
    [`${dct}conformsTo`, node('http://www.w3.org/TR/vocab-dcat-3/')],
  ]);
  return said.statements;
}

/**
 * What is known of assets, by DCAT 3 with what DCAT-AP asks for, columns by CSVW, where it comes from and goes to by PROV-O.
 * @param base the address of the server, without a slash at its end
 * @param catalog the list that they are parts of, if they are
 */
export function dcatStatements(assets: readonly Described[], base: string, catalog?: string): Statement[] {
  const said = new Said();
  for (const asset of assets) {
    if (asset.kind === 'column') sayColumn(said, base, asset);
    else sayAsset(said, base, asset, catalog);
  }
  return said.statements;
}

function sayAsset(said: Said, base: string, asset: Described, catalog: string | undefined): void {
  const { uri, kind } = asset;
  const dataset = isDataset(asset);
  if (catalog !== undefined) said.of(catalog, [[dcat + (dataset ? 'dataset' : 'resource'), node(uri)]]);
  said.of(uri, [
    [`${rdf}type`, node(dcat + (dataset ? 'Dataset' : 'Resource'))],
    ...(kind === 'file set' ? [[`${rdf}type`, node(`${dcat}DatasetSeries`)] as const] : []),
    ...(isFlow(asset) ? [[`${rdf}type`, node(`${prov}Activity`)] as const] : []),
    ...(dataset ? [[`${rdf}type`, node(`${prov}Entity`)] as const] : []),
    [`${dct}title`, text(asset.path)],
    [`${dct}description`, text(saidOf(asset))],
    [`${dct}identifier`, text(uri)],
    [`${dct}type`, said.word(base, 'kind', kind)],
    [`${dcat}landingPage`, node(asset.page)],
    [`${dct}publisher`, said.agent(asset.domain, 'Organization')],
    [`${dct}issued`, value(asset.firstSeen, 'dateTime')],
    [`${dct}modified`, value(asset.changed, 'dateTime')],
    [`${adms}status`, said.word(base, 'standing', asset.standing)],
    ...(asset.gone ? [[`${owl}deprecated`, value(true, 'boolean')] as const] : []),
  ]);
  said.once(asset.page, [[`${rdf}type`, node(`${foaf}Document`)]]);
  sayPlace(said, asset);
  sayMeaning(said, base, asset);
  sayPeople(said, base, asset);
  if (asset.columns.length > 0) saySchema(said, base, asset);
  if (dataset) sayRows(said, base, asset);
  sayLineage(said, asset);
}

function sayPlace(said: Said, { uri, within, withinKind, source }: Described): void {
  const holder = within ?? source.uri;
  said.of(uri, [[withinKind === 'file set' ? `${dcat}inSeries` : `${dct}isPartOf`, node(holder)]]);
  if (within === null) said.once(source.uri, [[`${rdfs}label`, text(source.name)]]);
}

function sayLevel(said: Said, base: string, uri: string, level: Described['level']): void {
  if (level === null) return;
  const name = LEVELS[level - 1] as string;
  const rights = `${base}/#level-${name}`;
  said.of(uri, [[`${dct}accessRights`, node(rights)]]);
  said.once(rights, [
    [`${rdf}type`, node(`${dct}RightsStatement`)],
    [`${rdfs}label`, inWords(name)],
  ]);
}

const keywords = (tags: Described['tags']) =>
  tags.map((tag) => [`${dcat}keyword`, text(tag.value === '' ? tag.name : `${tag.name}: ${tag.value}`)] as const);

function sayMeaning(said: Said, base: string, asset: Described): void {
  const { uri, terms, classes, tags, notices, level } = asset;
  said.of(uri, [
    ...terms.map((term) => [`${dcat}theme`, said.concept(term)] as const),
    ...classes.map((one) => [`${dct}subject`, said.concept(one)] as const),
    ...keywords(tags),
    // A source's own words beside those of people.
    ...(asset.description !== null && asset.comment !== null && asset.comment !== asset.description
      ? [[`${rdfs}comment`, text(asset.comment)] as const]
      : []),
  ]);
  sayLevel(said, base, uri, level);
  for (const [index, notice] of notices.entries()) {
    const note = `${uri}#notice-${index + 1}`;
    said.of(uri, [[`${dqv}hasQualityAnnotation`, node(note)]]);
    said.of(note, [
      [`${rdf}type`, node(`${dqv}QualityAnnotation`)],
      [`${oa}hasTarget`, node(uri)],
      [`${oa}motivatedBy`, node(`${dqv}qualityAssessment`)],
      [`${oa}bodyValue`, text(`${notice.kind}: ${notice.text}`)],
    ]);
  }
}

function sayPeople(said: Said, base: string, { uri, people }: Described): void {
  for (const [index, person] of people.entries()) {
    const agent = said.agent(person, person.isGroup ? 'Group' : 'Person');
    const part = `${uri}#answers-${index + 1}`;
    said.of(uri, [
      [`${prov}qualifiedAttribution`, node(part)],
      ...(person.role === 'owner' ? [[`${dct}rightsHolder`, agent] as const] : []),
    ]);
    said.of(part, [
      [`${rdf}type`, node(`${prov}Attribution`)],
      [`${prov}agent`, agent],
      [`${dcat}hadRole`, node(roleUri(base, person.role))],
    ]);
    said.once(roleUri(base, person.role), [
      [`${rdf}type`, node(`${dcat}Role`)],
      [`${rdfs}label`, inWords(person.role)],
    ]);
  }
  const asked = people.find(({ role }) => role === 'owner') ?? people.find(({ role }) => role === 'steward');
  if (!asked) return;
  const card = `${uri}#contact`;
  said.of(uri, [[`${dcat}contactPoint`, node(card)]]);
  said.of(card, [
    [`${rdf}type`, node(`${vcard}Kind`)],
    [`${rdf}type`, node(vcard + (asked.isGroup ? 'Group' : 'Individual'))],
    [`${vcard}fn`, text(asked.name)],
    [`${vcard}hasURL`, node(uri)],
  ]);
}

/** A node without an address: one of a list. It is named by what stands there, so that parts of one file never mean the same by it. */
const nodeOfList = (column: DescribedColumn): Object => ({
  termType: 'BlankNode',
  value: `at-${column.uri.replace(/[^A-Za-z0-9]+/g, '-')}`,
});

function saySchema(said: Said, base: string, { uri, columns }: Described): void {
  const schema = `${uri}#schema`;
  said.of(uri, [
    [`${rdf}type`, node(`${csvw}Table`)],
    [`${csvw}tableSchema`, node(schema)],
  ]);
  const places = columns.map(nodeOfList);
  said.of(schema, [
    [`${rdf}type`, node(`${csvw}Schema`)],
    // In their order, as the standard has them.
    [`${csvw}column`, places[0] as Object],
    ...columns
      .filter(({ primaryKey }) => primaryKey)
      .map(({ name }) => [`${csvw}primaryKey`, text(variableOf(name))] as const),
  ]);
  for (const [index, column] of columns.entries()) {
    said.of(places[index] as Object, [
      [`${rdf}first`, node(column.uri)],
      [`${rdf}rest`, places[index + 1] ?? node(`${rdf}nil`)],
    ]);
    said.of(column.uri, columnPairs(said, column));
    sayLevel(said, base, column.uri, column.level);
  }
}

const columnPairs = (said: Said, column: DescribedColumn): (readonly [string, Object])[] => {
  const { uri, name, type, nullable, description, terms, classes } = column;
  const datatype = `${uri}#type`;
  if (type !== null)
    said.of(datatype, [
      [`${rdf}type`, node(`${csvw}Datatype`)],
      [`${csvw}base`, text(datatypeOf(type))],
      [`${dct}title`, text(type)],
    ]);
  return [
    [`${rdf}type`, node(`${csvw}Column`)],
    [`${csvw}name`, text(variableOf(name))],
    [`${csvw}title`, text(name)],
    ...(type === null ? [] : [[`${csvw}datatype`, node(datatype)] as const]),
    ...(nullable === false ? [[`${csvw}required`, value(true, 'boolean')] as const] : []),
    ...(description === null ? [] : [[`${dct}description`, text(description)] as const]),
    ...[...terms, ...classes].map((one) => [`${dct}subject`, said.concept(one)] as const),
  ];
};

/** A column by itself: only what is known of it, and the table that it belongs to. */
function sayColumn(said: Said, base: string, asset: Described): void {
  const [column] = asset.columns;
  if (column) said.of(asset.uri, columnPairs(said, column));
  said.of(asset.uri, [
    [`${dct}identifier`, text(asset.uri)],
    [`${dct}title`, text(asset.path)],
    [`${dcat}landingPage`, node(asset.page)],
    ...keywords(asset.tags),
    ...asset.from.map((uri) => [`${prov}wasDerivedFrom`, node(uri)] as const),
  ]);
  sayPlace(said, asset);
  sayLevel(said, base, asset.uri, asset.level);
  sayPeople(said, base, asset);
}

/** How it can be had: at its page, where whoever may read it does; with the documents that tell how it is read. */
function sayRows(said: Said, base: string, { uri, page, kind, columns, bytes, format }: Described): void {
  const rows = `${uri}#rows`;
  const described = (as: string) => `${base}/api/v1/described?as=${as}&address=${encodeURIComponent(uri)}`;
  const media = format === null ? undefined : MEDIA[format];
  said.of(uri, [[`${dcat}distribution`, node(rows)]]);
  said.of(rows, [
    [`${rdf}type`, node(`${dcat}Distribution`)],
    [`${dct}title`, inWords(`What this ${kind} holds, for who may read it`)],
    [`${dcat}accessURL`, node(page)],
    ...(media === undefined
      ? []
      : [[`${dcat}mediaType`, node(`http://www.iana.org/assignments/media-types/${media}`)] as const]),
    ...(bytes === null ? [] : [[`${dcat}byteSize`, value(bytes, 'nonNegativeInteger')] as const]),
    ...(columns.length > 0
      ? ['csvw', 'table-schema'].map((as) => [`${dct}conformsTo`, node(described(as))] as const)
      : []),
  ]);
  if (media !== undefined)
    said.once(`http://www.iana.org/assignments/media-types/${media}`, [[`${rdf}type`, node(`${dct}MediaType`)]]);
  if (columns.length > 0)
    for (const as of ['csvw', 'table-schema']) said.once(described(as), [[`${rdf}type`, node(`${dct}Standard`)]]);
}

function sayLineage(said: Said, { uri, from, by, reads, writes, runs }: Described): void {
  said.of(uri, [
    ...from.map((other) => [`${prov}wasDerivedFrom`, node(other)] as const),
    ...by.map((other) => [`${prov}wasGeneratedBy`, node(other)] as const),
    ...reads.map((other) => [`${prov}used`, node(other)] as const),
    ...writes.map((other) => [`${prov}generated`, node(other)] as const),
  ]);
  for (const run of runs)
    said.of(run.uri, [
      [`${rdf}type`, node(`${prov}Activity`)],
      [`${dct}isPartOf`, node(uri)],
      [`${rdfs}label`, inWords(run.state)],
      ...(run.began === null ? [] : [[`${prov}startedAtTime`, value(run.began, 'dateTime')] as const]),
      ...(run.ended === null ? [] : [[`${prov}endedAtTime`, value(run.ended, 'dateTime')] as const]),
    ]);
}
