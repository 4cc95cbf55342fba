import { fold } from '../../text/index.ts';
import { compareLevel, isLineage, isUntold, isYes, levelNumber, priorityGrade, rangeOf } from '../evaluate.ts';
import { PRIORITIES, STANDINGS, wantedWords } from '../facts.ts';
import type { Filter, FilterKey } from '../filter.ts';
import { meaningOf, meantTogether, type ShortKey } from '../meanings.ts';
import { fits, isOfPaths } from '../pattern.ts';
import { sizeOf } from '../size.ts';
import { stretchOf } from '../when.ts';
import { Bits } from './bits.ts';
import type { SetBook } from './books.ts';
import { addFitting } from './paths.ts';
import type { Store } from './store.ts';

type Condition = Extract<Filter, { type: 'is' }>;
/** Keys that are about places: names and paths, of the asset or of what stands around it. */
const PLACED = ['path', 'under', 'upstream', 'downstream', 'lineage'] as const;
type Placed = (typeof PLACED)[number];
/** Keys whose values are looked up in a column of numbers of things. */
type LookedUp = Exclude<FilterKey, ShortKey | 'used' | 'size' | 'asked' | 'changed' | 'created' | 'certified' | Placed>;
/** Before all that ever was: an asset that was never asked for lies before it. */
const EVER = -8.64e15;

/** How well a word fits where it stands, from 0 (not at all) to 255: the whole word of a name, its beginning, the same in a text about the asset, in a
 * label of a term that it carries. */
const FIT = { name: 255, nameBegun: 150, text: 90, textBegun: 55, term: 85, termBegun: 50 } as const;

/** What a word finds: where, and how well it fits there. */
export interface Found {
  readonly bits: Bits;
  readonly fit: Uint8Array;
}

/** So much of what was worked out is kept until something changes. */
const KEPT = 40;

/** Finds what passes a filter. It gives the same answer as `passes` for every asset (a property test holds them together). */
export class Conditions {
  readonly #store: Store;
  #generation = -1;
  readonly #kept = new Map<string, Bits>();
  readonly #words = new Map<string, Found>();

  constructor(store: Store) {
    this.#store = store;
  }

  /**
   * All assets that pass, also those that are gone. The caller may change the answer.
   * @param seen domains in which whoever asks may read: what else there is says nothing about what is upstream or downstream of it
   */
  passing(filter: Filter, seen: ReadonlySet<string>): Bits {
    const { size } = this.#store;
    switch (filter.type) {
      case 'all': {
        const bits = this.alive();
        for (const part of meantTogether(filter.of)) bits.and(this.passing(part, seen));
        return bits;
      }
      case 'any': {
        const bits = new Bits(size);
        for (const part of filter.of) bits.or(this.passing(part, seen));
        return bits;
      }
      case 'not':
        return this.alive().without(this.passing(filter.of, seen));
      case 'word': {
        const bits = this.alive();
        for (const word of wantedWords(filter.text)) bits.and(this.word(word, filter.whole).bits);
        return bits;
      }
      case 'is': {
        const meant = meaningOf(filter);
        if (meant) return this.passing(meant, seen);
        if (filter.key === 'upstream' || filter.key === 'downstream')
          return this.#around(filter.key, filter.values, seen);
        if (filter.key === 'lineage') return this.#lineage(filter.values, seen);
        return this.#keptUnder(`${filter.key}${filter.comparison}${JSON.stringify(filter.values)}`, () => {
          const measured = this.#measured(filter);
          return measured ?? this.#where(...this.#lookup(filter));
        }).copy();
      }
    }
  }

  alive(): Bits {
    return this.#keptUnder('alive', () => this.#store.alive()).copy();
  }

  /** Assets that are seen by these domains and sights; those that are no more are in none. */
  within(domains: ReadonlySet<string>): Bits {
    const store = this.#store;
    return this.#keptUnder(`within ${[...domains].sort().join(' ')}`, () =>
      this.#where(
        store.columns.domain,
        store.domains.which((id) => domains.has(id)),
      )
        .or(
          this.#where(
            store.columns.opened,
            store.sights.which((id) => domains.has(id)),
          ),
        )
        .and(store.alive()),
    ).copy();
  }

  /** Assets that are there, of kinds that lists show without being asked. */
  shown(): Bits {
    return this.#keptUnder('shown', () =>
      this.#where(
        this.#store.columns.kind,
        this.#store.aside().map((aside) => 1 - aside),
      ),
    );
  }

  here(): Bits {
    return this.#keptUnder('here', () => this.#where(this.#store.columns.gone, Uint8Array.of(1, 0)));
  }

  /** Where a word stands, or one that it begins. */
  word(wanted: string, whole: boolean): Found {
    this.#forget();
    const key = `${whole ? '=' : '^'}${wanted}`;
    const known = this.#words.get(key);
    if (known) return known;
    const { words, size } = this.#store;
    const bits = new Bits(size);
    const fit = new Uint8Array(size);
    for (const number of whole ? words.exactly(wanted) : words.beginning(wanted)) {
      const word = words.wordOf(number);
      const exact = word === wanted;
      // Of a longer word less is told by its beginning.
      const share = wanted.length / word.length;
      const named = exact ? FIT.name : Math.round(FIT.nameBegun * (0.5 + 0.5 * share));
      const told = exact ? FIT.text : Math.round(FIT.textBegun * (0.5 + 0.5 * share));
      const { entries, length } = words.postings(number);
      for (let at = 0; at < length; at += 1) {
        const entry = entries[at] as number;
        const slot = entry >>> 1;
        bits.add(slot);
        const here = entry & 1 ? named : told;
        if (here > (fit[slot] as number)) fit[slot] = here;
      }
      const carrying = this.carriers(number);
      const carried = exact ? FIT.term : Math.round(FIT.termBegun * (0.5 + 0.5 * share));
      carrying?.each((slot) => {
        bits.add(slot);
        if (carried > (fit[slot] as number)) fit[slot] = carried;
      });
    }
    const found = { bits, fit };
    if (this.#words.size >= KEPT) this.#words.delete(this.#words.keys().next().value as string);
    this.#words.set(key, found);
    return found;
  }

  /** Assets that carry a term with this word in one of its labels, or a tag with it in its key or its value; nothing where no term and no tag has it. */
  carriers(word: number): Bits | undefined {
    const store = this.#store;
    const terms = store.synonyms.termsWith(word);
    const tags = store.tagsWith(word);
    if (!terms && !tags) return undefined;
    const bits = terms ? store.carrying(terms) : new Bits(store.size);
    if (tags)
      bits.or(
        this.#where(
          store.columns.tags,
          store.tags.which((member) => tags.has(member)),
        ),
      );
    return bits.and(this.alive());
  }

  #forget(): void {
    if (this.#generation === this.#store.generation) return;
    this.#generation = this.#store.generation;
    this.#kept.clear();
    this.#words.clear();
  }

  #keptUnder(key: string, work: () => Bits): Bits {
    this.#forget();
    const known = this.#kept.get(key);
    if (known) return known;
    const bits = work();
    if (this.#kept.size >= KEPT) this.#kept.delete(this.#kept.keys().next().value as string);
    this.#kept.set(key, bits);
    return bits;
  }

  /** Assets whose number in a column is one of those that pass. */
  #where(column: ArrayLike<number>, passing: ArrayLike<number>): Bits {
    const { size } = this.#store;
    const bits = new Bits(size);
    const { words } = bits;
    for (let at = 0, slot = 0; slot < size; at += 1) {
      const end = Math.min(slot + 32, size);
      let word = 0;
      for (let bit = 0; slot < end; slot += 1, bit += 1) word |= (passing[column[slot] as number] as number) << bit;
      words[at] = word;
    }
    return bits;
  }

  /** Assets whose number in a column lies in one of some ranges. */
  #between(column: ArrayLike<number>, ranges: readonly (readonly [number, number])[]): Bits {
    const bits = new Bits(this.#store.size);
    for (const [least, most] of ranges)
      for (let slot = 0; slot < this.#store.size; slot += 1) {
        const value = column[slot] as number;
        if (value >= least && value < most) bits.add(slot);
      }
    return bits;
  }

  /** What passes a condition on how much or when; nothing for one that is about something else. */
  #measured({ key, comparison, values }: Condition): Bits | undefined {
    const { uses, bytes, asked, changed, created, certified } = this.#store.columns;
    if (key === 'path') return this.#path(values);
    if (key === 'under') return this.#below(this.#called(values));
    if (key === 'used') {
      const bits = this.#between(
        uses,
        values.flatMap((value): (readonly [number, number])[] => {
          if (isUntold(value)) return [];
          if (/^\d+$/.test(value)) return [rangeOf(comparison, Number(value), Number(value) + 1)];
          return [isYes(value) ? [1, Number.POSITIVE_INFINITY] : [0, 1]];
        }),
      );
      const { sources, names, columns } = this.#store;
      return values.some(isUntold)
        ? bits.or(
            this.#where(
              columns.source,
              sources.which((id) => !names.told.has(id)),
            ),
          )
        : bits;
    }
    if (key === 'size')
      return this.#between(
        bytes,
        values.flatMap((value) => sizes(value, comparison)),
      );
    if (key !== 'asked' && key !== 'changed' && key !== 'created' && key !== 'certified') return undefined;
    const column = { asked, changed, created, certified }[key];
    return this.#between(
      column,
      values.flatMap((value) => stretches(value, comparison)),
    );
  }

  /** Assets whose paths fit one of some values. */
  #path(values: readonly string[]): Bits {
    const bits = new Bits(this.#store.size);
    for (const value of values) addFitting(this.#store, value, bits);
    return bits;
  }

  /** Assets that are called one of some values. */
  #called(values: readonly string[]): Bits {
    return this.#keptUnder(`called ${JSON.stringify(values)}`, () => {
      const { columns, nameBook } = this.#store;
      const names = nameBook.which((name) => values.some((value) => fits(value, name)));
      return this.#where(columns.name, names)
        .and(this.alive())
        .or(this.#path(values.filter(isOfPaths)));
    });
  }

  /** What lies below some assets, at any depth. */
  #below(these: Bits): Bits {
    const bits = new Bits(this.#store.size);
    const order = this.#store.inOrder();
    const { parent } = this.#store.columns;
    // What holds something comes before it.
    for (const slot of order) {
      const holder = parent[slot] as number;
      if (holder >= 0 && (these.has(holder) || bits.has(holder))) bits.add(slot);
    }
    return bits;
  }

  /** What is made, or what they are made from, of assets that are called so, and of what lies below them. */
  #around(way: 'upstream' | 'downstream', values: readonly string[], seen: ReadonlySet<string>): Bits {
    return this.#keptUnder(`${way} ${JSON.stringify([values, [...seen].sort()])}`, () => {
      const start = this.#called(values).copy();
      start.or(this.#below(start)).and(this.within(seen));
      return this.#store.steps.reached(start, way, this.#store.size).and(this.alive());
    }).copy();
  }

  /** Assets of whose lineage so much is known: steps from and to what is seen count. */
  #lineage(values: readonly string[], seen: ReadonlySet<string>): Bits {
    return this.#keptUnder(`lineage ${JSON.stringify([values, [...seen].sort()])}`, () => {
      const { steps, size } = this.#store;
      const all = this.within(seen);
      const made = steps.next(all, 'downstream', size);
      const makes = steps.next(all, 'upstream', size);
      const bits = new Bits(size);
      for (let slot = 0; slot < size; slot += 1)
        if (values.some((value) => isLineage(value, made.has(slot), makes.has(slot)))) bits.add(slot);
      return bits.and(this.alive());
    }).copy();
  }

  /** The column that a condition is about, and which of its numbers pass. */
  #lookup({ key, comparison, values }: Condition): [ArrayLike<number>, ArrayLike<number>] {
    const { columns } = this.#store;
    const tables: Record<LookedUp, [ArrayLike<number>, (value: string) => ArrayLike<number>]> = {
      kind: [columns.kind, (value) => this.#store.kinds.which(called(value, (kind) => [kind]))],
      source: [
        columns.source,
        (value) => this.#store.sources.which(called(value, (id) => [this.#store.names.sources.get(id) ?? ''])),
      ],
      domain: [columns.domain, (value) => this.#store.domains.which(called(value, (id) => this.#domainsAbove(id)))],
      class: [columns.classes, (value) => inSets(this.#store.classes, value, (id) => id)],
      arrived: [columns.arrived, (value) => inSets(this.#store.arrived, value, (id) => id)],
      owner: [columns.owners, (value) => inSets(this.#store.owners, value, this.#person)],
      steward: [columns.stewards, (value) => inSets(this.#store.stewards, value, this.#person)],
      custodian: [columns.custodians, (value) => inSets(this.#store.custodians, value, this.#person)],
      expert: [columns.experts, (value) => inSets(this.#store.experts, value, this.#person)],
      fresh: [
        columns.source,
        (value) =>
          this.#store.sources.which((id) => {
            const read = this.#store.names.read.get(id) ?? Number.NEGATIVE_INFINITY;
            return stretches(value, comparison).some(([least, most]) => read >= least && read < most);
          }),
      ],
      name: [columns.name, (value) => this.#store.nameBook.which((name) => fits(value, name))],
      type: [columns.type, (value) => this.#store.types.which((type) => isType(value, type))],
      term: [
        columns.terms,
        (value) => inSets(this.#store.terms, value, (id) => this.#store.names.terms.get(id)?.name ?? ''),
      ],
      tag: [columns.tags, (value) => inSets(this.#store.tags, value, this.#tag)],
      came: [columns.came, (value) => inSets(this.#store.came, value, this.#tag)],
      notice: [columns.notices, (value) => inSets(this.#store.notices, value, (kind) => kind)],
      standing: [
        columns.standing,
        (value) => STANDINGS.map((standing) => Number(called(value, () => [standing])(standing))),
      ],
      level: [columns.level, (value) => levels(value, comparison)],
      priority: [
        columns.priority,
        (value) => PRIORITIES.map((_, grade) => Number(compareLevel(grade, comparison, priorityGrade(value)))),
      ],
      described: [columns.described, yesOrNo],
      gone: [columns.gone, yesOrNo],
    };
    const [column, passing] = tables[key as LookedUp];
    const lookups = values.map(passing);
    const [first] = lookups;
    if (lookups.length === 1 && first) return [column, first];
    return [column, Uint8Array.from(first ?? [], (_, at) => (lookups.some((lookup) => lookup[at]) ? 1 : 0))];
  }

  readonly #tag = (member: string): string => this.#store.tagCalled(member);
  readonly #person = (id: string): string => this.#store.names.people.get(id) ?? '';

  /** Names of a domain and of those above it. */
  #domainsAbove(id: string): string[] {
    const names: string[] = [];
    const { domains } = this.#store.names;
    for (let at = domains.get(id); at && names.length < 100; at = at.parentId ? domains.get(at.parentId) : undefined)
      names.push(at.name);
    return names;
  }
}

/** The sizes that pass a comparison with a value: `none` stands for one that is not known. */
function sizes(value: string, comparison: Condition['comparison']): (readonly [number, number])[] {
  if (value.toLowerCase() === 'none') return [[-1, 0]];
  if (value.toLowerCase() === 'any') return [[0, Number.POSITIVE_INFINITY]];
  const size = sizeOf(value);
  if (size === undefined) return [];
  const [least, most] = rangeOf(comparison, size, size + 1);
  return [[Math.max(least, 0), most]];
}

/** The times that pass a comparison with a value: `none` stands for never, `any` for ever. */
function stretches(value: string, comparison: Condition['comparison']): (readonly [number, number])[] {
  if (value.toLowerCase() === 'none') return [[Number.NEGATIVE_INFINITY, EVER]];
  if (value.toLowerCase() === 'any') return [[EVER, Number.POSITIVE_INFINITY]];
  const stretch = stretchOf(value);
  if (!stretch) return [];
  const [least, most] = rangeOf(comparison, stretch.from, stretch.to);
  return [[Math.max(least, EVER), most]];
}

/** Whether one of its names is the value: `none` has no name, `any` has one. */
function called(value: string, namesOf: (id: string) => readonly string[]): (id: string) => boolean {
  const wanted = fold(value);
  return (id) => {
    const names = namesOf(id);
    if (wanted === 'none') return names.length === 0;
    if (wanted === 'any') return names.length > 0;
    return names.some((name) => fold(name) === wanted);
  };
}

function inSets(book: SetBook, value: string, nameOf: (id: string) => string): Uint8Array {
  const wanted = fold(value);
  if (wanted === 'none' || wanted === 'any') return book.filled(wanted === 'any');
  return book.which((id) => fold(nameOf(id)) === wanted);
}

const yesOrNo = (value: string): number[] => (isYes(value) ? [0, 1] : [1, 0]);

function isType(value: string, type: string | null): boolean {
  const wanted = fold(value);
  if (wanted === 'none' || wanted === 'any') return (type === null) === (wanted === 'none');
  return type !== null && fits(value, type);
}

function levels(value: string, comparison: Condition['comparison']): number[] {
  const asked = value.toLowerCase();
  if (asked === 'none' || asked === 'any')
    return [0, 1, 2, 3, 4].map((level) => Number(level > 0 === (asked === 'any')));
  const wanted = levelNumber(value);
  return [0, 1, 2, 3, 4].map((level) =>
    Number(level > 0 && wanted !== undefined && compareLevel(level, comparison, wanted)),
  );
}
