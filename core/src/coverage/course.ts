/** By how much figures of something became others on a day (ISO 8601). */
export interface Change {
  readonly key: string;
  readonly day: string;
  /** By how much each figure rose; all changes have them in the same order. */
  readonly by: readonly number[];
}

/** What the figures were on a day. */
export interface Step {
  readonly day: string;
  readonly figures: readonly number[];
}

const DAY = 86_400_000;
const dayAfter = (day: string, days: number): string =>
  new Date(Date.parse(`${day}T00:00:00Z`) + days * DAY).toISOString().slice(0, 10);

/**
 * Days from one to another, the last of them always: each, or, where those were more than `most`, evenly further apart.
 * @param most at least 2
 */
export function sampled(first: string, last: string, most: number): string[] {
  const length = Math.round((Date.parse(`${last}T00:00:00Z`) - Date.parse(`${first}T00:00:00Z`)) / DAY);
  if (length < 0) return [];
  const apart = Math.max(1, Math.ceil(length / (most - 1)));
  const days: string[] = [];
  for (let back = length - (length % apart); back >= 0; back -= apart) days.push(dayAfter(last, -back));
  return days;
}

/**
 * Figures as they were on each of some days, from what they changed by: they begin at zero, and stand until they change.
 * @param changes in any order @param days in their order @param width how many figures there are
 * @returns for each key the figures on each of the days
 */
export function courseOf(
  changes: readonly Change[],
  days: readonly string[],
  width: number,
): ReadonlyMap<string, readonly (readonly number[])[]> {
  const byKey = new Map<string, Change[]>();
  for (const change of changes) {
    const known = byKey.get(change.key);
    if (known) known.push(change);
    else byKey.set(change.key, [change]);
  }
  const courses = new Map<string, number[][]>();
  for (const [key, own] of byKey) {
    own.sort((a, b) => (a.day < b.day ? -1 : a.day > b.day ? 1 : 0));
    const now = new Array<number>(width).fill(0);
    let next = 0;
    courses.set(
      key,
      days.map((day) => {
        for (; next < own.length && (own[next] as Change).day <= day; next += 1)
          (own[next] as Change).by.forEach((more, at) => {
            now[at] = (now[at] as number) + more;
          });
        return [...now];
      }),
    );
  }
  return courses;
}
