import type { SearchAnswer } from '@idrel/contract/catalog';
import { Group, Switch, TextInput } from '@mantine/core';
import { sayDone } from '../app/say.ts';
import { FormNotice } from '../forms/FormNotice.tsx';
import { StripButtons } from '../forms/StripButtons.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { useSaveSearchMutation } from './searchesApi.ts';

interface Draft {
  name: string;
  filter: string;
  shared: boolean;
}
const fieldsOf = ({ name, filter, shared }: SearchAnswer): Draft => ({ name, filter, shared });

/** A search that is kept, or is to be: its name, and whether everybody sees it. */
export function KeepSearch({
  search,
  filter,
  close,
}: {
  search?: SearchAnswer;
  /** Of a new one: what is searched for. */
  filter: string;
  close: () => void;
}) {
  const [save] = useSaveSearchMutation();
  const edit = useEditForm<Draft, SearchAnswer>({
    key: search ? `search:${search.id}` : `search:new:${filter}`,
    now: search ? { version: search.version, values: fieldsOf(search) } : null,
    fresh: { name: '', filter, shared: false },
    valuesOf: fieldsOf,
    send: (body, version) => save({ id: search?.id ?? null, version, body }).unwrap(),
    done: (saved) => {
      sayDone(search ? `“${saved.name}” is saved.` : `“${saved.name}” is kept, and stands below Catalog.`);
      close();
    },
  });
  const { form, values, put } = edit;
  return (
    <form
      className="toolbar stack"
      onSubmit={(event) => {
        event.preventDefault();
        void edit.save();
      }}
    >
      <FormNotice edit={edit} words={{ name: 'Name', filter: 'What is searched for', shared: 'Shared' }} />
      <Group wrap="wrap" align="flex-end">
        <TextInput
          className="grow"
          label="Name of the search"
          required
          data-autofocus
          autoFocus
          {...form.getInputProps('name')}
          onKeyDown={(event) => {
            if (event.key === 'Escape') close();
          }}
        />
        {search ? (
          <TextInput className="grow" label="What is searched for" required {...form.getInputProps('filter')} />
        ) : null}
        <Switch
          mb={7}
          label="Shared with everybody"
          checked={values.shared}
          onChange={(event) => put({ shared: event.currentTarget.checked })}
        />
        <StripButtons
          edit={edit}
          words={search ? 'Save search' : 'Keep search'}
          ready={values.name.trim() !== '' && values.filter.trim() !== ''}
          close={close}
        />
      </Group>
    </form>
  );
}
