import type { SessionAnswer } from '@idrel/contract/people';
import { Button, PasswordInput, TextInput } from '@mantine/core';
import { useState } from 'react';
import { problemOf, useSignInMutation } from '../app/api.ts';
import { ProblemNotice } from '../marks/states.tsx';

/** Signing in; in the demo a person is chosen instead. */
export function SignIn({ session }: { session: SessionAnswer | undefined }) {
  const [signIn, { isLoading, error }] = useSignInMutation();
  const [email, setEmail] = useState('');
  const [password, setPassword] = useState('');
  return (
    <main style={{ maxWidth: 720, margin: '0 auto', padding: '9vh 24px' }}>
      <div className="row" style={{ gap: 12, marginBottom: 6 }}>
        <img src="/mark.svg" alt="" width={30} height={30} />
        <h1 style={{ fontSize: 26 }}>Idrel</h1>
      </div>
      <p className="quiet" style={{ marginBottom: 26 }}>
        What data there is, what it holds, where it comes from, and who may read it.
      </p>
      {session?.demo ? (
        <section aria-label="People of the demo" style={{ marginBottom: 30 }}>
          <h2>Tarnholm Ferries, a demo</h2>
          <p className="quiet" style={{ margin: '4px 0 10px' }}>
            Everything here is invented. Choose who you are; each may see and do other things.
          </p>
          <table className="plain">
            <tbody>
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
            </tbody>
          </table>
        </section>
      ) : null}
      <section aria-label="Sign in with password" style={{ maxWidth: 320 }}>
        <h2 style={{ marginBottom: 8 }}>Sign in</h2>
        <form
          className="stack"
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
        </form>
      </section>
    </main>
  );
}
