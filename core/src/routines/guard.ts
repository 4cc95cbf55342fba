/** When a routine asks a person before it goes on. */
export interface Guard {
  /** More changes in a run than this; null: no limit of its own. */
  readonly most: number | null;
  /** So many times as many as in any run of late; null: however many. */
  readonly times: number | null;
}

/** So many changes a run may make, and whether that follows from what is usual. */
export interface Limit {
  readonly most: number;
  readonly usual: boolean;
}

/** So few changes are never unusual: a routine that mostly finds one asset may find ten. */
const ALWAYS = 20;

/**
 * How many changes a run may make before a person is asked.
 * @param past changes of its last runs; of one that never ran, none
 * @param expected changes that were seen when it was saved: what counts as usual until it has run
 * @returns the narrower of both limits; null where nothing is guarded
 */
export function limitOf({ most, times }: Guard, past: readonly number[], expected: number): Limit | null {
  const usual = times === null ? null : Math.max(ALWAYS, times * Math.max(expected, ...past));
  if (most !== null && (usual === null || most <= usual)) return { most, usual: false };
  return usual === null ? null : { most: usual, usual: true };
}
