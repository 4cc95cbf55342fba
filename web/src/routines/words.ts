import type { Happening, RoutineAnswer, RoutineRunAnswer, RoutineStarts } from '@idrel/contract/routines';
import { describeSchedule } from '@idrel/core/scanning';

/** What can begin a routine, as it is chosen. */
export const HAPPENINGS: readonly { readonly value: Happening; readonly label: string }[] = [
  { value: 'new', label: 'a scan finds something new' },
  { value: 'changed', label: 'its structure changes' },
  { value: 'gone', label: 'it is gone' },
  { value: 'found', label: 'a class is found in it' },
  { value: 'failed', label: 'its source cannot be read' },
];
const happeningOf = (what: Happening) => HAPPENINGS.find(({ value }) => value === what)?.label ?? what;

/** When a routine starts, in words. */
export function startsInWords(starts: RoutineStarts | null): string {
  if (!starts) return 'by hand';
  return starts.on === 'schedule'
    ? describeSchedule(starts.schedule)
    : `when ${starts.what.map(happeningOf).join(', or when ')}`;
}

export const STANDS: Readonly<Record<RoutineAnswer['stands'], string>> = {
  'by hand': 'run by hand',
  acts: 'acts by itself',
  paused: 'switched off',
  unkept: 'waits: who kept it has left',
  'not agreed': 'waits for its keeper to take it on',
};

export const RUN_STATES: Readonly<Record<RoutineRunAnswer['state'], string>> = {
  asks: 'asks you',
  running: 'under way',
  waiting: 'waits',
  done: 'done',
  skipped: 'stopped',
  failed: 'failed',
  undoing: 'being taken back',
  undone: 'taken back',
};

const WHY: Readonly<Record<Happening, string>> = {
  new: 'a scan found something new',
  changed: 'a structure changed',
  gone: 'something is gone',
  found: 'a class was found',
  failed: 'a source could not be read',
};
/** Why a run began. */
export const whyInWords = (why: RoutineRunAnswer['why'], person: string | null): string =>
  why === 'asked' ? `${person ?? 'somebody who left'} asked` : why === 'schedule' ? 'it was time' : WHY[why];
