import { fold, nameWords } from '../../text/index.ts';
import { ASSET_KINDS, type KindTraits } from '../../things/index.ts';
import { NOTICE_KINDS, type NoticeKind, STANDINGS, type Standing, searchWords } from '../facts.ts';
import { ASIDE } from '../filter.ts';
import { Bits } from './bits.ts';
import { Book, put, SetBook } from './books.ts';
import { Columns } from './columns.ts';
import { IdTable } from './idTable.ts';
import { isBelow, type PathsOf } from './paths.ts';
import { Steps } from './steps.ts';
import { Synonyms } from './synonyms.ts';
import { WordBook } from './wordBook.ts';

/** What is kept of an asset to find it by. */
export interface FinderAsset {
  readonly id: string;
  readonly parentId: string | null;
  readonly sourceId: string;
  readonly domainId: string;
  /** By what it is seen beside its domain: what stands for the policies that let it be seen; null where there are none. */
  readonly openedId: string | null;
  readonly kind: string;
  readonly name: string;
  /** Names from the top of its source to it, each ending what lies above: what is below an asset has keys that begin with its own. */
  readonly key: string;
  readonly position: number;
  /** Words under which it is found; those of its name follow from that and may be left out. */
  readonly words: readonly string[];
  /** Keys of classes, ids of people and of terms. */
  readonly classes: readonly string[];
  /** Keys of those classes that came along lineage. */
  readonly arrived: readonly string[];
  readonly owners: readonly string[];
  readonly stewards: readonly string[];
  readonly custodians: readonly string[];
  readonly experts: readonly string[];
  readonly terms: readonly string[];
  /** Kinds of its notices that hold. */
  readonly notices: readonly string[];
  /** Ids of tags, and of those with a value also `id/value`. */
  readonly tags: readonly string[];
  /** The same of those that came along lineage. */
  readonly came: readonly string[];
  readonly level: number | null;
  readonly priority: number;
  readonly standing: Standing;
  readonly described: boolean;
  readonly gone: boolean;
  readonly uses: number;
  /** How much room it takes; null where its source does not say. */
  readonly bytes: number | null;
  readonly type: string | null;
  /** When it was last asked for, and first seen; milliseconds since 1970. */
  readonly asked: number | null;
  readonly created: number;
  /** When somebody, or a scan, last changed it. */
  readonly changed: number;
  /** When it was certified, if it is trusted by that. */
  readonly certified: number | null;
  /** Ids of what it is made from, in one step. */
  readonly madeFrom: readonly string[];
  /** Findings about it that wait for a person. */
  readonly waiting?: readonly { readonly classKey: string; readonly confidence: number }[] | undefined;
}

/** How many assets of a source belong to a domain, and how many of those lists show unasked. */
export interface Held {
  readonly sourceId: string;
  readonly domainId: string;
  readonly here: number;
  readonly shown: number;
}

export interface TermNames {
  readonly name: string;
  /** With the name. */
  readonly labels: readonly string[];
}

/** What the ids in assets are called; of domains also what lies above. */
export interface FinderNames {
  /** Of each key of a class what it is called. */
  readonly classes: ReadonlyMap<string, string>;
  readonly sources: ReadonlyMap<string, string>;
  /** How their paths are joined. */
  readonly paths: ReadonlyMap<string, PathsOf>;
  /** Those that tell what is asked of them. */
  readonly told: ReadonlySet<string>;
  /** When sources were last read, of those that were; milliseconds since 1970. */
  readonly read: ReadonlyMap<string, number>;
  readonly domains: ReadonlyMap<string, { readonly name: string; readonly parentId: string | null }>;
  readonly people: ReadonlyMap<string, string>;
  /** Of terms also all labels: what carries them is found by those, and each leads to the others. */
  readonly terms: ReadonlyMap<string, TermNames>;
  readonly tags: ReadonlyMap<string, string>;
}

/** So many numbers fit into a column of types. */
const MOST_TYPES = 65_536;
/** The character behind the one that stands between the names of a key. */
const AFTER_BETWEEN = '\u0020';

/** All that is known of all assets, in memory, and how it is kept up to date. */
export class Store {
  readonly ids = new IdTable();
  readonly columns = new Columns();
  readonly words = new WordBook();
  readonly kinds = new Book();
  readonly sources = new Book();
  readonly domains = new Book();
  readonly sights = new Book();
  readonly classes = new SetBook();
  readonly arrived = new SetBook();
  readonly owners = new SetBook();
  readonly stewards = new SetBook();
  readonly custodians = new SetBook();
  readonly experts = new SetBook();
  readonly terms = new SetBook();
  readonly tags = new SetBook();
  readonly came = new SetBook();
  readonly notices = new SetBook();
  /** The first stands for none. */
  readonly types = new Book<string | null>();
  readonly nameBook = new Book();
  names: FinderNames = {
    classes: new Map(),
    sources: new Map(),
    paths: new Map(),
    told: new Set(),
    read: new Map(),
    domains: new Map(),
    people: new Map(),
    terms: new Map(),
    tags: new Map(),
  };
  /** What the labels of terms say of each other. */
  synonyms = new Synonyms(new Map(), this.words);
  /** Tags by the words of their keys, and tags with values by those of their values. */
  readonly #tagsByWord = new Map<number, Set<string>>();
  /** So many members of the sets of tags are among them. */
  #valuesSpelled = 0;
  /** Changes whenever anything does: what was worked out before it is old. */
  generation = 0;

  /** Numbers of the words of each name. */
  readonly #wordsOfNames: (readonly number[])[] = [];
  /** Numbers of the words of texts about an asset, where there are any. */
  readonly #wordsOfTexts = new Map<number, readonly number[]>();
  /** Findings that wait for a person, of the assets that have any. */
  readonly waiting = new Map<number, NonNullable<FinderAsset['waiting']>>();
  /** What is made from what. */
  readonly steps = new Steps();
  readonly #keys: string[] = [];
  #alive = new Uint8Array(0);
  /** How many assets there are. */
  living = 0;
  /** Slots in the order of their sources and keys; those that came since wait. */
  #byRank = new Uint32Array(0);
  #waiting: number[] = [];
  /** Slots by the number of the set of terms that they carry, where they carry any. */
  readonly #carrying = new Map<number, Set<number>>();
  /** How many assets there are by source and domain. */
  readonly #held = new Map<string, { here: number; shown: number }>();

  /** How many slots there are, of assets that are and that were. */
  get size(): number {
    return this.ids.size;
  }

  isAlive(slot: number): boolean {
    return slot >= 0 && this.#alive[slot] === 1;
  }

  alive(): Bits {
    const bits = new Bits(this.size);
    for (let slot = 0; slot < this.size; slot += 1) if (this.#alive[slot]) bits.add(slot);
    return bits;
  }

  rename(names: FinderNames): void {
    this.names = names;
    this.synonyms = new Synonyms(names.terms, this.words);
    this.#tagsByWord.clear();
    for (const [id, name] of names.tags)
      for (const word of searchWords([name], []).names) put(this.#tagsByWord, this.words.numberOf(word), id);
    this.#valuesSpelled = 0;
    this.#spellValues();
    this.generation += 1;
  }

  /** What carries a tag is found by the words of its value, too: of those that came since. */
  #spellValues(): void {
    const { values } = this.tags.members;
    for (; this.#valuesSpelled < values.length; this.#valuesSpelled += 1) {
      const member = values[this.#valuesSpelled] as string;
      const cut = member.indexOf('/');
      if (cut >= 0)
        for (const word of searchWords([member.slice(cut + 1)], []).names)
          put(this.#tagsByWord, this.words.numberOf(word), member);
    }
  }

  /** Takes in an asset, or what is new of one. What holds it, and what it is made from, may come later: it has a slot from now on. */
  put(asset: FinderAsset): void {
    this.generation += 1;
    const slot = this.ids.add(asset.id);
    const holder = asset.parentId === null ? -1 : this.ids.add(asset.parentId);
    this.steps.lead(
      slot,
      asset.madeFrom.map((id) => this.ids.add(id)),
    );
    const { columns } = this;
    columns.reserve(this.size);
    if (this.#alive.length < this.size) {
      const more = new Uint8Array(Math.max(1024, this.size, Math.ceil(this.#alive.length * 1.5)));
      more.set(this.#alive);
      this.#alive = more;
    }
    const known = this.isAlive(slot);
    if (known) this.#count(slot, -1);
    else this.living += 1;
    const nameBefore = known ? (columns.name[slot] as number) : -1;
    const source = this.sources.numberOf(asset.sourceId);
    const moved = this.#keys[slot] !== asset.key || !known || columns.source[slot] !== source;
    columns.kind[slot] = this.kinds.numberOf(asset.kind);
    columns.source[slot] = source;
    columns.domain[slot] = this.domains.numberOf(asset.domainId);
    columns.opened[slot] = this.sights.numberOf(asset.openedId ?? '');
    columns.standing[slot] = STANDINGS.indexOf(asset.standing);
    columns.level[slot] = asset.level ?? 0;
    columns.priority[slot] = asset.priority;
    columns.urgency[slot] = asset.priority * 5 + (asset.level ?? 0);
    columns.described[slot] = asset.described ? 1 : 0;
    columns.gone[slot] = asset.gone ? 1 : 0;
    // What is gone keeps its classes, and is found by none.
    columns.classes[slot] = this.classes.numberOf(asset.gone ? [] : asset.classes);
    columns.arrived[slot] = this.arrived.numberOf(asset.gone ? [] : asset.arrived);
    columns.owners[slot] = this.owners.numberOf(asset.owners);
    columns.stewards[slot] = this.stewards.numberOf(asset.stewards);
    columns.custodians[slot] = this.custodians.numberOf(asset.custodians);
    columns.experts[slot] = this.experts.numberOf(asset.experts);
    this.#carry(slot, asset.terms);
    columns.tags[slot] = this.tags.numberOf(asset.tags);
    columns.came[slot] = this.came.numberOf(asset.came);
    this.#spellValues();
    columns.notices[slot] = this.notices.numberOf(asset.notices);
    columns.type[slot] = this.#typeNumber(asset.type);
    columns.asked[slot] = asset.asked ?? Number.NEGATIVE_INFINITY;
    columns.created[slot] = asset.created;
    columns.changed[slot] = asset.changed;
    columns.certified[slot] = asset.certified ?? Number.NEGATIVE_INFINITY;
    columns.uses[slot] = Math.min(asset.uses, 0xffffffff);
    columns.bytes[slot] = asset.bytes ?? -1;
    columns.position[slot] = asset.position;
    columns.parent[slot] = holder;
    columns.name[slot] = this.nameBook.numberOf(asset.name);
    columns.below[slot] = Number(holder >= 0 && isBelow(asset.key, this.#keys[holder] ?? '', asset.name));
    if (asset.waiting && asset.waiting.length > 0) this.waiting.set(slot, asset.waiting);
    else this.waiting.delete(slot);
    this.#spell(slot, nameBefore, asset.words);
    this.#alive[slot] = 1;
    this.#count(slot, 1);
    if (moved) {
      this.#keys[slot] = asset.key;
      this.#waiting.push(slot);
    }
  }

  /** Keeps which assets carry each set of terms: few do, and they are looked up by words. */
  #carry(slot: number, terms: readonly string[]): void {
    const { columns } = this;
    const before = columns.terms[slot] as number;
    const now = this.terms.numberOf(terms);
    if (before === now) return;
    columns.terms[slot] = now;
    this.#carrying.get(before)?.delete(slot);
    if (now === 0) return;
    put(this.#carrying, now, slot);
  }

  /** Assets, also those that are no more, that carry one of these terms. */
  carrying(terms: ReadonlySet<string>): Bits {
    const bits = new Bits(this.size);
    const passing = this.terms.which((id) => terms.has(id));
    for (const [set, slots] of this.#carrying) if (passing[set]) for (const slot of slots) bits.add(slot);
    return bits;
  }

  /** Ids of the tags with a word in their key, and those with a value that has it. */
  tagsWith(word: number): ReadonlySet<string> | undefined {
    return this.#tagsByWord.get(word);
  }

  /** Types that somebody gives a length or a precision are many; those beyond what a column holds share a number, and are found as none of them. */
  #typeNumber(type: string | null): number {
    if (this.types.values.length === 0) this.types.numberOf(null);
    return this.types.values.length < MOST_TYPES ? this.types.numberOf(type) : Math.max(0, this.types.find(type));
  }

  /** Forgets an asset that is no more. */
  drop(id: string): void {
    const slot = this.ids.slotOf(id);
    if (!this.isAlive(slot)) return;
    this.generation += 1;
    this.living -= 1;
    this.#count(slot, -1);
    for (const word of this.nameWordsOf(slot)) this.words.go(word, slot * 2 + 1);
    for (const word of this.#wordsOfTexts.get(slot) ?? []) this.words.go(word, slot * 2);
    this.#wordsOfTexts.delete(slot);
    this.waiting.delete(slot);
    this.steps.lead(slot, []);
    this.#alive[slot] = 0;
    this.#waiting.push(slot);
  }

  /** Numbers of the words of an asset's name. */
  nameWordsOf(slot: number): readonly number[] {
    return this.#wordsOfNames[this.columns.name[slot] as number] ?? [];
  }

  /** What a tag is called in filters: its key, or its key and value. @param member its id, or `id/value` */
  tagCalled(member: string): string {
    const at = member.indexOf('/');
    if (at < 0) return this.names.tags.get(member) ?? '';
    const key = this.names.tags.get(member.slice(0, at));
    return key === undefined ? '' : key + member.slice(at);
  }

  /** The gravest notice of an asset. */
  gravest(slot: number): NoticeKind | null {
    const kinds = this.notices.listOf(this.columns.notices[slot] as number);
    return NOTICE_KINDS.findLast((kind) => kinds.includes(this.notices.members.find(kind))) ?? null;
  }

  nameOf(slot: number): string {
    return this.nameBook.values[this.columns.name[slot] as number] ?? '';
  }

  keyOf(slot: number): string {
    return this.#keys[slot] ?? '';
  }

  /** Slots in the order of sources and keys. */
  inOrder(): Uint32Array {
    if (this.#waiting.length > 0) this.#sortIn();
    return this.#byRank;
  }

  /** Places in that order of an asset and all that lies below it: the first, and the one behind the last. */
  below(slot: number): readonly [number, number] {
    const order = this.inOrder();
    const from = this.columns.rank[slot] as number;
    const end = (this.#keys[slot] ?? '') + AFTER_BETWEEN;
    const source = this.columns.source[slot] as number;
    let [low, high] = [from + 1, order.length];
    while (low < high) {
      const middle = (low + high) >>> 1;
      const other = order[middle] as number;
      const before = this.columns.source[other] === source && (this.#keys[other] as string) < end;
      if (before) low = middle + 1;
      else high = middle;
    }
    return [from, low];
  }

  /** Places of all assets of a source. */
  ofSource(source: number): readonly [number, number] {
    const order = this.inOrder();
    const first = (number: number) => {
      let [low, high] = [0, order.length];
      while (low < high) {
        const middle = (low + high) >>> 1;
        if ((this.columns.source[order[middle] as number] as number) < number) low = middle + 1;
        else high = middle;
      }
      return low;
    };
    return [first(source), first(source + 1)];
  }

  /** Whether assets are seen by these domains and sights. */
  seenBy(ids: readonly string[]): (slot: number) => boolean {
    const [domains, sights] = [this.domains, this.sights].map((book) => book.which((id) => ids.includes(id)));
    const { columns } = this;
    return (slot) => Boolean(domains?.[columns.domain[slot] as number] || sights?.[columns.opened[slot] as number]);
  }

  /** How many assets there are, and how many of them lists show, by source and domain. */
  bySource(): Held[] {
    return [...this.#held].map(([pair, { here, shown }]) => {
      const [source = 0, domain = 0] = pair.split(' ').map(Number);
      return { sourceId: this.sources.values[source] ?? '', domainId: this.domains.values[domain] ?? '', here, shown };
    });
  }

  /** Kinds that are shown only where they are asked for, by number. */
  aside(): Uint8Array {
    return this.kinds.which((kind) => ASIDE.includes(kind));
  }

  /** Keeps the counts that follow from an asset: how many its holder holds, how many lists show. */
  #count(slot: number, by: 1 | -1): void {
    const { columns } = this;
    if (columns.gone[slot]) return;
    const kind = this.kinds.values[columns.kind[slot] as number] ?? '';
    const parent = columns.parent[slot] as number;
    if (parent >= 0) {
      columns.kids[parent] = (columns.kids[parent] as number) + by;
      if ((ASSET_KINDS as Record<string, KindTraits>)[kind]?.holdsOthers)
        columns.holders[parent] = (columns.holders[parent] as number) + by;
    }
    const pair = `${columns.source[slot]} ${columns.domain[slot]}`;
    const held = this.#held.get(pair) ?? { here: 0, shown: 0 };
    held.here += by;
    if (!ASIDE.includes(kind)) held.shown += by;
    this.#held.set(pair, held);
  }

  /** Writes down under which words an asset stands; only what differs from before is touched. */
  #spell(slot: number, nameBefore: number, texts: readonly string[]): void {
    const name = this.columns.name[slot] as number;
    const named = this.#wordsOfName(name);
    if (name !== nameBefore) {
      for (const word of this.#wordsOfNames[nameBefore] ?? []) this.words.go(word, slot * 2 + 1);
      for (const word of named) this.words.come(word, slot * 2 + 1);
    }
    const before = this.#wordsOfTexts.get(slot);
    if (texts.length === 0 && !before) return;
    const now = new Set(texts.map((word) => this.words.numberOf(word)));
    for (const word of named) now.delete(word);
    for (const word of before ?? []) if (!now.has(word)) this.words.go(word, slot * 2);
    const had = new Set(before);
    for (const word of now) if (!had.has(word)) this.words.come(word, slot * 2);
    if (now.size > 0) this.#wordsOfTexts.set(slot, [...now]);
    else this.#wordsOfTexts.delete(slot);
  }

  #wordsOfName(name: number): readonly number[] {
    const known = this.#wordsOfNames[name];
    if (known) return known;
    const text = this.nameBook.values[name] ?? '';
    const numbers = searchWords([text], []).names.map((word) => this.words.numberOf(word));
    this.#wordsOfNames[name] = numbers;
    const [only] = nameWords(text).length === 1 ? numbers : [];
    if (only !== undefined) this.words.isWholeName(only);
    return numbers;
  }

  #sortIn(): void {
    const { source } = this.columns;
    const order = (a: number, b: number): number =>
      (source[a] as number) - (source[b] as number) ||
      compared(this.#keys[a] as string, this.#keys[b] as string) ||
      a - b;
    const moved = new Set(this.#waiting);
    const coming = [...moved].filter((slot) => this.isAlive(slot));
    this.#waiting = [];
    if (!coming.every((slot, at) => at === 0 || order(coming[at - 1] as number, slot) < 0)) coming.sort(order);
    const stayed = this.#byRank.length > 0 ? this.#byRank.filter((slot) => !moved.has(slot)) : this.#byRank;
    const all = new Uint32Array(stayed.length + coming.length);
    // Each that comes is looked for among those that stayed: most often few come into many.
    let [from, to] = [0, 0];
    for (const slot of coming) {
      let [low, high] = [from, stayed.length];
      while (low < high) {
        const middle = (low + high) >>> 1;
        if (order(stayed[middle] as number, slot) < 0) low = middle + 1;
        else high = middle;
      }
      all.set(stayed.subarray(from, low), to);
      to += low - from;
      all[to] = slot;
      to += 1;
      from = low;
    }
    all.set(stayed.subarray(from), to);
    this.#byRank = all;
    for (let rank = 0; rank < all.length; rank += 1) this.columns.rank[all[rank] as number] = rank;
  }

  /** Whether all words of a name are these, whatever stands between. */
  isCalled(slot: number, words: readonly string[]): boolean {
    return nameWords(this.nameOf(slot)).join(' ') === words.map(fold).join(' ');
  }
}

const compared = (a: string, b: string): number => (a < b ? -1 : a > b ? 1 : 0);
