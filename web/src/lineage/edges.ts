import type { LineageAnswer } from '@idrel/contract/lineage';
import { type Edge, MarkerType } from '@xyflow/react';

const DASH: Record<string, string> = { copied: '', transformed: '7 3', aggregated: '2 3', masked: '1 5' };

/** Edges between columns where both tables are unfolded; else one between the tables. */
export function toEdges(answer: LineageAnswer, unfolded: ReadonlySet<string>, way: ReadonlySet<string> | null): Edge[] {
  const edges = new Map<string, Edge>();
  const drawn = new Set<string>();
  for (const link of answer.links) {
    drawn.add(`${link.fromTable}>${link.toTable}`);
    const [source, target] = [
      unfolded.has(link.fromTable) && link.from !== link.fromTable ? `out-${link.from}` : 'out',
      unfolded.has(link.toTable) && link.to !== link.toTable ? `in-${link.to}` : 'in',
    ];
    const on = way ? way.has(link.from) && way.has(link.to) : true;
    const id = `${link.fromTable}:${source}>${link.toTable}:${target}`;
    const known = edges.get(id);
    if (known && (known.style?.opacity === 1 || !on)) continue;
    edges.set(id, {
      id,
      source: link.fromTable,
      target: link.toTable,
      sourceHandle: source,
      targetHandle: target,
      style: {
        stroke: on && way ? 'var(--kelp)' : 'var(--slate)',
        strokeWidth: on && way ? 2 : 1.1,
        strokeDasharray: DASH[link.kind] ?? '',
        opacity: on ? 1 : 0.15,
      },
      ariaLabel: link.kind,
      markerEnd: {
        type: MarkerType.ArrowClosed,
        color: on && way ? 'var(--kelp)' : 'var(--slate)',
        width: 14,
        height: 14,
      },
    });
  }
  for (const influence of answer.influences) {
    const pair = `${influence.fromTable}>${influence.toTable}`;
    if (influence.kind === 'unused' || drawn.has(pair) || influence.fromTable === influence.toTable) continue;
    drawn.add(pair);
    edges.set(`rows:${pair}`, {
      id: `rows:${pair}`,
      source: influence.fromTable,
      target: influence.toTable,
      sourceHandle: 'out',
      targetHandle: 'in',
      style: { stroke: 'var(--sand)', strokeWidth: 0.8, opacity: way ? 0.2 : 0.9 },
    });
  }
  return [...edges.values()];
}
