import type { CredentialKind } from '@idrel/contract/sources';
import { Button, Select, TextInput } from '@mantine/core';
import { useState } from 'react';
import { sayProblem } from '../app/say.ts';
import { type SecretBody, useAddCredentialMutation, useCredentialsQuery } from './api.ts';
import { SecretFields } from './SecretFields.tsx';

const EMPTY: SecretBody = { username: '', password: '' };

/** A stored credential of the kind that is needed, or a new one made on the spot; its secret is sent once and never shown again. */
export function CredentialField({ kind, value, onChange }: { kind: CredentialKind; value: string | null; onChange: (id: string | null) => void }) {
  const credentials = useCredentialsQuery();
  const [add, adding] = useAddCredentialMutation();
  const [making, setMaking] = useState(false);
  const [name, setName] = useState('');
  const [secret, setSecret] = useState(EMPTY);
  const save = async () => {
    try {
      const made = await add({ name, kind, ...secret }).unwrap();
      onChange(made.id);
      setMaking(false);
      setName('');
      setSecret(EMPTY);
    } catch (error) {
      sayProblem(error, 'The credential was not stored');
    }
  };
  return (
    <div className="stack">
      <div className="row" style={{ alignItems: 'flex-end' }}>
        <Select
          className="grow"
          label="Credential"
          description="Not needed to register; needed to scan"
          clearable
          data={(credentials.data ?? []).filter((entry) => entry.kind === kind).map((entry) => ({ value: entry.id, label: entry.username ? `${entry.name} (${entry.username})` : entry.name }))}
          value={value}
          onChange={onChange}
          clearButtonProps={{ 'aria-label': 'No credential' }}
        />
        <Button variant="default" onClick={() => setMaking(!making)}>
          {making ? 'Leave it' : 'New credential'}
        </Button>
      </div>
      {making ? (
        <fieldset style={{ border: '1px solid var(--hairline)', borderRadius: 3, padding: 12 }} className="stack">
          <legend className="quiet">New credential ({kind}), stored encrypted</legend>
          <TextInput label="Name of the credential" value={name} onChange={(event) => setName(event.currentTarget.value)} />
          <SecretFields kind={kind} secret={secret} change={setSecret} />
          <div>
            <Button onClick={() => void save()} loading={adding.isLoading} disabled={!name}>
              Store credential
            </Button>
          </div>
        </fieldset>
      ) : null}
    </div>
  );
}
