import type { Schedule } from '@idrel/contract/scanning';
import { Button, Group, Select, Stack, TextInput } from '@mantine/core';
import { TimeZone, WEEKDAYS, Weekdays, zoneHere } from '../forms/week.tsx';
import { NumberField } from '../marks/NumberField.tsx';

type Rhythm = Schedule['rhythm'];
type Weekday = 1 | 2 | 3 | 4 | 5 | 6 | 7;
const NTH = [
  { value: '1', label: 'first' },
  { value: '2', label: 'second' },
  { value: '3', label: 'third' },
  { value: '4', label: 'fourth' },
  { value: '-1', label: 'last' },
];
const RHYTHMS = [
  { value: 'asked', label: 'Only when asked' },
  { value: 'once', label: 'Once' },
  { value: 'daily', label: 'Every day' },
  { value: 'weekdays', label: 'Monday to Friday' },
  { value: 'weekends', label: 'Saturdays and Sundays' },
  { value: 'days', label: 'On chosen days of the week' },
  { value: 'date', label: 'Monthly, by date' },
  { value: 'weekday', label: 'Monthly, by day of the week' },
];
const tomorrow = () => new Date(Date.now() + 86_400_000).toISOString().slice(0, 10);

/** The rhythm that a choice begins with. */
export function freshRhythm(on: string): Rhythm {
  switch (on) {
    case 'once':
      return { on, date: tomorrow() };
    case 'days':
      return { on, days: [1] };
    case 'date':
      return { on, day: 1 };
    case 'weekday':
      return { on, nth: 2, weekday: 2 };
    case 'weekdays':
    case 'weekends':
      return { on };
    default:
      return { on: 'daily' };
  }
}

/** When a plan runs. */
export function ScheduleChooser({
  schedule,
  change,
}: {
  schedule: Schedule | null;
  change: (schedule: Schedule | null) => void;
}) {
  const rhythm = schedule?.rhythm;
  const put = (part: Partial<Schedule>) => schedule && change({ ...schedule, ...part });
  const blackouts = schedule?.blackouts ?? [];
  return (
    <Stack>
      <Select
        label="Runs"
        allowDeselect={false}
        data={RHYTHMS}
        value={rhythm?.on ?? 'asked'}
        onChange={(on) =>
          on &&
          change(on === 'asked' ? null : { time: '03:00', timeZone: zoneHere(), ...schedule, rhythm: freshRhythm(on) })
        }
      />
      {rhythm?.on === 'once' ? (
        <TextInput
          type="date"
          label="Date"
          value={rhythm.date}
          onChange={(event) => put({ rhythm: { on: 'once', date: event.currentTarget.value } })}
        />
      ) : null}
      {rhythm?.on === 'days' ? (
        <Weekdays days={rhythm.days as Weekday[]} put={(days) => put({ rhythm: { on: 'days', days } })} />
      ) : null}
      {rhythm?.on === 'date' ? (
        <NumberField
          label="Day of the month"
          description="In shorter months: their last day"
          min={1}
          max={31}
          value={rhythm.day}
          put={(day) => put({ rhythm: { on: 'date', day } })}
        />
      ) : null}
      {rhythm?.on === 'weekday' ? (
        <Group>
          <Select
            label="The"
            allowDeselect={false}
            data={NTH}
            value={String(rhythm.nth)}
            onChange={(nth) => put({ rhythm: { ...rhythm, nth: Number(nth) as 1 } })}
          />
          <Select
            label="Day"
            allowDeselect={false}
            data={WEEKDAYS}
            value={String(rhythm.weekday)}
            onChange={(weekday) => put({ rhythm: { ...rhythm, weekday: Number(weekday) as Weekday } })}
          />
        </Group>
      ) : null}
      {schedule ? (
        <>
          <Group align="flex-end">
            <TextInput
              type="time"
              label="At"
              w={120}
              value={schedule.time}
              onChange={(event) => put({ time: event.currentTarget.value })}
            />
            <TimeZone className="grow" zone={schedule.timeZone} put={(timeZone) => put({ timeZone })} />
          </Group>
          {blackouts.map((hours, index) => {
            const change = (part: Partial<typeof hours>) =>
              put({ blackouts: blackouts.map((entry, at) => (at === index ? { ...entry, ...part } : entry)) });
            return (
              <Group key={index} align="flex-end">
                <TextInput
                  type="time"
                  label="Never from"
                  w={120}
                  value={hours.from}
                  onChange={(event) => change({ from: event.currentTarget.value })}
                />
                <TextInput
                  type="time"
                  label="to"
                  w={120}
                  value={hours.to}
                  onChange={(event) => change({ to: event.currentTarget.value })}
                />
                <Button
                  variant="subtle"
                  size="compact-sm"
                  mb={4}
                  onClick={() => put({ blackouts: blackouts.filter((_, at) => at !== index) })}
                >
                  Remove
                </Button>
              </Group>
            );
          })}
          <div>
            <button
              type="button"
              className="linkish"
              onClick={() => put({ blackouts: [...blackouts, { from: '08:00', to: '18:00' }] })}
            >
              Add blackout hours
            </button>
          </div>
        </>
      ) : null}
    </Stack>
  );
}
