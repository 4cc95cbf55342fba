import { Temporal } from 'temporal-polyfill';

/** Days of the week as ISO 8601 counts them: Monday is 1, Sunday is 7. */
export type Weekday = 1 | 2 | 3 | 4 | 5 | 6 | 7;

/** On which days. `nth` -1 is the last such weekday of the month; a `day` that a month does not have becomes its last day. */
export type Rhythm =
  | { readonly on: 'once'; readonly date: string }
  | { readonly on: 'daily' }
  | { readonly on: 'weekdays' }
  | { readonly on: 'weekends' }
  | { readonly on: 'days'; readonly days: readonly Weekday[] }
  | { readonly on: 'date'; readonly day: number }
  | { readonly on: 'weekday'; readonly nth: 1 | 2 | 3 | 4 | -1; readonly weekday: Weekday };

/** Hours in which nothing may start: from (inclusive) to (exclusive), `HH:MM`; over midnight when `to` is not after `from`. Without days: every day on which it begins. */
export interface Blackout {
  readonly from: string;
  readonly to: string;
  readonly days?: readonly Weekday[];
}

/** When a plan runs: at a time of day, on days of a rhythm, in a time zone (IANA name), never in blackout hours. */
export interface Schedule {
  readonly rhythm: Rhythm;
  /** `HH:MM` on the clocks of the time zone. */
  readonly time: string;
  readonly timeZone: string;
  readonly blackouts?: readonly Blackout[];
}

const isDay = (rhythm: Rhythm, date: Temporal.PlainDate): boolean => {
  switch (rhythm.on) {
    case 'once':
      return date.toString() === rhythm.date;
    case 'daily':
      return true;
    case 'weekdays':
      return date.dayOfWeek <= 5;
    case 'weekends':
      return date.dayOfWeek >= 6;
    case 'days':
      return rhythm.days.includes(date.dayOfWeek as Weekday);
    case 'date':
      return date.day === Math.min(rhythm.day, date.daysInMonth);
    case 'weekday':
      if (date.dayOfWeek !== rhythm.weekday) return false;
      return rhythm.nth === -1 ? date.day + 7 > date.daysInMonth : Math.ceil(date.day / 7) === rhythm.nth;
  }
};

const WEEK = 7 * 24 * 60;
const minuteOf = (time: string): number =>
  Temporal.PlainTime.from(time).hour * 60 + Temporal.PlainTime.from(time).minute;

/**
 * For each minute of the week, Monday 00:00 first, how many minutes later the hours end in which nothing may start; 0 outside of them. Null when no minute
 * is left free.
 */
function blackoutWeek(blackouts: readonly Blackout[]): Int32Array | null {
  const taken = new Uint8Array(WEEK);
  for (const { from, to, days } of blackouts) {
    const [begin, end] = [minuteOf(from), minuteOf(to)];
    const length = end > begin ? end - begin : end - begin + 24 * 60;
    for (const day of days ?? [1, 2, 3, 4, 5, 6, 7])
      for (let minute = 0; minute < length; minute += 1) taken[((day - 1) * 24 * 60 + begin + minute) % WEEK] = 1;
  }
  if (taken.every((minute) => minute === 1)) return null;
  const later = new Int32Array(WEEK);
  // Twice round, from the end: what ends after Sunday ends on Monday.
  for (let minute = 2 * WEEK - 1; minute >= 0; minute -= 1)
    later[minute % WEEK] = taken[minute % WEEK] === 1 ? (later[(minute + 1) % WEEK] ?? 0) + 1 : 0;
  return later;
}

/** Moves a moment out of blackout hours, by the clocks of its place; again where clocks that go forward put it into others. */
function outside(moment: Temporal.ZonedDateTime, week: Int32Array): Temporal.ZonedDateTime {
  let at = moment;
  for (let moves = 0; moves < 4; moves += 1) {
    const later = week[(at.dayOfWeek - 1) * 24 * 60 + at.hour * 60 + at.minute] ?? 0;
    if (later === 0) return at;
    at = at.toPlainDateTime().with({ second: 0 }).add({ minutes: later }).toZonedDateTime(at.timeZoneId);
  }
  return at;
}

/** Days that are looked through: five years, so that the rarest rhythm (the 31st on leap days …) is found. */
const HORIZON = 366 * 5;

/**
 * The next times of a schedule after a moment, as milliseconds since 1970, earliest first. Clocks that go forward past the time: it is taken
 * as much later; clocks that go back over it: the first of the two (the "compatible" way of RFC 5545 and ECMA-262 Temporal).
 * @throws RangeError when a time, date or time zone is not one
 */
export function nextTimes(schedule: Schedule, after: number, count: number): number[] {
  const time = Temporal.PlainTime.from(schedule.time);
  const from = Temporal.Instant.fromEpochMilliseconds(after).toZonedDateTimeISO(schedule.timeZone);
  const times: number[] = [];
  const week = blackoutWeek(schedule.blackouts ?? []);
  if (week === null) return [];
  const once = schedule.rhythm.on === 'once';
  // A time of the day before may have been moved by a blackout to after `after`.
  let date =
    schedule.rhythm.on === 'once'
      ? Temporal.PlainDate.from(schedule.rhythm.date)
      : from.toPlainDate().subtract({ days: 8 });
  for (let day = 0; day < (once ? 1 : HORIZON) && times.length < count; day += 1, date = date.add({ days: 1 })) {
    if (!isDay(schedule.rhythm, date)) continue;
    const at = outside(date.toZonedDateTime({ timeZone: schedule.timeZone, plainTime: time }), week).epochMilliseconds;
    if (at > after && at !== times.at(-1)) times.push(at);
  }
  return times;
}

const DAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'];
const NTH: Record<number, string> = { 1: 'first', 2: 'second', 3: 'third', 4: 'fourth', [-1]: 'last' };
const ordinal = (day: number) =>
  `${day}${day % 10 === 1 && day !== 11 ? 'st' : day % 10 === 2 && day !== 12 ? 'nd' : day % 10 === 3 && day !== 13 ? 'rd' : 'th'}`;
const listed = (words: readonly string[]) =>
  words.length < 2 ? words.join('') : `${words.slice(0, -1).join(', ')} and ${words.at(-1)}`;
export const weekdayName = (day: Weekday): string => DAYS[day - 1] ?? '';

/** A schedule as a sentence. */
export function describeSchedule({ rhythm, time, timeZone, blackouts = [] }: Schedule): string {
  const when = {
    once: () => `once, on ${(rhythm as { date: string }).date}`,
    daily: () => 'every day',
    weekdays: () => 'Monday to Friday',
    weekends: () => 'Saturdays and Sundays',
    days: () => `every ${listed([...(rhythm as { days: readonly Weekday[] }).days].sort().map(weekdayName))}`,
    date: () => `on the ${ordinal((rhythm as { day: number }).day)} of each month`,
    weekday: () =>
      `on the ${NTH[(rhythm as { nth: number }).nth]} ${weekdayName((rhythm as { weekday: Weekday }).weekday)} of each month`,
  }[rhythm.on]();
  const never = blackouts.map(
    (hours) => `${hours.from}–${hours.to}${hours.days ? ` on ${listed(hours.days.map(weekdayName))}` : ''}`,
  );
  return `${when} at ${time} (${timeZone})${never.length > 0 ? `, never ${listed(never)}` : ''}`;
}
