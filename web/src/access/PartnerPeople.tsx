import type { PartnerPerson } from '@idrel/contract/people';
import { Button, Checkbox, Group, Stack, TextInput } from '@mantine/core';
import { useState } from 'react';
import { sayDone, sayProblem } from '../app/say.ts';
import { FormNotice } from '../forms/FormNotice.tsx';
import { StripButtons } from '../forms/StripButtons.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { When } from '../marks/index.tsx';
import { heard, Listing } from '../marks/Listing.tsx';
import { useAddPartnerPersonMutation, useEndPartnerPersonMutation } from './sharesApi.ts';

interface Added {
  readonly name: string;
  readonly email: string;
  readonly leads: boolean;
}
const FRESH: Added = { name: '', email: '', leads: false };

/** The people of a partner: who reads, and who speaks for it. @param may whether who looks says who they are; `self` cannot end themselves */
export function PartnerPeople({
  partner,
  name,
  people,
  may,
  self,
}: {
  partner: string;
  name: string;
  people: readonly PartnerPerson[];
  may: boolean;
  self: string | null;
}) {
  const [adding, setAdding] = useState(false);
  const [end] = useEndPartnerPersonMutation();
  return (
    <Stack gap={10}>
      <Listing
        heads={['Name', 'E-mail', 'Role', 'Last read', heard('What to do')]}
        maw={860}
        label={`People of ${name}`}
      >
        {people.map((person) => (
          <tr key={person.id}>
            <td>{person.name}</td>
            <td className="quiet">{person.email}</td>
            <td>{person.leads ? 'speaks for it' : 'reads'}</td>
            <td>{person.lastRead ? <When at={person.lastRead} /> : <span className="quiet">not yet</span>}</td>
            <td>
              {may && person.id !== self ? (
                <Button
                  variant="subtle"
                  size="compact-xs"
                  aria-label={`End it for ${person.name}`}
                  onClick={() =>
                    void end(person.id)
                      .unwrap()
                      .then(
                        () => sayDone(`${person.name} does not come in any more; whatever read for them is ended.`),
                        (failed: unknown) => sayProblem(failed, `${person.name} was not ended`),
                      )
                  }
                >
                  End it
                </Button>
              ) : null}
            </td>
          </tr>
        ))}
      </Listing>
      {may ? (
        adding ? (
          <AddPerson partner={partner} close={() => setAdding(false)} />
        ) : (
          <Group>
            <Button variant="default" aria-label={`Add a person of ${name}`} onClick={() => setAdding(true)}>
              Add a person
            </Button>
          </Group>
        )
      ) : null}
    </Stack>
  );
}

function AddPerson({ partner, close }: { partner: string; close: () => void }) {
  const [add] = useAddPartnerPersonMutation();
  const edit = useEditForm<Added, PartnerPerson>({
    key: `partner-person:${partner}`,
    now: null,
    fresh: FRESH,
    valuesOf: ({ name, email, leads }) => ({ name, email, leads }),
    send: async (added) => ({ ...(await add({ ...added, partnerId: partner }).unwrap()), version: 0 }),
    done(made) {
      sayDone(`${made.name} comes in from now on.`);
      close();
    },
  });
  const { form, values, put } = edit;
  return (
    <form
      className="toolbar stack"
      aria-label="Add a person of the partner"
      onSubmit={(event) => {
        event.preventDefault();
        void edit.save();
      }}
    >
      <Group align="flex-start" wrap="wrap">
        <TextInput className="grow" label="Name" required maxLength={120} {...form.getInputProps('name')} />
        <TextInput
          className="grow"
          type="email"
          label="E-mail address"
          description="A link to set a password is sent there, where mail can be sent"
          inputWrapperOrder={['label', 'input', 'description', 'error']}
          required
          maxLength={200}
          {...form.getInputProps('email')}
        />
      </Group>
      <Checkbox
        label="Speaks for the organisation: accepts what is offered, and says who else reads"
        checked={values.leads}
        onChange={(event) => put({ leads: event.currentTarget.checked })}
      />
      <FormNotice edit={edit} words={{ name: 'Name', email: 'E-mail address', leads: 'Speaks for the organisation' }} />
      <Group>
        <StripButtons
          edit={edit}
          words="Add them"
          ready={values.name.trim() !== '' && values.email.trim() !== ''}
          close={close}
        />
      </Group>
    </form>
  );
}
