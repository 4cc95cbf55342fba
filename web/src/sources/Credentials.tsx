import type { CredentialAnswer } from '@idrel/contract/sources';
import { Box, Button, Group, Stack } from '@mantine/core';
import { useState } from 'react';
import { Link } from 'react-router';
import { sayDone, sayProblem } from '../app/say.ts';
import { FormNotice } from '../forms/FormNotice.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { plural, When } from '../marks/index.tsx';
import { heard, Listing } from '../marks/Listing.tsx';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { useCrumbs } from '../shell/crumbs.tsx';
import {
  type SecretBody,
  useCredentialsQuery,
  useRemoveCredentialMutation,
  useRotateCredentialMutation,
} from './api.ts';
import { SecretFields } from './SecretFields.tsx';

/** All credentials: what each holds, what uses it, and how old its secret is. */
export function Component() {
  useCrumbs({ text: 'Sources', to: '/sources' }, { text: 'Credentials' });
  const { data, error, refetch } = useCredentialsQuery();
  const [open, setOpen] = useState<string>();
  const [remove] = useRemoveCredentialMutation();
  if (error) return <Trouble error={error} what="The credentials cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming />;
  const drop = (credential: CredentialAnswer) =>
    remove(credential.id)
      .unwrap()
      .then(() => sayDone(`The credential “${credential.name}” is removed.`))
      .catch((failed: unknown) => sayProblem(failed, 'The credential was not removed'));
  return (
    <div className="page">
      <h1>Credentials</h1>
      <Box component="p" className="quiet" mb={16}>
        Secrets are kept encrypted and are never shown again. New ones are made where a source needs them.
      </Box>
      {data.length === 0 ? (
        <Empty title="No credential yet">
          <p>Each credential stands here with the sources that use it.</p>
        </Empty>
      ) : (
        <Listing heads={['Name', 'Holds', 'User or key', 'Used by', 'Secret since', heard('Steps')]}>
          {data.map((credential) => (
            <tr key={credential.id} className={open === credential.id ? 'tall' : undefined}>
              <td>{credential.name}</td>
              <td>{credential.kind}</td>
              <td className="mono quiet">{credential.username}</td>
              <td>
                <UsedBy credential={credential} />
              </td>
              <td>
                <When at={credential.rotatedAt} />
              </td>
              <td>
                {open === credential.id ? (
                  <Rotate credential={credential} close={() => setOpen(undefined)} />
                ) : (
                  <Group>
                    <Button
                      size="xs"
                      variant="default"
                      onClick={() => setOpen(credential.id)}
                      aria-label={`New secret for ${credential.name}`}
                    >
                      New secret
                    </Button>
                    {credential.usedBy.length + credential.usedElsewhere === 0 ? (
                      <Button
                        size="xs"
                        variant="subtle"
                        onClick={() => void drop(credential)}
                        aria-label={`Remove ${credential.name}`}
                      >
                        Remove
                      </Button>
                    ) : null}
                  </Group>
                )}
              </td>
            </tr>
          ))}
        </Listing>
      )}
    </div>
  );
}

function UsedBy({ credential: { usedBy, usedElsewhere } }: { credential: CredentialAnswer }) {
  if (usedBy.length + usedElsewhere === 0) return <span className="quiet">nothing</span>;
  return (
    <>
      {usedBy.map((source, index) => (
        <span key={source.id}>
          {index > 0 ? ', ' : ''}
          <Link to={`/sources/${source.id}`}>{source.name}</Link>
        </span>
      ))}
      {usedElsewhere > 0 ? (
        <span className="quiet">{`${usedBy.length > 0 ? ' and ' : ''}${plural(usedElsewhere, 'source')} you may not see`}</span>
      ) : null}
    </>
  );
}

function Rotate({ credential, close }: { credential: CredentialAnswer; close: () => void }) {
  const [rotate] = useRotateCredentialMutation();
  const secretOf = ({ username }: CredentialAnswer): SecretBody => ({ username, password: '' });
  const edit = useEditForm<SecretBody, CredentialAnswer>({
    key: `secret:${credential.id}`,
    now: { version: credential.version, values: secretOf(credential) },
    fresh: secretOf(credential),
    valuesOf: secretOf,
    send: (secret, version) => rotate({ id: credential.id, version, secret }).unwrap(),
    done: () => {
      close();
      sayDone(`“${credential.name}” has a new secret; its sources use it from now on.`);
    },
    secret: ['password'],
  });
  return (
    <Stack
      component="form"
      aria-label={`New secret for ${credential.name}`}
      onSubmit={(event) => {
        event.preventDefault();
        if (edit.clashes.length === 0) void edit.save();
      }}
    >
      <SecretFields kind={credential.kind} secret={edit.values} change={edit.put} />
      <FormNotice edit={edit} words={{ username: 'User or key', password: ['Password', () => '••••'] }} />
      <Group>
        <Button
          size="xs"
          type="submit"
          loading={edit.saving}
          disabled={edit.values.password === '' || edit.clashes.length > 0}
        >
          Store
        </Button>
        <Button
          size="xs"
          variant="subtle"
          onClick={() => {
            edit.discard();
            close();
          }}
        >
          Leave it
        </Button>
      </Group>
    </Stack>
  );
}
