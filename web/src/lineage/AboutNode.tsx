import type { LineageNode } from '@idrel/contract/lineage';
import { Button, Group } from '@mantine/core';
import { Link, useNavigate } from 'react-router';
import { KindMark, Level, Name } from '../marks/index.tsx';

export function Statement({ node, close }: { node: LineageNode; close: () => void }) {
  const navigate = useNavigate();
  return (
    <aside
      className="pane reading stack"
      aria-label={`About ${node.path}`}
      style={{
        position: 'absolute',
        right: 0,
        top: 0,
        bottom: 0,
        height: 'auto',
        width: 380,
        borderLeft: '1px solid var(--hairline)',
      }}
    >
      <Group>
        <KindMark kind={node.kind} />
        <h2 className="grow cut">
          <Name text={node.path} most={32} />
        </h2>
        <Button variant="default" size="compact-xs" onClick={close}>
          Close
        </Button>
      </Group>
      <Group>
        <Link to={`/assets/${node.id}`}>Open page</Link>
        <button type="button" className="linkish" onClick={() => navigate(`/lineage?focus=${node.id}`)}>
          Begin here
        </button>
      </Group>
      <Level level={node.level} />
      {node.problems.map((problem) => (
        <div key={problem} className="notice">
          {problem}
        </div>
      ))}
      {node.statement ? (
        <>
          <h3>The statement behind its edges</h3>
          <pre className="code">{node.statement.trim()}</pre>
        </>
      ) : (
        <p className="quiet">No flow into it is known: it is a beginning.</p>
      )}
    </aside>
  );
}
