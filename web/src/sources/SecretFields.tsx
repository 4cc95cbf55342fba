import type { CredentialKind } from '@idrel/contract/sources';
import { PasswordInput, Textarea, TextInput } from '@mantine/core';
import type { SecretBody } from './api.ts';

/** What the halves of a credential are called. */
export const PARTS: Record<CredentialKind, { user: string | null; secret: string }> = {
  'user and password': { user: 'User', secret: 'Password of the user' },
  'key pair': { user: 'Key', secret: 'Secret of the key' },
  token: { user: null, secret: 'Token' },
};

/** The secret half of a credential, and the half that is not secret. */
export function SecretFields({
  kind,
  secret,
  change,
}: {
  kind: CredentialKind;
  secret: SecretBody;
  change: (secret: SecretBody) => void;
}) {
  const { user, secret: label } = PARTS[kind];
  return (
    <>
      {user ? (
        <TextInput
          label={user}
          value={secret.username}
          onChange={(event) => change({ ...secret, username: event.currentTarget.value })}
          autoComplete="off"
        />
      ) : null}
      {kind === 'token' ? (
        <Textarea
          label={label}
          className="secret"
          value={secret.password}
          onChange={(event) => change({ ...secret, password: event.currentTarget.value })}
          autoComplete="off"
          rows={2}
        />
      ) : (
        <PasswordInput
          label={label}
          value={secret.password}
          onChange={(event) => change({ ...secret, password: event.currentTarget.value })}
          autoComplete="new-password"
          visibilityToggleButtonProps={{ 'aria-label': `Show the ${label.toLowerCase()}` }}
        />
      )}
    </>
  );
}
