const BATCH = 5000;

/** Works through many items; while the database takes one batch in, the next is made ready. */
export async function inBatches<T, R>(
  items: readonly T[],
  make: (item: T) => R,
  work: (batch: readonly R[]) => Promise<unknown>,
): Promise<void> {
  let going: Promise<unknown> = Promise.resolve();
  for (let from = 0; from < items.length; from += BATCH) {
    const batch = items.slice(from, from + BATCH).map(make);
    await going;
    going = work(batch);
  }
  await going;
}
