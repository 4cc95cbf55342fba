/**
 * Puts the least keys between two places in order, at those places; the others are left as they fall. Hoare's "Find" (1961), for a page however deep.
 * @param keys each another one; changed in place
 * @returns the keys from `from` up to, not including, `to`, ascending
 */
export function pageOf(keys: Float64Array, from: number, to: number): Float64Array {
  const end = Math.min(to, keys.length);
  if (from >= end) return keys.subarray(0, 0);
  if (end < keys.length) part(keys, 0, keys.length - 1, end);
  if (from > 0) part(keys, 0, end - 1, from);
  return keys.subarray(from, end).sort();
}

/** After it, what stands before place `nth` is less than what stands from there on. */
function part(keys: Float64Array, first: number, last: number, nth: number): void {
  let [low, high] = [first, last];
  let dice = 1;
  // Places that are thrown: what is in order but for a few, as keys mostly are, would be the worst case of any that are fixed.
  const thrown = () => {
    dice = (Math.imul(dice, 1_664_525) + 1_013_904_223) >>> 0;
    return keys[low + (dice % (high - low + 1))] as number;
  };
  while (low < high) {
    const pivot = middleOf(thrown(), thrown(), thrown());
    let [up, down] = [low, high];
    while (up <= down) {
      while ((keys[up] as number) < pivot) up += 1;
      while ((keys[down] as number) > pivot) down -= 1;
      if (up > down) break;
      const other = keys[up] as number;
      keys[up] = keys[down] as number;
      keys[down] = other;
      up += 1;
      down -= 1;
    }
    if (nth <= down) high = down;
    else if (nth >= up) low = up;
    else return;
  }
}

const middleOf = (a: number, b: number, c: number) => Math.max(Math.min(a, b), Math.min(Math.max(a, b), c));
