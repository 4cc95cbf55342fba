/** Words of so many letters may hold one slip, of so many two. */
const ONE_FROM = 4;
const TWO_FROM = 8;
/** So many are told at most. */
const MOST = 12;

/** How many slips of the finger a word of this length may hold. */
export const slipsOf = (word: string): number => (word.length >= TWO_FROM ? 2 : word.length >= ONE_FROM ? 1 : 0);

/**
 * Words that differ from one by letters that are missing, too many, other ones or two that changed places (optimal string alignment; Damerau 1964), or that
 * begin so. The words are walked in their order: what two of them begin with alike is worked out once, and what can come to nothing is passed over.
 * @param count how many words there are; @param wordAt the word at a place, in ascending order
 * @returns places, the nearest first; a word that only begins so is half a slip further away
 */
export function near(
  wanted: string,
  count: number,
  wordAt: (at: number) => string,
): { at: number; distance: number }[] {
  const most = slipsOf(wanted);
  if (most === 0) return [];
  const width = wanted.length + 1;
  const rows: Uint8Array[] = [Uint8Array.from({ length: width }, (_, at) => at)];
  /** The least distance at which a beginning of this length fits the whole of what is wanted. */
  const begun: number[] = [wanted.length];
  const found: { at: number; distance: number }[] = [];
  let before = '';
  /** How far the rows are worked out for the word before; beyond `dead` letters nothing can come of it. */
  let depth = 0;
  let dead = Number.POSITIVE_INFINITY;
  for (let at = 0; at < count; at += 1) {
    const word = wordAt(at);
    let same = 0;
    while (same < before.length && same < word.length && before.charCodeAt(same) === word.charCodeAt(same)) same += 1;
    before = word;
    if (same >= dead) continue;
    dead = Number.POSITIVE_INFINITY;
    depth = Math.min(depth, same);
    while (depth < word.length) {
      const least = nextRow(rows, depth, word, wanted);
      depth += 1;
      begun[depth] = Math.min(begun[depth - 1] as number, rows[depth]?.[width - 1] as number);
      // A beginning that fits is enough: how the word goes on does not matter.
      if (least > most && (begun[depth] as number) > most) {
        dead = depth;
        break;
      }
    }
    if (dead <= depth && dead !== Number.POSITIVE_INFINITY) continue;
    const whole = rows[word.length]?.[width - 1] as number;
    const distance = Math.min(whole, (begun[word.length] as number) + 0.5);
    if (distance > 0 && distance <= most + (wanted.length >= TWO_FROM - 2 ? 0.5 : 0)) found.push({ at, distance });
  }
  return found.sort((a, b) => a.distance - b.distance).slice(0, MOST);
}

/** Distances of a word's first `depth + 1` letters to each beginning of what is wanted. @returns the least of them */
function nextRow(rows: Uint8Array[], depth: number, word: string, wanted: string): number {
  const above = rows[depth] as Uint8Array;
  const twoAbove = rows[depth - 1];
  let row = rows[depth + 1];
  if (!row) {
    row = new Uint8Array(wanted.length + 1);
    rows[depth + 1] = row;
  }
  const letter = word.charCodeAt(depth);
  row[0] = depth + 1;
  let least = depth + 1;
  for (let at = 1; at <= wanted.length; at += 1) {
    const other = wanted.charCodeAt(at - 1);
    let cost = Math.min(
      (above[at] as number) + 1,
      (row[at - 1] as number) + 1,
      (above[at - 1] as number) + (letter === other ? 0 : 1),
    );
    if (twoAbove && at > 1 && letter === wanted.charCodeAt(at - 2) && word.charCodeAt(depth - 1) === other)
      cost = Math.min(cost, (twoAbove[at - 2] as number) + 1);
    row[at] = cost;
    if (cost < least) least = cost;
  }
  return least;
}
