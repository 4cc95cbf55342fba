import type { SessionAnswer } from '@idrel/contract/people';
import { Box, Button, Group, PasswordInput, Stack, TextInput } from '@mantine/core';
import { useState } from 'react';
import { problemOf, useSignInMutation } from '../app/api.ts';
import { Listing } from '../marks/Listing.tsx';
import { ProblemNotice } from '../marks/states.tsx';

/** Signing in; in the demo a person is chosen instead. */
export function SignIn({ session }: { session: SessionAnswer | undefined }) {
  const [signIn, { isLoading, error }] = useSignInMutation();
  const [email, setEmail] = useState('');
  const [password, setPassword] = useState('');
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
        </Box>
      ) : null}
      <Box component="section" aria-label="Sign in with password" maw={320}>
        <Box component="h2" mb={8}>
          Sign in
        </Box>
        <Stack
          component="form"
          onSubmit={(event) => {
            event.preventDefault();
            void signIn({ email, password });
          }}
        >
          <TextInput
            label="E-mail"
            type="email"
            required
            value={email}
            onChange={(event) => setEmail(event.currentTarget.value)}
            autoComplete="username"
          />
          <PasswordInput
            label="Password"
            required
            value={password}
            onChange={(event) => setPassword(event.currentTarget.value)}
            autoComplete="current-password"
            visibilityToggleButtonProps={{ 'aria-label': 'Show the password' }}
          />
          <ProblemNotice problem={error ? problemOf(error) : null} />
          <div>
            <Button type="submit" loading={isLoading}>
              Sign in
            </Button>
          </div>
        </Stack>
      </Box>
    </main>
  );
}
