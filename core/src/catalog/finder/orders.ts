import { fold } from '../../text/index.ts';
import { type Sort, STANDINGS } from '../facts.ts';
import type { Store } from './store.ts';

/** Standings from the most to be relied on to the least. */
const TRUST: readonly string[] = ['trusted', 'reviewed', 'unreviewed', 'retiring'];

/** The order of names, sources and kinds; worked out when somebody sorts by it, and kept until something changes. */
export class Orders {
  readonly #store: Store;
  #known: { generation: number; names?: Uint32Array; sources?: Uint32Array; kinds?: Uint32Array } = { generation: -1 };

  constructor(store: Store) {
    this.#store = store;
  }

  /** By what column assets are sorted, the place of each of its numbers in the order, and how many places there are. */
  by(sort: Sort): [ArrayLike<number>, ArrayLike<number>, number] {
    const { columns, names, nameBook, kinds, sources, generation } = this.#store;
    if (this.#known.generation !== generation) this.#known = { generation };
    const orders = this.#known;
    switch (sort) {
      case 'name':
        orders.names ??= placesOf(nameBook.values.map((name) => fold(name)));
        return [columns.name, orders.names, orders.names.length];
      case 'kind':
        orders.kinds ??= placesOf(kinds.values);
        return [columns.kind, orders.kinds, orders.kinds.length];
      case 'level':
        return [columns.level, [0, 1, 2, 3, 4], 5];
      case 'standing':
        return [columns.standing, STANDINGS.map((standing) => TRUST.indexOf(standing)), STANDINGS.length];
      default:
        orders.sources ??= placesOf(sources.values.map((id) => names.sources.get(id) ?? ''));
        return [columns.source, orders.sources, orders.sources.length];
    }
  }
}

/** For each value its place in the order of all; equal ones share one. */
function placesOf(values: readonly string[]): Uint32Array {
  const order = Uint32Array.from(values, (_, at) => at).sort((a, b) => {
    const [one, other] = [values[a] as string, values[b] as string];
    return one < other ? -1 : one > other ? 1 : 0;
  });
  const places = new Uint32Array(values.length);
  let place = 0;
  order.forEach((number, at) => {
    if (at > 0 && values[number] !== values[order[at - 1] as number]) place += 1;
    places[number] = place;
  });
  return places;
}
