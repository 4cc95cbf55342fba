import type { GroupAnswer, GroupBody } from '@idrel/contract/people';
import { MultiSelect, TextInput } from '@mantine/core';
import { sayDone } from '../app/say.ts';
import { Frame, removing } from '../forms/Frame.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { History, useJournalQuery } from '../journal/index.ts';
import { usePeopleQuery, useRemoveGroupMutation, useSaveGroupMutation } from './api.ts';

const bodyOf = ({ name, members }: GroupAnswer): GroupBody => ({ name, memberIds: members });

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
  const history = useJournalQuery(group?.id, { skip: !group });
  const edit = useEditForm<GroupBody, GroupAnswer>({
    key: `group:${group?.id ?? 'new'}`,
    now: group ? { version: group.version, values: bodyOf(group) } : null,
    fresh: { name: '', memberIds: [] },
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
            <h3 className="under">History</h3>
            <History entries={history.data ?? []} />
          </>
        ) : undefined
      }
    >
      <TextInput label="Name" required disabled={!may} {...form.getInputProps('name')} />
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
