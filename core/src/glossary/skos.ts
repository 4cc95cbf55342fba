import {
  type Flaw,
  type Given,
  type GivenConcept,
  isUri,
  LABEL_KINDS,
  LANGUAGE_TAG,
  type Label,
  type LabelKind,
  labelsOf,
  type Match,
  type MatchKind,
  type Note,
  type NoteKind,
  type Scheme,
  TERM_MOST,
  TERM_STATUSES,
  type TermStatus,
  type Vocabulary,
} from './vocabulary.ts';

/** A statement as RDF/JS has it, as far as it is needed here. */
export interface Statement {
  readonly subject: { readonly termType: string; readonly value: string };
  readonly predicate: { readonly termType: string; readonly value: string };
  readonly object: {
    readonly termType: string;
    readonly value: string;
    readonly language?: string;
    /** Of what is no plain text. */
    readonly datatype?: { readonly value: string };
  };
}

export const PREFIXES = {
  skos: 'http://www.w3.org/2004/02/skos/core#',
  rdf: 'http://www.w3.org/1999/02/22-rdf-syntax-ns#',
  dct: 'http://purl.org/dc/terms/',
  adms: 'http://www.w3.org/ns/adms#',
  owl: 'http://www.w3.org/2002/07/owl#',
  rdfs: 'http://www.w3.org/2000/01/rdf-schema#',
} as const;
const { skos: SKOS, rdf: RDF, dct: DCT, adms: ADMS, owl: OWL, rdfs: RDFS } = PREFIXES;

const LABELS: Record<LabelKind, string> = {
  preferred: `${SKOS}prefLabel`,
  alternative: `${SKOS}altLabel`,
  hidden: `${SKOS}hiddenLabel`,
};
const NOTES: Record<NoteKind, string> = {
  definition: `${SKOS}definition`,
  'scope note': `${SKOS}scopeNote`,
  example: `${SKOS}example`,
  note: `${SKOS}note`,
  'change note': `${SKOS}changeNote`,
  'editorial note': `${SKOS}editorialNote`,
  'history note': `${SKOS}historyNote`,
};
const MATCHES: Record<MatchKind, string> = {
  exact: `${SKOS}exactMatch`,
  close: `${SKOS}closeMatch`,
  broad: `${SKOS}broadMatch`,
  narrow: `${SKOS}narrowMatch`,
  related: `${SKOS}relatedMatch`,
};
/** Statements that follow from others that are kept. */
const FOLLOWS = new Set(['broaderTransitive', 'narrowerTransitive', 'semanticRelation'].map((name) => SKOS + name));

const node = (value: string) => ({ termType: 'NamedNode', value });
const literal = (value: string, language = '') => ({ termType: 'Literal', value, language });

/** The statements of a vocabulary, term by term, in the order of the lists. */
export function* statementsOf({ schemes, concepts }: Vocabulary): Iterable<Statement> {
  const languages = new Map(schemes.map(({ uri, language }) => [uri, language]));
  const narrower = new Map<string, string[]>();
  for (const { uri, broader } of concepts)
    for (const above of broader) narrower.set(above, [...(narrower.get(above) ?? []), uri]);
  for (const scheme of schemes) {
    const say = (property: string, object: Statement['object']): Statement => ({
      subject: node(scheme.uri),
      predicate: node(property),
      object,
    });
    yield say(`${RDF}type`, node(`${SKOS}ConceptScheme`));
    yield say(`${DCT}title`, literal(scheme.name, scheme.language));
    yield say(`${DCT}language`, literal(scheme.language));
    if (scheme.description) yield say(`${DCT}description`, literal(scheme.description, scheme.language));
    for (const { uri, scheme: within, broader } of concepts)
      if (within === scheme.uri && broader.length === 0) yield say(`${SKOS}hasTopConcept`, node(uri));
  }
  for (const concept of concepts) {
    const say = (property: string, object: Statement['object']): Statement => ({
      subject: node(concept.uri),
      predicate: node(property),
      object,
    });
    yield say(`${RDF}type`, node(`${SKOS}Concept`));
    yield say(`${SKOS}inScheme`, node(concept.scheme));
    // Of a term in its scheme's language that goes without saying.
    if (concept.language !== languages.get(concept.scheme)) yield say(`${DCT}language`, literal(concept.language));
    for (const { kind, language, text } of labelsOf(concept)) yield say(LABELS[kind], literal(text, language));
    if (concept.definition) yield say(NOTES.definition, literal(concept.definition, concept.language));
    for (const { kind, language, text } of concept.notes) yield say(NOTES[kind], literal(text, language));
    for (const uri of concept.broader) yield say(`${SKOS}broader`, node(uri));
    for (const uri of narrower.get(concept.uri) ?? []) yield say(`${SKOS}narrower`, node(uri));
    for (const uri of concept.related) yield say(`${SKOS}related`, node(uri));
    for (const { kind, uri } of concept.matches) yield say(MATCHES[kind], node(uri));
    yield say(`${ADMS}status`, literal(concept.status));
    if (concept.status === 'retired') yield say(`${OWL}deprecated`, literal('true'));
    if (concept.owner !== null) yield say(`${DCT}rightsHolder`, literal(concept.owner));
  }
}

/** What was gathered of one subject. */
interface Gathered {
  readonly types: Set<string>;
  readonly labels: Label[];
  readonly notes: Note[];
  readonly matches: Match[];
  readonly broader: Set<string>;
  readonly related: Set<string>;
  readonly schemes: string[];
  readonly titles: { language: string; text: string }[];
  readonly descriptions: { language: string; text: string }[];
  language: string | undefined;
  status: string | undefined;
  deprecated: boolean;
  owner: string | undefined;
}

/** What becomes of a text in a language, of a text without one, and of what leads to something else; by the property that says it. */
const WRITTEN = new Map<string, (about: Gathered, written: { language: string; text: string }) => void>([
  ...Object.entries(LABELS).map(
    ([kind, property]) =>
      [property, (about: Gathered, written: object) => about.labels.push({ kind, ...written } as Label)] as const,
  ),
  ...Object.entries(NOTES).map(
    ([kind, property]) =>
      [property, (about: Gathered, written: object) => about.notes.push({ kind, ...written } as Note)] as const,
  ),
  [`${DCT}title`, (about, written) => about.titles.push(written)],
  [`${RDFS}label`, (about, written) => about.titles.push(written)],
  [`${DCT}description`, (about, written) => about.descriptions.push(written)],
]);
const PLAIN = new Map<string, (about: Gathered, value: string) => void>([
  [
    `${DCT}language`,
    (about, value) => {
      about.language = value.toLowerCase();
    },
  ],
  [
    `${ADMS}status`,
    (about, value) => {
      about.status = value;
    },
  ],
  [
    `${OWL}deprecated`,
    (about, value) => {
      about.deprecated = value === 'true';
    },
  ],
  [
    `${DCT}rightsHolder`,
    (about, value) => {
      about.owner = value;
    },
  ],
]);
type TakeLink = (about: Gathered, to: string, other: Gathered, from: string) => void;
const LINKS = new Map<string, TakeLink>([
  [`${RDF}type`, (about, to) => about.types.add(to)],
  ...Object.entries(MATCHES).map(
    ([kind, property]) =>
      [property, (about: Gathered, uri: string) => about.matches.push({ kind: kind as MatchKind, uri })] as const,
  ),
  [`${SKOS}broader`, (about, to) => about.broader.add(to)],
  [`${SKOS}narrower`, (_about, _to, other, from) => other.broader.add(from)],
  [
    `${SKOS}related`,
    (about, to, other, from) => {
      about.related.add(to);
      other.related.add(from);
    },
  ],
  [`${SKOS}inScheme`, (about, to) => about.schemes.push(to)],
  [`${SKOS}topConceptOf`, (about, to) => about.schemes.push(to)],
  [`${SKOS}hasTopConcept`, (_about, _to, other, from) => other.schemes.push(from)],
]);

/**
 * Reads a vocabulary out of statements. What SKOS says in one of two directions (`narrower`, `topConceptOf`) is taken as if it were said in the other.
 * @param fallback the language of a name where a term has names in several and its scheme does not say which is its own
 */
export function readStatements(statements: Iterable<Statement>, fallback = 'en'): Given {
  const reader = new StatementReader();
  for (const statement of statements) reader.take(statement);
  return reader.given(fallback);
}

class StatementReader {
  readonly #subjects = new Map<string, Gathered>();
  readonly #flaws: Flaw[] = [];
  readonly #notKept = new Map<string, number>();

  take({ subject, predicate, object }: Statement): void {
    const property = predicate.value;
    const [written, plain, link] = [WRITTEN.get(property), PLAIN.get(property), LINKS.get(property)];
    const isText = object.termType === 'Literal';
    // What has no address cannot be told apart from one reading to the next.
    if (subject.termType !== 'NamedNode') this.#leave(`${property} of something without an address`);
    else if (isText && written) {
      const text = object.value.trim();
      const language = this.#language(object.language ?? '', subject.value);
      if (text) written(this.#about(subject.value), { language, text });
    } else if (isText && plain) plain(this.#about(subject.value), object.value);
    else if (object.termType === 'NamedNode' && link)
      link(this.#about(subject.value), object.value, this.#about(object.value), subject.value);
    else if (!FOLLOWS.has(property)) this.#leave(property);
  }

  given(fallback: string): Given {
    const isScheme = ([, { types }]: [string, Gathered]) => types.has(`${SKOS}ConceptScheme`);
    const concepts = [...this.#subjects].filter(([, { types }]) => types.has(`${SKOS}Concept`));
    const languages = new Map<string, string>();
    const schemes = [...this.#subjects].filter(isScheme).map(([uri, about]): Scheme => {
      const language = about.language ?? mostUsed(concepts, uri) ?? fallback;
      languages.set(uri, language);
      const title = inLanguage([...about.titles, ...about.labels.filter(({ kind }) => kind === 'preferred')], language);
      return {
        uri,
        name: (title?.text ?? nameIn(uri)).slice(0, TERM_MOST.name),
        language,
        description: (inLanguage([...about.descriptions, ...about.notes], language)?.text ?? '').slice(
          0,
          TERM_MOST.text,
        ),
      };
    });
    return {
      schemes,
      concepts: concepts.flatMap(([uri, about]) => this.#concept(uri, about, languages, fallback)),
      flaws: this.#flaws,
      notKept: [...this.#notKept].map(([what, times]) => ({ what, times })).sort((a, b) => b.times - a.times),
    };
  }

  #concept(uri: string, about: Gathered, languages: ReadonlyMap<string, string>, fallback: string): GivenConcept[] {
    const [scheme, ...others] = [...new Set(about.schemes)];
    if (others.length > 0)
      this.#flaw(uri, `It stands in ${others.length + 1} schemes.`, `It is taken into ${scheme} alone.`);
    const own = about.language ?? (scheme === undefined ? undefined : languages.get(scheme)) ?? fallback;
    const preferred = about.labels.filter(({ kind }) => kind === 'preferred');
    const name = inLanguage(preferred, own);
    if (!name) {
      this.#flaw(uri, 'It has no preferred label.', 'Give it a skos:prefLabel; it is left out.');
      return [];
    }
    const { language, text } = name;
    const definition = about.notes.find((note) => note.kind === 'definition' && note.language === language);
    const status = this.#status(uri, about);
    return [
      {
        at: uri,
        uri,
        ...(scheme === undefined ? {} : { scheme }),
        name: text,
        language,
        labels: { values: this.#labels(uri, about, name), covers: 'all' },
        definition: definition?.text ?? '',
        notes: { values: about.notes.filter((note) => note !== definition), covers: 'all' },
        broader: [...about.broader],
        related: [...about.related],
        matches: { values: about.matches.filter((match) => this.#isAddress(uri, match.uri)), covers: 'all' },
        ...(status === undefined ? {} : { status }),
        ...(about.owner === undefined ? {} : { owner: about.owner }),
      },
    ];
  }

  /** Labels beside the name: one preferred in each language (S14), each text in one kind alone (S13). */
  #labels(uri: string, { labels }: Gathered, name: Label): Label[] {
    const preferred = new Set([name.language]);
    const said = new Set([`${name.language} ${name.text}`]);
    return [...labels]
      .sort((a, b) => LABEL_KINDS.indexOf(a.kind) - LABEL_KINDS.indexOf(b.kind))
      .flatMap((label): Label[] => {
        const key = `${label.language} ${label.text}`;
        if (label === name || said.has(key)) return [];
        said.add(key);
        if (label.kind !== 'preferred') return [label];
        if (!preferred.has(label.language)) {
          preferred.add(label.language);
          return [label];
        }
        const where = label.language ? `in “${label.language}”` : 'without a language';
        this.#flaw(
          uri,
          `It has two preferred labels ${where}.`,
          `Keep one; “${label.text}” is taken as an alternative label.`,
        );
        return [{ ...label, kind: 'alternative' }];
      });
  }

  #status(uri: string, { status, deprecated }: Gathered): TermStatus | undefined {
    if (status === undefined) return deprecated ? 'retired' : undefined;
    const known = TERM_STATUSES.find((entry) => entry === status);
    if (!known)
      this.#flaw(
        uri,
        `“${status}” is no status that is known here.`,
        `Use one of ${TERM_STATUSES.join(', ')}; the status stays as it is.`,
      );
    return known;
  }

  #isAddress(uri: string, other: string): boolean {
    if (isUri(other)) return true;
    this.#flaw(
      uri,
      `“${other}” is no absolute address.`,
      'Write it with its scheme, as in https:… or urn:…; it is left out.',
    );
    return false;
  }

  #language(tag: string, uri: string): string {
    if (tag === '' || LANGUAGE_TAG.test(tag)) return tag.toLowerCase();
    this.#flaw(
      uri,
      `“${tag}” is no language tag.`,
      'Write it as in en or pt-BR; the text is taken without a language.',
    );
    return '';
  }

  #about(uri: string): Gathered {
    const known = this.#subjects.get(uri);
    if (known) return known;
    const about: Gathered = {
      types: new Set(),
      labels: [],
      notes: [],
      matches: [],
      broader: new Set(),
      related: new Set(),
      schemes: [],
      titles: [],
      descriptions: [],
      language: undefined,
      status: undefined,
      deprecated: false,
      owner: undefined,
    };
    this.#subjects.set(uri, about);
    return about;
  }

  #leave(property: string): void {
    this.#notKept.set(property, (this.#notKept.get(property) ?? 0) + 1);
  }

  #flaw(at: string, what: string, mend: string): void {
    this.#flaws.push({ at, what, mend });
  }
}

/** The text in a language, or else in none, or else the first there is. */
const inLanguage = <T extends { readonly language: string }>(texts: readonly T[], language: string): T | undefined =>
  texts.find((text) => text.language === language) ?? texts.find((text) => text.language === '') ?? texts[0];

/** The language in which most terms of a scheme have their preferred label. */
function mostUsed(concepts: readonly (readonly [string, Gathered])[], scheme: string): string | undefined {
  const counts = new Map<string, number>();
  for (const [, { labels, schemes }] of concepts)
    if (schemes.includes(scheme))
      for (const { kind, language } of labels)
        if (kind === 'preferred') counts.set(language, (counts.get(language) ?? 0) + 1);
  return [...counts].sort((a, b) => b[1] - a[1])[0]?.[0];
}

/** What an address ends in: better than nothing for a scheme without a title. */
const nameIn = (uri: string): string => uri.replace(/[/#]$/, '').replace(/^.*[/#:]/, '') || uri;
