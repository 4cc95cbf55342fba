type Row = readonly (string | null)[];
/** A row of the one result and the row of the other that is the same one; null where there is none. */
export type Pair = readonly [yours: number | null, theirs: number | null];

/**
 * Finds the rows of one result again in another: by the columns that are the same in both, of several alike in their order; where there is no such
 * column, by their places.
 * @param by places of these columns, in the one and in the other
 */
export function pairRows(
  yours: readonly Row[],
  theirs: readonly Row[],
  by: readonly (readonly [yours: number, theirs: number])[],
): Pair[] {
  if (by.length === 0)
    return Array.from({ length: Math.max(yours.length, theirs.length) }, (_, at) => [
      at < yours.length ? at : null,
      at < theirs.length ? at : null,
    ]);
  const waiting = new Map<string, number[]>();
  const keyOf = (row: Row, side: 0 | 1) => JSON.stringify(by.map((places) => row[places[side]] ?? null));
  theirs.forEach((row, at) => {
    const key = keyOf(row, 1);
    const known = waiting.get(key);
    if (known) known.push(at);
    else waiting.set(key, [at]);
  });
  const taken = new Set<number>();
  const pairs = yours.map((row, at): Pair => {
    const found = waiting.get(keyOf(row, 0))?.shift() ?? null;
    if (found !== null) taken.add(found);
    return [at, found];
  });
  return [...pairs, ...theirs.flatMap((_, at): Pair[] => (taken.has(at) ? [] : [[null, at]]))];
}
