import type { FailedFlow } from '@idrel/contract/worklist';
import { Stack } from '@mantine/core';
import { Link } from 'react-router';
import { Name, When } from '../marks/index.tsx';
import { Behind } from './Reached.tsx';

/** A flow whose last run failed: why, and what is made by it. */
export function Failed({ flow, seen }: { flow: FailedFlow; seen: () => void }) {
  return (
    <Stack gap={16}>
      <div>
        <h2>
          <Link to={`/assets/${flow.id}`}>
            <Name text={flow.path} />
          </Link>{' '}
          failed
        </h2>
        <p className="quiet">
          The last run of this flow of <Link to={`/sources/${flow.sourceId}`}>{flow.source}</Link>,{' '}
          <When at={flow.at} />. What lies behind it may be older than it looks.
        </p>
      </div>
      {flow.message ? <pre className="code">{flow.message}</pre> : <p className="quiet">Why was not told.</p>}
      <Behind id={flow.id} reached={flow.reached} seen={seen} />
    </Stack>
  );
}
