import type { LineageNode } from '@idrel/contract/lineage';
import { Group } from '@mantine/core';
import { Handle, type NodeProps, Position } from '@xyflow/react';
import { Gravest, KindMark, Name, plural } from '../marks/index.tsx';
import { FarName } from './FarName.tsx';
import { COLUMN, HEAD, NODE_WIDTH } from './placing.ts';

export interface TableData extends Record<string, unknown> {
  node: LineageNode;
  unfolded: boolean;
  focus: boolean;
  /** Fits what is sought in the picture. */
  found: boolean;
  /** Is what a search finds that marks. */
  marked: boolean;
  way: ReadonlySet<string> | null;
  column: string | null;
  unfold: (id: string) => void;
  follow: (column: string) => void;
  open: (id: string) => void;
}

/** A table on the canvas; unfolded it shows its columns, each of which can be followed. */
export function TableNode({ data }: NodeProps & { data: TableData }) {
  const { node, unfolded, focus, found, marked, way, column } = data;
  const quiet = way !== null && !node.columns.some((entry) => way.has(entry.id));
  return (
    <div
      className={marked ? 'marked' : ''}
      style={{
        width: NODE_WIDTH,
        border: `1px solid ${focus ? 'var(--kelp)' : 'var(--line-strong)'}`,
        borderRadius: 3,
        background: 'var(--panel)',
        opacity: quiet ? 0.42 : 1,
        boxShadow: found ? '0 0 0 3px var(--sand)' : focus ? '0 0 0 1px var(--kelp)' : 'none',
      }}
    >
      <Handle type="target" position={Position.Left} id="in" className="end" style={{ top: HEAD / 2 }} />
      <Handle type="source" position={Position.Right} id="out" className="end" style={{ top: HEAD / 2 }} />
      <FarName name={node.name} />
      <Group h={HEAD} px={8} gap={6} className="near">
        <KindMark kind={node.kind} />
        <button
          type="button"
          className="linkish grow cut"
          style={{ textAlign: 'left', color: 'var(--ink)' }}
          onClick={() => data.open(node.id)}
          title="Show what it does"
        >
          <span
            className={node.goneAt ? 'gone' : `standing ${node.standing}`}
            title={node.goneAt ? 'gone' : node.standing}
          >
            <Name text={node.path} most={24} />
          </span>
        </button>
        {marked ? <span className="hidden-visually">marked</span> : null}
        <Gravest notices={node.notices} />
        {node.problems.length > 0 ? (
          <span className="attention" title={node.problems.join('\n')}>
            !
          </span>
        ) : null}
        <button
          type="button"
          className="linkish"
          aria-expanded={unfolded}
          aria-label={`${unfolded ? 'Fold' : 'Unfold'} ${node.path}: ${plural(node.columnCount, 'column')}`}
          onClick={() => data.unfold(node.id)}
        >
          <span aria-hidden="true">{unfolded ? '▴' : '▾'}</span> {node.columnCount}
        </button>
      </Group>
      {unfolded ? (
        <ul className="flat columns near">
          {node.columns.map((entry) => (
            <li key={entry.id} style={{ position: 'relative', height: COLUMN }}>
              <Handle type="target" position={Position.Left} id={`in-${entry.id}`} className="end" />
              <Handle type="source" position={Position.Right} id={`out-${entry.id}`} className="end" />
              <button
                type="button"
                className="mono cut"
                aria-pressed={column === entry.id}
                onClick={() => data.follow(entry.id)}
                style={{
                  display: 'flex',
                  justifyContent: 'space-between',
                  gap: 8,
                  width: '100%',
                  height: COLUMN,
                  alignItems: 'center',
                  border: 0,
                  cursor: 'pointer',
                  padding: '0 8px',
                  color: 'var(--ink)',
                  background: way?.has(entry.id) ? 'var(--kelp-soft)' : 'none',
                  fontWeight: column === entry.id ? 700 : 400,
                }}
              >
                <span className="cut">{entry.name}</span>
                {entry.classes.length > 0 ? (
                  <span className="kind" title={entry.classes.join(', ')}>
                    {entry.classes[0]?.slice(0, 2)}
                  </span>
                ) : null}
              </button>
            </li>
          ))}
        </ul>
      ) : null}
    </div>
  );
}
