import type { SchemeAnswer, SchemeBody } from '@idrel/contract/glossary';
import { Select, Textarea, TextInput } from '@mantine/core';
import { sayDone } from '../app/say.ts';
import { Frame, removing } from '../forms/Frame.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { History, useJournalQuery } from '../journal/index.ts';
import { plural } from '../marks/index.tsx';
import { usePeopleQuery } from '../people/index.ts';
import { useRemoveSchemeMutation, useSaveSchemeMutation } from './api.ts';

type Draft = { -readonly [K in keyof SchemeBody]: SchemeBody[K] };
const fieldsOf = ({ name, language, description, ownerId }: SchemeAnswer): Draft => ({
  name,
  language,
  description,
  ownerId,
});

/** A scheme: a list of terms that somebody answers for. */
export function SchemeForm({
  scheme,
  may,
  done,
}: {
  scheme: SchemeAnswer | undefined;
  may: boolean;
  done: (id: string | null) => void;
}) {
  const people = usePeopleQuery();
  const [save] = useSaveSchemeMutation();
  const [remove] = useRemoveSchemeMutation();
  const edit = useEditForm<Draft, SchemeAnswer>({
    key: `scheme:${scheme?.id ?? 'new'}`,
    now: scheme ? { version: scheme.version, values: fieldsOf(scheme) } : null,
    fresh: { name: '', language: 'en', description: '', ownerId: null },
    valuesOf: fieldsOf,
    send: (body, version) => save({ id: scheme?.id ?? null, version, body }).unwrap(),
    done: (saved) => {
      sayDone(`“${saved.name}” is saved.`);
      done(saved.id);
    },
  });
  const { form, values } = edit;
  return (
    <Frame
      title={scheme?.name ?? 'New scheme'}
      may={may}
      edit={edit}
      fields={{
        name: 'Name',
        language: 'Language',
        description: 'Description',
        ownerId: ['Owner', (id) => people.data?.find((person) => person.id === id)?.name ?? 'stewards'],
      }}
      ready={values.name.trim() !== '' && values.language.trim() !== ''}
      words="Save scheme"
      remove={
        scheme && scheme.terms === 0
          ? () =>
              removing(remove(scheme.id).unwrap(), 'The scheme was not removed', () => {
                edit.discard();
                sayDone(`“${scheme.name}” is removed.`);
                done(null);
              })
          : undefined
      }
      below={scheme ? <Below scheme={scheme} /> : null}
    >
      <div className="fields">
        <TextInput label="Name" required {...form.getInputProps('name')} />
        <TextInput className="short" label="Language" required {...form.getInputProps('language')} />
      </div>
      <Textarea label="Description" autosize minRows={2} {...form.getInputProps('description')} />
      <Select
        label="Owner"
        description="Who agrees to its terms; with nobody, stewards do"
        placeholder="stewards"
        clearable
        searchable
        data={(people.data ?? []).map((person) => ({ value: person.id, label: person.name }))}
        {...form.getInputProps('ownerId')}
        clearButtonProps={{ 'aria-label': 'No owner' }}
      />
    </Frame>
  );
}

function Below({ scheme }: { scheme: SchemeAnswer }) {
  const history = useJournalQuery(scheme.id);
  return (
    <>
      <p>
        {plural(scheme.terms, 'term')}
        {scheme.proposed > 0 ? `, of which ${scheme.proposed} wait to be agreed to` : ''}.
        {scheme.terms > 0 ? ' A scheme without terms can be removed.' : ''}
      </p>
      <h3 className="under">Address</h3>
      <p className="mono small">{scheme.uri}</p>
      <h3 className="under">History</h3>
      <History entries={history.data ?? []} />
    </>
  );
}
