import { TextInput } from '@mantine/core';
import dayjs from 'dayjs';
import type { ReactNode } from 'react';

/** As fields of that kind hold it: without a zone, since it is the reader's own. */
const FIELD = 'YYYY-MM-DDTHH:mm';

/** A moment in words. */
export const momentWords = (at: string): string => dayjs(at).format('D MMMM YYYY, HH:mm:ss');

/** Chooses a moment that has passed. */
export const MomentField = ({
  label,
  description,
  at,
  choose,
  earliest,
}: {
  label: string;
  description?: ReactNode;
  /** ISO 8601; null for none. */
  at: string | null;
  choose: (at: string | null) => void;
  /** ISO 8601. */
  earliest: string | undefined;
}) => (
  <TextInput
    type="datetime-local"
    label={label}
    description={description}
    min={earliest && dayjs(earliest).add(1, 'minute').format(FIELD)}
    max={dayjs().format(FIELD)}
    value={at ? dayjs(at).format(FIELD) : ''}
    onChange={(event) => {
      const chosen = dayjs(event.currentTarget.value);
      choose(event.currentTarget.value && chosen.isValid() ? chosen.toISOString() : null);
    }}
  />
);
