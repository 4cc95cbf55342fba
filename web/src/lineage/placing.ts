import type { LineageAnswer, LineageNode } from '@idrel/contract/lineage';
import type { Laid, Measures } from '@idrel/core/lineage/layout';
import type { ToLayOut } from './layout.worker.ts';

export const NODE_WIDTH = 236;
export const HEAD = 40;
export const COLUMN = 22;
/** So far below the upper border of a table its first column begins: below its head, between two lines. */
export const COLUMNS_FROM = HEAD + 2;
const MEASURES: Measures = { step: NODE_WIDTH + 90, gap: 22, laneGap: 76 };

/** Height of a table: its head, and its columns when it is unfolded. */
export const nodeHeight = (_node: LineageNode, columns: number): number =>
  HEAD + columns * COLUMN + (columns > 0 ? 6 : 0);

/** What has been asked of the worker, and waits for its answer. */
const waiting = new Map<number, (laid: Laid) => void>();
let worker: Worker | undefined;
let last = 0;

/** Lays out in a worker: however large the picture is, the page goes on answering. */
function laidOut(boxes: ToLayOut['boxes'], arrows: ToLayOut['arrows']): Promise<Laid> {
  if (!worker) {
    worker = new Worker(new URL('./layout.worker.ts', import.meta.url), { type: 'module' });
    worker.onmessage = ({ data }: MessageEvent<{ number: number; laid: Laid }>) => {
      waiting.get(data.number)?.(data.laid);
      waiting.delete(data.number);
    };
  }
  last += 1;
  worker.postMessage({ number: last, boxes, arrows, measures: MEASURES } satisfies ToLayOut);
  const number = last;
  return new Promise((resolve) => waiting.set(number, resolve));
}

export interface Placed {
  readonly at: ReadonlyMap<string, { x: number; y: number }>;
  readonly lanes: readonly { source: string; y: number; height: number; x: number; width: number }[];
}

/**
 * Places tables, and the flows between them, from left to right along the way of the data, in lanes by source. The layout is computed in a web worker.
 * @param heights height of each table as it is drawn
 */
export async function place(answer: LineageAnswer, heights: ReadonlyMap<string, number>): Promise<Placed> {
  const arrows: [string, string][] = [];
  for (const flow of answer.flows) {
    for (const from of flow.from) arrows.push([from, flow.id]);
    for (const to of flow.to) arrows.push([flow.id, to]);
  }
  for (const link of [...answer.links.filter(({ flow }) => flow === null), ...answer.influences])
    arrows.push([link.fromTable, link.toTable]);
  // In whatever order they were told: pictures of the same are the same.
  const boxes = [...answer.nodes, ...answer.flows]
    .sort((a, b) => (a.path < b.path ? -1 : a.path > b.path ? 1 : 0))
    .map(({ id, source }) => ({ id, lane: source, height: heights.get(id) ?? HEAD }));
  const order = new Map(boxes.map(({ id }, n) => [id, n]));
  const byEnds = distinct(arrows).sort(
    (a, b) => (order.get(a[0]) ?? 0) - (order.get(b[0]) ?? 0) || (order.get(a[1]) ?? 0) - (order.get(b[1]) ?? 0),
  );
  const { at, lanes } = await laidOut(boxes, byEnds);
  const right = Math.max(0, ...[...at.values()].map(({ x }) => x)) + NODE_WIDTH;
  return {
    at,
    lanes: lanes.map(({ lane, top, height }) => ({
      source: lane,
      x: -26,
      y: top - 30,
      width: right + 52,
      height: height + 46,
    })),
  };
}

/** Each pair once: between two tables there are as many edges as columns. */
const distinct = (pairs: readonly [string, string][]): [string, string][] =>
  [...new Set(pairs.map((pair) => pair.join('>')))].map((pair) => pair.split('>') as [string, string]);
