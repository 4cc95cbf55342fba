import type { SchemeAnswer, TermAnswer } from '@idrel/contract/glossary';
import {
  LABEL_KINDS,
  type Label,
  MATCH_KINDS,
  type Match,
  NOTE_KINDS,
  type Note,
  statusAllowed,
  TERM_STATUSES,
  type TermStatus,
} from '@idrel/core/glossary';
import { Group, Select, TagsInput, Textarea, TextInput } from '@mantine/core';
import { useState } from 'react';
import { sayDone } from '../app/say.ts';
import { Subscribe } from '../exchange/index.ts';
import { Frame, removing } from '../forms/Frame.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { History, useJournalQuery } from '../journal/index.ts';
import { plural } from '../marks/index.tsx';
import { usePeopleQuery } from '../people/index.ts';
import {
  useBringBackTermMutation,
  useChangeTermMutation,
  useCreateTermMutation,
  useRemoveTermMutation,
} from './api.ts';
import { Carriers, Meant } from './Carriers.tsx';
import { Neighbourhood } from './Neighbourhood.tsx';
import { Rows } from './Rows.tsx';
import { TermsChooser } from './TermChooser.tsx';
import { changeOf, fieldsOf, newTerm, said, type TermFields } from './termFields.ts';

const asList = (names: unknown) => (names as string[]).join(', ') || 'none';
const clear = { 'aria-label': 'Remove all' };

/** A term: what it is called and means, where it lies among others, what carries it. */
export function TermForm({
  term,
  schemes,
  scheme,
  may,
  done,
}: {
  term?: TermAnswer;
  schemes: readonly SchemeAnswer[];
  /** The scheme that a new one is made in. */
  scheme: SchemeAnswer | undefined;
  may: boolean;
  done: (id: string | null) => void;
}) {
  const people = usePeopleQuery();
  const [create] = useCreateTermMutation();
  const [change] = useChangeTermMutation();
  const [remove] = useRemoveTermMutation();
  const [bringBack] = useBringBackTermMutation();
  const edit = useEditForm<TermFields, TermAnswer>({
    key: `term:${term?.id ?? 'new'}`,
    now: term ? { version: term.version, values: fieldsOf(term) } : null,
    fresh: newTerm(scheme?.id ?? '', scheme?.language ?? 'en'),
    valuesOf: fieldsOf,
    send: (values, version) =>
      (term ? change({ id: term.id, version, change: changeOf(values) }) : create(changeOf(values))).unwrap(),
    done: (saved) => {
      sayDone(`“${saved.name}” is saved.`);
      done(saved.id);
    },
  });
  const { form, values, put } = edit;
  const named = (list: readonly { id: string; name: string }[] | undefined) => (ids: unknown) =>
    [ids]
      .flat()
      .map((id) => list?.find((entry) => entry.id === id)?.name ?? String(id ?? 'nobody'))
      .join(', ') || 'none';
  const destroy = (gone: TermAnswer) =>
    removing(remove(gone.id).unwrap(), 'The term was not removed', () => {
      edit.discard();
      sayDone(
        gone.assets > 0
          ? `“${gone.name}” is removed from ${plural(gone.assets, 'asset')}.`
          : `“${gone.name}” is removed.`,
        () => bringBack(gone.id),
      );
      done(null);
    });
  const home = schemes.find(({ id }) => id === values.schemeId);
  const mayApprove = (home?.mayApprove ?? false) && (term?.mayApprove ?? true);
  const becomes = mayApprove ? values.status : statusAllowed(term?.status ?? null, values.status, edit.differs);
  return (
    <Frame
      title={term?.name ?? 'New term'}
      may={may}
      edit={edit}
      fields={{
        schemeId: ['Scheme', named(schemes)],
        name: 'Name',
        language: 'Language',
        definition: 'Definition',
        otherNames: ['Other names', asList],
        hiddenNames: ['Hidden names', asList],
        elsewhere: ['In other languages', said],
        scopeNote: 'Scope note',
        example: 'Example',
        notes: ['More notes', said],
        broaderIds: ['Broader terms', named(term?.broader)],
        relatedIds: ['Related terms', named(term?.related)],
        matches: ['In other vocabularies', said],
        status: 'Status',
        ownerId: ['Owner', named(people.data)],
      }}
      ready={values.name.trim() !== ''}
      words="Save term"
      remove={term ? () => destroy(term) : undefined}
      removeWords={term && term.assets > 0 ? `Remove from ${plural(term.assets, 'asset')}` : 'Remove'}
      below={term ? <Below key={term.id} term={term} /> : null}
    >
      <div className="fields">
        <TextInput label="Name" required {...form.getInputProps('name')} />
        <TextInput className="short" label="Language" placeholder="en" {...form.getInputProps('language')} />
      </div>
      <Textarea label="Definition" autosize minRows={2} {...form.getInputProps('definition')} />
      <div className="fields">
        <TagsInput
          label="Other names"
          description="By which it is called, too. Enter after each"
          {...form.getInputProps('otherNames')}
          acceptValueOnBlur
          clearButtonProps={clear}
        />
        <TagsInput
          label="Hidden names"
          description="By which it is only found: pax, eml"
          {...form.getInputProps('hiddenNames')}
          acceptValueOnBlur
          clearButtonProps={clear}
        />
      </div>
      <div className="fields">
        <Textarea
          label="Scope note"
          description="What it covers, and what not"
          autosize
          {...form.getInputProps('scopeNote')}
        />
        <Textarea
          label="Example"
          description="One that shows what is meant"
          autosize
          {...form.getInputProps('example')}
        />
      </div>
      <div className="fields">
        <TermsChooser
          label="Broader terms"
          value={values.broaderIds}
          known={term?.broader ?? []}
          but={term?.id}
          put={(broaderIds) => put({ broaderIds })}
          error={form.errors.broaderIds}
          disabled={!may}
        />
        <TermsChooser
          label="Related terms"
          value={values.relatedIds}
          known={term?.related ?? []}
          but={term?.id}
          put={(relatedIds) => put({ relatedIds })}
          error={form.errors.relatedIds}
          disabled={!may}
        />
      </div>
      <div className="fields">
        <Select
          label="Status"
          allowDeselect={false}
          data={TERM_STATUSES.map((status) => ({
            value: status,
            label: status,
            disabled: !mayApprove && (status === 'agreed' || status === 'retired') && status !== term?.status,
          }))}
          value={values.status}
          onChange={(status) => status && put({ status: status as TermStatus })}
        />
        <Select
          label="Owner"
          clearable
          searchable
          data={(people.data ?? []).map((person) => ({ value: person.id, label: person.name }))}
          {...form.getInputProps('ownerId')}
          clearButtonProps={{ 'aria-label': 'No owner' }}
        />
        <Select
          label="Scheme"
          allowDeselect={false}
          data={schemes.map(({ id, name }) => ({ value: id, label: name }))}
          value={values.schemeId || null}
          onChange={(schemeId) => schemeId && put({ schemeId })}
        />
      </div>
      {may && becomes !== values.status ? (
        <p className="notice calm" role="note">
          {home?.owner ?? 'A steward'} agrees to terms of {home?.name ?? 'the scheme'}: what you save is {becomes}.
        </p>
      ) : null}
      <More values={values} put={put} />
    </Frame>
  );
}

/** What few terms have: labels in other languages, other notes, matches in other vocabularies. Open where there are any. */
function More({ values, put }: { values: TermFields; put: (change: Partial<TermFields>) => void }) {
  const { elsewhere, notes, matches, language } = values;
  const [open, setOpen] = useState(elsewhere.length + notes.length + matches.length > 0);
  return (
    <details open={open} onToggle={(event) => setOpen(event.currentTarget.open)}>
      <summary>In other languages and vocabularies</summary>
      <div className="stack">
        <Rows<Label>
          label="Labels in other languages"
          one="label"
          kinds={LABEL_KINDS}
          fresh={{ kind: 'preferred', language: language === 'de' ? 'en' : 'de', text: '' }}
          rows={elsewhere}
          put={(rows) => put({ elsewhere: rows })}
        />
        <Rows<Note>
          label="More notes"
          one="note"
          kinds={NOTE_KINDS}
          fresh={{ kind: 'note', language, text: '' }}
          rows={notes}
          put={(rows) => put({ notes: rows })}
          long
        />
        <Rows<Match>
          label="The same, or near it, in other vocabularies"
          one="match"
          kinds={MATCH_KINDS}
          fresh={{ kind: 'exact', uri: '' }}
          rows={matches}
          put={(rows) => put({ matches: rows })}
        />
      </div>
    </details>
  );
}

function Below({ term }: { term: TermAnswer }) {
  const history = useJournalQuery(term.id);
  return (
    <>
      <Group mt={12}>
        <Subscribe what="term" of={term.id} called={term.name} />
      </Group>
      <h3 className="under">Around it</h3>
      <Neighbourhood term={term} />
      <Carriers term={term} />
      <Meant term={term} />
      <h3 className="under">Address</h3>
      <p className="mono small">{term.uri}</p>
      <h3 className="under">History</h3>
      <History entries={history.data ?? []} />
    </>
  );
}
