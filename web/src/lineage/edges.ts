import type { LineageAnswer, LineageLink } from '@idrel/contract/lineage';
import { type Edge, MarkerType } from '@xyflow/react';

const DASH: Record<string, string> = { copied: '', transformed: '7 3', aggregated: '2 3', masked: '1 5' };

/** A node, and its handle. */
type End = readonly [node: string, handle: string];
type Change = LineageLink['change'];

/** Of an edge that stands for several: what became of them all, in a word; null when nothing did. */
function becameOf(changes: ReadonlySet<Change>): 'came' | 'went' | 'changed' | null {
  if (changes.size > 1) return 'changed';
  const [only = null] = changes;
  return only;
}

/** How a comparison with an earlier moment is drawn: always with the word, never by colour alone. */
const COMPARED = { came: 'var(--kelp)', went: 'var(--buoy)', changed: 'var(--sand)' } as const;

const labelled = (label: string, fill: string) => ({
  label,
  labelStyle: { fill, fontSize: 11 },
  labelBgStyle: { fill: 'var(--ground)' },
});

/**
 * Edges between columns where tables are unfolded, else one between the tables; through the flow that carries the value, where one stands between them. In a picture
 * that is told between tables a hundred may lead to each column: there both tables must be unfolded.
 */
export function toEdges(answer: LineageAnswer, unfolded: ReadonlySet<string>, way: ReadonlySet<string> | null): Edge[] {
  const edges = new Map<string, Edge>();
  const changes = new Map<string, Set<Change>>();
  const drawn = new Set<string>();
  const became = (id: string, change: Change): void => {
    changes.set(id, (changes.get(id) ?? new Set()).add(change));
  };
  const draw = (
    [source, out]: End,
    [target, into]: End,
    { kind, wrong, said, change }: Pick<LineageLink, 'kind' | 'wrong' | 'said' | 'change'>,
    on: boolean,
  ): void => {
    const id = `${source}:${out}>${target}:${into}`;
    became(id, change);
    const known = edges.get(id);
    if (known && (known.style?.opacity === 1 || !on)) return;
    edges.set(id, {
      id,
      source,
      target,
      sourceHandle: out,
      targetHandle: into,
      style: {
        stroke: wrong ? 'var(--buoy)' : on && way ? 'var(--kelp)' : said ? 'var(--heather)' : 'var(--slate)',
        strokeWidth: on && way ? 2 : 1.1,
        strokeDasharray: DASH[kind] ?? '',
        opacity: wrong ? 0.45 : on ? 1 : 0.15,
      },
      ...(wrong ? labelled('wrong', 'var(--buoy)') : {}),
      ariaLabel: wrong ? `${kind}, said to be wrong` : said ? `${kind}, said by a person` : kind,
      markerEnd: {
        type: MarkerType.ArrowClosed,
        color: on && way ? 'var(--kelp)' : 'var(--slate)',
        width: 14,
        height: 14,
      },
    });
  };
  for (const link of answer.links) {
    drawn.add(`${link.fromTable}>${link.toTable}`);
    const open = (table: string) =>
      unfolded.has(table) && (!answer.coarse || (unfolded.has(link.fromTable) && unfolded.has(link.toTable)));
    const from: End = [
      link.fromTable,
      open(link.fromTable) && link.from !== link.fromTable ? `out-${link.from}` : 'out',
    ];
    const to: End = [link.toTable, open(link.toTable) && link.to !== link.toTable ? `in-${link.to}` : 'in'];
    const on = way ? way.has(link.from) && way.has(link.to) : true;
    if (link.flow === null) draw(from, to, link, on);
    else {
      // What happens to the value happens in the flow: it comes as it is.
      draw(from, [link.flow, 'in'], { ...link, kind: 'copied' }, on);
      draw([link.flow, 'out'], to, link, on);
    }
  }
  for (const influence of answer.influences) {
    const pair = `${influence.fromTable}>${influence.toTable}`;
    if (influence.kind === 'unused' || drawn.has(pair) || influence.fromTable === influence.toTable) continue;
    const id = `rows:${pair}`;
    became(id, influence.change);
    edges.set(id, {
      id,
      source: influence.fromTable,
      target: influence.toTable,
      sourceHandle: 'out',
      targetHandle: 'in',
      style: { stroke: 'var(--sand)', strokeWidth: 0.8, opacity: way ? 0.2 : 0.9 },
    });
  }
  return [...edges.values()].map((edge) => {
    const what = becameOf(changes.get(edge.id) ?? new Set());
    if (!what) return edge;
    const color = COMPARED[what];
    return {
      ...edge,
      ...labelled(what, color),
      style: { ...edge.style, stroke: color, strokeWidth: 2, ...(what === 'went' ? { strokeDasharray: '3 4' } : {}) },
      ariaLabel: `${edge.ariaLabel ?? 'decides rows'}, ${what}`,
      zIndex: 1,
    };
  });
}
