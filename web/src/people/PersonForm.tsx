import type { PersonAnswer, PersonBody, Role } from '@idrel/contract/people';
import { Button, Group, MultiSelect, Select, Stack, TextInput } from '@mantine/core';
import type { ReactNode } from 'react';
import { sayDone } from '../app/say.ts';
import { Frame } from '../forms/Frame.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { History, useJournalQuery } from '../journal/index.ts';
import { When } from '../marks/index.tsx';
import { AnswersFor } from './AnswersFor.tsx';
import { Attributes } from './Attributes.tsx';
import { useDomainsQuery, useSavePersonMutation } from './api.ts';
import { HowTheySignIn } from './HowTheySignIn.tsx';
import { useOurGroups } from './ourGroups.ts';
import { TheirRights } from './TheirRights.tsx';

/** What each role is for. */
const ROLES: Readonly<Record<Role, string>> = {
  reader: 'sees assets and their documentation',
  editor: 'writes documentation',
  steward: 'decides on findings, standing and levels',
  'source administrator': 'registers and scans sources',
  'policy administrator': 'writes policies',
  administrator: 'all of it; everywhere: also people and what holds for everybody',
};

const bodyOf = ({ name, email, job, groups, grants, attributes }: PersonAnswer): Wanted => ({
  name,
  email: email ?? '',
  job,
  groupIds: groups.map(({ id }) => id),
  grants: grants.map(({ role, domainId }) => ({ role, domainId })),
  attributes: attributes ?? [],
});
type Wanted = Required<PersonBody>;
const NEW: Wanted = {
  name: '',
  email: '',
  job: '',
  groupIds: [],
  grants: [{ role: 'reader', domainId: null }],
  attributes: [],
};

/** Who somebody is, and what they may do where. */
export function PersonForm({
  person,
  may,
  open,
  holds,
}: {
  person?: PersonAnswer;
  may: boolean;
  open: (id: string) => void;
  /** What they hold, shown before their history. */
  holds?: ReactNode;
}) {
  const [save] = useSavePersonMutation();
  const groups = useOurGroups();
  const domains = useDomainsQuery();
  const history = useJournalQuery(person?.id, { skip: !person });
  const edit = useEditForm<Wanted, PersonAnswer>({
    key: `person:${person?.id ?? 'new'}`,
    now: person ? { version: person.version, values: bodyOf(person) } : null,
    fresh: NEW,
    valuesOf: bodyOf,
    send: (body, version) => save({ id: person?.id ?? null, version, body }).unwrap(),
    done: (saved, before) => {
      sayDone(
        `${saved.name} is saved.`,
        person ? () => save({ id: saved.id, version: saved.version, body: before }) : undefined,
      );
      if (!person) open(saved.id);
    },
  });
  const { form, values, put } = edit;
  const names = new Map((groups.data ?? []).map(({ id, name }) => [id, name]));
  const where = new Map((domains.data ?? []).map(({ id, name }) => [id, name]));
  const grant = ({ role, domainId }: PersonBody['grants'][number]) =>
    `${role} ${domainId ? `in ${where.get(domainId) ?? 'a domain'}` : 'everywhere'}`;
  const putGrant = (at: number, changes: Partial<PersonBody['grants'][number]>) =>
    put({ grants: values.grants.map((entry, index) => (index === at ? { ...entry, ...changes } : entry)) });
  return (
    <Frame
      title={person?.name ?? 'New person'}
      may={may}
      edit={edit}
      fields={{
        name: 'Name',
        email: 'E-mail',
        job: 'Job',
        groupIds: ['Groups', (ids) => (ids as string[]).map((id) => names.get(id) ?? id).join(', ')],
        grants: ['Roles', (list) => (list as PersonBody['grants']).map(grant).join(', ')],
        attributes: [
          'What policies can ask for',
          (list) =>
            (list as Wanted['attributes']).map(({ key, values }) => `${key}: ${values.join(', ')}`).join('; ') ||
            'nothing',
        ],
      }}
      ready={values.name.trim() !== '' && values.email.trim() !== ''}
      words="Save person"
      below={
        person ? (
          <>
            {person.leftAt ? null : (
              <>
                <h3 className="under">What they may do</h3>
                <TheirRights id={person.id} />
              </>
            )}
            {holds}
            {person.leftAt ? null : <AnswersFor id={person.id} name={person.name} />}
            <h3 className="under">History</h3>
            <History entries={history.data ?? []} />
          </>
        ) : undefined
      }
    >
      {person?.leftAt ? (
        <p className="notice calm">
          {person.name} left <When at={person.leftAt} />. What they did stays under their name.
        </p>
      ) : null}
      <TextInput label="Name" required disabled={!may} {...form.getInputProps('name')} />
      {may || values.email ? (
        <TextInput label="E-mail" required disabled={!may} {...form.getInputProps('email')} />
      ) : null}
      {person && may && person.leftAt === null ? <HowTheySignIn person={person} /> : null}
      <TextInput label="Job" disabled={!may} {...form.getInputProps('job')} />
      <MultiSelect
        label="Groups"
        disabled={!may}
        searchable
        hidePickedOptions
        data={(groups.data ?? []).map(({ id, name }) => ({ value: id, label: name }))}
        value={values.groupIds as string[]}
        onChange={(groupIds) => put({ groupIds })}
      />
      <fieldset className="roles" disabled={!may}>
        <legend>Roles</legend>
        <Stack gap={6}>
          {values.grants.length === 0 ? <span className="quiet">none: they see nothing</span> : null}
          {values.grants.map(({ role, domainId }, at) => (
            <Group key={`${role} ${domainId} ${at + 1}`} gap={8}>
              <Select
                aria-label={`Role ${at + 1}`}
                allowDeselect={false}
                w={200}
                data={Object.keys(ROLES)}
                value={role}
                onChange={(next) => next && putGrant(at, { role: next as Role })}
              />
              <Select
                aria-label={`Where role ${at + 1} holds`}
                allowDeselect={false}
                w={220}
                searchable
                data={[
                  { value: '', label: 'everywhere' },
                  ...(domains.data ?? []).map(({ id, name }) => ({ value: id, label: `in ${name} and below` })),
                ]}
                value={domainId ?? ''}
                onChange={(next) => putGrant(at, { domainId: next || null })}
              />
              {may ? (
                <Button
                  variant="subtle"
                  size="compact-sm"
                  aria-label={`Take away role ${at + 1}`}
                  onClick={() => put({ grants: values.grants.filter((_, index) => index !== at) })}
                >
                  Take away
                </Button>
              ) : null}
            </Group>
          ))}
          <ul className="bare quiet small">
            {[...new Set(values.grants.map(({ role }) => role))].map((role) => (
              <li key={role}>
                {role}: {ROLES[role]}
              </li>
            ))}
          </ul>
          {may ? (
            <div>
              <Button
                variant="default"
                size="compact-sm"
                onClick={() =>
                  put({ grants: [...values.grants, { role: 'reader', domainId: domains.data?.[0]?.id ?? null }] })
                }
              >
                Add a role
              </Button>
            </div>
          ) : null}
        </Stack>
      </fieldset>
      {may || values.attributes.length > 0 ? (
        <Attributes may={may} attributes={values.attributes} put={(attributes) => put({ attributes })} />
      ) : null}
    </Frame>
  );
}
