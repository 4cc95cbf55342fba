import { Button } from '@mantine/core';
import { useState } from 'react';
import { count, plural, When } from '../marks/index.tsx';
import { Listing, num } from '../marks/Listing.tsx';
import { Coming, Trouble } from '../marks/states.tsx';
import { useFlowRunsQuery } from './eventsApi.ts';
import { span } from './pace.ts';

const [FIRST, MOST] = [10, 200];

/** How the last runs of a flow went. */
export function FlowRuns({ id }: { id: string }) {
  const [limit, setLimit] = useState(FIRST);
  const { data, error, isFetching, refetch } = useFlowRunsQuery({ id, limit });
  if (error) return <Trouble error={error} what="Its runs cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming lines={4} />;
  if (data.total === 0) return <p className="quiet">No run of it is known.</p>;
  return (
    <>
      <Listing label="Runs" heads={['Ended', 'State', num('Took'), num('Rows'), 'What was told']}>
        {data.items.map(({ id: run, state, began, ended, rows, message, checks }) => {
          const failed = checks.filter(({ passed }) => !passed);
          return (
            <tr key={run}>
              <td>
                <When at={ended ?? began} />
              </td>
              <td className={state === 'failed' ? 'attention' : ''}>{state}</td>
              <td className="num">{began && ended ? span((Date.parse(ended) - Date.parse(began)) / 1000) : ''}</td>
              <td className="num">{rows === null ? '' : count(rows)}</td>
              <td className="anywhere">
                {message ? <div className="mono small">{message}</div> : null}
                {failed.map(({ of, what }) => (
                  <div key={`${of} ${what}`} className="attention small">
                    {what} does not hold for {of}
                  </div>
                ))}
                {checks.length > failed.length ? (
                  <span className="quiet small">{plural(checks.length - failed.length, 'check')} passed</span>
                ) : null}
              </td>
            </tr>
          );
        })}
      </Listing>
      {data.total > data.items.length && limit < MOST ? (
        <Button
          variant="subtle"
          size="compact-xs"
          loading={isFetching}
          onClick={() => setLimit(Math.min(MOST, limit * 4))}
        >
          {plural(data.total - data.items.length, 'earlier run')}
        </Button>
      ) : null}
      {data.total > data.items.length && limit >= MOST ? (
        <p className="quiet small">and {plural(data.total - data.items.length, 'earlier run')}</p>
      ) : null}
    </>
  );
}
