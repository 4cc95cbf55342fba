import { Anchor, Button, Group, PasswordInput, Stack } from '@mantine/core';
import { useState } from 'react';
import { problemOf } from '../app/api.ts';
import { sayDone, sayProblem } from '../app/say.ts';
import { plural } from '../marks/index.tsx';
import { useAskLinkMutation, useChangePasswordMutation, usePersonQuery } from './api.ts';
import { NewPassword } from './NewPassword.tsx';

/** Changing one's own password; who has none yet has a link sent. */
export function OwnPassword({ person, mail }: { person: string; mail: boolean }) {
  const { data } = usePersonQuery(person);
  const [change, changing] = useChangePasswordMutation();
  const [ask, asking] = useAskLinkMutation();
  const [now, setNow] = useState('');
  const [password, setPassword] = useState('');
  const email = data?.email;
  const has = data?.signsIn?.password ?? true;
  const sendLink = () =>
    email &&
    void ask(email)
      .unwrap()
      .then(
        () => sayDone(`A link is on its way to ${email}.`),
        (error: unknown) => sayProblem(error, 'No link was sent'),
      );
  if (!has)
    return (
      <p>
        You have none.{' '}
        {mail && !data?.signsIn?.outside ? (
          <Anchor component="button" type="button" onClick={sendLink} disabled={asking.isLoading}>
            Have a link sent to set one
          </Anchor>
        ) : null}
      </p>
    );
  return (
    <Stack
      component="form"
      aria-label="Change your password"
      maw={420}
      mt={6}
      onSubmit={(event) => {
        event.preventDefault();
        void change({ now, password })
          .unwrap()
          .then(
            ({ ended }) => {
              setNow('');
              setPassword('');
              sayDone(`Your password is changed${ended > 0 ? `; ${plural(ended, 'other session')} ended` : ''}.`);
            },
            () => undefined,
          );
      }}
    >
      <input type="hidden" autoComplete="username" value={email ?? ''} readOnly />
      <PasswordInput
        label="Password now"
        required
        value={now}
        onChange={(event) => setNow(event.currentTarget.value)}
        autoComplete="current-password"
        visibilityToggleButtonProps={{ 'aria-label': 'Show the password now' }}
      />
      <NewPassword value={password} change={setPassword} problem={changing.error ? problemOf(changing.error) : null} />
      <Group>
        <Button type="submit" variant="default" loading={changing.isLoading} disabled={!now || !password}>
          Change it
        </Button>
        {mail ? (
          <Anchor component="button" type="button" size="sm" onClick={sendLink} disabled={asking.isLoading}>
            Forgotten: have a link sent
          </Anchor>
        ) : null}
      </Group>
    </Stack>
  );
}
