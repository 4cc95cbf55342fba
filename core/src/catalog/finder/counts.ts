import { LEVELS } from '../../things/index.ts';
import { PRIORITIES, STANDINGS } from '../facts.ts';
import type { FilterKey } from '../filter.ts';
import type { Bits } from './bits.ts';
import type { SetBook } from './books.ts';
import type { Store } from './store.ts';

/** How many of the assets that are found have each value of a key: the value as a filter names it, and what it is called. */
export interface Counted {
  readonly key: FilterKey;
  readonly values: readonly { readonly value: string; readonly label: string; readonly count: number }[];
}

/** Keys that are counted beside what a filter finds. */
export const COUNTED = [
  'kind',
  'domain',
  'source',
  'class',
  'level',
  'priority',
  'standing',
  'owner',
  'steward',
  'custodian',
  'expert',
  'term',
  'tag',
  'notice',
  'described',
] as const;

/** How many of some assets have each value of a key, the most frequent first. */
export function valuesOf(store: Store, key: (typeof COUNTED)[number], bits: Bits): Counted['values'] {
  const { columns, names, ...books } = store;
  const same = (value: string) => value;
  const called = (of: ReadonlyMap<string, string>) => (id: string) => of.get(id) ?? '';
  const plain = (column: ArrayLike<number>, values: readonly string[], name: (id: string) => string = same) =>
    [...tally(bits, column, values.length)].map((count, number) => {
      const value = name(values[number] as string);
      return { value, label: value, count };
    });
  const sets = (column: ArrayLike<number>, book: SetBook, name: (id: string) => string = same) => {
    const members = new Float64Array(book.members.values.length);
    tally(bits, column, book.size).forEach((count, set) => {
      if (count) for (const member of book.listOf(set)) members[member] = (members[member] as number) + count;
    });
    return [...members].map((count, number) => {
      const value = name(book.members.values[number] as string);
      return { value, label: value, count };
    });
  };
  const values = {
    kind: () => plain(columns.kind, books.kinds.values),
    domain: () => plain(columns.domain, books.domains.values, (id) => names.domains.get(id)?.name ?? ''),
    source: () => plain(columns.source, books.sources.values, called(names.sources)),
    class: () =>
      sets(columns.classes, books.classes).map(({ value, count }) => ({
        value,
        label: names.classes.get(value) ?? value,
        count,
      })),
    level: () => plain(columns.level, ['none', ...LEVELS]),
    priority: () => plain(columns.priority, PRIORITIES),
    standing: () => plain(columns.standing, STANDINGS),
    owner: () => sets(columns.owners, books.owners, called(names.people)),
    steward: () => sets(columns.stewards, books.stewards, called(names.people)),
    custodian: () => sets(columns.custodians, books.custodians, called(names.people)),
    expert: () => sets(columns.experts, books.experts, called(names.people)),
    term: () => sets(columns.terms, books.terms, (id) => names.terms.get(id)?.name ?? ''),
    tag: () => sets(columns.tags, books.tags, (member) => store.tagCalled(member)),
    notice: () => sets(columns.notices, books.notices),
    described: () => plain(columns.described, ['no', 'yes']),
  }[key]();
  return values.filter(({ value, count }) => count > 0 && value !== '').sort((a, b) => b.count - a.count);
}

/** How often each number of a column stands among what is found. Written out, since it walks a million of them for each key. */
export function tally({ words }: Bits, column: ArrayLike<number>, values: number): Float64Array {
  const counts = new Float64Array(values);
  for (let at = 0; at < words.length; at += 1) {
    let word = words[at] as number;
    while (word !== 0) {
      const low = word & -word;
      const number = column[(at << 5) + 31 - Math.clz32(low)] as number;
      counts[number] = (counts[number] as number) + 1;
      word ^= low;
    }
  }
  return counts;
}
