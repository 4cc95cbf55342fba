/** A stretch of time in milliseconds since 1970: from, and up to but not including. */
export interface Stretch {
  readonly from: number;
  readonly to: number;
}

const DAY = 86_400_000;
const DATE = /^(\d{4})(?:-(\d{2})(?:-(\d{2}))?)?$/;
const AGO = /^-(\d{1,4})([dwmy])$/;

const utc = (year: number, month: number, day: number) => {
  const at = new Date(0);
  at.setUTCFullYear(year, month, day);
  return at.getTime();
};

/**
 * The days that a date names, in UTC: `2026-11-27` is one day, `2026-11` a month, `2026` a year (ISO 8601, reduced precision).
 * @returns undefined where it is none
 */
export function stretchOf(date: string): Stretch | undefined {
  const found = DATE.exec(date);
  if (!found) return undefined;
  const [year, month, day] = found.slice(1).map((part) => (part === undefined ? undefined : Number(part)));
  if (year === undefined) return undefined;
  if (month === undefined) return { from: utc(year, 0, 1), to: utc(year + 1, 0, 1) };
  if (month < 1 || month > 12) return undefined;
  if (day === undefined) return { from: utc(year, month - 1, 1), to: utc(year, month, 1) };
  const from = utc(year, month - 1, day);
  return new Date(from).getUTCDate() === day && day > 0 ? { from, to: from + DAY } : undefined;
}

/** The day that is meant by a date that counts back from today: `-30d`, `-12w`, `-6m`, `-1y`, `today`; a date as it is. @param now milliseconds since 1970 */
export function dayOf(text: string, now: number): string {
  const told = (at: Date) => at.toISOString().slice(0, 10);
  const today = new Date(now);
  if (text.toLowerCase() === 'today') return told(today);
  const [, count, unit] = AGO.exec(text.toLowerCase()) ?? [];
  if (count === undefined) return text;
  const many = Number(count);
  if (unit === 'd' || unit === 'w') return told(new Date(now - many * (unit === 'w' ? 7 : 1) * DAY));
  const months = unit === 'y' ? many * 12 : many;
  const first = new Date(utc(today.getUTCFullYear(), today.getUTCMonth() - months, 1));
  const days = new Date(utc(first.getUTCFullYear(), first.getUTCMonth() + 1, 0)).getUTCDate();
  // The last day of a shorter month stands for those that it lacks.
  first.setUTCDate(Math.min(today.getUTCDate(), days));
  return told(first);
}

/** Whether a text names a day, a month, a year, or a day that counts back from today. */
export const isWhen = (text: string): boolean => stretchOf(dayOf(text, 0)) !== undefined;
