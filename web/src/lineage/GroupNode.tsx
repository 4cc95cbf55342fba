import type { LineageNode } from '@idrel/contract/lineage';
import { Group as Row } from '@mantine/core';
import { Handle, type NodeProps, Position } from '@xyflow/react';
import { Gravest, KindMark, Level, Name, plural } from '../marks/index.tsx';
import { FarName } from './FarName.tsx';
import type { Group } from './folding.ts';
import { HEAD, NODE_WIDTH } from './placing.ts';

export interface GroupData extends Record<string, unknown> {
  node: LineageNode;
  group: Group;
  found: boolean;
  /** How many of its tables are marked; null: nothing is marked. */
  marked: number | null;
  quiet: boolean;
  unfold: (id: string) => void;
}

/** Tables that stand in the picture as one, with the highest level and the gravest notice among them. */
export function GroupNode({ data: { node, group, found, marked, quiet, unfold } }: NodeProps & { data: GroupData }) {
  const tables = plural(group.members.length, 'table');
  return (
    <div
      className={`group-node${found ? ' found' : ''}${marked ? ' marked' : ''}`}
      style={{ width: NODE_WIDTH, opacity: quiet ? 0.42 : 1 }}
    >
      <Handle type="target" position={Position.Left} id="in" style={{ opacity: 0 }} isConnectable={false} />
      <Handle type="source" position={Position.Right} id="out" style={{ opacity: 0 }} isConnectable={false} />
      <FarName name={`${group.name} (${group.members.length})`} />
      <Row h={HEAD} px={8} gap={6} className="near">
        {group.by === 'domain' ? <span className="quiet small">domain</span> : <KindMark kind={node.kind} />}
        <span className="grow cut" title={group.name}>
          <Name text={group.name} most={18} />
        </span>
        <Gravest notices={node.notices} />
        {node.level === null ? null : <Level level={node.level} />}
        <button
          type="button"
          className="linkish"
          aria-label={`Unfold ${group.name}: ${marked === null ? tables : `${marked} of ${tables} marked`}`}
          onClick={() => unfold(group.id)}
        >
          <span aria-hidden="true">▾</span> {marked ? `${marked} of ` : ''}
          {group.members.length}
        </button>
      </Row>
    </div>
  );
}
