import { NumberInput, type NumberInputProps } from '@mantine/core';
import { useState } from 'react';

type Shown = Pick<
  NumberInputProps,
  | 'label'
  | 'aria-label'
  | 'description'
  | 'placeholder'
  | 'disabled'
  | 'error'
  | 'step'
  | 'suffix'
  | 'decimalScale'
  | 'w'
>;
type Held =
  | { readonly value: number; readonly put: (value: number) => void; readonly optional?: false }
  /** Empty means none. */
  | { readonly value: number | null; readonly put: (value: number | null) => void; readonly optional: true };

/** A number within bounds. While it is typed it may be empty or out of them, as on the way from 10 to 500; what is given on is always within. */
export function NumberField({
  min,
  max,
  value,
  put,
  optional,
  ...shown
}: Shown & Held & { readonly min: number; readonly max: number }) {
  const [typed, setTyped] = useState<string | number>();
  return (
    <NumberInput
      {...shown}
      min={min}
      max={max}
      allowDecimal={shown.decimalScale !== undefined}
      value={typed ?? value ?? ''}
      onChange={(given) => {
        const within = typeof given === 'number' && given >= min && given <= max;
        setTyped(within ? undefined : given);
        if (within) put(given);
        else if (given === '' && optional) put(null);
      }}
      onBlur={() => setTyped(undefined)}
    />
  );
}
