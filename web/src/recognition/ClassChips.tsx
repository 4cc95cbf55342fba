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
        <span className="chip" title={classes.slice(most).map(labelOf).join(', ')}>
          +{classes.length - most}
        </span>
      ) : null}
    </span>
  );
}
