import { DCAT_PREFIXES } from '@idrel/core/exchange/described';
import type { Quad } from 'n3';

/** Vocabularies that are read: those that are written, and that of pages. */
const NS = { ...DCAT_PREFIXES, hydra: 'http://www.w3.org/ns/hydra/core#' } as const;
type Short = `${keyof typeof NS}:${string}`;

/** What something is said to be: a text, or something else of the graph. */
export interface Value {
  readonly value: string;
  readonly isText: boolean;
  readonly language: string;
}

const long = (short: Short): string => {
  const [prefix, name] = short.split(':') as [keyof typeof NS, string];
  return NS[prefix] + name;
};

/** Statements by what they are about. Nodes without an address are told apart by the document that they stand in. */
export class Graph {
  readonly #about = new Map<string, Map<string, Value[]>>();

  /** @param document a mark of where the statements come from */
  add(quads: Iterable<Quad>, document = ''): void {
    const id = ({ termType, value }: { termType: string; value: string }) =>
      termType === 'BlankNode' ? `_:${document}${value}` : value;
    for (const { subject, predicate, object } of quads) {
      const known = this.#about.get(id(subject)) ?? new Map<string, Value[]>();
      this.#about.set(id(subject), known);
      const isText = object.termType === 'Literal';
      const value = {
        value: isText ? object.value : id(object),
        isText,
        language: isText ? (object as { language?: string }).language?.toLowerCase() || '' : '',
      };
      const values = known.get(predicate.value);
      if (values) values.push(value);
      else known.set(predicate.value, [value]);
    }
  }

  values(subject: string, property: Short): readonly Value[] {
    return this.#about.get(subject)?.get(long(property)) ?? [];
  }

  /** What it leads to, each once: not texts. */
  nodes(subject: string, property: Short): string[] {
    const all = this.values(subject, property).flatMap(({ value, isText }) => (isText ? [] : [value]));
    return all.length > 1 ? [...new Set(all)] : all;
  }

  is(subject: string, type: Short): boolean {
    return this.nodes(subject, 'rdf:type').includes(long(type));
  }

  /** Everything of a type, in the order of the document. */
  all(type: Short): string[] {
    return [...this.#about.keys()].filter((subject) => this.is(subject, type));
  }

  /** A text of it: in English, else without a language, else the first there is. */
  text(subject: string, ...properties: readonly Short[]): string | undefined {
    for (const property of properties) {
      const texts = this.values(subject, property).filter(({ isText, value }) => isText && value.trim() !== '');
      const best =
        texts.find(({ language }) => /^en\b/.test(language)) ??
        texts.find(({ language }) => language === '') ??
        texts[0];
      if (best) return best.value.trim();
    }
    return undefined;
  }

  /** What something is called that is named here: by a label of its own, or by its address; a text by itself. */
  names(subject: string, ...properties: readonly Short[]): string[] {
    const named = properties.flatMap((property) => this.values(subject, property));
    const texts = named.filter(({ isText }) => isText);
    const language = texts.some((text) => /^en\b/.test(text.language)) ? /^en\b/ : /^/;
    return [
      ...new Set(
        named.flatMap(({ value, isText, language: of }) => {
          if (isText) return language.test(of) || of === '' ? [value.trim()] : [];
          return [
            this.text(value, 'foaf:name', 'skos:prefLabel', 'rdfs:label', 'dct:title', 'vcard:fn') ?? lastOf(value),
          ];
        }),
      ),
    ].filter((name) => name !== '' && !name.startsWith('_:'));
  }

  /** The members of a list, in their order; no more than there can be. */
  list(first: string, most: number): string[] {
    const members: string[] = [];
    const seen = new Set<string>();
    for (let at: string | undefined = first; at && at !== long('rdf:nil') && !seen.has(at) && members.length < most; ) {
      seen.add(at);
      members.push(...this.nodes(at, 'rdf:first').slice(0, 1));
      at = this.nodes(at, 'rdf:rest')[0];
    }
    return members;
  }
}

/** What an address ends in. */
export const lastOf = (address: string): string => {
  const last = address.replace(/[/#]+$/, '').replace(/^.*[/#:]/, '');
  try {
    return decodeURIComponent(last);
  } catch {
    return last;
  }
};
