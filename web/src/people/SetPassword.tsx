import type { LinkAnswer } from '@idrel/contract/people';
import { Box, Button, Group, Stack, TextInput } from '@mantine/core';
import { useEffect, useRef, useState } from 'react';
import { Link } from 'react-router';
import { problemOf } from '../app/api.ts';
import { Coming, ProblemNotice } from '../marks/states.tsx';
import { useReadLinkMutation, useUseLinkMutation } from './api.ts';
import { NewPassword } from './NewPassword.tsx';

/** Where a link leads that was sent to set a password. What stands behind the # is the link's own secret. */
export function Component() {
  const token = useRef(window.location.hash.slice(1)).current;
  const [read, reading] = useReadLinkMutation();
  const [put, putting] = useUseLinkMutation();
  const [password, setPassword] = useState('');
  useEffect(() => {
    if (token) void read(token);
  }, [token, read]);
  return (
    <main className="sign-in">
      <Group gap={12} mb={20}>
        <img src="/mark.svg" alt="" width={30} height={30} />
        <h1>Set a password</h1>
      </Group>
      <Box maw={420}>
        {putting.data ? (
          <Done person={putting.data} />
        ) : reading.error || !token ? (
          <>
            {reading.error ? (
              <ProblemNotice problem={problemOf(reading.error)} />
            ) : (
              <p role="alert">The address is not whole: the part behind # is missing. Copy all of it from the mail.</p>
            )}
            <p>
              <Link to="/">To the page of signing in</Link>, where a new link can be sent.
            </p>
          </>
        ) : reading.data ? (
          <Stack
            component="form"
            onSubmit={(event) => {
              event.preventDefault();
              void put({ token, password });
            }}
          >
            <p>
              For {reading.data.name}. All of your sessions end with it, also where somebody else may have used them.
            </p>
            {/* For what keeps passwords: it sees whose this one is. */}
            <TextInput label="E-mail" value={reading.data.email} readOnly autoComplete="username" />
            <NewPassword
              value={password}
              change={setPassword}
              problem={putting.error ? problemOf(putting.error) : null}
            />
            <div>
              <Button type="submit" loading={putting.isLoading}>
                Set the password
              </Button>
            </div>
          </Stack>
        ) : (
          <Coming lines={3} />
        )}
      </Box>
    </main>
  );
}

const Done = ({ person }: { person: LinkAnswer }) => (
  <>
    <Box component="p" role="status" mb={14}>
      The password is set, {person.name}. The link is used up.
    </Box>
    <Button component={Link} to="/worklist" state={{ email: person.email }}>
      Sign in with it
    </Button>
  </>
);
