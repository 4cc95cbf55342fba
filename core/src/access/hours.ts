import { Temporal } from 'temporal-polyfill';
import type { Hours, Policy } from './types.ts';

/** Whether a policy has ended. @param now in milliseconds since 1970 */
export const isOver = (policy: Pick<Policy, 'until'>, now: number): boolean =>
  policy.until !== null && Date.parse(policy.until) <= now;

/**
 * Whether a moment lies within days and hours; hours that go over midnight belong to the day on which they begin.
 * @param now in milliseconds since 1970
 */
export function isWithin(hours: Hours, now: number): boolean {
  const there = Temporal.Instant.fromEpochMilliseconds(now).toZonedDateTimeISO(hours.zone);
  const time = there.toPlainTime().toString().slice(0, 5);
  const yesterday = there.dayOfWeek === 1 ? 7 : there.dayOfWeek - 1;
  const today = hours.days.includes(there.dayOfWeek);
  if (hours.from < hours.to) return today && time >= hours.from && time < hours.to;
  return (today && time >= hours.from) || (hours.days.includes(yesterday) && time < hours.to);
}

/** Whether a policy holds at a moment: it has not ended, and its hours are now. @param now in milliseconds since 1970 */
export const holdsAt = (policy: Pick<Policy, 'until' | 'hours'>, now: number): boolean =>
  !isOver(policy, now) && (policy.hours === null || isWithin(policy.hours, now));

/** Whether a time zone is known. */
export function isZone(zone: string): boolean {
  try {
    Temporal.Instant.fromEpochMilliseconds(0).toZonedDateTimeISO(zone);
    return true;
  } catch {
    return false;
  }
}
