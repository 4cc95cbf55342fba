import type { SessionAnswer } from '@idrel/contract/people';
import { Box, Button, Group } from '@mantine/core';
import { problemOf, useSignInMutation } from '../app/api.ts';
import { Listing } from '../marks/Listing.tsx';
import { ProblemNotice } from '../marks/states.tsx';
import { Ways } from './Ways.tsx';

/** Signing in; in the demo a person is chosen instead. */
export function SignIn({ session }: { session: SessionAnswer | undefined }) {
  const [signIn, { isLoading, error }] = useSignInMutation();
  return (
    <main className="sign-in">
      <Group gap={12} mb={6}>
        <img src="/mark.svg" alt="" width={30} height={30} />
        <h1>Idrel</h1>
      </Group>
      <Box component="p" className="quiet" mb={26}>
        What data there is, what it holds, where it comes from, and who may read it.
      </Box>
      {session?.demo ? (
        <Box component="section" aria-label="People of the demo" mb={30}>
          <h2>Tarnholm Ferries, a demo</h2>
          <Box component="p" className="quiet" mt={4} mb={10}>
            Everything here is invented. Choose who you are; each may see and do other things.
          </Box>
          <Listing>
            {session.demoPeople.map((person) => (
              <tr key={person.id}>
                <td>
                  <Button
                    variant="subtle"
                    px={4}
                    disabled={isLoading}
                    onClick={() => void signIn({ demoPersonId: person.id })}
                  >
                    {person.name}
                  </Button>
                </td>
                <td className="quiet">{person.job}</td>
              </tr>
            ))}
          </Listing>
          <ProblemNotice problem={error ? problemOf(error) : null} />
          {session.ways.mailbox ? (
            <Box component="p" className="quiet small" mt={10}>
              What Idrel writes to them arrives in the{' '}
              <a href={session.ways.mailbox} target="_blank" rel="noreferrer">
                mailbox of the demo
              </a>
              .
            </Box>
          ) : null}
        </Box>
      ) : null}
      <Ways ways={session?.ways} />
    </main>
  );
}
