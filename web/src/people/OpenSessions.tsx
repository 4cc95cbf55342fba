import { Button, Group } from '@mantine/core';
import { sayDone, sayProblem } from '../app/say.ts';
import { plural, When } from '../marks/index.tsx';
import { heard, Listing } from '../marks/Listing.tsx';
import { Coming, Trouble } from '../marks/states.tsx';
import { useEndOtherSessionsMutation, useEndSessionMutation, useSessionsQuery } from './api.ts';

/** Where somebody is signed in, and the way to end it. */
export function OpenSessions() {
  const { data, error } = useSessionsQuery();
  const [end] = useEndSessionMutation();
  const [endOthers] = useEndOtherSessionsMutation();
  if (error) return <Trouble error={error} what="Your sessions cannot be shown" />;
  if (!data) return <Coming lines={2} />;
  const failed = (what: unknown) => sayProblem(what, 'It was not ended');
  return (
    <>
      <Listing heads={['Browser', 'Since', 'Last used', heard('What to do')]} maw={620} label="Your sessions">
        {data.map((session) => (
          <tr key={session.id}>
            <td>{session.browser || 'a program'}</td>
            <td>
              <When at={session.since} />
            </td>
            <td>
              <When at={session.seenAt} />
            </td>
            <td>
              {session.here ? (
                <span className="quiet">this one</span>
              ) : (
                <Button
                  variant="subtle"
                  size="compact-xs"
                  onClick={() =>
                    void end(session.id)
                      .unwrap()
                      .then(() => sayDone('The session is ended.'), failed)
                  }
                >
                  End it
                </Button>
              )}
            </td>
          </tr>
        ))}
      </Listing>
      {data.length > 1 ? (
        <Group mt={8}>
          <Button
            variant="default"
            size="compact-sm"
            onClick={() =>
              void endOthers()
                .unwrap()
                .then(({ ended }) => sayDone(`${plural(ended, 'session')} ended.`), failed)
            }
          >
            End all others
          </Button>
        </Group>
      ) : null}
    </>
  );
}
