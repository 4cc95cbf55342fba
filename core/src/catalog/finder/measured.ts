import { kindsThat, LEVELS } from '../../things/index.ts';
import { PRIORITIES } from '../facts.ts';
import type { Bits } from './bits.ts';
import { Book } from './books.ts';
import type { Store } from './store.ts';

/** By what assets are measured. */
export type MeasuredBy = 'kind' | 'source' | 'domain' | 'priority' | 'level' | 'owner';

/** Of one kind, source, domain, priority, level or owner within one domain: how many assets, and how many of them pass each filter. */
export interface Measured {
  readonly value: string;
  /** The domain in which they lie. */
  readonly domain: string;
  readonly assets: number;
  readonly met: readonly number[];
  /** Room that they take, in bytes, and that of those that pass each filter: of what holds rows, so that nothing counts twice. */
  readonly bytes: number;
  readonly metBytes: readonly number[];
}

/** The values by which assets are told apart, and the numbers of those that an asset has. */
function valuesBy(
  store: Store,
  by: MeasuredBy,
): { values: readonly string[]; of: (slot: number) => readonly number[] } {
  const { columns } = store;
  const one = (values: readonly string[], column: ArrayLike<number>) => {
    const each = values.map((_, number) => [number]);
    return { values, of: (slot: number) => each[column[slot] as number] ?? [] };
  };
  switch (by) {
    case 'kind':
      return one(store.kinds.values, columns.kind);
    case 'source':
      return one(store.sources.values, columns.source);
    case 'domain':
      return one(store.domains.values, columns.domain);
    case 'priority':
      return one(PRIORITIES, columns.priority);
    case 'level':
      return one(['none', ...LEVELS], columns.level);
    case 'owner': {
      // The empty value stands for those that have none.
      const values = [...store.owners.members.values, ''];
      const none = [values.length - 1];
      const lists = Array.from({ length: store.owners.size }, (_, set) => {
        const list = store.owners.listOf(set);
        return list.length > 0 ? list : none;
      });
      return { values, of: (slot) => lists[columns.owners[slot] as number] ?? none };
    }
  }
}

/** Counts assets by a value and their domain. @param bits those that are counted @param met of these those that pass each filter */
export function measured(store: Store, by: MeasuredBy, bits: Bits, met: readonly Bits[]): Measured[] {
  const { columns, domains } = store;
  const { values, of } = valuesBy(store, by);
  const width = domains.values.length;
  const holds = store.kinds.which((kind) => (kindsThat('holdsRows') as readonly string[]).includes(kind));
  // Of all pairs of a value and a domain few have assets: those get numbers of their own, once for all filters.
  const pairs = new Book<number>();
  const counted: { readonly slot: number; readonly pair: number; readonly room: number }[] = [];
  bits.each((slot) => {
    const room = holds[columns.kind[slot] as number] ? Math.max(0, columns.bytes[slot] as number) : 0;
    for (const value of of(slot))
      counted.push({ slot, pair: pairs.numberOf(value * width + (columns.domain[slot] as number)), room });
  });
  const tally = (these?: Bits) => {
    const counts = new Float64Array(pairs.values.length);
    const bytes = new Float64Array(pairs.values.length);
    for (const { slot, pair, room } of counted) {
      if (these && !these.has(slot)) continue;
      counts[pair] = (counts[pair] as number) + 1;
      bytes[pair] = (bytes[pair] as number) + room;
    }
    return { counts, bytes };
  };
  const all = tally();
  const parts = met.map(tally);
  return pairs.values.map((pair, at) => ({
    value: values[Math.floor(pair / width)] as string,
    domain: domains.values[pair % width] as string,
    assets: all.counts[at] as number,
    met: parts.map(({ counts }) => counts[at] as number),
    bytes: all.bytes[at] as number,
    metBytes: parts.map(({ bytes }) => bytes[at] as number),
  }));
}
