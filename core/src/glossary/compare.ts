import { keepable, keepableWithin, nearest } from '../text/index.ts';
import {
  asSet,
  type Concept,
  entryKey,
  type Flaw,
  type Given,
  type GivenConcept,
  type GivenList,
  isUri,
  type Scheme,
  TERM_MOST,
  type TermStatus,
  type Vocabulary,
} from './vocabulary.ts';

/** Fields of a term that are compared, as they are called. */
export const COMPARED = {
  scheme: 'scheme',
  name: 'name',
  language: 'language',
  labels: 'labels',
  definition: 'definition',
  notes: 'notes',
  broader: 'broader terms',
  related: 'related terms',
  matches: 'matches',
  status: 'status',
  owner: 'owner',
} as const;
export type ComparedField = keyof typeof COMPARED;

export interface ChangedConcept {
  readonly before: Concept;
  readonly after: Concept;
  readonly fields: readonly ComparedField[];
}

/** What taking in a file would change. */
export interface VocabularyChange {
  readonly schemes: readonly Scheme[];
  readonly fresh: readonly Concept[];
  readonly changed: readonly ChangedConcept[];
  readonly same: number;
  readonly flaws: readonly Flaw[];
  /** Where in the file each of its terms stands, by URI. */
  readonly places: ReadonlyMap<string, string>;
}

/** How a file is taken in. */
export interface Taking {
  /** URI of the scheme for terms of which the file does not say one. */
  readonly scheme: string;
  readonly makeUri: () => string;
  /** Who may be an owner, by what they can be called in a file; the first name is the one that is kept. */
  readonly people: readonly (readonly [name: string, ...others: string[]])[];
  /** Whether whoever takes it in may agree to terms of a scheme. */
  readonly mayApprove: (scheme: string) => boolean;
}

/** What taking in a file would change: nothing that it does not speak of. */
export function compareVocabulary(now: Vocabulary, given: Given, taking: Taking): VocabularyChange {
  return new Comparing(now, given, taking).change();
}

class Comparing {
  readonly #now: Vocabulary;
  readonly #given: Given;
  readonly #taking: Taking;
  readonly #flaws: Flaw[];
  readonly #schemes = new Map<string, Scheme>();
  readonly #fresh: Scheme[] = [];
  /** Terms as they will be, by URI. */
  readonly #after = new Map<string, Concept>();
  readonly #before: ReadonlyMap<string, Concept>;
  readonly #byName = new Map<string, string[]>();
  /** What each of the file's terms says, by URI. */
  readonly #said = new Map<string, GivenConcept>();
  readonly #people = new Map<string, string>();

  constructor(now: Vocabulary, given: Given, taking: Taking) {
    this.#now = now;
    this.#given = keepableWithin(given);
    this.#taking = taking;
    this.#flaws = [...given.flaws];
    this.#before = new Map(now.concepts.map((concept) => [concept.uri, concept]));
    for (const [name, ...others] of taking.people)
      for (const called of [name, ...others]) this.#people.set(called.toLowerCase(), name);
  }

  change(): VocabularyChange {
    this.#takeSchemes();
    for (const concept of this.#now.concepts) {
      this.#after.set(concept.uri, concept);
      this.#call(concept);
    }
    for (const said of this.#given.concepts) this.#takeConcept(said);
    this.#tellSameNames();
    this.#takeBroader(this.#relations('broader'));
    this.#takeRelated(this.#relations('related'));
    const fresh: Concept[] = [];
    const changed: ChangedConcept[] = [];
    let same = 0;
    for (const uri of this.#said.keys()) {
      const before = this.#before.get(uri);
      const after = this.#approved(before, this.#after.get(uri) as Concept);
      if (!before) fresh.push(after);
      else {
        const fields = differing(before, after);
        if (fields.length > 0) changed.push({ before, after, fields });
        else same += 1;
      }
    }
    const places = new Map([...this.#said].map(([uri, { at }]) => [uri, at]));
    return { schemes: this.#fresh, fresh, changed, same, flaws: this.#flaws, places };
  }

  #flaw(at: string, what: string, mend: string): void {
    this.#flaws.push({ at, what, mend });
  }

  #takeSchemes(): void {
    for (const scheme of this.#now.schemes) this.#schemes.set(scheme.uri, scheme);
    const names = new Set(this.#now.schemes.map(({ name }) => name.toLowerCase()));
    for (const scheme of this.#given.schemes) {
      if (this.#schemes.has(scheme.uri)) continue;
      if (!isUri(scheme.uri)) {
        this.#flaw(
          scheme.uri,
          'The scheme has no absolute address.',
          'Write it with its beginning, as in https:… or urn:….',
        );
        continue;
      }
      let { name } = scheme;
      for (let nth = 2; names.has(name.toLowerCase()); nth += 1) name = `${scheme.name} ${nth}`;
      names.add(name.toLowerCase());
      const made = { ...scheme, name };
      this.#schemes.set(scheme.uri, made);
      this.#fresh.push(made);
    }
  }

  #takeConcept(said: GivenConcept): void {
    const scheme = this.#schemeOf(said);
    if (scheme === undefined) return;
    if (said.name.length > TERM_MOST.name) {
      this.#flaw(said.at, `The name is longer than ${TERM_MOST.name} characters.`, 'Shorten it; the term is left out.');
      return;
    }
    const before = this.#known(said, scheme);
    if (before === null) return;
    const uri = before?.uri ?? said.uri ?? this.#taking.makeUri();
    if (this.#said.has(uri)) {
      this.#flaw(said.at, `“${said.name}” stands in the file twice.`, 'Keep one; the second is left out.');
      return;
    }
    this.#said.set(uri, said);
    const language = said.language ?? before?.language ?? this.#schemes.get(scheme)?.language ?? '';
    const labels = taken(said.labels, before?.labels ?? [], language).filter(
      ({ kind, language: of, text }) => of !== language || (kind !== 'preferred' && text !== said.name),
    );
    const concept: Concept = {
      uri,
      scheme,
      name: said.name,
      language,
      labels: this.#few(
        said.at,
        'labels',
        TERM_MOST.labels,
        asSet(labels.filter(({ text }) => this.#fits(said.at, text, TERM_MOST.name))),
      ),
      definition: this.#fits(said.at, said.definition ?? '', TERM_MOST.text)
        ? (said.definition ?? before?.definition ?? '')
        : (before?.definition ?? ''),
      notes: this.#few(
        said.at,
        'notes',
        TERM_MOST.notes,
        asSet(
          taken(said.notes, before?.notes ?? [], language).filter(({ text }) =>
            this.#fits(said.at, text, TERM_MOST.text),
          ),
        ),
      ),
      broader: before?.broader ?? [],
      related: before?.related ?? [],
      matches: this.#few(
        said.at,
        'matches',
        TERM_MOST.matches,
        asSet(taken(said.matches, before?.matches ?? [], '').filter((match) => this.#isAddress(said.at, match.uri))),
      ),
      status: said.status ?? before?.status ?? 'draft',
      owner:
        said.owner === undefined ? (before?.owner ?? null) : this.#person(said.at, said.owner, before?.owner ?? null),
    };
    this.#after.set(uri, concept);
    this.#call(concept);
  }

  #schemeOf({ at, scheme, uri }: GivenConcept): string | undefined {
    if (scheme === undefined) return (uri && this.#before.get(uri)?.scheme) || this.#taking.scheme;
    if (this.#schemes.has(scheme)) return scheme;
    const named = [...this.#schemes.values()].find(({ name }) => name.toLowerCase() === scheme.toLowerCase());
    if (named) return named.uri;
    this.#flaw(
      at,
      `There is no scheme “${scheme}”.`,
      this.#orMake(
        [...this.#schemes.values()].map(({ name }) => name),
        scheme,
        'make it first; the term is left out',
      ),
    );
    return undefined;
  }

  /** The term that is meant, undefined where it is new, null where that cannot be told. */
  #known({ at, uri, name }: GivenConcept, scheme: string): Concept | undefined | null {
    if (uri !== undefined) {
      const known = this.#before.get(uri);
      if (known || isUri(uri)) return known;
      this.#flaw(
        at,
        `“${uri}” is no absolute address.`,
        'Write it with its beginning, as in https:… or urn:…, or leave it out; the term is left out.',
      );
      return null;
    }
    const named = (this.#byName.get(nameKey(scheme, name)) ?? []).filter(
      (other) => this.#before.get(other)?.scheme === scheme,
    );
    if (named.length > 1) {
      this.#flaw(
        at,
        `There are ${named.length} terms “${name}” in the scheme.`,
        'Write into the column “uri” which one is meant; the line is left out.',
      );
      return null;
    }
    return this.#before.get(named[0] ?? '');
  }

  #call({ scheme, name, uri }: Concept): void {
    const key = nameKey(scheme, name);
    const known = this.#byName.get(key);
    if (!known) this.#byName.set(key, [uri]);
    else if (!known.includes(uri)) known.push(uri);
  }

  #tellSameNames(): void {
    for (const [uri, { at }] of this.#said) {
      const { scheme, name } = this.#after.get(uri) as Concept;
      const others = (this.#byName.get(nameKey(scheme, name)) ?? []).filter(
        (other) => other !== uri && nameKey(scheme, this.#after.get(other)?.name ?? '') === nameKey(scheme, name),
      );
      if (others.length > 0 && this.#before.get(uri)?.name !== name)
        this.#flaw(
          at,
          `Another term of the scheme is called “${name}” too.`,
          'It is taken in; give one of them another name, or make one the broader one.',
        );
    }
  }

  /** For each of the file's terms that says so, the URIs of those it names; what names none is told and left out. */
  #relations(which: 'broader' | 'related'): Map<string, string[]> {
    const found = new Map<string, string[]>();
    for (const [uri, said] of this.#said) {
      const named = said[which];
      if (!named) continue;
      const { scheme } = this.#after.get(uri) as Concept;
      const uris = new Set<string>();
      for (const name of named) {
        const other = this.#find(name, scheme);
        if (other === uri)
          this.#flaw(
            said.at,
            `“${said.name}” is named as its own ${which} term.`,
            'Name another one; this is left out.',
          );
        else if (other !== undefined) uris.add(other);
        else
          this.#flaw(
            said.at,
            `There is no term “${name}”, named as ${which}.`,
            this.#orMake(
              [...this.#after.values()].filter((concept) => concept.scheme === scheme).map((concept) => concept.name),
              name,
              'add it to the file; this is left out',
            ),
          );
      }
      found.set(uri, [...uris]);
    }
    return found;
  }

  #find(name: string, scheme: string): string | undefined {
    if (this.#after.has(name)) return name;
    const named = this.#byName.get(nameKey(scheme, name)) ?? [];
    const still = named.filter((uri) => nameKey(scheme, this.#after.get(uri)?.name ?? '') === nameKey(scheme, name));
    return still.length === 1 ? still[0] : undefined;
  }

  /** Broader terms as the file says; what would close a circle is left out. */
  #takeBroader(said: ReadonlyMap<string, readonly string[]>): void {
    const broader = new Map([...this.#after].map(([uri, concept]) => [uri, said.has(uri) ? [] : [...concept.broader]]));
    for (const [uri, wanted] of said) {
      const own = broader.get(uri) as string[];
      for (const above of wanted) {
        if (!isBelow(above, uri, broader)) {
          own.push(above);
          continue;
        }
        this.#flaw(
          this.#at(uri),
          `“${this.#after.get(uri)?.name}” would lie below itself, by way of “${this.#after.get(above)?.name}”.`,
          'Choose another broader term; this one is left out.',
        );
      }
      this.#after.set(uri, {
        ...(this.#after.get(uri) as Concept),
        broader: this.#few(this.#at(uri), 'broader terms', TERM_MOST.broader, own.sort()),
      });
    }
  }

  /** What either of two says of them holds for both: added by one it is added, taken away by one it is taken away. */
  #takeRelated(said: ReadonlyMap<string, readonly string[]>): void {
    const related = new Map([...this.#after].map(([uri, concept]) => [uri, new Set(concept.related)]));
    const before = (uri: string) => this.#before.get(uri)?.related ?? [];
    for (const [uri, others] of said)
      for (const other of before(uri))
        if (!others.includes(other)) {
          related.get(uri)?.delete(other);
          related.get(other)?.delete(uri);
        }
    for (const [uri, others] of said)
      for (const other of others)
        if (!before(uri).includes(other)) {
          related.get(uri)?.add(other);
          related.get(other)?.add(uri);
        }
    for (const [uri, others] of related) {
      const list = this.#few(this.#at(uri), 'related terms', TERM_MOST.related, [...others].sort());
      this.#after.set(uri, { ...(this.#after.get(uri) as Concept), related: list });
    }
  }

  /** Agreed to by who may; what others change of a term that was agreed is a proposal. */
  #approved(before: Concept | undefined, after: Concept): Concept {
    const may = this.#taking.mayApprove(after.scheme) && (!before || this.#taking.mayApprove(before.scheme));
    if (may || (before && differing(before, after).length === 0)) return after;
    const status = statusAllowed(
      before?.status ?? null,
      after.status,
      before ? differing(before, after).some(isOfMeaning) : true,
    );
    if (status !== after.status)
      this.#flaw(
        this.#at(after.uri),
        `“${after.name}” cannot be ${after.status} by you.`,
        `It becomes ${status}: whoever answers for the scheme agrees to it.`,
      );
    return { ...after, status };
  }

  #at(uri: string): string {
    return this.#said.get(uri)?.at ?? uri;
  }

  #person(at: string, name: string | null, before: string | null): string | null {
    if (name === null) return null;
    const known = this.#people.get(name.toLowerCase());
    if (known !== undefined) return known;
    this.#flaw(
      at,
      `Nobody here is called “${name}”.`,
      this.#orMake([...this.#people.values()], name, 'the owner stays as it is'),
    );
    return before;
  }

  #fits(at: string, text: string, most: number): boolean {
    if (text.length <= most) return true;
    this.#flaw(
      at,
      `A text is longer than ${most.toLocaleString('en')} characters: “${keepable(text.slice(0, 40))}…”.`,
      'Shorten it; it is left out.',
    );
    return false;
  }

  #few<T>(at: string, what: string, most: number, list: T[]): T[] {
    if (list.length > most) this.#flaw(at, `It has more than ${most} ${what}.`, 'The rest is left out.');
    return list.slice(0, most);
  }

  #isAddress(at: string, uri: string): boolean {
    if (isUri(uri)) return true;
    this.#flaw(
      at,
      `“${uri}” is no absolute address.`,
      'Write it with its beginning, as in https:… or urn:…; it is left out.',
    );
    return false;
  }

  /** A name that is known and near to one that is not, or what else can be done. */
  #orMake(names: readonly string[], wanted: string, otherwise: string): string {
    const known = nearest(names, wanted);
    return known
      ? `Is “${known}” meant? If not, ${otherwise}.`
      : `${otherwise.slice(0, 1).toUpperCase()}${otherwise.slice(1)}.`;
  }
}

const nameKey = (scheme: string, name: string): string => `${scheme} ${name.toLowerCase()}`;

/** A list as a file says it, with what it does not speak of as it was. */
function taken<T extends { readonly kind: string; readonly language?: string }>(
  said: GivenList<T> | undefined,
  before: readonly T[],
  own: string,
): T[] {
  if (!said) return [...before];
  const { covers } = said;
  const isCovered = (entry: T) =>
    covers === 'all' ||
    covers.some(
      ({ kind, language }) =>
        kind === entry.kind && (entry.language === undefined || (language ?? own) === entry.language),
    );
  const hasLanguage = (entry: object) => !('uri' in entry);
  const values = said.values.map((entry) =>
    hasLanguage(entry) ? { ...entry, language: (entry as { language?: string }).language ?? own } : entry,
  );
  return [...before.filter((entry) => !isCovered(entry)), ...(values as unknown as T[])];
}

/** In which fields two states of a term differ; lists are sets. */
export function differing(before: Concept, after: Concept): ComparedField[] {
  const told = (value: unknown) =>
    Array.isArray(value)
      ? JSON.stringify(value.map((entry) => (typeof entry === 'string' ? entry : entryKey(entry as object))).sort())
      : JSON.stringify(value);
  return (Object.keys(COMPARED) as ComparedField[]).filter((field) => told(before[field]) !== told(after[field]));
}

/** Whether a change of this field is one of what a term means. */
export const isOfMeaning = (field: ComparedField): boolean =>
  field !== 'status' && field !== 'owner' && field !== 'matches';

/**
 * The status that a term gets from somebody who may not agree to terms of its scheme: they draft and propose, and what they change of an agreed term waits
 * for whoever may.
 * @param before null for a new term
 * @param changesMeaning whether anything but the status, its owner and its matches is changed
 */
export function statusAllowed(before: TermStatus | null, after: TermStatus, changesMeaning: boolean): TermStatus {
  if (before === null) return after === 'agreed' || after === 'retired' ? 'proposed' : after;
  if (before === 'draft' || before === 'proposed')
    return after === 'agreed' || after === 'retired' ? 'proposed' : after;
  // Agreed and retired ones are left as they are; but what they say is not changed behind the back of whoever agreed.
  return changesMeaning ? 'proposed' : before;
}

/** Whether a term is another one or lies below it. */
export function isBelow(uri: string, above: string, broader: ReadonlyMap<string, readonly string[]>): boolean {
  const seen = new Set([uri]);
  const waiting = [uri];
  for (let next = waiting.pop(); next !== undefined; next = waiting.pop()) {
    if (next === above) return true;
    for (const other of broader.get(next) ?? [])
      if (!seen.has(other)) {
        seen.add(other);
        waiting.push(other);
      }
  }
  return false;
}
