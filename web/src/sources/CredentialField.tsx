import { Button, PasswordInput, Select, TextInput } from '@mantine/core';
import { useState } from 'react';
import { sayProblem } from '../app/say.ts';
import { useAddCredentialMutation, useCredentialsQuery } from './api.ts';

/** A stored credential, or a new one made on the spot; its secret is sent once and never shown again. */
export function CredentialField({ value, onChange }: { value: string | null; onChange: (id: string | null) => void }) {
  const credentials = useCredentialsQuery();
  const [add, adding] = useAddCredentialMutation();
  const [making, setMaking] = useState(false);
  const [form, setForm] = useState({ name: '', username: '', password: '' });
  const set = (key: keyof typeof form) => (event: React.ChangeEvent<HTMLInputElement>) => setForm({ ...form, [key]: event.currentTarget.value });
  const save = async () => {
    try {
      const made = await add(form).unwrap();
      onChange(made.id);
      setMaking(false);
      setForm({ name: '', username: '', password: '' });
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
          description="Not needed to register; needed to scan a database"
          clearable
          data={(credentials.data ?? []).map((entry) => ({ value: entry.id, label: `${entry.name} (${entry.username})` }))}
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
          <legend className="quiet">New credential, stored encrypted</legend>
          <TextInput label="Name of the credential" value={form.name} onChange={set('name')} />
          <TextInput label="User" value={form.username} onChange={set('username')} autoComplete="off" />
          <PasswordInput
            label="Password of the user"
            value={form.password}
            onChange={set('password')}
            autoComplete="new-password"
            visibilityToggleButtonProps={{ 'aria-label': 'Show the password' }}
          />
          <div>
            <Button onClick={() => void save()} loading={adding.isLoading} disabled={!form.name}>
              Store credential
            </Button>
          </div>
        </fieldset>
      ) : null}
    </div>
  );
}
