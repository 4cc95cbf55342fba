/** Rows that a profile looks at, at most: of a larger table a random sample. */
export const PROFILE_ROWS = 10_000;
/** Longer values count as this long. */
export const PROFILE_LONGEST = 400;
/** Larger figures are left out of what is reckoned: their sums would be none. */
export const PROFILE_LARGEST = 1e300;
export const PROFILE_BUCKETS = 20;
export const PROFILE_FREQUENT = 10;
export const PROFILE_PATTERNS = 6;
/** Shares below which each of the quantiles lies. */
export const PROFILE_QUANTILES = [0.05, 0.25, 0.5, 0.75, 0.95] as const;

/** What a column measures: numbers, points in time (counted in seconds since 1970, UTC), or neither. */
export type Measure = 'number' | 'time' | 'text';

/** What the values of a column are like. Of a guarded column nothing is kept from which a value could be read. */
export interface ColumnProfile {
  readonly measure: Measure;
  /** Rows looked at, and whether these are all. */
  readonly rows: number;
  readonly whole: boolean;
  readonly nulls: number;
  /** Different values among the rows looked at. */
  readonly distinct: number;
  readonly length: { readonly min: number; readonly max: number; readonly mean: number } | null;
  /** How values are built, the most frequent first: a digit is `9`, a run of capitals `A`, of small letters `a`, all else as it is. */
  readonly patterns: readonly (readonly [pattern: string, rows: number])[];
  readonly guarded: boolean;
  /** Smallest and largest value of a text; numbers and times have a span. */
  readonly first: string | null;
  readonly last: string | null;
  readonly span: { readonly from: number; readonly to: number; readonly mean: number } | null;
  /** At {@link PROFILE_QUANTILES}. */
  readonly quantiles: readonly number[] | null;
  /** Values that stand in more than one row, the most frequent first. */
  readonly frequent: readonly (readonly [value: string, rows: number])[];
  /** Rows in equal steps from the smallest to the largest. */
  readonly histogram: readonly number[] | null;
}

/** What a column measures, by the name of its type in its source. */
export function measureOf(type: string): Measure {
  if (/\[\]|^(interval|inet|point|tinyint\(1\)|bool)/i.test(type)) return 'text';
  if (
    /^u?(tiny|small|medium|big|huge)?int(eger)?\d?\b|^(small|big)?serial|^(numeric|decimal|double|real|float)/i.test(
      type,
    )
  )
    return 'number';
  return /^(date|timestamp)/i.test(type) ? 'time' : 'text';
}

/** How a value is built: `Ab12-7` gives `Aa99-9`. Cut at 40 characters. */
export const patternOf = (value: string): string =>
  value
    .replace(/[0-9]/g, '9')
    .replace(/\p{Lu}+/gu, 'A')
    .replace(/\p{Ll}+/gu, 'a')
    .slice(0, 40);

/** The profile without anything from which a value could be read. */
export const guardProfile = (profile: ColumnProfile): ColumnProfile => ({
  ...profile,
  guarded: true,
  first: null,
  last: null,
  span: null,
  quantiles: null,
  frequent: [],
  histogram: null,
});

const byCount = (a: readonly [string, number], b: readonly [string, number]) => b[1] - a[1] || (a[0] < b[0] ? -1 : 1);

/** Seconds since 1970 of a time as databases write it, UTC unless it says otherwise; NaN for what is none. */
function secondsOf(value: string): number {
  const [, day, clock = '00:00:00', zone = 'Z'] =
    /^(\d{4}-\d\d-\d\d)(?:[ T](\d\d:\d\d(?::\d\d(?:\.\d+)?)?))?(Z|[+-]\d\d(?::?\d\d)?)?$/i.exec(value) ?? [];
  return day ? Date.parse(`${day}T${clock}${/^[+-]\d\d$/.test(zone) ? `${zone}:00` : zone}`) / 1000 : Number.NaN;
}

/** The number behind a value as text; undefined for what is none. */
function numberOf(value: string, measure: Measure): number | undefined {
  if (measure === 'text' || value.trim() === '') return undefined;
  const x = measure === 'number' ? Number(value) : secondsOf(value);
  return Math.abs(x) <= PROFILE_LARGEST ? x : undefined;
}

/**
 * Works out a profile from values as text; null for a missing one.
 * @param whole whether these are all the rows there are
 */
export function profileOf(values: readonly (string | null)[], measure: Measure, whole: boolean): ColumnProfile {
  const counts = new Map<string, number>();
  for (const value of values) {
    if (value === null) continue;
    const cut = value.slice(0, PROFILE_LONGEST);
    counts.set(cut, (counts.get(cut) ?? 0) + 1);
  }
  const patterns = new Map<string, number>();
  const numbers: [x: number, rows: number][] = [];
  let present = 0;
  let letters = 0;
  let [shortest, longest] = [Number.POSITIVE_INFINITY, 0];
  let [first, last]: [string | null, string | null] = [null, null];
  for (const [value, rows] of counts) {
    present += rows;
    const length = [...value].length;
    letters += length * rows;
    shortest = Math.min(shortest, length);
    longest = Math.max(longest, length);
    if (first === null || value < first) first = value;
    if (last === null || value > last) last = value;
    if (measure === 'text') patterns.set(patternOf(value), (patterns.get(patternOf(value)) ?? 0) + rows);
    const x = numberOf(value, measure);
    if (x !== undefined) numbers.push([x, rows]);
  }
  return {
    measure,
    rows: values.length,
    whole,
    nulls: values.length - present,
    distinct: counts.size,
    length: present === 0 ? null : { min: shortest, max: longest, mean: letters / present },
    patterns: [...patterns].sort(byCount).slice(0, PROFILE_PATTERNS),
    guarded: false,
    first: measure === 'text' ? first : null,
    last: measure === 'text' ? last : null,
    frequent: [...counts]
      .filter(([, rows]) => rows > 1)
      .sort(byCount)
      .slice(0, PROFILE_FREQUENT),
    ...spread(numbers),
  };
}

function spread(numbers: [x: number, rows: number][]): Pick<ColumnProfile, 'span' | 'quantiles' | 'histogram'> {
  if (numbers.length === 0) return { span: null, quantiles: null, histogram: null };
  numbers.sort((a, b) => a[0] - b[0]);
  const [from, to] = [numbers[0]?.[0] ?? 0, numbers.at(-1)?.[0] ?? 0];
  const rows = numbers.reduce((sum, [, n]) => sum + n, 0);
  const histogram = new Array<number>(PROFILE_BUCKETS).fill(0);
  const quantiles: number[] = [];
  let upto = 0;
  for (const [x, n] of numbers) {
    upto += n;
    while (quantiles.length < PROFILE_QUANTILES.length && upto >= (PROFILE_QUANTILES[quantiles.length] ?? 1) * rows)
      quantiles.push(x);
    const bucket =
      to === from ? 0 : Math.min(PROFILE_BUCKETS - 1, Math.floor(((x - from) / (to - from)) * PROFILE_BUCKETS));
    histogram[bucket] = (histogram[bucket] ?? 0) + n;
  }
  return { span: { from, to, mean: numbers.reduce((sum, [x, n]) => sum + x * n, 0) / rows }, quantiles, histogram };
}
