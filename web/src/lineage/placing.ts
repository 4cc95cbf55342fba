import type { LineageAnswer, LineageNode } from '@idrel/contract/lineage';
import ELK from 'elkjs/lib/elk-api.js';
import elkWorker from 'elkjs/lib/elk-worker.min.js?url';

export const NODE_WIDTH = 236;
export const HEAD = 40;
export const COLUMN = 22;
const LANE_GAP = 56;

/** Height of a table: its head, and its columns when it is unfolded. */
export const nodeHeight = (_node: LineageNode, columns: number): number =>
  HEAD + columns * COLUMN + (columns > 0 ? 6 : 0);

let elk: InstanceType<typeof ELK> | undefined;

export interface Placed {
  readonly at: ReadonlyMap<string, { x: number; y: number }>;
  readonly lanes: readonly { source: string; y: number; height: number; x: number; width: number }[];
}

/**
 * Places tables, and the flows between them, from left to right along the way of the data, in lanes by source. The layout is computed in a web worker.
 * @param heights height of each table as it is drawn
 */
export async function place(answer: LineageAnswer, heights: ReadonlyMap<string, number>): Promise<Placed> {
  elk ??= new ELK({ workerFactory: () => new Worker(elkWorker) });
  const known = new Set(answer.nodes.map((node) => node.id));
  const pairs = new Set<string>();
  for (const flow of answer.flows) {
    for (const from of flow.from) pairs.add(`${from}>${flow.id}`);
    for (const to of flow.to) pairs.add(`${flow.id}>${to}`);
  }
  for (const link of [...answer.links.filter(({ flow }) => flow === null), ...answer.influences])
    if (known.has(link.fromTable) && known.has(link.toTable) && link.fromTable !== link.toTable)
      pairs.add(`${link.fromTable}>${link.toTable}`);
  const laid = await elk.layout({
    id: 'root',
    layoutOptions: {
      'elk.algorithm': 'layered',
      'elk.direction': 'RIGHT',
      'elk.layered.spacing.nodeNodeBetweenLayers': '90',
      'elk.spacing.nodeNode': '22',
      'elk.layered.considerModelOrder.strategy': 'NODES_AND_EDGES',
    },
    children: [...answer.nodes, ...answer.flows].map((node) => ({
      id: node.id,
      width: NODE_WIDTH,
      height: heights.get(node.id) ?? HEAD,
    })),
    edges: [...pairs].map((pair) => {
      const [from = '', to = ''] = pair.split('>');
      return { id: pair, sources: [from], targets: [to] };
    }),
  });
  return inLanes(
    [...answer.nodes, ...answer.flows],
    new Map((laid.children ?? []).map((child) => [child.id, { x: child.x ?? 0, y: child.y ?? 0 }])),
    heights,
  );
}

/** Keeps the place from left to right and moves each source into a lane of its own, one below the other. */
function inLanes(
  nodes: readonly Pick<LineageNode, 'id' | 'source'>[],
  laid: ReadonlyMap<string, { x: number; y: number }>,
  heights: ReadonlyMap<string, number>,
): Placed {
  const sources = [...new Set(nodes.map((node) => node.source))];
  const leftmost = (source: string) =>
    Math.min(...nodes.filter((node) => node.source === source).map((node) => laid.get(node.id)?.x ?? 0));
  sources.sort((a, b) => leftmost(a) - leftmost(b));
  const at = new Map<string, { x: number; y: number }>();
  const lanes: { source: string; y: number; height: number; x: number; width: number }[] = [];
  const right = Math.max(...[...laid.values()].map((spot) => spot.x), 0) + NODE_WIDTH;
  let top = 0;
  for (const source of sources) {
    const mine = nodes.filter((node) => node.source === source);
    const first = Math.min(...mine.map((node) => laid.get(node.id)?.y ?? 0));
    let bottom = 0;
    for (const node of mine) {
      const spot = laid.get(node.id) ?? { x: 0, y: 0 };
      at.set(node.id, { x: spot.x, y: spot.y - first + top });
      bottom = Math.max(bottom, spot.y - first + (heights.get(node.id) ?? HEAD));
    }
    lanes.push({ source, y: top - 30, height: bottom + 46, x: -26, width: right + 52 });
    top += bottom + LANE_GAP + 20;
  }
  return { at, lanes };
}
