import { layOut } from '@idrel/core/lineage/layout';
import Elk from 'elkjs/lib/elk.bundled.js';
import { inTurn, tell } from './lib.mjs';

/** As the interface draws tables: so wide, so far apart. */
const [WIDTH, STEP, GAP, LANES] = [236, 326, 22, 76];
/** Ten layers of a warehouse, from four sources; one edge in five leaps over layers. */
const LAYERS = 10;

/** A picture of so many folded tables, the same each time. */
export function picture(tables) {
  let seed = 7;
  const chance = () => {
    seed = (seed * 1103515245 + 12345) % 2147483648;
    return seed / 2147483648;
  };
  const wide = tables / LAYERS;
  const arrows = [];
  for (let n = wide; n < tables; n += 1) {
    const layer = Math.floor(n / wide);
    for (let k = 0; k < 1 + Math.floor(chance() * 2); k += 1) {
      const back = chance() < 0.8 ? 1 : 1 + Math.floor(chance() * layer);
      arrows.push([`n${Math.floor((layer - back) * wide + chance() * wide)}`, `n${n}`]);
    }
  }
  const boxes = Array.from({ length: tables }, (_, n) => ({
    id: `n${n}`,
    lane: `source ${Math.floor((n / tables) * 4)}`,
    height: 40,
  }));
  return { boxes, arrows };
}

/** Lines that cross each other, of those between neighbouring layers of one lane: fewer is easier to read. */
function crossings({ boxes, arrows }, at) {
  const lane = new Map(boxes.map(({ id, lane: of }) => [id, of]));
  const near = arrows
    .filter(([from, to]) => lane.get(from) === lane.get(to))
    .map(([from, to]) => [at(from), at(to)])
    .filter(([from, to]) => from.x < to.x);
  const layers = new Map();
  for (const [from, to] of near) {
    const key = `${Math.round(from.x)} ${Math.round(to.x)}`;
    layers.set(key, [...(layers.get(key) ?? []), [from.y, to.y]]);
  }
  let found = 0;
  for (const lines of layers.values())
    for (const [n, [a, b]] of lines.entries())
      for (const [c, d] of lines.slice(n + 1)) if ((a - c) * (b - d) < 0) found += 1;
  return found;
}

/**
 * Pictures of lineage laid out: as the interface lays them out, and by a well-kept library for layered graphs (elkjs) with the settings that cost it least; of
 * both, how many lines cross. @returns lines of the table
 */
export async function run() {
  const lines = [];
  for (const [tables, goal] of [
    [250, '–'],
    [2000, 'under 1500 ms'],
  ]) {
    const made = picture(tables);
    let laid;
    let theirs;
    const elk = new Elk();
    const [own, other] = await inTurn(tables > 1000 ? 3 : 7, [
      () => {
        laid = layOut(made.boxes, made.arrows, { step: STEP, gap: GAP, laneGap: LANES });
      },
      async () => {
        theirs = await elk.layout({
          id: 'root',
          layoutOptions: {
            'elk.algorithm': 'layered',
            'elk.direction': 'RIGHT',
            'elk.layered.crossingMinimization.greedySwitch.type': 'OFF',
            'elk.layered.thoroughness': '1',
            'elk.layered.nodePlacement.strategy': 'SIMPLE',
            'elk.edgeRouting': 'POLYLINE',
          },
          children: made.boxes.map(({ id, height }) => ({ id, width: WIDTH, height })),
          edges: made.arrows.map(([from, to], n) => ({ id: `e${n}`, sources: [from], targets: [to] })),
        });
      },
    ]);
    const spots = new Map(theirs.children.map(({ id, x, y }) => [id, { x, y }]));
    const [ours, beside] = [crossings(made, (id) => laid.at.get(id)), crossings(made, (id) => spots.get(id))];
    lines.push(
      tell(
        `A picture of ${tables} folded tables with ${made.arrows.length} edges laid out, against elkjs at its quickest; lines that cross within a source: ${ours}, against ${beside}`,
        own,
        other,
        goal,
      ),
    );
  }
  return lines.join('\n');
}
