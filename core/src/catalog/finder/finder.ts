import type { NoticeKind, Sort } from '../facts.ts';
import { type Filter, showsAside, showsGone, writeFilter } from '../filter.ts';
import { Bits } from './bits.ts';
import { Conditions } from './conditions.ts';
import { COUNTED, type Counted, valuesOf } from './counts.ts';
import { type Measured, type MeasuredBy, measured } from './measured.ts';
import { Orders } from './orders.ts';
import { pageOf, type Sorted } from './pages.ts';
import { Queue, type QueuePage, type Waiting } from './queue.ts';
import { HIGHEST, LOWEST, type Reasons, scorer } from './ranking.ts';
import { type Read, Readings, wordsOf } from './readings.ts';
import { type FinderAsset, type FinderNames, type Held, Store } from './store.ts';

/** What is asked for, and by whom. */
export interface Ask {
  readonly filter: Filter;
  /** Ids of the domains in which the person may read, and of sights by which they see more. */
  readonly domains: readonly string[];
  /** Ids of the domains that the person works in: what lies there stands a little higher. */
  readonly own?: readonly string[];
  /** Only what lies below this asset. */
  readonly under?: string | undefined;
}

export interface PageAsk {
  readonly sort: Sort;
  readonly descending: boolean;
  readonly offset: number;
  readonly limit: number;
}

/** How the words of a filter were read, where that is not as they were typed. */
export interface ReadAs {
  readonly filter: string;
  /** Nothing was found by the words as they were typed: slips of the finger were mended. */
  readonly slip: boolean;
}

export interface PageFound {
  readonly ids: readonly string[];
  /** How many assets are directly below each of them. */
  readonly kids: readonly number[];
  readonly total: number;
  readonly readAs: ReadAs | null;
}

/** Of what branches are asked for: what lies directly in something, or these themselves. */
export type BranchesOf =
  | { readonly asset: string }
  | { readonly source: string }
  | { readonly these: readonly string[] };

/** One asset in the tree. */
export interface Branch {
  readonly id: string;
  readonly kind: string;
  readonly name: string;
  readonly kids: number;
  readonly hasHolders: boolean;
  /** The gravest of its notices. */
  readonly notice: NoticeKind | null;
}

/** A filter as it was read, what it finds, and once somebody asked how many of each value. */
interface Search {
  readonly bits: Bits;
  readonly read: Read;
  readonly readAs: ReadAs | null;
  counted?: Counted[];
}
/** So many searches are kept until something changes: at a million assets each takes 125 kB. */
const LATELY = 64;

/** At most so many answers of the tree come at once. */
const BRANCHES = 2000;
/** How finely scores are told apart. */
const SCORES = 65_535;
const AS_SCORED = Uint32Array.from({ length: SCORES + 1 }, (_, score) => score);

/**
 * Finds assets among a million in milliseconds: all that conditions and words are about is kept in memory, in numbers. It knows nothing of where assets come
 * from: whoever keeps it puts in what is new and drops what is no more. A million assets take some 350 MB, and what was asked lately 60 MB more.
 */
export class Finder {
  readonly #store = new Store();
  readonly #conditions = new Conditions(this.#store);
  /** What was found lately: a list, the counts beside it and its next page ask for the same. */
  readonly #lately = new Map<string, Search>();
  #latelyOf = -1;
  readonly #queue = new Queue(this.#store);
  readonly #orders = new Orders(this.#store);

  /** How many assets there are. */
  get size(): number {
    return this.#store.living;
  }

  /** How many slots they take, with those of assets that are no more. */
  get slots(): number {
    return this.#store.size;
  }

  put(asset: FinderAsset): void {
    this.#store.put(asset);
  }

  drop(id: string): void {
    this.#store.drop(id);
  }

  rename(names: FinderNames): void {
    this.#store.rename(names);
  }

  /** A page of what is found, and how many there are. */
  find(ask: Ask, page: PageAsk): PageFound {
    const { bits, read, readAs } = this.#search(ask);
    const total = bits.count();
    const slots = pageOf(this.#sorted(bits, total, ask, page, read), page.offset, page.offset + page.limit);
    const { ids, columns } = this.#store;
    return {
      ids: slots.map((slot) => ids.idOf(slot)),
      kids: slots.map((slot) => columns.kids[slot] as number),
      total,
      readAs,
    };
  }

  /** Ids of what is found, in the order of names within sources, at most so many. */
  ids(ask: Ask, most: number): string[] {
    const { bits } = this.#search(ask);
    const { ids } = this.#store;
    const found: string[] = [];
    for (const slot of this.#store.inOrder()) {
      if (found.length === most) break;
      if (bits.has(slot)) found.push(ids.idOf(slot));
    }
    return found;
  }

  /** Counts over what is found. A key that the filter itself chooses by is counted as if it did not, so that other choices can be seen. */
  count(ask: Ask): Counted[] {
    const search = this.#search(ask);
    search.counted ??= this.#countAnew(ask, search);
    return search.counted;
  }

  #countAnew(ask: Ask, { bits, read }: Search): Counted[] {
    const parts = read.filter.type === 'all' ? read.filter.of : [read.filter];
    const chosen = new Set(parts.flatMap((part) => (part.type === 'is' && part.comparison === '=' ? [part.key] : [])));
    return COUNTED.map((key) => {
      if (!chosen.has(key)) return { key, values: valuesOf(this.#store, key, bits) };
      const others = parts.filter((part) => !(part.type === 'is' && part.key === key));
      // Where kinds are chosen, also those may be that lists do not show unasked.
      const of: Filter[] = key === 'kind' ? [...others, { type: 'is', key, comparison: '=', values: ['any'] }] : others;
      return { key, values: valuesOf(this.#store, key, this.#visible({ ...ask, filter: { type: 'all', of } })) };
    });
  }

  /** Why an asset stands where it does among what is found; nothing where it is not found. */
  why(ask: Ask, id: string): Reasons | undefined {
    const { bits, read } = this.#search(ask);
    const slot = this.#store.ids.slotOf(id);
    if (slot < 0 || !bits.has(slot) || read.asked.length === 0) return undefined;
    return scorer(this.#store, this.#conditions, read, new Set(ask.own)).reasons(slot);
  }

  /** What stands directly below an asset, or at the top of a source, but columns; or certain assets, in their order. */
  branches(parent: BranchesOf, domains: readonly string[]): Branch[] {
    const found = this.#slotsOf(parent).filter(this.#store.seenBy(domains));
    if ('these' in parent) return found.map((slot) => this.#branch(slot));
    const { columns, kinds } = this.#store;
    const file = kinds.find('file');
    const isFile = (slot: number) => Number(columns.kind[slot] === file);
    return found
      .sort(
        (a, b) =>
          isFile(a) - isFile(b) ||
          (columns.position[a] as number) - (columns.position[b] as number) ||
          (columns.rank[a] as number) - (columns.rank[b] as number),
      )
      .slice(0, BRANCHES)
      .map((slot) => this.#branch(slot));
  }

  /** Places of what is asked for as branches: all that is there, but columns of a holder. */
  #slotsOf(parent: BranchesOf): number[] {
    const { columns, ids, kinds, sources } = this.#store;
    const isHere = (slot: number) => !columns.gone[slot];
    if ('these' in parent)
      return parent.these.map((id) => ids.slotOf(id)).filter((slot) => this.#store.isAlive(slot) && isHere(slot));
    const holder = 'asset' in parent ? ids.slotOf(parent.asset) : -1;
    if ('asset' in parent && !this.#store.isAlive(holder)) return [];
    const [from, to] =
      'asset' in parent ? this.#store.below(holder) : this.#store.ofSource(sources.find(parent.source));
    const order = this.#store.inOrder();
    const column = kinds.find('column');
    const found: number[] = [];
    for (let at = from; at < to; at += 1) {
      const slot = order[at] as number;
      if (columns.parent[slot] === holder && slot !== holder && isHere(slot) && columns.kind[slot] !== column)
        found.push(slot);
    }
    return found;
  }

  #branch(slot: number): Branch {
    const { columns, ids, kinds } = this.#store;
    return {
      id: ids.idOf(slot),
      kind: kinds.values[columns.kind[slot] as number] ?? '',
      name: this.#store.nameOf(slot),
      kids: columns.kids[slot] as number,
      hasHolders: (columns.holders[slot] as number) > 0,
      notice: this.#store.gravest(slot),
    };
  }

  /** Findings that wait for a person in these domains, the surest first. */
  waiting(domains: readonly string[], page: QueuePage): { findings: Waiting[]; total: number } {
    return this.#queue.page(domains, page);
  }

  /** How many assets there are, and how many of them lists show, by source and domain. */
  bySource(): Held[] {
    return this.#store.bySource();
  }

  /**
   * How many of the assets that are found pass each of some filters, by the ids of their sources or domains, by their kinds, levels (`none` where there is none)
   * or owners (each counts for all of its own; what has none counts for the empty one); of each the domains apart.
   */
  measure(ask: Ask, by: MeasuredBy, filters: readonly Filter[]): Measured[] {
    const { bits } = this.#search(ask);
    const seen = new Set(ask.domains);
    return measured(
      this.#store,
      by,
      bits,
      filters.map((filter) => this.#conditions.passing(filter, seen).and(bits)),
    );
  }

  #search(ask: Ask): Search {
    if (this.#latelyOf !== this.#store.generation) {
      this.#lately.clear();
      this.#latelyOf = this.#store.generation;
    }
    const key = JSON.stringify([ask.filter, ask.under, [...ask.domains].sort()]);
    const known = this.#lately.get(key);
    if (known) return known;
    const found = this.#searchAnew(ask);
    if (this.#lately.size >= LATELY) this.#lately.delete(this.#lately.keys().next().value as string);
    this.#lately.set(key, found);
    return found;
  }

  /** What is found, with the filter as it was read: other forms of words always, slips mended only where nothing was found. */
  #searchAnew(ask: Ask): Search {
    if (wordsOf(ask.filter).length === 0)
      return { bits: this.#visible(ask), read: { filter: ask.filter, asked: [], places: [] }, readAs: null };
    const visible = this.#visible({ ...ask, filter: { type: 'all', of: [] } }, true);
    const readings = new Readings(this.#store, this.#conditions, visible);
    const read = readings.withForms(ask.filter);
    const bits = this.#visible({ ...ask, filter: read.filter });
    const told = (filter: Filter, slip: boolean): ReadAs | null =>
      writeFilter(filter) === writeFilter(ask.filter) ? null : { filter: writeFilter(filter), slip };
    if (bits.some()) return { bits, read, readAs: told(read.filter, false) };
    for (const mended of readings.mended(ask.filter)) {
      const other = this.#visible({ ...ask, filter: mended.filter });
      if (other.some()) return { bits: other, read: mended, readAs: told(mended.filter, true) };
      // A name that the finger slipped over may be one that only the glossary knows: then what it calls the same is meant.
      if (!readings.namesTerms(mended.filter)) continue;
      const meant = readings.withForms(mended.filter);
      const same = this.#visible({ ...ask, filter: meant.filter });
      if (same.some()) return { bits: same, read: meant, readAs: told(meant.filter, true) };
    }
    return { bits, read, readAs: null };
  }

  /** What passes a filter and the person may see. Columns and what is gone show only where the filter asks for them. */
  #visible({ filter, domains, under }: Ask, everything = false): Bits {
    const seen = new Set(domains);
    const bits = this.#conditions.passing(filter, seen).and(this.#conditions.within(seen));
    if (!everything && !showsGone(filter)) bits.and(this.#conditions.here());
    if (!everything && !showsAside(filter)) bits.and(this.#conditions.shown());
    if (under !== undefined) bits.and(this.#below(under));
    return bits;
  }

  #below(id: string): Bits {
    const bits = new Bits(this.#store.size);
    const slot = this.#store.ids.slotOf(id);
    if (!this.#store.isAlive(slot)) return bits;
    const order = this.#store.inOrder();
    const [from, to] = this.#store.below(slot);
    for (let at = from + 1; at < to; at += 1) bits.add(order[at] as number);
    return bits;
  }

  /** What is found, as it is sorted. */
  #sorted(bits: Bits, total: number, ask: Ask, { sort, descending }: PageAsk, read: Read): Sorted {
    const order = this.#store.inOrder();
    const { rank } = this.#store.columns;
    const by = (column: ArrayLike<number>, places: Uint32Array): Sorted => {
      const last = descending ? places.reduce((most, place) => Math.max(most, place), 0) : 0;
      return { bits, total, order, rank, column, places: descending ? places.map((place) => last - place) : places };
    };
    if (sort === 'relevance' && read.asked.length > 0) {
      const { score } = scorer(this.#store, this.#conditions, read, new Set(ask.own));
      const away = new Uint16Array(this.#store.size);
      bits.each((slot) => {
        away[slot] = Math.round((1 - Math.max(0, score(slot) - LOWEST) / (HIGHEST - LOWEST)) * SCORES);
      });
      return by(away, AS_SCORED);
    }
    return by(...this.#orders.by(sort));
  }
}
