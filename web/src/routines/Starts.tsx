import type { RoutineGuard, RoutineStarts } from '@idrel/contract/routines';
import { MultiSelect, Select, Switch } from '@mantine/core';
import { zoneHere } from '../forms/week.tsx';
import { NumberField } from '../marks/NumberField.tsx';
import { ScheduleChooser } from '../scanning/index.ts';
import { HAPPENINGS } from './words.ts';

const WHEN = [
  { value: 'hand', label: 'only when somebody runs it' },
  { value: 'schedule', label: 'at set times' },
  { value: 'happening', label: 'when something happens' },
];
/** A time at which nobody works: what it does is there in the morning. */
const NIGHTLY = (): RoutineStarts => ({
  on: 'schedule',
  schedule: { rhythm: { on: 'daily' }, time: '05:00', timeZone: zoneHere() },
});

/** When a routine starts by itself, and when it asks first. */
export function Starts({
  starts,
  guard,
  enabled,
  put,
  disabled,
}: {
  starts: RoutineStarts | null;
  guard: RoutineGuard;
  enabled: boolean;
  put: (change: { starts?: RoutineStarts | null; guard?: RoutineGuard; enabled?: boolean }) => void;
  disabled: boolean;
}) {
  return (
    <section aria-label="When" className="stack">
      <h3>When</h3>
      <Select
        label="It starts"
        data={WHEN}
        value={starts?.on ?? 'hand'}
        allowDeselect={false}
        onChange={(on) =>
          on &&
          put({ starts: on === 'hand' ? null : on === 'schedule' ? NIGHTLY() : { on: 'happening', what: ['new'] } })
        }
        disabled={disabled}
      />
      {starts?.on === 'schedule' ? (
        <fieldset className="bare" disabled={disabled}>
          <ScheduleChooser
            schedule={starts.schedule}
            change={(schedule) => put({ starts: schedule && { on: 'schedule', schedule } })}
          />
        </fieldset>
      ) : null}
      {starts?.on === 'happening' ? (
        <MultiSelect
          label="When, of what the search finds"
          description="After a scan, or when a program pushes something: over what that brought, and no more."
          data={[...HAPPENINGS]}
          value={[...starts.what]}
          onChange={(what) =>
            what.length > 0 &&
            put({
              starts: {
                on: 'happening',
                what: HAPPENINGS.flatMap(({ value }) => (what.includes(value) ? [value] : [])),
              },
            })
          }
          disabled={disabled}
        />
      ) : null}
      {starts ? (
        <>
          <div className="fields">
            <NumberField
              label="Asks first above"
              description="times as many changes as in any run of late"
              min={1}
              max={100}
              optional
              value={guard.times}
              put={(times) => put({ guard: { ...guard, times } })}
              disabled={disabled}
            />
            <NumberField
              label="And always above"
              description="changes in a run; empty: no such limit"
              min={1}
              max={200_000}
              optional
              value={guard.most}
              put={(most) => put({ guard: { ...guard, most } })}
              disabled={disabled}
            />
          </div>
          <Switch
            label="It acts by itself"
            checked={enabled}
            onChange={(event) => put({ enabled: event.currentTarget.checked })}
            disabled={disabled}
          />
        </>
      ) : null}
    </section>
  );
}
