import { fold } from '../../text/index.ts';
import { type Sort, STANDINGS } from '../facts.ts';
import type { Store } from './store.ts';

/** Standings from the most to be relied on to the least. */
const TRUST: readonly string[] = ['trusted', 'reviewed', 'unreviewed', 'retiring'];
const TRUST_IN_ORDER = Uint32Array.from(STANDINGS, (standing) => TRUST.indexOf(standing));
const URGENCIES_IN_ORDER = Uint32Array.from({ length: 15 }, (_, at) => at);
const GRADES_IN_ORDER = Uint32Array.from([0, 1, 2]);
const LEVELS_IN_ORDER = Uint32Array.from([0, 1, 2, 3, 4]);

/** The order of names, sources and kinds; worked out when somebody sorts by it, and kept until something changes. */
export class Orders {
  readonly #store: Store;
  #known: { generation: number; sources?: Uint32Array; kinds?: Uint32Array; use?: Ranked; size?: Ranked } = {
    generation: -1,
  };
  /** Names come, and none goes: their order holds until there are more. */
  #names: Uint32Array = new Uint32Array(0);

  constructor(store: Store) {
    this.#store = store;
  }

  /** By what column assets are sorted and the place of each of its numbers in the order. */
  by(sort: Sort): [ArrayLike<number>, Uint32Array] {
    const { columns, names, nameBook, kinds, sources, generation } = this.#store;
    if (this.#known.generation !== generation) this.#known = { generation };
    const orders = this.#known;
    switch (sort) {
      case 'name':
        if (this.#names.length !== nameBook.values.length)
          this.#names = placesOf(nameBook.values.map((name) => fold(name)));
        return [columns.name, this.#names];
      case 'kind':
        orders.kinds ??= placesOf(kinds.values);
        return [columns.kind, orders.kinds];
      case 'level':
        return [columns.level, LEVELS_IN_ORDER];
      case 'priority':
        return [columns.priority, GRADES_IN_ORDER];
      case 'urgency':
        return [columns.urgency, URGENCIES_IN_ORDER];
      case 'use':
        orders.use ??= ranked(columns.uses, this.#store.size);
        return orders.use;
      case 'size':
        orders.size ??= ranked(columns.bytes, this.#store.size);
        return orders.size;
      case 'standing':
        return [columns.standing, TRUST_IN_ORDER];
      default:
        orders.sources ??= placesOf(sources.values.map((id) => names.sources.get(id) ?? ''));
        return [columns.source, orders.sources];
    }
  }
}

/** The place of each slot's value among all values, and that of each place: itself. */
type Ranked = [ArrayLike<number>, Uint32Array];

/** Values of a column that may be any: in the order of those that there are. */
function ranked(column: ArrayLike<number>, size: number): Ranked {
  const values = new Set<number>();
  for (let slot = 0; slot < size; slot += 1) values.add(column[slot] as number);
  const order = Float64Array.from(values).sort();
  const place = new Map(Array.from(order, (value, at) => [value, at]));
  const places = new Uint32Array(size);
  for (let slot = 0; slot < size; slot += 1) places[slot] = place.get(column[slot] as number) as number;
  return [places, Uint32Array.from(order, (_, at) => at)];
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
