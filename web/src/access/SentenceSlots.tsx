import type { PolicyBody } from '@idrel/contract/access';
import { MultiSelect, Select } from '@mantine/core';
import { memo } from 'react';
import type { EditForm } from '../forms/useEditForm.ts';
import { useGroupsQuery, usePeopleQuery } from '../people/index.ts';
import { useClassesQuery } from '../recognition/index.ts';
import { freshMask, MaskSlots } from './MaskSlots.tsx';
import { Assets, Columns, Matching } from './PolicyObjects.tsx';
import { OPENS } from './policyFields.ts';
import { FRESH_ROWS, FRESH_TOGETHER, RowSlots } from './RowSlots.tsx';

export type PolicyForm = EditForm<PolicyBody>['form'];

interface Slots {
  form: PolicyForm;
  draft: PolicyBody;
  put: (changes: Partial<PolicyBody>) => void;
}

/** A policy as a sentence. Its slots are lists of all people, groups and classes: they are drawn when something of them is another, not with each letter of a name. */
export const SentenceSlots = memo(
  SlotsOf,
  (before, after) => before.draft === after.draft && before.form.errors === after.form.errors,
);

function SlotsOf({ form, draft, put }: Slots) {
  const groups = useGroupsQuery();
  const classList = useClassesQuery();
  const people = usePeopleQuery();
  const groupOptions = (groups.data ?? []).map((group) => ({ value: group.id, label: group.name }));
  const subjects = [
    { value: 'everyone', label: 'everyone' },
    // What a partner may read is offered to it as a share.
    ...(groups.data ?? [])
      .filter(({ id, partner }) => partner === null || draft.effect !== 'allow' || draft.groupIds.includes(id))
      .map(({ id, name }) => ({ value: `g:${id}`, label: name })),
    ...(people.data ?? []).map((person) => ({ value: `p:${person.id}`, label: person.name })),
  ];
  const chosen = [
    ...(draft.everyone ? ['everyone'] : []),
    ...draft.groupIds.map((id) => `g:${id}`),
    ...draft.personIds.map((id) => `p:${id}`),
  ];
  // Everyone holds all others: naming somebody means these alone, naming everyone means no one in particular.
  const setSubjects = (all: string[]) => {
    const values = !all.includes('everyone')
      ? all
      : draft.everyone
        ? all.filter((value) => value !== 'everyone' || all.length === 1)
        : ['everyone'];
    put({
      everyone: values.includes('everyone'),
      groupIds: values.filter((value) => value.startsWith('g:')).map((value) => value.slice(2)),
      personIds: values.filter((value) => value.startsWith('p:')).map((value) => value.slice(2)),
    });
  };
  const whom = (
    <MultiSelect
      className="slot"
      aria-label="Whom"
      placeholder={chosen.length > 0 ? '' : 'people or groups'}
      searchable
      data={subjects}
      value={chosen}
      onChange={setSubjects}
    />
  );
  const effect = (
    <Select
      aria-label="Effect"
      w={104}
      allowDeselect={false}
      value={draft.effect}
      data={[
        { value: 'allow', label: 'Allow' },
        { value: 'protect', label: 'Protect' },
        { value: 'deny', label: 'Deny' },
      ]}
      onChange={(value) =>
        value &&
        put({
          effect: value as PolicyBody['effect'],
          ...(value === 'protect'
            ? {
                mask: draft.mask ?? freshMask('partial'),
                columns: null,
                columnsBut: false,
                purposes: [],
                opens: 'read',
                passesOn: false,
                everyone: draft.groupIds.length + draft.personIds.length === 0,
              }
            : {
                mask: null,
                rows: null,
                ...(value === 'allow' ? { carried: false } : { purposes: [], opens: 'read', passesOn: false }),
                ...(draft.effect === 'protect' ? { everyone: false } : {}),
              }),
        })
      }
    />
  );
  const opens = (
    <Select
      aria-label="How far it opens"
      w={200}
      allowDeselect={false}
      value={draft.opens}
      data={Object.entries(OPENS).map(([value, label]) => ({ value, label }))}
      onChange={(value) => value && put({ opens: value as PolicyBody['opens'] })}
    />
  );
  const classes = (
    <MultiSelect
      className="slot"
      aria-label="Data classes"
      placeholder={draft.classKeys.length > 0 ? '' : 'data classes'}
      searchable
      data={(classList.data ?? [])
        .filter((entry) => !entry.retired || draft.classKeys.includes(entry.key))
        .map((entry) => ({ value: entry.key, label: entry.label }))}
      {...form.getInputProps('classKeys')}
    />
  );
  const mask = (
    <MaskSlots
      mask={draft.mask}
      put={(chosen) => put({ mask: chosen, rows: null })}
      rows={{
        chosen: draft.rows && (draft.rows.least === undefined ? 'rows' : 'groups'),
        choose: (kind) => put({ mask: null, rows: kind === 'rows' ? FRESH_ROWS : FRESH_TOGETHER }),
      }}
    />
  );
  const except = (
    <MultiSelect
      className="slot"
      aria-label="Except"
      placeholder={draft.exceptGroupIds.length > 0 ? '' : 'nobody'}
      searchable
      data={groupOptions}
      {...form.getInputProps('exceptGroupIds')}
    />
  );
  const rows = draft.rows ? <RowSlots rows={draft.rows} put={(limit) => put({ rows: limit })} /> : null;
  const assets = (
    <Assets
      form={form}
      draft={draft}
      empty={
        draft.effect === 'protect' || draft.filter !== null || draft.classKeys.length > 0
          ? 'everywhere'
          : 'tables, schemas, databases'
      }
    />
  );
  const columns = <Columns draft={draft} put={put} />;
  const filter = (
    <>
      <span>{draft.assetIds.length + draft.classKeys.length > 0 ? 'of these what matches' : 'whatever matches'}</span>
      <Matching filter={draft.filter} put={(text) => put({ filter: text })} />
    </>
  );
  const classesThere = (
    <>
      {classes}
      <span>in</span>
      {draft.assetIds.length > 0 ? (
        <>
          {columns}
          <span>of</span>
        </>
      ) : null}
      {assets}
      {filter}
    </>
  );
  if (draft.effect === 'protect')
    return (
      <div className="sentence">
        {effect}
        {classesThere}
        <span>from</span>
        {whom}
        <span>except</span>
        {except}
        <span>so that it is</span>
        {mask}
        {rows}
        <span>.</span>
      </div>
    );
  return (
    <div className="sentence">
      {effect}
      {whom}
      <span>except</span>
      {except}
      {draft.effect === 'allow' ? (
        <>
          {opens}
          {draft.opens === 'see' ? (
            <>
              {assets}
              <span>and of all that lies in them.</span>
            </>
          ) : (
            <>
              {columns}
              <span>of</span>
              {assets}
              {filter}
            </>
          )}
        </>
      ) : (
        <>
          <span>to read</span>
          {classesThere}
        </>
      )}
      {draft.effect === 'allow' && draft.opens === 'see' ? null : <span>.</span>}
    </div>
  );
}
