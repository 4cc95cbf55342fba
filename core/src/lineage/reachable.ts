/** A picture of more tables is none: beside the one it is about so many are shown, the nearest, and each says how many more there are. */
export const PICTURE_MOST = 2000;
/** Of more tables, columns are told of those that are unfolded alone. */
export const PICTURE_WITH_COLUMNS = 250;

/** One step that a value takes, between any two things with an identity. */
export interface Step<T> {
  readonly from: string;
  readonly to: string;
  readonly edge: T;
}

/** A thing that is reached, with its distance in steps and the first (shortest) way to it. */
export interface Reached {
  readonly id: string;
  readonly distance: number;
  /** Identities from the start to this one, both included. */
  readonly path: readonly string[];
}

/**
 * Everything downstream (or upstream) of a start, breadth first, each thing once with a shortest path. Cycles end where they close.
 *
 * @param steps all steps known; order does not matter
 * @param direction `downstream` follows from → to, `upstream` the other way
 */
export function reachable<T>(steps: Iterable<Step<T>>, start: string, direction: 'downstream' | 'upstream'): Reached[] {
  const next = new Map<string, string[]>();
  for (const step of steps) {
    const [at, to] = direction === 'downstream' ? [step.from, step.to] : [step.to, step.from];
    const known = next.get(at);
    if (known) known.push(to);
    else next.set(at, [to]);
  }
  const cameFrom = new Map<string, string | undefined>([[start, undefined]]);
  const order: Reached[] = [];
  let frontier = [start];
  for (let distance = 1; frontier.length > 0; distance += 1) {
    const following: string[] = [];
    for (const at of frontier) {
      for (const to of next.get(at) ?? []) {
        if (cameFrom.has(to)) continue;
        cameFrom.set(to, at);
        order.push({ id: to, distance, path: pathTo(cameFrom, to) });
        following.push(to);
      }
    }
    frontier = following;
  }
  return order;
}

function pathTo(cameFrom: ReadonlyMap<string, string | undefined>, id: string): string[] {
  const path: string[] = [];
  for (let at: string | undefined = id; at !== undefined; at = cameFrom.get(at)) path.unshift(at);
  return path;
}
