import { Box, Button, CopyButton, Group } from '@mantine/core';
import { sayProblem } from '../app/say.ts';
import { plural, When } from '../marks/index.tsx';
import { Listing } from '../marks/Listing.tsx';
import { Trouble } from '../marks/states.tsx';
import { useMakeEventKeyMutation, useSourceEventsQuery } from './eventsApi.ts';

/** So often it is looked whether events came, while somebody looks. */
const LOOKED_MS = 5000;
const NO_KEY = '<the key>';

/** How pipelines send their events to a source: the key, what to set where they run, and what came. */
export function HowToSend({ id }: { id: string }) {
  const { data, error, refetch } = useSourceEventsQuery(id, {
    pollingInterval: LOOKED_MS,
    skipPollingIfUnfocused: true,
  });
  const [make, { data: made, isLoading, reset }] = useMakeEventKeyMutation();
  if (error)
    return <Trouble error={error} what="What came of its events cannot be shown" again={() => void refetch()} />;
  const makeKey = () =>
    make(id)
      .unwrap()
      .catch((failed: unknown) => sayProblem(failed, 'The key was not made'));
  const settings = `OPENLINEAGE_URL=${window.location.origin}\nOPENLINEAGE_API_KEY=${made?.key ?? NO_KEY}`;
  const tried = `curl -X POST ${window.location.origin}/api/v1/lineage \\
  -H 'Authorization: Bearer ${made?.key ?? NO_KEY}' -H 'Content-Type: application/json' \\
  -d '{"eventType": "COMPLETE", "eventTime": "${new Date().toISOString().slice(0, 19)}Z", "run": {"runId": "0195d2f0-0000-7000-8000-000000000001"},
       "job": {"namespace": "trial", "name": "first job"}}'`;
  return (
    <Box component="section" aria-label="How events are sent" mb={22}>
      <h2>How events are sent</h2>
      <p>
        Whatever speaks the OpenLineage standard tells here what its jobs read and write, and how their runs end. Each
        job becomes a flow; tables that other sources hold are joined with them, others are kept here.
      </p>
      {made ? (
        <Box className="notice calm" mt={10}>
          <p>
            <strong>The key is not shown again.</strong> Set it where the pipelines run:
          </p>
          <pre className="code after">{settings}</pre>
          <Group mt={8}>
            <CopyButton value={settings}>
              {({ copied, copy }) => <Button onClick={copy}>{copied ? 'Copied' : 'Copy it'}</Button>}
            </CopyButton>
            <Button variant="subtle" onClick={reset}>
              I have it
            </Button>
          </Group>
        </Box>
      ) : data?.key ? (
        <Group mt={10}>
          <span>
            A key was made <When at={data.key.madeAt} />
            {data.key.madeBy ? ` by ${data.key.madeBy}` : ''},{' '}
            {data.key.usedAt ? (
              <>
                last used <When at={data.key.usedAt} />
              </>
            ) : (
              'not used yet'
            )}
            .
          </span>
          <Button variant="default" loading={isLoading} onClick={() => void makeKey()}>
            Make another key
          </Button>
          <span className="quiet small">The one there is ends at once.</span>
        </Group>
      ) : data ? (
        <Button mt={10} loading={isLoading} onClick={() => void makeKey()}>
          Make a key
        </Button>
      ) : null}
      <Box component="details" mt={10}>
        <summary>Try it from a terminal</summary>
        <pre className="code after">{tried}</pre>
      </Box>
      {data ? (
        <Box component="p" mt={10} role="status">
          {data.received === 0
            ? 'No event came yet.'
            : `${plural(data.jobs, 'job')}; ${plural(data.received, 'event')} kept, of which ${data.waiting === 0 ? 'none waits' : `${data.waiting} wait`} to be put together; the last came `}
          {data.received > 0 ? <When at={data.lastAt} /> : null}
          {data.received > 0 ? '.' : null}
        </Box>
      ) : null}
      {data && data.problems.length > 0 ? (
        <Box mt={10}>
          <h3>Could not be put together</h3>
          <Listing label="Events that could not be put together" heads={['Job', 'Came', 'Why']}>
            {data.problems.map(({ job, at, problem }) => (
              <tr key={`${job} ${at}`}>
                <td className="mono anywhere">{job}</td>
                <td>
                  <When at={at} />
                </td>
                <td className="anywhere">{problem}</td>
              </tr>
            ))}
          </Listing>
        </Box>
      ) : null}
    </Box>
  );
}
