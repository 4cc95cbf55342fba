import type { GroupAnswer, GroupBody } from '@idrel/contract/people';
import { MultiSelect, TextInput } from '@mantine/core';
import { useSessionQuery } from '../app/api.ts';
import { sayDone } from '../app/say.ts';
import { Frame, removing } from '../forms/Frame.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { History, useJournalQuery } from '../journal/index.ts';
import { AnswersFor } from './AnswersFor.tsx';
import { usePeopleQuery, useRemoveGroupMutation, useSaveGroupMutation } from './api.ts';

const bodyOf = ({ name, claim, members }: GroupAnswer): GroupBody => ({ name, claim, memberIds: members });

/** A group, and who is in it. */
export function GroupForm({
  group,
  may,
  open,
}: {
  group: GroupAnswer | undefined;
  may: boolean;
  open: (id: string | null) => void;
}) {
  const [save] = useSaveGroupMutation();
  const [remove] = useRemoveGroupMutation();
  const people = usePeopleQuery();
  const ways = useSessionQuery().data?.ways;
  const history = useJournalQuery(group?.id, { skip: !group });
  const edit = useEditForm<GroupBody, GroupAnswer>({
    key: `group:${group?.id ?? 'new'}`,
    now: group ? { version: group.version, values: bodyOf(group) } : null,
    fresh: { name: '', claim: null, memberIds: [] },
    valuesOf: bodyOf,
    send: (body, version) => save({ id: group?.id ?? null, version, body }).unwrap(),
    done: (saved, before) => {
      sayDone(
        `${saved.name} is saved.`,
        group ? () => save({ id: saved.id, version: saved.version, body: before }) : undefined,
      );
      if (!group) open(saved.id);
    },
  });
  const { form, values, put } = edit;
  const names = new Map((people.data ?? []).map(({ id, name }) => [id, name]));
  return (
    <Frame
      title={group?.name ?? 'New group'}
      may={may}
      edit={edit}
      fields={{
        name: 'Name',
        claim: 'As the identity provider calls it',
        memberIds: ['People', (ids) => (ids as string[]).map((id) => names.get(id) ?? id).join(', ')],
      }}
      ready={values.name.trim() !== ''}
      words="Save group"
      remove={
        group && may
          ? () =>
              removing(remove(group.id).unwrap(), 'The group was not removed', () => {
                open(null);
                sayDone(`${group.name} is removed.`, () => save({ id: null, version: 0, body: bodyOf(group) }));
              })
          : undefined
      }
      below={
        group ? (
          <>
            <h3 className="under">What it answers for</h3>
            <AnswersFor id={group.id} name={group.name} />
            <h3 className="under">History</h3>
            <History entries={history.data ?? []} />
          </>
        ) : undefined
      }
    >
      <TextInput label="Name" required disabled={!may} {...form.getInputProps('name')} />
      {ways?.outside || values.claim ? (
        <TextInput
          label="As the identity provider calls it"
          description={
            values.claim
              ? 'Whoever signs in there is put into this group, or taken out of it, as the provider says; others in it stay.'
              : 'Empty: people are put in and taken out here alone.'
          }
          disabled={!may}
          {...form.getInputProps('claim')}
          value={values.claim ?? ''}
          onChange={(event) => put({ claim: event.currentTarget.value || null })}
        />
      ) : null}
      <MultiSelect
        label="People"
        disabled={!may}
        searchable
        hidePickedOptions
        data={(people.data ?? []).map(({ id, name }) => ({ value: id, label: name }))}
        value={values.memberIds as string[]}
        onChange={(memberIds) => put({ memberIds })}
      />
    </Frame>
  );
}
