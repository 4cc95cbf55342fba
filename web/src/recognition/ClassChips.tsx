import { Tooltip } from '@mantine/core';
import { useClassLabel } from './classLabels.ts';

/** The classes that something carries, the first of them by name. */
export function ClassChips({ classes, most = 3 }: { classes: readonly string[]; most?: number }) {
  const labelOf = useClassLabel();
  return (
    <span className="chips">
      {classes.slice(0, most).map((key) => (
        <span key={key} className="chip">
          {labelOf(key)}
        </span>
      ))}
      {classes.length > most ? (
        <Tooltip label={classes.slice(most).map(labelOf).join(', ')}>
          <span className="chip">+{classes.length - most}</span>
        </Tooltip>
      ) : null}
    </span>
  );
}
