import type { WorkItem } from '@idrel/contract/worklist';
import { Button, Stack } from '@mantine/core';
import { Link } from 'react-router';
import { count, plural, When } from '../marks/index.tsx';
import { Questions } from '../routines/index.ts';

/** A routine that waits for who keeps it, or asks who answers for what it found. */
export function WaitingRoutine({ routine }: { routine: Extract<WorkItem, { kind: 'routine' }>['routine'] }) {
  const { id, name, why, runId, at, changes, most, problem } = routine;
  if (why === 'question' && runId) return <Questions runId={runId} name={name} />;
  return (
    <Stack gap={16}>
      <h2>{name}</h2>
      <p>
        {why === 'asks' ? (
          <>
            Its run of <When at={at} /> would make {plural(changes ?? 0, 'change')}; above {count(most)} it asks first.
          </>
        ) : why === 'failed' ? (
          <>
            Its run of <When at={at} /> failed: {problem}
          </>
        ) : (
          'It was given to you. It acts with the rights of who keeps it, so it does nothing by itself until you take it on.'
        )}
      </p>
      <div>
        <Button component={Link} to={`/routines?routine=${id}${runId ? `&run=${runId}` : ''}`}>
          {why === 'asks' ? 'See what it would change' : why === 'failed' ? 'See the run' : 'Look at it'}
        </Button>
      </div>
    </Stack>
  );
}
