import type { PolicyBody } from '@idrel/contract/access';
import { Group, Stack, Switch, TagsInput, TextInput } from '@mantine/core';
import { TimeZone, Weekdays, zoneHere } from '../forms/week.tsx';

const OFFICE = { days: [1, 2, 3, 4, 5], from: '08:00', to: '18:00' };

/** The last day of a policy, as a date where one looks: it holds through it. */
export const lastDay = (until: string): string => {
  const last = new Date(Date.parse(until) - 1);
  const two = (n: number) => String(n).padStart(2, '0');
  return `${String(last.getFullYear()).padStart(4, '0')}-${two(last.getMonth() + 1)}-${two(last.getDate())}`;
};
/** The moment at which a day has passed where one looks; null for no day. */
export function afterDay(day: string): string | null {
  const [, year, month, date] = /^(\d{4,})-(\d\d)-(\d\d)$/.exec(day) ?? [];
  if (!year) return null;
  const moment = new Date(0, 0, 1);
  // While a year is typed it begins with noughts: such a year is not one of the last century.
  moment.setFullYear(Number(year), Number(month) - 1, Number(date) + 1);
  return moment.toISOString();
}

/** Until when a policy holds, at which hours, and what for. */
export function Conditions({
  draft,
  put,
  disabled,
}: {
  draft: PolicyBody;
  put: (changes: Partial<PolicyBody>) => void;
  disabled: boolean;
}) {
  const { hours } = draft;
  // What is there is seen at any time, whatever for.
  const isSeen = draft.effect === 'allow' && draft.opens === 'see';
  return (
    <Stack component="section" gap={10} aria-label="When it holds">
      <Group align="flex-end" wrap="wrap">
        <TextInput
          type="date"
          label="Until the end of"
          description={
            draft.until !== null && Date.parse(draft.until) <= Date.now()
              ? 'This day has passed: it does not hold'
              : 'Empty: without an end'
          }
          w={230}
          disabled={disabled}
          value={draft.until === null ? '' : lastDay(draft.until)}
          onChange={(event) => put({ until: afterDay(event.currentTarget.value) })}
        />
        {draft.effect === 'allow' && !isSeen ? (
          <TagsInput
            className="grow"
            label="Only for who states as purpose"
            description="Empty: for whatever they read"
            placeholder={draft.purposes.length > 0 ? '' : 'Complaint, audit …'}
            disabled={disabled}
            value={[...draft.purposes]}
            onChange={(purposes) => put({ purposes })}
          />
        ) : null}
      </Group>
      {isSeen ? null : (
        <Switch
          label="Only on days and hours"
          disabled={disabled}
          checked={hours !== null}
          onChange={(event) => put({ hours: event.currentTarget.checked ? { ...OFFICE, zone: zoneHere() } : null })}
        />
      )}
      {hours && !isSeen ? (
        <>
          <Weekdays days={hours.days} put={(days) => put({ hours: { ...hours, days } })} disabled={disabled} />
          <Group align="flex-end">
            <TextInput
              type="time"
              label="From"
              w={120}
              disabled={disabled}
              value={hours.from}
              onChange={(event) => put({ hours: { ...hours, from: event.currentTarget.value } })}
            />
            <TextInput
              type="time"
              label="To"
              w={120}
              disabled={disabled}
              value={hours.to}
              onChange={(event) => put({ hours: { ...hours, to: event.currentTarget.value } })}
            />
            <TimeZone
              className="grow"
              disabled={disabled}
              zone={hours.zone}
              put={(zone) => put({ hours: { ...hours, zone } })}
            />
          </Group>
        </>
      ) : null}
    </Stack>
  );
}
