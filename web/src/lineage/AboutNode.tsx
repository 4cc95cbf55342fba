import type { LineageFlow, LineageNode } from '@idrel/contract/lineage';
import { Button, Group } from '@mantine/core';
import { Link, useNavigate } from 'react-router';
import { Code } from '../marks/Code.tsx';
import { KindMark, Level, Name, When } from '../marks/index.tsx';
import { EdgesInto } from './EdgesInto.tsx';
import type { Drawn } from './SayEdge.tsx';

export function Statement({
  node,
  drawn,
  close,
}: {
  node: LineageNode | LineageFlow;
  /** An edge into it that was drawn and is to be said. */
  drawn: Drawn | null;
  close: () => void;
}) {
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
        <Link to={`/lineage/causes?asset=${node.id}`}>A figure looks wrong?</Link>
        <Link to={`/lineage/change?asset=${node.id}`}>To be changed?</Link>
        <button type="button" className="linkish" onClick={() => navigate(`/lineage?focus=${node.id}`)}>
          Begin here
        </button>
      </Group>
      {'level' in node && node.level !== null ? <Level level={node.level} /> : null}
      {'lastRun' in node && (node.kind === 'flow' || node.lastRun) ? (
        <p>
          {node.lastRun ? (
            <>
              Last run: <span className={node.lastRun.state === 'failed' ? 'attention' : ''}>{node.lastRun.state}</span>{' '}
              <When at={node.lastRun.at} />
              {node.lastRun.message ? `: ${node.lastRun.message}` : ''}
            </>
          ) : (
            'No run of it is known.'
          )}
        </p>
      ) : null}
      {node.problems.map((problem) => (
        <div key={problem} className="notice">
          {problem}
        </div>
      ))}
      {'columns' in node ? <EdgesInto node={node} drawn={drawn} /> : null}
      {node.statement ? (
        <>
          <h3>{'columns' in node ? 'The statement behind its edges' : 'Its code'}</h3>
          <Code text={node.statement} />
        </>
      ) : 'columns' in node ? null : (
        <p className="quiet">Its code is not known.</p>
      )}
    </aside>
  );
}
