import type { TermAnswer } from '@idrel/contract/glossary';
import { where } from '@idrel/core/catalog';
import { Button, Group, Select, Stack, TagsInput, Textarea, TextInput } from '@mantine/core';
import { useMemo, useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { useSessionQuery } from '../app/api.ts';
import { useKeys } from '../app/keys.tsx';
import { sayDone } from '../app/say.ts';
import { useAssetsQuery } from '../catalog/index.ts';
import { FormNotice } from '../forms/FormNotice.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { History, useJournalQuery } from '../journal/index.ts';
import { ChooseFrom, stepIn } from '../marks/ChooseFrom.tsx';
import { KindMark, Name, plural } from '../marks/index.tsx';
import { Choice, Pane, Panes } from '../marks/layout.tsx';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { usePeopleQuery } from '../people/index.ts';
import { useCrumbs } from '../shell/crumbs.tsx';
import { type TermChange, useChangeTermMutation, useCreateTermMutation, useTermsQuery } from './api.ts';
import { TermsOrTags } from './TermsOrTags.tsx';

/** The glossary: terms by hierarchy at the left, the chosen one at the right. */
export function Component() {
  const [params, setParams] = useSearchParams();
  const chosen = params.get('term');
  const [search, setSearch] = useState('');
  const { data, error, refetch } = useTermsQuery();
  const session = useSessionQuery();
  const mayEdit =
    session.data?.grants.some(
      (grant) =>
        grant.role !== 'reader' && grant.role !== 'source administrator' && grant.role !== 'policy administrator',
    ) ?? false;
  const term = data?.find((entry) => entry.id === chosen);
  useCrumbs({ text: 'Glossary', to: '/glossary' }, ...(term ? [{ text: term.name }] : []));
  const lines = useMemo(
    () =>
      inOrder(data ?? []).filter(({ term: { name, otherNames } }) =>
        [name, ...otherNames].some((text) => text.toLowerCase().includes(search.toLowerCase())),
      ),
    [data, search],
  );
  const choose = (id: string | null) => setParams(id ? { term: id } : {}, { replace: true });
  const step = (by: number) =>
    choose(
      stepIn(
        lines.map(({ term: { id } }) => id),
        chosen,
        by,
      ),
    );
  useKeys('Glossary', [
    { key: 'j', what: 'next term', act: () => step(1) },
    { key: 'k', what: 'term before', act: () => step(-1) },
    { key: 'n', what: 'new term', act: () => mayEdit && choose('new') },
  ]);
  if (error) return <Trouble error={error} what="The glossary cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming />;
  return (
    <Panes first="320px">
      <ChooseFrom
        title="Glossary"
        make={mayEdit ? <Button onClick={() => choose('new')}>New term</Button> : null}
        above={<TermsOrTags here="terms" />}
        label="terms"
        placeholder="Search terms and other names"
        search={search}
        setSearch={setSearch}
      >
        {lines.map(({ term: entry, depth }) => (
          <Choice key={entry.id} chosen={entry.id === chosen} choose={() => choose(entry.id)} depth={depth}>
            <span className="grow cut">{entry.name}</span>
            <span className="quiet small">{entry.assets > 0 ? plural(entry.assets, 'asset') : ''}</span>
          </Choice>
        ))}
      </ChooseFrom>
      <Pane as="one">
        {chosen === 'new' ? (
          <TermForm key="new" terms={data} done={choose} />
        ) : term ? (
          <TermForm key={term.id} term={term} terms={data} done={choose} mayEdit={mayEdit} />
        ) : (
          <Empty title={data.length === 0 ? 'No term yet' : 'Choose a term'}>
            <p>A term says what a word means here, and which assets carry that meaning.</p>
          </Empty>
        )}
      </Pane>
    </Panes>
  );
}

/** Terms below their broader ones. */
function inOrder(terms: readonly TermAnswer[]): { term: TermAnswer; depth: number }[] {
  const below = (id: string | null, depth: number): { term: TermAnswer; depth: number }[] =>
    terms.filter((term) => term.broaderId === id).flatMap((term) => [{ term, depth }, ...below(term.id, depth + 1)]);
  return below(null, 0);
}

type TermFields = Required<TermChange>;
const fieldsOf = (term: TermAnswer): TermFields => ({
  name: term.name,
  otherNames: [...term.otherNames],
  definition: term.definition ?? '',
  broaderId: term.broaderId ?? null,
  status: term.status,
  ownerId: term.ownerId ?? null,
});
const NO_TERM: TermFields = {
  name: '',
  otherNames: [],
  definition: '',
  broaderId: null,
  status: 'draft',
  ownerId: null,
};

function TermForm({
  term,
  terms,
  done,
  mayEdit = true,
}: {
  term?: TermAnswer;
  terms: readonly TermAnswer[];
  done: (id: string | null) => void;
  mayEdit?: boolean;
}) {
  const people = usePeopleQuery();
  const [create] = useCreateTermMutation();
  const [change] = useChangeTermMutation();
  const edit = useEditForm<TermFields, TermAnswer>({
    key: `term:${term?.id ?? 'new'}`,
    now: term ? { version: term.version, values: fieldsOf(term) } : null,
    fresh: NO_TERM,
    valuesOf: fieldsOf,
    send: (values, version) => (term ? change({ id: term.id, version, change: values }) : create(values)).unwrap(),
    done: (saved) => {
      sayDone(`${saved.name} is saved.`);
      done(saved.id);
    },
  });
  const { form, values, put, differs } = edit;
  const nameOf = (list: readonly { id: string; name: string }[] | undefined) => (id: unknown) =>
    list?.find((entry) => entry.id === id)?.name;
  return (
    <Stack maw={640}>
      <h2>{term ? term.name : 'New term'}</h2>
      <FormNotice
        edit={edit}
        words={{
          name: 'Name',
          definition: 'Definition',
          otherNames: 'Other names',
          status: 'Status',
          broaderId: ['Broader term', nameOf(terms)],
          ownerId: ['Owner', nameOf(people.data)],
        }}
      />
      <TextInput label="Name" {...form.getInputProps('name')} disabled={!mayEdit} required />
      <Textarea label="Definition" {...form.getInputProps('definition')} disabled={!mayEdit} />
      <TagsInput
        label="Other names"
        description="Enter after each"
        {...form.getInputProps('otherNames')}
        disabled={!mayEdit}
        clearButtonProps={{ 'aria-label': 'Remove all' }}
      />
      <Group align="flex-end">
        <Select
          className="grow"
          label="Broader term"
          clearable
          searchable
          data={terms.filter((entry) => entry.id !== term?.id).map((entry) => ({ value: entry.id, label: entry.name }))}
          {...form.getInputProps('broaderId')}
          disabled={!mayEdit}
          clearButtonProps={{ 'aria-label': 'No broader term' }}
        />
        <Select
          label="Status"
          w={120}
          allowDeselect={false}
          data={['draft', 'agreed', 'retired']}
          value={values.status}
          onChange={(status) => status && put({ status: status as TermAnswer['status'] })}
          disabled={!mayEdit}
        />
        <Select
          className="grow"
          label="Owner"
          clearable
          searchable
          data={(people.data ?? []).map((person) => ({ value: person.id, label: person.name }))}
          {...form.getInputProps('ownerId')}
          disabled={!mayEdit}
          clearButtonProps={{ 'aria-label': 'No owner' }}
        />
      </Group>
      {mayEdit ? (
        <Group>
          <Button
            onClick={() => void edit.save()}
            loading={edit.saving}
            disabled={!values.name.trim() || !differs || edit.clashes.length > 0}
          >
            Save
          </Button>
          {differs ? (
            <Button variant="default" onClick={edit.discard}>
              Leave as it was
            </Button>
          ) : null}
        </Group>
      ) : null}
      {term ? <Carriers name={term.name} id={term.id} /> : null}
    </Stack>
  );
}

function Carriers({ name, id }: { name: string; id: string }) {
  const { data } = useAssetsQuery({
    filter: where('term', name),
    limit: 50,
  });
  const history = useJournalQuery(id);
  return (
    <>
      <h3 className="under">Assets that carry it</h3>
      {data?.items.length ? (
        <ul className="flat">
          {data.items.map((asset) => (
            <li key={asset.id} className="row line">
              <KindMark kind={asset.kind} />
              <Link to={`/assets/${asset.id}`}>
                <Name text={asset.path} />
              </Link>
              <span className="quiet small">{asset.source}</span>
            </li>
          ))}
        </ul>
      ) : (
        <p className="quiet">None yet: choose the term on an asset’s page or in the catalog’s reading pane.</p>
      )}
      <h3 className="under">History</h3>
      <History entries={history.data ?? []} />
    </>
  );
}
