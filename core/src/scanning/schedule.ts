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

/** The end of the blackout that a moment falls into, or undefined. */
function blackoutEnd(moment: Temporal.ZonedDateTime, blackouts: readonly Blackout[]): Temporal.ZonedDateTime | undefined {
  for (const { from, to, days } of blackouts) {
    const [begin, end] = [Temporal.PlainTime.from(from), Temporal.PlainTime.from(to)];
    const overnight = Temporal.PlainTime.compare(end, begin) <= 0;
    // A blackout over midnight that holds now began today or yesterday.
    for (const back of overnight ? [0, 1] : [0]) {
      const first = moment.toPlainDate().subtract({ days: back });
      if (days && !days.includes(first.dayOfWeek as Weekday)) continue;
      const start = first.toZonedDateTime({ timeZone: moment.timeZoneId, plainTime: begin });
      const stop = first.add({ days: overnight ? 1 : 0 }).toZonedDateTime({ timeZone: moment.timeZoneId, plainTime: end });
      if (Temporal.ZonedDateTime.compare(start, moment) <= 0 && Temporal.ZonedDateTime.compare(moment, stop) < 0) return stop;
    }
  }
  return undefined;
}

/** Moves a moment out of blackout hours; undefined when they leave no room within a week. */
function outside(moment: Temporal.ZonedDateTime, blackouts: readonly Blackout[]): Temporal.ZonedDateTime | undefined {
  let at = moment;
  for (let moves = 0; moves < 50; moves += 1) {
    const end = blackoutEnd(at, blackouts);
    if (!end) return at;
    at = end;
  }
  return undefined;
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
  const once = schedule.rhythm.on === 'once';
  // A time of the day before may have been moved by a blackout to after `after`.
  let date = schedule.rhythm.on === 'once' ? Temporal.PlainDate.from(schedule.rhythm.date) : from.toPlainDate().subtract({ days: 8 });
  for (let day = 0; day < (once ? 1 : HORIZON) && times.length < count; day += 1, date = date.add({ days: 1 })) {
    if (!isDay(schedule.rhythm, date)) continue;
    const moment = outside(date.toZonedDateTime({ timeZone: schedule.timeZone, plainTime: time }), schedule.blackouts ?? []);
    const at = moment?.epochMilliseconds;
    if (at !== undefined && at > after && at !== times.at(-1)) times.push(at);
  }
  return times;
}

const DAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'];
const NTH: Record<number, string> = { 1: 'first', 2: 'second', 3: 'third', 4: 'fourth', [-1]: 'last' };
const ordinal = (day: number) => `${day}${day % 10 === 1 && day !== 11 ? 'st' : day % 10 === 2 && day !== 12 ? 'nd' : day % 10 === 3 && day !== 13 ? 'rd' : 'th'}`;
const listed = (words: readonly string[]) => (words.length < 2 ? words.join('') : `${words.slice(0, -1).join(', ')} and ${words.at(-1)}`);
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
    weekday: () => `on the ${NTH[(rhythm as { nth: number }).nth]} ${weekdayName((rhythm as { weekday: Weekday }).weekday)} of each month`,
  }[rhythm.on]();
  const never = blackouts.map((hours) => `${hours.from}–${hours.to}${hours.days ? ` on ${listed(hours.days.map(weekdayName))}` : ''}`);
  return `${when} at ${time} (${timeZone})${never.length > 0 ? `, never ${listed(never)}` : ''}`;
}
