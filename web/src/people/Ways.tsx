import type { SessionAnswer } from '@idrel/contract/people';
import { Anchor, Box, Button, Group, PasswordInput, Stack, TextInput } from '@mantine/core';
import { useState } from 'react';
import { useLocation, useSearchParams } from 'react-router';
import { problemOf, useSignInMutation } from '../app/api.ts';
import { ProblemNotice } from '../marks/states.tsx';
import { useAskLinkMutation } from './api.ts';

/** Why somebody comes back from the identity provider without being signed in, and what they can do. */
const REFUSED: Readonly<Record<string, string>> = {
  cancelled: 'You were not signed in there.',
  expired: 'It took too long, or began in another browser. Try again.',
  failed: 'Something went wrong between Idrel and the provider. Try again; if it stays so, tell an administrator.',
  'not-verified':
    'It does not say that your e-mail address is yours, so Idrel cannot tell who you are. Tell an administrator.',
  unknown: 'It knows you, but nobody in Idrel has your e-mail address. Ask an administrator to add you.',
};

/** The ways to sign in that there are here. */
export function Ways({ ways }: { ways: SessionAnswer['ways'] | undefined }) {
  const location = useLocation();
  const [params] = useSearchParams();
  const [forgotten, setForgotten] = useState(false);
  const before = (location.state as { email?: string } | null)?.email ?? '';
  const [email, setEmail] = useState(before);
  const refused = params.get('refused');
  const to = refused ? '/' : `${location.pathname}${location.search}`;
  return (
    <Box component="section" aria-label="Sign in" maw={320}>
      <Box component="h2" mb={8}>
        Sign in
      </Box>
      {refused ? (
        <Box component="p" className="notice" role="alert" mb={12}>
          {ways?.outside ?? 'The provider'} did not sign you in. {REFUSED[refused] ?? REFUSED.failed}
        </Box>
      ) : null}
      {ways?.outside ? (
        <Box mb={18}>
          <Button component="a" href={`/api/v1/sign-in/outside?to=${encodeURIComponent(to)}`} fullWidth>
            Sign in with {ways.outside}
          </Button>
        </Box>
      ) : null}
      {ways && !ways.password ? null : forgotten ? (
        <Forgotten email={email} setEmail={setEmail} mailbox={ways?.mailbox ?? null} back={() => setForgotten(false)} />
      ) : (
        <Password email={email} setEmail={setEmail} second={Boolean(ways?.outside)}>
          {ways?.mail ? (
            <Anchor component="button" type="button" size="sm" onClick={() => setForgotten(true)}>
              Forgotten, or none yet
            </Anchor>
          ) : null}
        </Password>
      )}
    </Box>
  );
}

function Password({
  email,
  setEmail,
  second,
  children,
}: {
  email: string;
  setEmail: (email: string) => void;
  /** It is not the first way that is offered. */
  second: boolean;
  children: React.ReactNode;
}) {
  const [signIn, { isLoading, error }] = useSignInMutation();
  const [password, setPassword] = useState('');
  return (
    <Stack
      component="form"
      aria-label="Sign in with password"
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
      <Group justify="space-between">
        <Button type="submit" variant={second ? 'default' : 'filled'} loading={isLoading}>
          Sign in
        </Button>
        {children}
      </Group>
    </Stack>
  );
}

function Forgotten({
  email,
  setEmail,
  mailbox,
  back,
}: {
  email: string;
  setEmail: (email: string) => void;
  mailbox: string | null;
  back: () => void;
}) {
  const [ask, { isLoading, error, isSuccess }] = useAskLinkMutation();
  return (
    <Stack
      component="form"
      aria-label="Have a link sent"
      onSubmit={(event) => {
        event.preventDefault();
        void ask(email);
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
      <ProblemNotice problem={error ? problemOf(error) : null} />
      {isSuccess ? (
        <p role="status">
          If somebody here has this address, a link is on its way. It holds for an hour.{' '}
          {mailbox ? (
            <a href={mailbox} target="_blank" rel="noreferrer">
              Open the mailbox of the demo
            </a>
          ) : (
            'Nothing there after some minutes? Look where unwanted mail goes, or ask an administrator.'
          )}
        </p>
      ) : null}
      <Group justify="space-between">
        <Button type="submit" loading={isLoading}>
          Send a link
        </Button>
        <Anchor component="button" type="button" size="sm" onClick={back}>
          Back
        </Anchor>
      </Group>
    </Stack>
  );
}
