import type { EdgeRow, LineageNode } from '@idrel/contract/lineage';
import { Button, Group, Textarea } from '@mantine/core';
import { useState } from 'react';
import { Link } from 'react-router';
import { sayDone, sayProblem } from '../app/say.ts';
import { useMayAnywhere } from '../forms/Frame.tsx';
import { Name, plural, When } from '../marks/index.tsx';
import { Coming, Trouble } from '../marks/states.tsx';
import { useEdgesQuery, useSayRightMutation, useSayWrongMutation, useUnsayEdgeMutation } from './api.ts';
import { type Drawn, SayEdge } from './SayEdge.tsx';

/** Where the values of an asset come from, edge by edge: who or what tells of it; what is wrong can be said so, and what is missing be said. */
export function EdgesInto({
  node,
  drawn,
}: {
  node: Pick<LineageNode, 'id' | 'path' | 'columns'>;
  drawn: Drawn | null;
}) {
  const { data, error, refetch } = useEdgesQuery({ asset: node.id, direction: 'upstream' });
  const [saying, setSaying] = useState(drawn !== null);
  const may = useMayAnywhere('editor', 'steward');
  if (error) return <Trouble error={error} what="Its edges cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming lines={3} />;
  return (
    <section aria-label="Edges into it">
      <h3>Comes from</h3>
      {saying ? (
        <SayEdge node={node} drawn={drawn} close={() => setSaying(false)} />
      ) : may ? (
        <Button mb={4} variant="default" size="compact-sm" onClick={() => setSaying(true)}>
          Say where it comes from
        </Button>
      ) : null}
      {data.items.length === 0 ? <p className="quiet">Nothing is known to lead here.</p> : null}
      <ul className="bare">
        {data.items.map((edge) => (
          <Edge
            key={`${edge.from.id} ${edge.to.id} ${edge.origin} ${edge.said?.id ?? edge.since}`}
            edge={edge}
            into={node.id}
          />
        ))}
      </ul>
      {data.total > data.items.length ? (
        <p className="quiet small">and {plural(data.total - data.items.length, 'more edge')}</p>
      ) : null}
      <Ended into={node.id} />
    </section>
  );
}

/** Edges into it that stand no more: shown when they are asked for. */
function Ended({ into }: { into: string }) {
  const [open, setOpen] = useState(false);
  const { data, error, refetch } = useEdgesQuery({ asset: into, direction: 'upstream', ended: true }, { skip: !open });
  if (!open)
    return (
      <button type="button" className="linkish small" onClick={() => setOpen(true)}>
        What it came from before
      </button>
    );
  if (error) return <Trouble error={error} what="Earlier edges cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming lines={2} />;
  return (
    <section aria-label="Earlier edges into it">
      <h3>Came from, before</h3>
      {data.items.length === 0 ? <p className="quiet">No edge into it has ended.</p> : null}
      <ul className="bare">
        {data.items.map((edge) => (
          <Edge key={`${edge.from.id} ${edge.to.id} ${edge.since} ${edge.until}`} edge={edge} into={into} />
        ))}
      </ul>
      {data.total > data.items.length ? (
        <p className="quiet small">and {plural(data.total - data.items.length, 'more edge')}</p>
      ) : null}
    </section>
  );
}

function Edge({ edge, into }: { edge: EdgeRow; into: string }) {
  const [judging, setJudging] = useState(false);
  const { from, to, said, wrong } = edge;
  return (
    <li className="edge">
      <div className={wrong ? 'gone' : ''}>
        {to.id === into ? null : <span className="mono">{to.name} </span>}
        <span className="quiet">{to.id === into ? 'from ' : '← '}</span>
        <Link to={`/assets/${from.id}`}>
          <Name text={from.path} most={40} />
        </Link>
      </div>
      <div className="quiet small">
        {edge.kind},{' '}
        {said
          ? `said by ${said.by ?? 'somebody who has left'}`
          : edge.flow && edge.origin === 'routine'
            ? 'told'
            : `told by ${TELLS[edge.origin] ?? edge.origin}`}
        {edge.flow ? (
          <>
            {edge.origin === 'routine' ? ' by ' : ' through '}
            <Link to={`/assets/${edge.flow.id}${edge.line === null ? '' : `?line=${edge.line}`}`}>
              {edge.flow.name}
              {edge.line === null ? '' : `, line ${edge.line}`}
            </Link>
          </>
        ) : null}
        , since{' '}
        {edge.run ? (
          <Link to={`/runs/${edge.run}`} title="The scan by which it came">
            <When at={said?.at ?? edge.since} />
          </Link>
        ) : (
          <When at={said?.at ?? edge.since} />
        )}
        {said ? null : (
          <>
            , {edge.until ? 'until' : 'last'} <When at={edge.lastSeen} />
          </>
        )}
      </div>
      {edge.expression ? <Expression text={edge.expression} /> : null}
      {said?.note ? <div className="small written">{said.note}</div> : null}
      {wrong ? (
        <div className="small">
          <span className="attention">Wrong</span>, says {wrong.by ?? 'somebody who has left'} <When at={wrong.at} />:{' '}
          {wrong.reason}
        </div>
      ) : null}
      {edge.mayEdit ? <Steps edge={edge} judging={judging} setJudging={setJudging} /> : null}
    </li>
  );
}

/** What happens to the value: of several expressions that it goes through the first one first. */
const Expression = ({ text }: { text: string }) => (
  <ul className="flat small" aria-label="What happens to the value">
    {[...new Set(text.split('\n'))].map((step, n) => (
      <li key={step}>
        <span className="quiet" aria-hidden="true">
          {n === 0 ? '= ' : '→ '}
        </span>
        <code className="mono">{step}</code>
      </li>
    ))}
  </ul>
);

/** What told of a found edge. */
const TELLS: Readonly<Record<string, string>> = {
  view: 'the definition of the view',
  link: 'the link to the other source',
  routine: 'a rule of the table',
  script: 'a script',
  asked: 'a statement that was asked there',
  'run event': 'events of runs',
  'by hand': 'a person',
  report: 'the report',
  provenance: 'the published catalog',
  pushed: 'a program',
};

function Steps({ edge, judging, setJudging }: { edge: EdgeRow; judging: boolean; setJudging: (on: boolean) => void }) {
  const [unsay] = useUnsayEdgeMutation();
  const [sayWrong, wronging] = useSayWrongMutation();
  const [sayRight] = useSayRightMutation();
  const [reason, setReason] = useState('');
  const pair = { from: edge.from.id, to: edge.to.id };
  const between = `${edge.from.path} → ${edge.to.name}`;
  const attempt = (work: Promise<unknown>, failure: string, done: () => void) =>
    void work.then(done, (error: unknown) => sayProblem(error, failure));
  const { said, wrong } = edge;
  if (said)
    return (
      <Button
        variant="subtle"
        size="compact-xs"
        aria-label={`Take back ${between}`}
        onClick={() =>
          attempt(unsay(said.id).unwrap(), 'The edge was not taken back', () => sayDone('The edge is taken back.'))
        }
      >
        Take back
      </Button>
    );
  if (wrong)
    return (
      <Button
        variant="subtle"
        size="compact-xs"
        aria-label={`Not wrong: ${between}`}
        onClick={() =>
          attempt(sayRight(pair).unwrap(), 'It was not taken back', () => sayDone('The edge is followed again.'))
        }
      >
        Not wrong
      </Button>
    );
  if (!judging)
    return (
      <Button variant="subtle" size="compact-xs" aria-label={`Wrong: ${between}`} onClick={() => setJudging(true)}>
        Wrong …
      </Button>
    );
  return (
    <div className="framed" role="group" aria-label={`Wrong: ${between}`}>
      <Textarea
        label="Why it is wrong"
        autosize
        autoFocus
        value={reason}
        onChange={(event) => setReason(event.currentTarget.value)}
      />
      <Group mt={6}>
        <Button
          size="compact-sm"
          disabled={reason.trim() === ''}
          loading={wronging.isLoading}
          onClick={() =>
            attempt(sayWrong({ ...pair, reason }).unwrap(), 'It was not said', () => {
              setJudging(false);
              sayDone('The edge is struck, also when it is found again.', () => sayRight(pair).unwrap());
            })
          }
        >
          Say it is wrong
        </Button>
        <Button size="compact-sm" variant="default" onClick={() => setJudging(false)}>
          Leave it
        </Button>
      </Group>
    </div>
  );
}
