import { type Edge, ViewportPortal } from '@xyflow/react';
import { useMemo } from 'react';
import { HEAD, NODE_WIDTH, type Placed } from './placing.ts';

/** Edges from head to head, those that look alike as one drawing: of a large picture seen from afar thousands are in view, and nobody points at one. */
export function FarEdges({ edges, placed }: { edges: readonly Edge[]; placed: Placed }) {
  const drawn = useMemo(() => {
    const alike = new Map<string, { style: Edge['style']; lines: Set<string> }>();
    for (const { source, target, style } of edges) {
      const [from, to] = [placed.at.get(source), placed.at.get(target)];
      if (!from || !to) continue;
      const key = JSON.stringify([style?.stroke, style?.opacity]);
      const known = alike.get(key) ?? { style, lines: new Set<string>() };
      alike.set(key, known);
      const [x, y, toX, toY] = [from.x + NODE_WIDTH, from.y + HEAD / 2, to.x, to.y + HEAD / 2];
      const bend = Math.max(40, Math.abs(toX - x) / 2);
      known.lines.add(`M${x} ${y}C${x + bend} ${y} ${toX - bend} ${toY} ${toX} ${toY}`);
    }
    return [...alike].map(([key, { style, lines }]) => ({ key, style, d: [...lines].join('') }));
  }, [edges, placed]);
  return (
    <ViewportPortal>
      <svg className="far-edges" aria-hidden="true">
        {drawn.map(({ key, style, d }) => (
          <path key={key} d={d} fill="none" stroke={style?.stroke} opacity={style?.opacity} />
        ))}
      </svg>
    </ViewportPortal>
  );
}
