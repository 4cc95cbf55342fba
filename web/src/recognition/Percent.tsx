import { NumberField } from '../marks/NumberField.tsx';

export const percent = (part: number) => `${Math.round(part * 1000) / 10} %`;

/** A share that people write in percent. */
export const Percent = ({
  label,
  description,
  value,
  put,
  least,
}: {
  label: string;
  description?: string;
  value: number;
  put: (part: number) => void;
  least: number;
}) => (
  <NumberField
    label={label}
    description={description}
    suffix=" %"
    min={least}
    max={100}
    step={1}
    decimalScale={1}
    value={Math.round(value * 1000) / 10}
    put={(given) => put(Math.round(given * 10) / 1000)}
  />
);
