import type { CredentialAnswer, CredentialKind } from '@idrel/contract/sources';
import { Button, Group, Select, Stack, TextInput } from '@mantine/core';
import { useState } from 'react';
import { FormNotice } from '../forms/FormNotice.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { useAddCredentialMutation, useCredentialsQuery } from './api.ts';
import { SecretFields } from './SecretFields.tsx';

const EMPTY = { name: '', username: '', password: '' };

/** A stored credential of the kind that is needed, or a new one made on the spot; its secret is sent once and never shown again. */
export function CredentialField({
  kind,
  value,
  onChange,
  openToAll = false,
  description = openToAll ? 'Only where it asks who is there' : 'Not needed to register; needed to scan',
}: {
  kind: CredentialKind;
  value: string | null;
  /** Such a source may be read without one. */
  openToAll?: boolean | undefined;
  /** What it is needed for. */
  description?: string;
  onChange: (id: string | null) => void;
}) {
  const credentials = useCredentialsQuery();
  const [add] = useAddCredentialMutation();
  const [making, setMaking] = useState(false);
  const edit = useEditForm<typeof EMPTY, CredentialAnswer>({
    key: `credential:new:${kind}`,
    now: null,
    fresh: EMPTY,
    valuesOf: () => EMPTY,
    send: (values) => add({ ...values, kind }).unwrap(),
    done: (made) => {
      onChange(made.id);
      setMaking(false);
    },
    secret: ['password'],
  });
  return (
    <Stack>
      <Group align="flex-end">
        <Select
          className="grow"
          label="Credential"
          description={description}
          clearable
          data={(credentials.data ?? [])
            .filter((entry) => entry.kind === kind)
            .map((entry) => ({
              value: entry.id,
              label: entry.username ? `${entry.name} (${entry.username})` : entry.name,
            }))}
          value={value}
          onChange={onChange}
          clearButtonProps={{ 'aria-label': 'No credential' }}
        />
        <Button variant="default" onClick={() => setMaking(!making)}>
          {making ? 'Leave it' : 'New credential'}
        </Button>
      </Group>
      {making ? (
        <fieldset className="stack framed">
          <legend className="quiet">New credential ({kind}), stored encrypted</legend>
          <TextInput label="Name of the credential" {...edit.form.getInputProps('name')} />
          <SecretFields
            kind={kind}
            secret={edit.values}
            change={({ username, password }) => edit.put({ username, password })}
          />
          <FormNotice edit={edit} words={{}} />
          <div>
            <Button onClick={() => void edit.save()} loading={edit.saving} disabled={!edit.values.name}>
              Store credential
            </Button>
          </div>
        </fieldset>
      ) : null}
    </Stack>
  );
}
