/** Numbers for values that come again and again: kinds, ids of domains and sources, names. */
export class Book<T = string> {
  readonly #numbers = new Map<T, number>();
  readonly values: T[] = [];

  /** @returns the number of the value, which is given one when it has none */
  numberOf(value: T): number {
    const known = this.#numbers.get(value);
    if (known !== undefined) return known;
    this.#numbers.set(value, this.values.length);
    this.values.push(value);
    return this.values.length - 1;
  }

  /** @returns the number of the value, or -1 */
  find(value: T): number {
    return this.#numbers.get(value) ?? -1;
  }

  /** For each number 1 where its value passes, 0 elsewhere. */
  which(test: (value: T, number: number) => boolean): Uint8Array {
    return Uint8Array.from(this.values, (value, number) => (test(value, number) ? 1 : 0));
  }
}

/** Numbers for sets of values: of a million assets few carry other classes, owners or terms than some other one. The empty set is 0. */
export class SetBook {
  readonly members = new Book();
  readonly #sets = new Book();
  readonly #lists: (readonly number[])[] = [];

  constructor() {
    this.numberOf([]);
  }

  numberOf(values: readonly string[]): number {
    if (values.length === 0 && this.#lists.length > 0) return 0;
    const list = [...new Set(values)].map((value) => this.members.numberOf(value)).sort((a, b) => a - b);
    const number = this.#sets.numberOf(list.join(' '));
    this.#lists[number] ??= list;
    return number;
  }

  /** Numbers of the members of a set. */
  listOf(number: number): readonly number[] {
    return this.#lists[number] ?? [];
  }

  get size(): number {
    return this.#lists.length;
  }

  /** For each set 1 where one of its members passes. */
  which(test: (value: string) => boolean): Uint8Array {
    const passing = this.members.which(test);
    return Uint8Array.from(this.#lists, (list) => (list.some((member) => passing[member]) ? 1 : 0));
  }

  /** For each set 1 where it has members, or where it has none. */
  filled(wanted: boolean): Uint8Array {
    return Uint8Array.from(this.#lists, (list) => (list.length > 0 === wanted ? 1 : 0));
  }
}

/** Puts a value into the set of a key, which is made when there is none. */
export function put<K, V>(sets: Map<K, Set<V>>, key: K, value: V): void {
  const known = sets.get(key);
  if (known) known.add(value);
  else sets.set(key, new Set([value]));
}
