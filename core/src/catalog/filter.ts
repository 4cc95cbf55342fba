import { PRIORITIES } from './facts.ts';
import { sizeOf } from './size.ts';
import { isWhen } from './when.ts';

/** Keys of conditions, with what a person is told about each. */
export const FILTER_KEYS = {
  kind: 'what the asset is: table, view, column, file …',
  domain: 'the domain it belongs to, or one below it',
  source: 'the source it was found in',
  class: 'a data class it carries (for a table: one of its columns)',
  arrived: 'a data class that came to it along lineage (for a table: to one of its columns); none, any',
  came: 'a tag that came to it along lineage, or one with its value; none, any',
  via: 'lineage: the classes and tags that stand beside it came along lineage, as in class:email via:lineage',
  owner: 'who answers for it; none, any',
  steward: 'who looks after it; none, any',
  custodian: 'who runs the system it lives in; none, any',
  expert: 'who says of themselves that they know it; none, any',
  person: 'anybody who answers for it, looks after it, runs it or knows it; none, any',
  term: 'a glossary term it carries; none, any',
  tag: 'a tag it carries, or one with its value: retention, retention/short; none, any',
  level: 'its sensitivity level: open, internal, guarded, sealed; none, any; also with >= and <=',
  priority:
    'how much it matters, itself or by what is made from it: ordinary, important, critical; also with >= and <=',
  standing: 'unreviewed, reviewed, trusted, retiring',
  notice: 'a notice that holds today: note, caution, stop; none, any',
  described: 'yes or no: whether people described it',
  gone: 'yes or no: whether the last scan no longer found it',
  missing: 'what it lacks: owner, steward, custodian, description, term, class, tag, level',
  certified: 'when it was certified, as long as it is trusted: 2026-11, -30d; also with >= and <; none, any',
  fresh: 'when its source was last read: today, -7d, 2026-11; also with >= and <; none, any',
  under: 'lies below what has this name or path, at any depth; * stands for anything: under:core, under:stage_*',
  name: 'its name; * stands for anything: pax_*',
  path: 'its path, as lists show it; * stands for anything: core.passenger, core.*.email, */2026/*',
  upstream: 'upstream of what has this name or path, at any number of steps: what that is made from',
  downstream: 'downstream of what has this name or path, at any number of steps: what is made from that',
  type: 'its type at the source; * stands for anything: varchar*; none, any',
  lineage: 'what of its lineage is known: in (what it is made from), out (what is made from it), both; none, any',
  used: 'how often it was asked for at its source: yes, no, or a number; also with >= and <; untold, where its source does not say',
  size: 'how much room it takes: 20MB, 1.5GB; also with >= and <; none, any',
  asked: 'when it was last asked for: 2026-11-27, 2026-11, -30d, -6m; also with >= and <; none, any',
  changed: 'when somebody, or a scan, last changed it: today, -7d, 2026-11; also with >= and <',
  created: 'when it was first seen: 2026-11-27, 2026-11, -30d, -6m; also with >= and <',
} as const;
export type FilterKey = keyof typeof FILTER_KEYS;

/** Keys whose values have an order. */
export const ORDERED: readonly FilterKey[] = [
  'level',
  'priority',
  'used',
  'size',
  'asked',
  'changed',
  'created',
  'certified',
  'fresh',
];
/** What of an asset's lineage can be known. */
export const LINEAGES = ['in', 'out', 'both', 'none', 'any'] as const;
/** What an asset can lack. */
export const LACKS = ['owner', 'steward', 'custodian', 'description', 'term', 'class', 'tag', 'level'] as const;

const A_DATE = 'Write a date (2026-11-27, 2026-11, 2026), or one that counts back from today (-30d, -12w, -6m, -1y).';
function whenOrNever(value: string, ordered: boolean): string | undefined {
  return isWhen(value) || (!ordered && /^(none|any)$/i.test(value)) ? undefined : A_DATE;
}
/** What is wrong with a value, and how to mend it; of keys that take any value nothing. */
const MENDS: Partial<Record<FilterKey, (value: string, ordered: boolean) => string | undefined>> = {
  used: (value, ordered) =>
    /^\d{1,12}$/.test(value) || (!ordered && /^(yes|no|untold)$/i.test(value))
      ? undefined
      : ordered
        ? 'Write a number, for example used>=100.'
        : 'Write yes, no, untold or a number.',
  size: (value, ordered) =>
    sizeOf(value) !== undefined || (!ordered && /^(none|any)$/i.test(value))
      ? undefined
      : 'Write a number with a unit: 800kB, 20MB, 1.5GB.',
  lineage: (value) =>
    (LINEAGES as readonly string[]).includes(value.toLowerCase()) ? undefined : `Use one of ${LINEAGES.join(', ')}.`,
  asked: whenOrNever,
  certified: whenOrNever,
  fresh: whenOrNever,
  changed: (value) => (isWhen(value) ? undefined : A_DATE),
  created: (value) => (isWhen(value) ? undefined : A_DATE),
  priority: (value) =>
    (PRIORITIES as readonly string[]).includes(value.toLowerCase())
      ? undefined
      : `Use one of ${PRIORITIES.join(', ')}.`,
  via: (value) => (value.toLowerCase() === 'lineage' ? undefined : 'Write via:lineage.'),
  missing: (value) =>
    (LACKS as readonly string[]).includes(value.toLowerCase()) ? undefined : `Use one of ${LACKS.join(', ')}.`,
};

export type Comparison = '=' | '>=' | '<=' | '>' | '<';

/** The tree of a filter. Words match beginnings of words (a quoted one: whole words). */
export type Filter =
  | { readonly type: 'all'; readonly of: readonly Filter[] }
  | { readonly type: 'any'; readonly of: readonly Filter[] }
  | { readonly type: 'not'; readonly of: Filter }
  | { readonly type: 'word'; readonly text: string; readonly whole: boolean }
  | {
      readonly type: 'is';
      readonly key: FilterKey;
      readonly comparison: Comparison;
      readonly values: readonly string[];
    };

/** A filter that cannot be read: what is wrong, where (0-based character), and how to mend it. */
export class FilterError extends Error {
  readonly position: number;
  readonly mend: string;
  constructor(message: string, position: number, mend: string) {
    super(message);
    this.name = 'FilterError';
    this.position = position;
    this.mend = mend;
  }
}

export interface Token {
  readonly kind: 'word' | 'quoted' | 'open' | 'close' | 'compare' | 'comma';
  readonly text: string;
  readonly at: number;
  /** True when no space stands before it. */
  readonly glued: boolean;
}

/** The pieces of a filter. @throws {FilterError} where a quotation mark stays open */
export function tokens(text: string): Token[] {
  const found: Token[] = [];
  const pattern = /\s+|"((?:[^"\\]|\\.)*)("?)|(\()|(\))|(>=|<=|[:=<>])|(,)|([^\s"():=<>,]+)/gu;
  let end = 0;
  let glued = false;
  for (const match of text.matchAll(pattern)) {
    const at = match.index;
    end = at + match[0].length;
    if (/^\s/.test(match[0])) {
      glued = false;
      continue;
    }
    const add = (kind: Token['kind'], value: string) => found.push({ kind, text: value, at, glued });
    if (match[0].startsWith('"')) {
      if (match[2] !== '"') throw new FilterError('A quotation mark is opened and not closed.', at, 'Close it with ".');
      add('quoted', (match[1] ?? '').replace(/\\(.)/g, '$1'));
    } else if (match[3]) add('open', '(');
    else if (match[4]) add('close', ')');
    else if (match[5]) add('compare', match[5]);
    else if (match[6]) add('comma', ',');
    else add('word', match[7] ?? '');
    glued = true;
  }
  if (end < text.length) throw new FilterError('This cannot be read.', end, 'Put it in quotation marks.');
  return found;
}

/** The most that one filter may ask for: words, conditions with all their values, and brackets within brackets. */
export const FILTER_MOST = { words: 60, values: 300, depth: 40 } as const;

class Reader {
  #words = 0;
  #values = 0;
  #depth = 0;
  readonly #tokens: Token[];
  readonly #length: number;
  #next = 0;

  constructor(text: string) {
    this.#tokens = tokens(text);
    this.#length = text.length;
  }

  read(): Filter {
    const filter = this.#tokens.length === 0 ? { type: 'all' as const, of: [] } : this.#any();
    const rest = this.#peek();
    if (rest)
      throw new FilterError(
        `"${rest.text}" does not fit here.`,
        rest.at,
        rest.kind === 'close'
          ? 'Remove the bracket, or open one before it.'
          : 'Put it in quotation marks to search for it.',
      );
    return filter;
  }

  #peek(ahead = 0): Token | undefined {
    return this.#tokens[this.#next + ahead];
  }

  #isKeyword(word: string): boolean {
    const token = this.#peek();
    const after = this.#peek(1);
    return token?.kind === 'word' && token.text.toLowerCase() === word && !(after?.kind === 'compare' && after.glued);
  }

  #count(what: 'words' | 'values' | 'depth', counted: number, at: number): void {
    if (counted <= FILTER_MOST[what]) return;
    const named = { words: 'words', values: 'values of conditions', depth: 'brackets or nots within each other' }[what];
    throw new FilterError(`These are more than ${FILTER_MOST[what]} ${named}.`, at, 'Ask for less at once.');
  }

  #any(): Filter {
    const of = [this.#all()];
    while (this.#isKeyword('or')) {
      this.#next += 1;
      of.push(this.#all());
    }
    return of.length === 1 && of[0] ? of[0] : { type: 'any', of };
  }

  #all(): Filter {
    const of = [this.#one()];
    for (;;) {
      if (this.#isKeyword('and')) this.#next += 1;
      else {
        const token = this.#peek();
        if (!token || token.kind === 'close' || this.#isKeyword('or')) break;
      }
      of.push(this.#one());
    }
    return of.length === 1 && of[0] ? of[0] : { type: 'all', of };
  }

  #one(): Filter {
    const token = this.#peek();
    if (!token)
      throw new FilterError(
        'Something is missing at the end.',
        this.#length,
        'Add a word or a condition, or remove the last and, or, not.',
      );
    if (this.#isKeyword('not')) {
      this.#next += 1;
      return { type: 'not', of: this.#within(token.at, () => this.#one()) };
    }
    if (token.kind === 'open') {
      this.#next += 1;
      const inner = this.#within(token.at, () => this.#any());
      if (this.#peek()?.kind !== 'close')
        throw new FilterError('A bracket is opened and not closed.', token.at, 'Close it with ).');
      this.#next += 1;
      return inner;
    }
    if (token.kind === 'word' && (token.text === '-' || token.text.startsWith('-')) && token.text.length > 1) {
      this.#tokens[this.#next] = { ...token, text: token.text.slice(1), at: token.at + 1 };
      return { type: 'not', of: this.#within(token.at, () => this.#one()) };
    }
    const compare = this.#peek(1);
    if (token.kind === 'word' && compare?.kind === 'compare' && compare.glued) return this.#condition(token, compare);
    if (token.kind !== 'word' && token.kind !== 'quoted')
      throw new FilterError(
        `"${token.text}" does not fit here.`,
        token.at,
        'A word or a condition like kind:table is expected.',
      );
    this.#next += 1;
    this.#words += 1;
    this.#count('words', this.#words, token.at);
    return { type: 'word', text: token.text, whole: token.kind === 'quoted' };
  }

  #within(at: number, read: () => Filter): Filter {
    this.#depth += 1;
    this.#count('depth', this.#depth, at);
    const inner = read();
    this.#depth -= 1;
    return inner;
  }

  #condition(key: Token, compare: Token): Filter {
    const name = key.text.toLowerCase();
    if (!Object.hasOwn(FILTER_KEYS, name)) {
      throw new FilterError(
        `"${key.text}" is not something to filter by.`,
        key.at,
        `Use one of ${Object.keys(FILTER_KEYS).join(', ')}; or put the whole in quotation marks.`,
      );
    }
    const comparison = compare.text === ':' ? '=' : (compare.text as Comparison);
    if (comparison !== '=' && !ORDERED.includes(name as FilterKey)) {
      throw new FilterError(
        `${name} has no order, so ${comparison} means nothing.`,
        compare.at,
        `Write ${name}:value.`,
      );
    }
    this.#next += 2;
    const asked = { key: name as FilterKey, comparison };
    const values = [this.#value(compare, asked)];
    while (this.#peek()?.kind === 'comma') {
      this.#next += 1;
      values.push(this.#value(compare, asked));
    }
    return { type: 'is', ...asked, values };
  }

  #value(before: Token, { key, comparison }: { key: FilterKey; comparison: Comparison }): string {
    const token = this.#peek();
    if (token?.kind !== 'word' && token?.kind !== 'quoted')
      throw new FilterError(
        'A value is missing.',
        before.at + before.text.length,
        'Write it behind the colon, for example kind:table.',
      );
    this.#next += 1;
    this.#values += 1;
    this.#count('values', this.#values, token.at);
    const mend = MENDS[key]?.(token.text, comparison !== '=');
    if (mend) throw new FilterError(`"${token.text}" is no value of ${key}.`, token.at, mend);
    return token.text;
  }
}

/**
 * Reads a filter: words and `key:value` conditions, combined with and (also by standing beside each other), or, not, brackets.
 * @throws {FilterError} with position and mend
 */
export const parseFilter = (text: string): Filter => new Reader(text).read();

/** A value as it is written behind a colon: in quotation marks where it needs them. */
export const writeValue = (value: string): string => (bare.test(value) ? value : inQuotes(value));

const bare = /^[^\s"():=<>,]+$/u;
const inQuotes = (text: string) => `"${text.replace(/["\\]/g, '\\$&')}"`;
/** A word by itself: what would be read as something else stands in quotation marks, too. */
const writeWord = (text: string) =>
  bare.test(text) && !/^(and|or|not)$/i.test(text) && !text.startsWith('-') ? text : inQuotes(text);

/** Writes a filter so that {@link parseFilter} reads the same tree again. */
export function writeFilter(filter: Filter): string {
  switch (filter.type) {
    case 'word':
      return filter.whole ? inQuotes(filter.text) : writeWord(filter.text);
    case 'is':
      return `${filter.key}${filter.comparison === '=' ? ':' : filter.comparison}${filter.values.map(writeValue).join(',')}`;
    case 'not':
      return `not ${filter.of.type === 'all' || filter.of.type === 'any' ? `(${writeFilter(filter.of)})` : writeFilter(filter.of)}`;
    default:
      return filter.of
        .map((part) => (part.type === 'all' || part.type === 'any' ? `(${writeFilter(part)})` : writeFilter(part)))
        .join(filter.type === 'all' ? ' ' : ' or ');
  }
}

/** Whether a word or condition of a filter, wherever it stands, passes a test. */
export const someLeaf = (filter: Filter, test: (leaf: Filter) => boolean): boolean =>
  filter.type === 'all' || filter.type === 'any'
    ? filter.of.some((part) => someLeaf(part, test))
    : filter.type === 'not'
      ? someLeaf(filter.of, test)
      : test(filter);

/** Kinds that lists show only where a filter asks for words or for kinds. */
export const ASIDE: readonly string[] = ['column', 'database'];

/** Whether what is gone shows: only where a filter asks about that. */
export const showsGone = (filter: Filter): boolean =>
  someLeaf(filter, (leaf) => leaf.type === 'is' && leaf.key === 'gone');

/** Whether the kinds of {@link ASIDE} show. */
export const showsAside = (filter: Filter): boolean =>
  someLeaf(filter, (leaf) => leaf.type === 'word' || (leaf.type === 'is' && leaf.key === 'kind'));
