import type { LineageAnswer } from '@idrel/contract/lineage';
import { MiniMap, type MiniMapNodeProps } from '@xyflow/react';
import { useMemo } from 'react';
import { HEAD, NODE_WIDTH, type Placed } from './placing.ts';

/** Boxes as one drawing: thousands of them are painted as quickly as one, whenever the frame around what is in view moves. */
const boxes = (spots: readonly { readonly x: number; readonly y: number; readonly height: number }[]): string =>
  spots.map(({ x, y, height }) => `M${x} ${y}h${NODE_WIDTH}v${height}h${-NODE_WIDTH}z`).join('');

/** The whole picture in small, with the part in view framed; it can be dragged. */
export function Overview({
  answer,
  placed,
  heights,
  focus,
}: {
  answer: LineageAnswer;
  placed: Placed;
  heights: ReadonlyMap<string, number>;
  focus: string;
}) {
  const Lane = useMemo(() => {
    const spots = new Map<string, { x: number; y: number; height: number }[]>();
    for (const { id, source } of [...answer.nodes, ...answer.flows]) {
      const at = placed.at.get(id);
      if (!at || id === focus) continue;
      const known = spots.get(source) ?? [];
      spots.set(source, known);
      known.push({ ...at, height: heights.get(id) ?? HEAD });
    }
    const drawn = new Map([...spots].map(([source, list]) => [`lane-${source}`, boxes(list)]));
    const own = placed.at.get(focus);
    return function OverviewLane({ id }: MiniMapNodeProps) {
      if (id === focus && own)
        return <path d={boxes([{ ...own, height: heights.get(id) ?? HEAD }])} fill="var(--kelp)" />;
      const d = drawn.get(id);
      return d ? <path d={d} fill="var(--slate)" /> : null;
    };
  }, [answer, placed, heights, focus]);
  return (
    <MiniMap
      pannable
      zoomable
      position="bottom-right"
      ariaLabel="Overview: the part in view is framed"
      nodeComponent={Lane}
      maskColor="color-mix(in srgb, var(--ground) 70%, transparent)"
      bgColor="var(--panel)"
      className="overview"
    />
  );
}
