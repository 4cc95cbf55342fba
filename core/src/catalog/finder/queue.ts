import { Orders } from './orders.ts';
import type { Store } from './store.ts';

/** A finding that waits for a person. */
export interface Waiting {
  readonly assetId: string;
  readonly classKey: string;
}
/** @param classKey only findings of a class */
export interface QueuePage {
  readonly classKey?: string | undefined;
  readonly offset: number;
  readonly limit: number;
}

interface Queued {
  readonly slot: number;
  readonly classKey: string;
  readonly confidence: number;
}

/** Findings that wait for a person, those of what matters most first, of these the surest; of the same confidence in the order of their sources' names, and of names within them. */
export class Queue {
  readonly #store: Store;
  readonly #orders: Orders;
  #all: readonly Queued[] = [];
  #generation = -1;

  constructor(store: Store) {
    this.#store = store;
    this.#orders = new Orders(store);
  }

  /** A part of those in these domains, and how many there are. */
  page(domains: readonly string[], { classKey, offset, limit }: QueuePage): { findings: Waiting[]; total: number } {
    // Put in order once for everybody, until something changes.
    if (this.#generation !== this.#store.generation) {
      this.#all = this.#inOrder();
      this.#generation = this.#store.generation;
    }
    const { ids } = this.#store;
    const isSeen = this.#store.seenBy(domains);
    const found = this.#all.filter((one) => isSeen(one.slot) && (classKey === undefined || one.classKey === classKey));
    const findings = found
      .slice(offset, offset + limit)
      .map(({ slot, classKey: key }) => ({ assetId: ids.idOf(slot), classKey: key }));
    return { findings, total: found.length };
  }

  #inOrder(): Queued[] {
    this.#store.inOrder();
    const { columns } = this.#store;
    const [, places] = this.#orders.by('path');
    const all: Queued[] = [];
    for (const [slot, list] of this.#store.waiting)
      if (!columns.gone[slot]) for (const entry of list) all.push({ slot, ...entry });
    const place = (slot: number) => places[columns.source[slot] as number] as number;
    return all.sort(
      (a, b) =>
        (columns.priority[b.slot] as number) - (columns.priority[a.slot] as number) ||
        b.confidence - a.confidence ||
        place(a.slot) - place(b.slot) ||
        (columns.rank[a.slot] as number) - (columns.rank[b.slot] as number) ||
        (a.classKey < b.classKey ? -1 : 1),
    );
  }
}
