/** Something that has its place in a picture: so high, in the lane of its source. Lengths in pixels. */
export interface Box {
  readonly id: string;
  readonly lane: string;
  readonly height: number;
}
/** From left to right. */
export type Arrow = readonly [from: string, to: string];
export interface Measures {
  /** From the left side of a box to that of the next behind it. */
  readonly step: number;
  /** Between two boxes above each other. */
  readonly gap: number;
  /** Between two lanes. */
  readonly laneGap: number;
}
export interface LaidLane {
  readonly lane: string;
  readonly top: number;
  readonly height: number;
}
export interface Laid {
  /** The left upper corner of each box. */
  readonly at: ReadonlyMap<string, { readonly x: number; readonly y: number }>;
  /** From the top. */
  readonly lanes: readonly LaidLane[];
}

/** So often is each box drawn to what it is joined with, from the left and from the right in turn. */
const SWEEPS = 12;

/**
 * Lays a picture out from left to right along its arrows, in lanes one below the other: no box stands on another, an arrow leads to the right unless it closes a
 * circle, and what is joined stands as near as its neighbours leave room for. The same picture is laid out in the same way each time; time grows with the
 * number of boxes and arrows (times its logarithm, for sorting), see `npm run bench -- picture`.
 *
 * Layers by the longest way, after circles are opened (Sugiyama, Tagawa and Toda 1981); the order within a layer by the means of neighbours; places by the least
 * squares that keep order and distance (pool adjacent violators).
 * @param boxes each once; their order decides where nothing else does
 * @param arrows between boxes; others, and those to oneself, are passed over
 */
export function layOut(boxes: readonly Box[], arrows: readonly Arrow[], { step, gap, laneGap }: Measures): Laid {
  const number = new Map(boxes.map(({ id }, n) => [id, n]));
  const after = boxes.map((): number[] => []);
  const before = boxes.map((): number[] => []);
  for (const [from, to] of arrows) {
    const [a, b] = [number.get(from), number.get(to)];
    if (a === undefined || b === undefined || a === b || after[a]?.includes(b)) continue;
    after[a]?.push(b);
    before[b]?.push(a);
  }
  const layer = layersOf(after, before);
  const lanes = lanesOf(boxes, layer);
  /** In each lane and layer, from the top. */
  const stacks = new Map<string, number[]>();
  for (const [n, { lane }] of boxes.entries()) {
    const key = `${layer[n]} ${lane}`;
    const known = stacks.get(key);
    if (known) known.push(n);
    else stacks.set(key, [n]);
  }
  const inLayers = [...stacks].map(([key, members]) => ({ at: Number.parseInt(key, 10), members }));
  inLayers.sort((a, b) => a.at - b.at);
  /** Middles, within the lane. */
  const middle = new Float64Array(boxes.length);
  const heightOf = (n: number) => boxes[n]?.height ?? 0;
  const laneOf = (n: number) => boxes[n]?.lane;
  for (const { members } of inLayers) stack(members, heightOf, gap, middle, () => 0);
  for (let sweep = 0; sweep < SWEEPS; sweep += 1) {
    const forth = sweep % 2 === 0;
    const joined = (n: number): readonly number[] =>
      // The last ones look both ways: what comes from one table and goes to another stands between them.
      sweep >= SWEEPS - 2 ? [...(before[n] ?? []), ...(after[n] ?? [])] : ((forth ? before[n] : after[n]) ?? []);
    for (const { members } of forth ? inLayers : inLayers.toReversed())
      stack(members, heightOf, gap, middle, (n) => {
        // In the own lane it is a matter of places; in another one, of the order alone.
        const mine = joined(n).filter((other) => laneOf(other) === laneOf(n));
        const near = mine.length > 0 ? mine : joined(n);
        return near.length === 0 ? undefined : near.reduce((sum, other) => sum + (middle[other] ?? 0), 0) / near.length;
      });
  }
  const at = new Map<string, { x: number; y: number }>();
  const laid: LaidLane[] = [];
  let top = 0;
  for (const [lane, members] of lanes) {
    let [first, last] = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY];
    for (const n of members) {
      first = Math.min(first, (middle[n] ?? 0) - heightOf(n) / 2);
      last = Math.max(last, (middle[n] ?? 0) + heightOf(n) / 2);
    }
    for (const n of members)
      at.set(boxes[n]?.id ?? '', {
        x: (layer[n] ?? 0) * step,
        y: Math.round((middle[n] ?? 0) - heightOf(n) / 2 - first + top),
      });
    laid.push({ lane, top, height: Math.ceil(last - first) });
    top += Math.ceil(last - first) + laneGap;
  }
  return { at, lanes: laid };
}

/** In which layer each box stands: behind all that lead to it, circles left aside; what nothing leads to stands right before what it leads to. */
function layersOf(after: readonly (readonly number[])[], before: readonly (readonly number[])[]): Int32Array {
  const order = inOrder(after, before);
  const rank = new Int32Array(order.length);
  for (const [at, n] of order.entries()) rank[n] = at;
  const forth = (a: number, b: number) => (rank[a] ?? 0) < (rank[b] ?? 0);
  const layer = new Int32Array(order.length);
  for (const n of order)
    for (const next of after[n] ?? [])
      if (forth(n, next)) layer[next] = Math.max(layer[next] ?? 0, (layer[n] ?? 0) + 1);
  for (const n of order.toReversed()) {
    if ((before[n] ?? []).some((other) => forth(other, n))) continue;
    const next = (after[n] ?? []).filter((other) => forth(n, other)).map((other) => layer[other] ?? 0);
    if (next.length > 0) layer[n] = Math.min(...next) - 1;
  }
  return layer;
}

/** All boxes, each behind what leads to it; where circles are, the arrow that closes one leads back. Without recursion: ways are as long as there are boxes. */
function inOrder(after: readonly (readonly number[])[], before: readonly (readonly number[])[]): number[] {
  const done = new Uint8Array(after.length);
  const found: number[] = [];
  const starts = after
    .map((_, n) => n)
    .sort((a, b) => Number(before[a]?.length !== 0) - Number(before[b]?.length !== 0));
  for (const start of starts) {
    if (done[start]) continue;
    done[start] = 1;
    const way: { n: number; next: number }[] = [{ n: start, next: 0 }];
    while (way.length > 0) {
      const here = way.at(-1) as { n: number; next: number };
      const to = after[here.n]?.[here.next];
      here.next += 1;
      if (to === undefined) {
        found.push(here.n);
        way.pop();
      } else if (!done[to]) {
        done[to] = 1;
        way.push({ n: to, next: 0 });
      }
    }
  }
  return found.reverse();
}

/** Lanes with their boxes: those whose first box stands furthest left first, of equal ones in the order of the boxes. */
function lanesOf(boxes: readonly Box[], layer: Int32Array): [string, number[]][] {
  const lanes = new Map<string, number[]>();
  for (const [n, { lane }] of boxes.entries()) {
    const known = lanes.get(lane);
    if (known) known.push(n);
    else lanes.set(lane, [n]);
  }
  const leftmost = (members: readonly number[]) =>
    members.reduce((least, n) => Math.min(least, layer[n] ?? 0), Number.POSITIVE_INFINITY);
  return [...lanes].sort(([, a], [, b]) => leftmost(a) - leftmost(b));
}

/**
 * Puts boxes above each other in the order of where they want to be, each as near to that as the others leave room for: the least sum of squares. What wants to be
 * nowhere stays where it is, as far as it can.
 * @param members becomes sorted
 */
function stack(
  members: number[],
  heightOf: (n: number) => number,
  gap: number,
  middle: Float64Array,
  wantedOf: (n: number) => number | undefined,
): void {
  const wanted = new Map(members.map((n) => [n, wantedOf(n) ?? middle[n] ?? 0]));
  const want = (n: number) => wanted.get(n) ?? 0;
  members.sort((a, b) => want(a) - want(b) || a - b);
  /** How far below the first of the stack each has to stand, if nothing pulls. */
  let below = 0;
  const runs: { sum: number; count: number; members: { n: number; below: number }[] }[] = [];
  for (const [at, n] of members.entries()) {
    if (at > 0) below += (heightOf(members[at - 1] ?? n) + heightOf(n)) / 2 + gap;
    runs.push({ sum: want(n) - below, count: 1, members: [{ n, below }] });
    for (;;) {
      const [last, prior] = [runs.at(-1), runs.at(-2)];
      if (!last || !prior || prior.sum / prior.count <= last.sum / last.count) break;
      runs.pop();
      prior.sum += last.sum;
      prior.count += last.count;
      prior.members.push(...last.members);
    }
  }
  for (const run of runs) for (const one of run.members) middle[one.n] = run.sum / run.count + one.below;
}
