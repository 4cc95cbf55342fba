import { Chip, Group, Select, type SelectProps } from '@mantine/core';

const DAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'];
/** Days of the week, 1 for Monday. */
export const WEEKDAYS = DAYS.map((label, at) => ({ value: String(at + 1), label }));

/** Days of the week to be chosen from: at least one stays chosen. */
export function Weekdays<D extends number>({
  days,
  put,
  disabled = false,
}: {
  days: readonly D[];
  put: (days: D[]) => void;
  disabled?: boolean;
}) {
  return (
    <Chip.Group
      multiple
      value={days.map(String)}
      onChange={(chosen) => chosen.length > 0 && put(chosen.map(Number).sort() as D[])}
    >
      <Group wrap="wrap" gap={6}>
        {WEEKDAYS.map((day) => (
          <Chip key={day.value} value={day.value} size="xs" radius="sm" disabled={disabled}>
            {day.label}
          </Chip>
        ))}
      </Group>
    </Chip.Group>
  );
}

/** Zones that the browser knows; UTC and the one that is set are not always among them. */
const zones = (set: string) => [...new Set(['UTC', set, ...Intl.supportedValuesOf('timeZone')])];
/** The time zone of who looks. */
export const zoneHere = () => Intl.DateTimeFormat().resolvedOptions().timeZone;

export function TimeZone({
  zone,
  put,
  ...shown
}: { zone: string; put: (zone: string) => void } & Pick<SelectProps, 'className' | 'disabled' | 'w'>) {
  return (
    <Select
      label="Time zone"
      searchable
      allowDeselect={false}
      limit={60}
      data={zones(zone)}
      value={zone}
      onChange={(chosen) => chosen && put(chosen)}
      {...shown}
    />
  );
}
