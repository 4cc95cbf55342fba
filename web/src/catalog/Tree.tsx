import type { TreeNode } from '@idrel/contract/catalog';
import { useState } from 'react';
import { count, KindMark, NoticeMark } from '../marks/index.tsx';
import { useTreeQuery } from './api.ts';

export interface TreeChoice {
  id: string;
  filter: string;
  under?: string;
}

/** Domains or sources, opened step by step down to tables and files. */
export function Tree({
  by,
  chosen,
  choose,
}: {
  by: 'domain' | 'source';
  chosen: string | null;
  choose: (choice: TreeChoice) => void;
}) {
  const top = useTreeQuery({ by });
  const move = (event: React.KeyboardEvent<HTMLElement>) => {
    if (event.key !== 'ArrowDown' && event.key !== 'ArrowUp') return;
    const nodes = [...event.currentTarget.querySelectorAll<HTMLElement>('.node')];
    const next = nodes[nodes.indexOf(document.activeElement as HTMLElement) + (event.key === 'ArrowDown' ? 1 : -1)];
    next?.focus();
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <div
      className="tree"
      role="tree"
      tabIndex={-1}
      aria-label={by === 'domain' ? 'Domains' : 'Sources'}
      onKeyDown={move}
    >
      <Branch nodes={top.data ?? []} by={by} depth={0} chosen={chosen} choose={choose} />
    </div>
  );
}

function Branch({
  nodes,
  by,
  depth,
  chosen,
  choose,
}: {
  nodes: readonly TreeNode[];
  by: 'domain' | 'source';
  depth: number;
  chosen: string | null;
  choose: (choice: TreeChoice) => void;
}) {
  return (
    <>
      {nodes.map((node) => (
        <Node key={node.id} node={node} by={by} depth={depth} chosen={chosen} choose={choose} />
      ))}
    </>
  );
}

function Node({
  node,
  by,
  depth,
  chosen,
  choose,
}: {
  node: TreeNode;
  by: 'domain' | 'source';
  depth: number;
  chosen: string | null;
  choose: (choice: TreeChoice) => void;
}) {
  const [open, setOpen] = useState(false);
  const children = useTreeQuery({ by, parent: node.id, parentType: node.type }, { skip: !open });
  const select = () => {
    choose({ id: node.id, filter: node.filter, ...(node.type === 'asset' ? { under: node.id } : {}) });
    if (node.hasChildren) setOpen(true);
  };
  return (
    <>
      <button
        type="button"
        role="treeitem"
        className="node"
        aria-selected={chosen === node.id}
        aria-level={depth + 1}
        {...(node.hasChildren ? { 'aria-expanded': open } : {})}
        style={{ paddingLeft: 8 + depth * 13 }}
        onClick={select}
        onKeyDown={(event) => {
          if (event.key === 'ArrowRight') setOpen(true);
          if (event.key === 'ArrowLeft') setOpen(false);
        }}
      >
        <span
          className="turn"
          aria-hidden="true"
          onClick={(event) => {
            event.stopPropagation();
            setOpen(!open);
          }}
        >
          {node.hasChildren ? (open ? '▾' : '▸') : ''}
        </span>
        <KindMark kind={node.type === 'source' ? 'source' : node.kind} />
        <span className={`grow cut ${node.type === 'asset' ? 'mono' : ''}`}>{node.name}</span>
        {node.notice ? <NoticeMark kind={node.notice} /> : null}
        <span className="quiet small">{node.count > 0 ? count(node.count) : ''}</span>
      </button>
      {open && children.data ? (
        <Branch nodes={children.data} by={by} depth={depth + 1} chosen={chosen} choose={choose} />
      ) : null}
    </>
  );
}
