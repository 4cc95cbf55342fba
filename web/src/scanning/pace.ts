import type { Moment, RunCounts } from '@idrel/contract/scanning';

/** Objects per second between the moments of a run: sampled ones, or those of the structure when none is sampled. */
export function ratesOf(pace: readonly Moment[]): { seconds: number; rate: number }[] {
  const at = pace.some((moment) => moment[2] > 0) ? 2 : 1;
  return pace.slice(1).flatMap((moment, index) => {
    const before = pace[index] as Moment;
    const seconds = moment[0] - before[0];
    return seconds > 0 ? [{ seconds: moment[0], rate: Math.max(0, (moment[at] - before[at]) / seconds) }] : [];
  });
}

/** How fast a run samples now (over its last ten seconds), and how many seconds are left of that; undefined when nothing can be said. */
export function remaining(pace: readonly Moment[], counts: RunCounts): { rate: number; seconds: number } | undefined {
  const last = pace.at(-1);
  if (!last || !counts.toSample || last[2] === 0) return undefined;
  const first = pace.find((moment) => moment[0] >= last[0] - 10 && moment[2] > 0) ?? last;
  const rate = (last[2] - first[2]) / (last[0] - first[0]);
  if (!(rate > 0) || !Number.isFinite(rate)) return undefined;
  return { rate, seconds: Math.max(0, counts.toSample - (counts.sampled ?? last[2])) / rate };
}

/** A span of time in words: `40 s`, `3 min`, `2 h 10 min`. */
export function span(seconds: number): string {
  if (seconds < 1) return 'less than a second';
  if (seconds < 90) return `${Math.round(seconds)} s`;
  const minutes = Math.round(seconds / 60);
  return minutes < 60 ? `${minutes} min` : `${Math.floor(minutes / 60)} h ${minutes % 60} min`;
}
