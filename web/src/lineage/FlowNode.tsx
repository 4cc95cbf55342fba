import type { LineageFlow } from '@idrel/contract/lineage';
import { Group } from '@mantine/core';
import { Handle, type NodeProps, Position } from '@xyflow/react';
import { KindMark, Name, When } from '../marks/index.tsx';
import { FarName } from './FarName.tsx';
import { HEAD, NODE_WIDTH } from './placing.ts';

export interface FlowData extends Record<string, unknown> {
  node: LineageFlow;
  focus: boolean;
  found: boolean;
  quiet: boolean;
  open: (id: string) => void;
}

/** A flow on the canvas, between the tables that it reads and writes: how its last run ended stands on it. */
export function FlowNode({ data: { node, focus, found, quiet, open } }: NodeProps & { data: FlowData }) {
  const failed = node.lastRun?.state === 'failed';
  const handle = (type: 'source' | 'target', position: Position, id: string) => (
    <Handle type={type} position={position} id={id} style={{ opacity: 0 }} isConnectable={false} />
  );
  return (
    <div
      className={`flow-node${focus ? ' focus' : ''}${found ? ' found' : ''}`}
      style={{ width: NODE_WIDTH, opacity: quiet ? 0.42 : 1 }}
    >
      {handle('target', Position.Left, 'in')}
      {handle('source', Position.Right, 'out')}
      <FarName name={node.name} />
      <Group h={HEAD} px={8} gap={6} className="near">
        <KindMark kind={node.kind} />
        <button type="button" className="linkish grow cut" onClick={() => open(node.id)} title="Show what it does">
          <Name text={node.name} most={20} />
        </button>
        {node.lastRun ? (
          <span className={failed ? 'attention small' : 'quiet small'} title={node.lastRun.message ?? undefined}>
            {node.lastRun.state} <When at={node.lastRun.at} />
          </span>
        ) : null}
      </Group>
    </div>
  );
}
