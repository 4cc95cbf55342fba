const DAY = 86_400_000;
const at = (day: string): number => Date.parse(`${day}T00:00:00Z`);

/** How a target stands: reached; where the straight way from its beginning would be by now, or further; short of that; or over, and not reached. */
export type AimState = 'met' | 'on course' | 'behind' | 'missed';

/** How a target stands, and where it leads. Shares from 0 to 1. */
export interface Aim {
  readonly state: AimState;
  /** The share now, and where the straight way from its beginning to its day would be now. */
  readonly now: number;
  readonly due: number;
  /** By how much the share grew in 30 days, at the pace of the last 30 (of fewer, where less is known); null where only one day is. */
  readonly pace: number | null;
  /** The day on which it is reached at that pace; null where it never is, or not within ten years. */
  readonly reachedOn: string | null;
}

/**
 * How a target stands today.
 * @param course the share on days, in their order, from its beginning or before on; the last is today
 * @param target the share that is to be reached by a day, set on another
 */
export function aimOf(
  course: readonly { readonly day: string; readonly share: number }[],
  target: { readonly share: number; readonly byDay: string; readonly since: string },
): Aim {
  const last = course.at(-1) ?? { day: target.since, share: 0 };
  const began = course.findLast(({ day }) => day <= target.since) ?? course[0] ?? last;
  const whole = at(target.byDay) - at(target.since);
  const gone = Math.min(1, Math.max(0, whole <= 0 ? 1 : (at(last.day) - at(target.since)) / whole));
  // What stood higher at the beginning has no way down to go.
  const due = began.share + Math.max(0, target.share - began.share) * gone;
  const from = course.find(({ day }) => at(last.day) - at(day) <= 30 * DAY) ?? last;
  const days = (at(last.day) - at(from.day)) / DAY;
  const pace = days > 0 ? ((last.share - from.share) / days) * 30 : null;
  const isMet = last.share >= target.share;
  const needed = pace !== null && pace > 0 ? Math.ceil(((target.share - last.share) / pace) * 30 - 1e-6) : null;
  return {
    state: isMet ? 'met' : last.day > target.byDay ? 'missed' : last.share >= due ? 'on course' : 'behind',
    now: last.share,
    due,
    pace,
    reachedOn:
      isMet || needed === null || needed > 3652
        ? null
        : new Date(at(last.day) + needed * DAY).toISOString().slice(0, 10),
  };
}
