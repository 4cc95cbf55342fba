import type { PartnerAnswer, PartnerBody } from '@idrel/contract/people';
import { Group, Stack, Textarea, TextInput } from '@mantine/core';
import { sayDone } from '../app/say.ts';
import { FormNotice } from '../forms/FormNotice.tsx';
import { StripButtons } from '../forms/StripButtons.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { plural } from '../marks/index.tsx';
import { Part } from '../marks/layout.tsx';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { PartnerPeople } from './PartnerPeople.tsx';
import { useAddPartnerMutation, usePartnersQuery } from './sharesApi.ts';

/** Organisations that something can be shared with, each with its people. */
export function Partners({ adding, add }: { adding: boolean; add: (on: boolean) => void }) {
  const { data, error, refetch } = usePartnersQuery();
  if (error) return <Trouble error={error} what="The partners cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming lines={4} />;
  return (
    <Stack gap={24}>
      {adding ? <AddPartner close={() => add(false)} /> : null}
      {data.length === 0 && !adding ? (
        <Empty title="No partner organisation yet">
          <p>
            Its people sign in here, see what is shared with them and nothing else.{' '}
            <button type="button" className="linkish" onClick={() => add(true)}>
              Add the first one
            </button>
          </p>
        </Empty>
      ) : null}
      {data.map((partner) => (
        <Part key={partner.id} title={partner.name}>
          {partner.note ? <p className="written">{partner.note}</p> : null}
          <p className="quiet">
            {partner.shares === 0
              ? 'Nothing is shared with it.'
              : `${plural(partner.shares, 'share')} offered or read.`}{' '}
            Who speaks for it accepts what is offered, and adds people of its own.
          </p>
          <PartnerPeople partner={partner.id} name={partner.name} people={partner.people} may self={null} />
        </Part>
      ))}
    </Stack>
  );
}

function AddPartner({ close }: { close: () => void }) {
  const [add] = useAddPartnerMutation();
  const edit = useEditForm<PartnerBody, PartnerAnswer>({
    key: 'partner:new',
    now: null,
    fresh: { name: '', note: '', lead: { name: '', email: '' } },
    valuesOf: ({ name, note, people: [lead] }) => ({
      name,
      note,
      lead: { name: lead?.name ?? '', email: lead?.email ?? '' },
    }),
    send: async (body) => ({ ...(await add(body).unwrap()), version: 0 }),
    done(made) {
      sayDone(`${made.name} is a partner now.`);
      close();
    },
  });
  const { form, values, put } = edit;
  const { lead } = values;
  return (
    <form
      className="toolbar stack"
      aria-label="Add a partner"
      onSubmit={(event) => {
        event.preventDefault();
        void edit.save();
      }}
    >
      <Group align="flex-start" wrap="wrap">
        <TextInput className="grow" label="Organisation" required maxLength={120} {...form.getInputProps('name')} />
        <TextInput
          className="grow"
          label="Who speaks for it"
          required
          maxLength={120}
          error={form.errors['lead.name']}
          value={lead.name}
          onChange={(event) => put({ lead: { ...lead, name: event.currentTarget.value } })}
        />
        <TextInput
          className="grow"
          type="email"
          label="Their e-mail address"
          required
          maxLength={200}
          error={form.errors['lead.email'] ?? form.errors.email}
          value={lead.email}
          onChange={(event) => put({ lead: { ...lead, email: event.currentTarget.value } })}
        />
      </Group>
      <Textarea label="Note" autosize minRows={1} maxLength={2000} {...form.getInputProps('note')} />
      <FormNotice
        edit={edit}
        words={{
          name: 'Organisation',
          note: 'Note',
          lead: ['Who speaks for it', (one) => (one as PartnerBody['lead']).name],
        }}
      />
      <Group>
        <StripButtons
          edit={edit}
          words="Add it"
          ready={values.name.trim() !== '' && lead.name.trim() !== '' && lead.email.trim() !== ''}
          close={close}
        />
      </Group>
    </form>
  );
}
