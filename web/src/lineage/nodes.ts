import type { LineageAnswer, LineageColumn } from '@idrel/contract/lineage';
import { type Node, Position } from '@xyflow/react';
import type { FlowData } from './FlowNode.tsx';
import type { Group } from './folding.ts';
import type { GroupData } from './GroupNode.tsx';
import { COLUMN, COLUMNS_FROM, HEAD, NODE_WIDTH, type Placed } from './placing.ts';
import type { TableData } from './TableNode.tsx';

/** What stands in the picture, and how it is looked at. */
export interface Scene {
  readonly answer: LineageAnswer;
  readonly placed: Placed;
  readonly groups: ReadonlyMap<string, Group>;
  readonly heights: ReadonlyMap<string, number>;
  readonly unfolded: ReadonlySet<string>;
  readonly focus: string;
  /** Columns on the way of the one that is followed; null: none is. */
  readonly way: ReadonlySet<string> | null;
  readonly column: string | null;
  /** What fits what is sought. */
  readonly found: ReadonlySet<string>;
  /** What a search marks; null: nothing is marked. */
  readonly marked: ReadonlySet<string> | null;
  readonly follow: (column: string) => void;
  readonly open: (id: string) => void;
  readonly unfold: (id: string, on: boolean) => void;
  readonly toggle: (group: string) => void;
}

/** Sides of the places at which edges begin and end; a line is drawn to their outer border. */
const [OF_TABLE, OF_OTHERS] = [9, 6];

/**
 * Where edges begin and end: told beforehand, so that only what is in view is drawn; else each node would be drawn once, to be measured.
 * @param columns those that are unfolded
 */
function endsOf(side: number, columns: readonly LineageColumn[] = []): NonNullable<Node['handles']> {
  const both = (id: string, middle: number, inset: number): NonNullable<Node['handles']> =>
    (['in', 'out'] as const).map((end) => ({
      id: end + id,
      type: end === 'in' ? ('target' as const) : ('source' as const),
      position: end === 'in' ? Position.Left : Position.Right,
      x: end === 'in' ? inset - side / 2 : NODE_WIDTH - inset - side / 2,
      y: middle - side / 2,
      width: side,
      height: side,
    }));
  return [
    ...both('', HEAD / 2, 0),
    // Columns stand within the border of their table.
    ...columns.flatMap(({ id }, row) => both(`-${id}`, COLUMNS_FROM + row * COLUMN + COLUMN / 2, 1)),
  ];
}

/** The lanes, groups, tables and flows of a picture as what is drawn. */
export function toNodes(scene: Scene): Node[] {
  const { answer, placed, groups, heights, unfolded, focus, way, column, found, marked, follow, open, unfold } = scene;
  const common = (id: string, height: number) => ({
    id,
    // What is not in view is fitted into it by this.
    measured: { width: NODE_WIDTH, height },
    position: placed.at.get(id) ?? { x: 0, y: 0 },
    draggable: true,
    focusable: false,
  });
  const carried = new Set(way === null ? [] : answer.links.filter(({ to }) => way.has(to)).map(({ flow }) => flow));
  return [
    ...placed.lanes.map(
      (lane): Node => ({
        id: `lane-${lane.source}`,
        type: 'lane',
        position: { x: lane.x, y: lane.y },
        measured: { width: lane.width, height: lane.height },
        handles: [],
        data: { width: lane.width, height: lane.height },
        draggable: false,
        selectable: false,
        focusable: false,
        zIndex: -1,
      }),
    ),
    ...answer.nodes.map((node): Node => {
      const group = groups.get(node.id);
      if (group)
        return {
          ...common(node.id, HEAD),
          type: 'group-of-tables',
          handles: endsOf(OF_OTHERS),
          data: {
            node,
            group,
            found: found.has(node.id),
            marked: marked && group.members.filter(({ id }) => marked.has(id)).length,
            quiet: way !== null,
            unfold: scene.toggle,
          } satisfies GroupData,
        };
      const on = unfolded.has(node.id);
      return {
        ...common(node.id, heights.get(node.id) ?? HEAD),
        type: 'table',
        handles: endsOf(OF_TABLE, on ? node.columns : []),
        data: {
          node,
          unfolded: on,
          focus: node.id === focus,
          found: found.has(node.id),
          marked: marked?.has(node.id) ?? false,
          way,
          column,
          follow,
          open,
          unfold: (id) => unfold(id, !on),
        } satisfies TableData,
      };
    }),
    ...answer.flows.map(
      (node): Node => ({
        ...common(node.id, HEAD),
        type: 'flow',
        handles: endsOf(OF_OTHERS),
        data: {
          node,
          focus: node.id === focus,
          found: found.has(node.id),
          quiet: way !== null && !carried.has(node.id),
          open,
        } satisfies FlowData,
      }),
    ),
  ];
}
