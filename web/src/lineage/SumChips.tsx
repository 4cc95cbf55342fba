import { Group, SegmentedControl } from '@mantine/core';
import { count } from '../marks/index.tsx';
import { SUMS, type SumBy, type Summed, sumsOf } from './sums.ts';

/** So many sums are shown, the largest. */
const SHOWN = 12;

/** By what a list is summed. */
export const SumBySwitch = ({ by, setBy }: { by: SumBy; setBy: (by: SumBy) => void }) => (
  <SegmentedControl
    aria-label="Summed by"
    size="xs"
    value={by}
    onChange={(value) => setBy(value as SumBy)}
    data={SUMS.map((value) => ({ value, label: `By ${value}` }))}
  />
);

/** The sums of a list; each narrows it to its own rows. */
export function SumChips({
  rows,
  by,
  only,
  setOnly,
}: {
  rows: readonly Summed[];
  by: SumBy;
  only: string | null;
  setOnly: (only: string | null) => void;
}) {
  const sums = sumsOf(rows, by);
  return (
    <Group gap={4} wrap="wrap" role="group" aria-label={`Sums by ${by}`}>
      {sums.slice(0, SHOWN).map(({ value, rows: many }) => (
        <button
          key={value}
          type="button"
          className={`chip${only === value ? ' on' : ''}`}
          aria-pressed={only === value}
          onClick={() => setOnly(only === value ? null : value)}
        >
          {value} {count(many)}
        </button>
      ))}
      {sums.length > SHOWN ? <span className="quiet small">and {count(sums.length - SHOWN)} more</span> : null}
    </Group>
  );
}
