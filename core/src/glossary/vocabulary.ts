/** Kinds of file in which terms come and go, by the ending of their names. */
export const GLOSSARY_FORMATS = { ttl: 'SKOS in Turtle', jsonld: 'SKOS in JSON-LD', csv: 'CSV', xlsx: 'XLSX' } as const;
export type GlossaryFormat = keyof typeof GLOSSARY_FORMATS;

/** Kinds of label (SKOS Reference, W3C 2009, section 5). The preferred label of a term's own language is its name. */
export const LABEL_KINDS = ['preferred', 'alternative', 'hidden'] as const;
/** Kinds of note (section 7). The first definition in a term's own language is its definition. */
export const NOTE_KINDS = [
  'definition',
  'scope note',
  'example',
  'note',
  'change note',
  'editorial note',
  'history note',
] as const;
/** How a term is matched with one of another vocabulary (section 10). */
export const MATCH_KINDS = ['exact', 'close', 'broad', 'narrow', 'related'] as const;
export const TERM_STATUSES = ['draft', 'proposed', 'agreed', 'retired'] as const;

export type LabelKind = (typeof LABEL_KINDS)[number];
export type NoteKind = (typeof NOTE_KINDS)[number];
export type MatchKind = (typeof MATCH_KINDS)[number];
export type TermStatus = (typeof TERM_STATUSES)[number];

/** A text in a language, as a tag of BCP 47 (`en`, `pt-BR`); an empty one where none is told. */
export interface Label {
  readonly kind: LabelKind;
  readonly language: string;
  readonly text: string;
}
export interface Note {
  readonly kind: NoteKind;
  readonly language: string;
  readonly text: string;
}
export interface Match {
  readonly kind: MatchKind;
  readonly uri: string;
}

/** A list of terms that somebody answers for. */
export interface Scheme {
  readonly uri: string;
  readonly name: string;
  readonly language: string;
  readonly description: string;
}

/** A term with all that is said of it; other terms and its scheme by their URIs. */
export interface Concept {
  readonly uri: string;
  readonly scheme: string;
  readonly name: string;
  readonly language: string;
  readonly labels: readonly Label[];
  readonly definition: string;
  readonly notes: readonly Note[];
  readonly broader: readonly string[];
  readonly related: readonly string[];
  readonly matches: readonly Match[];
  readonly status: TermStatus;
  /** The name or address of who answers for it; null where nobody does. */
  readonly owner: string | null;
}

/** What a file says of a list: the values, and which others it speaks of; a language that is not told is the term's own. */
export interface GivenList<T extends { readonly kind: string }> {
  readonly values: readonly (Omit<T, 'language'> & { readonly language?: string | undefined })[];
  readonly covers: 'all' | readonly { readonly kind: T['kind']; readonly language?: string | undefined }[];
}

/** What a file says of a term: what it does not speak of stays as it is. Others are named by their URIs, or by names. */
export interface GivenConcept {
  /** Where it stands in the file: a line, or its URI. */
  readonly at: string;
  readonly name: string;
  readonly uri?: string;
  readonly scheme?: string;
  readonly language?: string;
  readonly labels?: GivenList<Label>;
  readonly definition?: string;
  readonly notes?: GivenList<Note>;
  readonly broader?: readonly string[];
  readonly related?: readonly string[];
  readonly matches?: GivenList<Match>;
  readonly status?: TermStatus;
  readonly owner?: string | null;
}

export interface Vocabulary {
  readonly schemes: readonly Scheme[];
  readonly concepts: readonly Concept[];
}

/** Something in a file that is not as it should be: what, where, and how to mend it or what is done instead. */
export interface Flaw {
  readonly at: string;
  readonly what: string;
  readonly mend: string;
}

/** What was read of a file. */
export interface Given {
  readonly schemes: readonly Scheme[];
  readonly concepts: readonly GivenConcept[];
  readonly flaws: readonly Flaw[];
  /** What the file holds beside that is not kept: properties, or columns, and how often. */
  readonly notKept: readonly { readonly what: string; readonly times: number }[];
}

/** The most that is kept of one term. */
export const TERM_MOST = {
  name: 200,
  text: 10_000,
  labels: 200,
  notes: 100,
  broader: 50,
  related: 200,
  matches: 200,
} as const;

/** A tag of a language as RFC 5646 forms it: a language, perhaps a script, a region, variants. */
export const LANGUAGE_TAG = /^[a-z]{2,3}(-[a-z0-9]{2,8})*$/i;

/** An absolute address that a term can be known by. */
export const isUri = (text: string): boolean =>
  /^[a-z][a-z0-9+.-]*:[^\s<>"{}|\\^`]+$/i.test(text) && text.length <= 1000;

/** All labels of a term with the one that is its name, the preferred ones first. */
export function labelsOf({ name, language, labels }: Pick<Concept, 'name' | 'language' | 'labels'>): Label[] {
  const order = (label: Label) => LABEL_KINDS.indexOf(label.kind);
  return [{ kind: 'preferred' as const, language, text: name }, ...labels].sort((a, b) => order(a) - order(b));
}

/** A list without repetition: labels, notes and matches are sets. */
export const asSet = <T extends object>(list: readonly T[]): T[] => [
  ...new Map(list.map((entry) => [entryKey(entry), entry])).values(),
];

/** What an entry of such a list says, in whatever order it says it. */
export const entryKey = (entry: object): string =>
  JSON.stringify(Object.entries(entry).sort(([a], [b]) => (a < b ? -1 : 1)));
