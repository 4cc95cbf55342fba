import type { AssetAnswer } from '@idrel/contract/catalog';
import { Select, Textarea, TextInput } from '@mantine/core';
import { sayDone } from '../app/say.ts';
import { Framed } from '../forms/Framed.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { usePeopleQuery } from '../people/index.ts';
import { useDrawAssetMutation, useTakeDrawnAwayMutation } from './api.ts';
import type { Picked } from './PickAsset.tsx';

const KINDS = [
  { value: 'application', label: 'application, or a form in it' },
  { value: 'table', label: 'table, or a stream of rows' },
  { value: 'file', label: 'file, a spreadsheet of somebody' },
  { value: 'file set', label: 'file set, a vendor’s feed' },
  { value: 'report', label: 'report' },
  { value: 'dashboard', label: 'dashboard' },
] as const;
type Kind = (typeof KINDS)[number]['value'];

interface Fields {
  name: string;
  kind: Kind;
  description: string;
  owner: string | null;
  columns: string;
}
const FRESH: Fields = { name: '', kind: 'application', description: '', owner: null, columns: '' };

/** Adds an asset that no scan can see, with what it is and who answers for it. @param near it lies in the domain of this asset */
export function DrawAsset({ near, take, close }: { near: string; take: (asset: Picked) => void; close: () => void }) {
  const people = usePeopleQuery();
  const [draw] = useDrawAssetMutation();
  const [takeAway] = useTakeDrawnAwayMutation();
  const edit = useEditForm<Fields, AssetAnswer>({
    key: `drawn near:${near}`,
    now: null,
    fresh: FRESH,
    valuesOf: () => FRESH,
    send: ({ owner, columns, ...values }) =>
      draw({
        ...values,
        near,
        ownerIds: owner === null ? [] : [owner],
        columns: [...new Set(columns.split('\n').map((name) => name.trim()))].filter(Boolean),
      }).unwrap(),
    done: ({ id, path }) => {
      sayDone(`${path} is added.`, () => takeAway(id).unwrap());
      take({ id, path });
      close();
    },
  });
  const { form, values, put } = edit;
  return (
    <Framed
      label="Add what no scan sees"
      edit={edit}
      fields={{
        name: 'Name',
        kind: 'What it is',
        description: 'What it means',
        owner: 'Who answers for it',
        columns: 'Columns',
      }}
      words="Add it"
      ready={values.name.trim() !== ''}
      close={close}
    >
      <TextInput label="Name" required autoFocus {...form.getInputProps('name')} />
      <Select
        label="What it is"
        allowDeselect={false}
        data={KINDS.map(({ value, label }) => ({ value, label }))}
        value={values.kind}
        onChange={(kind) => kind && put({ kind: kind as Kind })}
      />
      <Textarea label="What it means" autosize {...form.getInputProps('description')} />
      <Select
        label="Who answers for it"
        searchable
        clearable
        clearButtonProps={{ 'aria-label': 'Nobody yet' }}
        data={(people.data ?? []).map(({ id, name }) => ({ value: id, label: name }))}
        value={values.owner}
        onChange={(owner) => put({ owner })}
      />
      <Textarea
        label="Columns"
        description="One a line, where they are known"
        autosize
        {...form.getInputProps('columns')}
      />
    </Framed>
  );
}
