import type { PolicyAnswer, PolicyBody } from '@idrel/contract/access';
import { MASKS, type Mask } from '@idrel/core/access/masks';
import { Button, MultiSelect, Select, Switch, TagsInput, TextInput } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { useEffect, useMemo, useState } from 'react';
import { sayDone, sayProblem } from '../app/say.ts';
import { useAssetQuery, useAssetsQuery, useChildrenQuery } from '../catalog/api.ts';
import { FormNotice } from '../forms/FormNotice.tsx';
import { type EditForm, useEditForm } from '../forms/useEditForm.ts';
import { Coming } from '../marks/states.tsx';
import { useGroupsQuery, usePeopleQuery } from '../people/api.ts';
import { useClassesQuery } from '../recognition/ownApi.ts';
import { useChangePolicyMutation, useCreatePolicyMutation, usePoliciesQuery, useRemovePolicyMutation } from './api.ts';
import { Reach } from './Reach.tsx';

const FRESH: PolicyBody = {
  name: '',
  effect: 'allow',
  everyone: false,
  groupIds: [],
  personIds: [],
  exceptGroupIds: [],
  assetIds: [],
  classKeys: [],
  carried: false,
  columns: null,
  mask: null,
  rows: null,
  enabled: true,
};
const bodyOf = ({
  name,
  effect,
  everyone,
  groupIds,
  personIds,
  exceptGroupIds,
  assetIds,
  classKeys,
  carried,
  columns,
  mask,
  rows,
  enabled,
}: PolicyBody): PolicyBody => ({
  name,
  effect,
  everyone,
  groupIds,
  personIds,
  exceptGroupIds,
  assetIds,
  classKeys,
  carried,
  columns,
  mask,
  rows,
  enabled,
});

export function PolicyEditor({ id, close }: { id: string; close: () => void }) {
  const { data } = usePoliciesQuery();
  if (!data) return <Coming />;
  return <Editor key={id} policy={data.find((entry) => entry.id === id)} close={close} />;
}

/** A policy as a sentence whose parts are edited in place; beside it its reach, changing as it is edited. */
function Editor({ policy, close }: { policy: PolicyAnswer | undefined; close: () => void }) {
  const groups = useGroupsQuery();
  const people = usePeopleQuery();
  const classList = useClassesQuery();
  const [create] = useCreatePolicyMutation();
  const [change] = useChangePolicyMutation();
  const [remove] = useRemovePolicyMutation();
  const edit = useEditForm<PolicyBody, PolicyAnswer>({
    key: `policy:${policy?.id ?? 'new'}`,
    now: policy ? { version: policy.version, values: bodyOf(policy) } : null,
    fresh: FRESH,
    valuesOf: bodyOf,
    send: (body, version) => (policy ? change({ id: policy.id, version, body }) : create(body)).unwrap(),
    done: (saved) => {
      sayDone(`“${saved.name}” is ${saved.enabled ? 'in force' : 'saved, and off'}.`);
      close();
    },
  });
  const { form, values: draft, put } = edit;
  const [settled] = useDebouncedValue(draft, 250);
  const leave = () => {
    edit.discard();
    close();
  };
  const namesIn = (list: readonly { id: string; name: string }[] | undefined) => (ids: unknown) =>
    (ids as string[]).map((id) => list?.find((entry) => entry.id === id)?.name ?? id).join(', ') || undefined;
  const destroy = () => {
    if (!policy) return;
    remove(policy.id)
      .unwrap()
      .then(
        () => {
          sayDone(`“${policy.name}” is removed.`, () => void create(bodyOf(policy)));
          leave();
        },
        (error: unknown) => sayProblem(error, 'The policy was not removed'),
      );
  };
  const disabled = policy ? !policy.mayEdit : false;
  return (
    <div style={{ display: 'grid', gridTemplateColumns: 'minmax(420px, 1fr) minmax(380px, 1fr)', height: '100%' }}>
      <div className="pane stack" style={{ padding: '16px 20px', gap: 14 }}>
        <h1>{policy ? policy.name : 'New policy'}</h1>
        <TextInput label="Name" required {...form.getInputProps('name')} disabled={disabled} />
        <fieldset
          disabled={disabled}
          style={{ border: 0, padding: 0, margin: 0 }}
          aria-label="The policy as a sentence"
        >
          <SentenceSlots form={form} draft={draft} put={put} />
        </fieldset>
        {draft.effect === 'allow' ? null : (
          <Switch
            label="Also what carries the values on"
            description="Views, loads and reports to which lineage follows the values, now and later."
            {...form.getInputProps('carried', { type: 'checkbox' })}
            disabled={disabled}
          />
        )}
        <Switch
          label={draft.enabled ? 'In force' : 'Off'}
          {...form.getInputProps('enabled', { type: 'checkbox' })}
          disabled={disabled}
        />
        <FormNotice
          edit={edit}
          words={{
            name: 'Name',
            effect: 'Effect',
            everyone: 'Everyone',
            groupIds: ['Groups', namesIn(groups.data)],
            personIds: ['People', namesIn(people.data)],
            exceptGroupIds: ['Except', namesIn(groups.data)],
            assetIds: ['On', (ids) => <AssetNames ids={ids as string[]} />],
            classKeys: [
              'What carries',
              (keys) =>
                (keys as string[])
                  .map((key) => classList.data?.find((entry) => entry.key === key)?.label ?? key)
                  .join(', ') || undefined,
            ],
            carried: 'Also what carries the values on',
            columns: 'Columns',
            mask: 'Mask',
            rows: 'Rows',
            enabled: 'In force',
          }}
        />
        <div className="row">
          <Button
            onClick={() => void edit.save()}
            loading={edit.saving}
            disabled={disabled || !draft.name.trim() || edit.clashes.length > 0}
          >
            Save policy
          </Button>
          <Button variant="default" onClick={leave}>
            Leave as it was
          </Button>
          {policy?.mayEdit ? (
            <Button variant="subtle" c="var(--buoy)" onClick={destroy}>
              Remove
            </Button>
          ) : null}
        </div>
      </div>
      <div className="pane reading" style={{ borderLeft: '1px solid var(--hairline)' }}>
        <Reach
          policyId={policy?.id ?? null}
          draft={settled}
          extend={disabled || draft.carried ? null : () => put({ carried: true })}
        />
      </div>
    </div>
  );
}

type PolicyForm = EditForm<PolicyBody>['form'];

/** Assets by their names, as far as they can be seen. */
function AssetNames({ ids }: { ids: readonly string[] }) {
  return ids.length === 0 ? (
    <span className="quiet">nothing</span>
  ) : (
    ids.map((id) => (
      <div key={id}>
        <AssetName id={id} />
      </div>
    ))
  );
}

function AssetName({ id }: { id: string }) {
  const { data } = useAssetQuery(id);
  return <span className="mono small">{data?.path ?? id}</span>;
}

function SentenceSlots({
  form,
  draft,
  put,
}: {
  form: PolicyForm;
  draft: PolicyBody;
  put: (changes: Partial<PolicyBody>) => void;
}) {
  const groups = useGroupsQuery();
  const classList = useClassesQuery();
  const people = usePeopleQuery();
  const groupOptions = (groups.data ?? []).map((group) => ({ value: group.id, label: group.name }));
  const subjects = [
    { value: 'everyone', label: 'everyone' },
    ...groupOptions.map((option) => ({ ...option, value: `g:${option.value}` })),
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
                mask: draft.mask ?? 'partial',
                columns: null,
                everyone: draft.groupIds.length + draft.personIds.length === 0,
              }
            : {
                mask: null,
                rows: null,
                ...(value === 'allow' ? { carried: false } : {}),
                ...(draft.effect === 'protect' ? { everyone: false } : {}),
              }),
        })
      }
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
    <Select
      className="slot wide"
      aria-label="How"
      allowDeselect={false}
      data={[
        ...Object.entries(MASKS).map(([value, label]) => ({ value, label: `${value}: ${label}` })),
        { value: 'rows', label: 'rows: show only some of them' },
      ]}
      value={draft.rows ? 'rows' : draft.mask}
      onChange={(value) =>
        put(value === 'rows' ? { mask: null, rows: { column: '', values: [] } } : { mask: value as Mask, rows: null })
      }
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
  const rows = draft.rows ? (
    <>
      <span>where</span>
      <TextInput
        aria-label="Column that limits rows"
        placeholder="column"
        value={draft.rows.column}
        onChange={(event) => put({ rows: { column: event.currentTarget.value, values: draft.rows?.values ?? [] } })}
      />
      <span>is one of</span>
      <TagsInput
        className="slot"
        aria-label="Values of permitted rows"
        placeholder="values"
        value={[...draft.rows.values]}
        onChange={(values) => put({ rows: { column: draft.rows?.column ?? '', values } })}
      />
    </>
  ) : null;
  const assets = (
    <Assets
      form={form}
      draft={draft}
      empty={draft.effect === 'protect' ? 'everywhere' : 'tables, schemas, databases'}
    />
  );
  const columns = <Columns draft={draft} put={put} />;
  if (draft.effect === 'protect')
    return (
      <div className="sentence">
        {effect}
        {classes}
        <span>in</span>
        {assets}
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
  if (draft.effect === 'allow')
    return (
      <div className="sentence">
        {effect}
        {whom}
        <span>except</span>
        {except}
        <span>to read</span>
        {columns}
        <span>of</span>
        {assets}
        <span>.</span>
      </div>
    );
  return (
    <div className="sentence">
      {effect}
      {whom}
      <span>except</span>
      {except}
      {columns}
      <span>of</span>
      {assets}
      <span>and whatever is</span>
      {classes}
      <span>.</span>
    </div>
  );
}

/** Assets are found by searching; the ones chosen stay in the list. */
function Assets({ form, draft, empty }: { form: PolicyForm; draft: PolicyBody; empty: string }) {
  const [text, setText] = useState('');
  const [asked] = useDebouncedValue(text, 150);
  const words = asked.replace(/[^\p{L}\p{N}_]+/gu, ' ').trim();
  const found = useAssetsQuery({
    filter: `${words} kind:database,schema,table,view,"materialised view","foreign table"`,
    limit: 50,
  });
  const policies = usePoliciesQuery();
  const [known, setKnown] = useState<Record<string, string>>({});
  useEffect(() => {
    setKnown((before) => ({
      ...before,
      ...Object.fromEntries(
        (policies.data ?? []).flatMap((policy) => policy.assets.map((asset) => [asset.id, asset.path])),
      ),
      ...Object.fromEntries(
        (found.data?.items ?? []).map((asset) => [
          asset.id,
          asset.kind === 'schema' || asset.kind === 'database'
            ? `${asset.path} (${asset.kind} in ${asset.source})`
            : `${asset.path} (${asset.source})`,
        ]),
      ),
    }));
  }, [found.data, policies.data]);
  const data = [...new Set([...draft.assetIds, ...(found.data?.items ?? []).map((asset) => asset.id)])].map(
    (value) => ({ value, label: known[value] ?? 'an asset' }),
  );
  return (
    <MultiSelect
      className="slot wide"
      aria-label="Assets"
      placeholder={draft.assetIds.length > 0 ? '' : empty}
      searchable
      searchValue={text}
      onSearchChange={setText}
      data={data}
      {...form.getInputProps('assetIds')}
      nothingFoundMessage="Nothing of that name"
      filter={({ options }) => options}
    />
  );
}

/** Chosen columns of the tables named; all when none is chosen. */
function Columns({ draft, put }: { draft: PolicyBody; put: (changes: Partial<PolicyBody>) => void }) {
  const [first] = draft.assetIds;
  const children = useChildrenQuery(first ?? '', { skip: !first });
  const names = useMemo(
    () => [
      ...new Set([
        ...(children.data ?? []).filter((child) => child.kind === 'column').map((child) => child.name),
        ...(draft.columns ?? []),
      ]),
    ],
    [children.data, draft.columns],
  );
  if (names.length === 0) return <span>all columns</span>;
  return (
    <MultiSelect
      className="slot"
      aria-label="Columns"
      placeholder={draft.columns ? '' : 'all columns'}
      searchable
      clearable
      data={names}
      value={[...(draft.columns ?? [])]}
      onChange={(columns) => put({ columns: columns.length > 0 ? columns : null })}
      clearButtonProps={{ 'aria-label': 'All columns' }}
    />
  );
}
