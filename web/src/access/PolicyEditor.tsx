import type { PolicyAnswer, PolicyBody } from '@idrel/contract/access';
import { type Mask, maskInWords } from '@idrel/core/access/masks';
import { hoursInWords, limitInWords } from '@idrel/core/access/words';
import { Button, Group, Switch, TextInput } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { useMemo } from 'react';
import { sayDone, sayProblem } from '../app/say.ts';
import { FormNotice } from '../forms/FormNotice.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { Pane, Panes } from '../marks/layout.tsx';
import { Coming } from '../marks/states.tsx';
import { useGroupsQuery, usePeopleQuery } from '../people/index.ts';
import { useClassesQuery } from '../recognition/index.ts';
import { AssetNames } from './AssetNames.tsx';
import { useChangePolicyMutation, useCreatePolicyMutation, usePoliciesQuery, useRemovePolicyMutation } from './api.ts';
import { Conditions, lastDay } from './Conditions.tsx';
import { MaskSample } from './MaskSample.tsx';
import { asSent, bodyOf, FRESH } from './policyFields.ts';
import { Reach } from './Reach.tsx';
import { SentenceSlots } from './SentenceSlots.tsx';

/** The same object for what is said the same. */
function useSame<T>(value: T): T {
  const text = JSON.stringify(value);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the text says all of it
  return useMemo(() => value, [text]);
}

export function PolicyEditor({ id, close }: { id: string; close: () => void }) {
  const { data } = usePoliciesQuery(undefined);
  // What its sentence names is there before it is shown: else it grows under the hand of whoever presses something below.
  const names = [useGroupsQuery(), usePeopleQuery(), useClassesQuery()];
  if (!data || names.some(({ isLoading }) => isLoading)) return <Coming />;
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
    send: (body, version) =>
      (policy ? change({ id: policy.id, version, body: asSent(body) }) : create(asSent(body))).unwrap(),
    done: (saved) => {
      sayDone(`“${saved.name}” is ${saved.enabled ? 'in force' : 'saved, and off'}.`);
      close();
    },
  });
  const { form, values: draft, put } = edit;
  // All that it says but its name: the same object as long as that is the same.
  const said = useSame({ ...draft, name: '' });
  const [settled] = useDebouncedValue(said, 250);
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
          sayDone(`“${policy.name}” is removed.`, policy.givenBy ? undefined : () => create(bodyOf(policy)));
          leave();
        },
        (error: unknown) => sayProblem(error, 'The policy was not removed'),
      );
  };
  // What is part of a share is changed there; what was given on is removed, or left as it is.
  const disabled = policy ? !policy.mayEdit || policy.shareId !== null || policy.givenBy !== null : false;
  const removable = policy?.mayEdit && policy.shareId === null;
  return (
    <Panes first="minmax(420px, 1fr)" second="minmax(380px, 1fr)">
      <Pane as="form">
        <h1>{policy ? policy.name : 'New policy'}</h1>
        {policy?.givenBy ? (
          <p className="quiet">
            {policy.givenBy} gave it on: it opens no more than they may pass on themselves. It can be removed here, and
            is not changed.
          </p>
        ) : null}
        <TextInput label="Name" required {...form.getInputProps('name')} disabled={disabled} />
        <fieldset className="bare" disabled={disabled} aria-label="The policy as a sentence">
          <SentenceSlots form={form} draft={said} put={put} />
        </fieldset>
        <Conditions draft={draft} put={put} disabled={disabled} />
        {draft.effect === 'allow' && draft.opens === 'see' ? null : draft.effect === 'allow' ? (
          <Switch
            label="They may give it on"
            description="To people and groups of their choice, as it is open to them, for as long as it is."
            {...form.getInputProps('passesOn', { type: 'checkbox' })}
            disabled={disabled}
          />
        ) : (
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
            filter: ['Whatever matches', (filter) => (filter as string | null) ?? 'no filter'],
            carried: 'Also what carries the values on',
            columns: 'Columns',
            columnsBut: ['Which columns', (but) => (but ? 'all but these' : 'only these')],
            mask: ['Mask', (mask) => (mask ? maskInWords(mask as Mask) : 'none')],
            rows: ['Rows', (rows) => (rows ? limitInWords(rows as NonNullable<PolicyBody['rows']>, null) : 'all')],
            until: ['Until the end of', (until) => (until ? lastDay(until as string) : 'without an end')],
            hours: [
              'Days and hours',
              (hours) => (hours ? hoursInWords(hours as NonNullable<PolicyBody['hours']>) : 'always'),
            ],
            opens: [
              'Opens',
              (how) =>
                ({ read: 'all that is read', preview: 'a few rows', see: 'pages alone' })[how as PolicyBody['opens']],
            ],
            passesOn: ['They may give it on', (may) => (may ? 'yes' : 'no')],
            purposes: ['Purposes', (purposes) => (purposes as string[]).join(', ') || 'any'],
            enabled: 'In force',
          }}
        />
        <Group>
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
          {removable ? (
            <Button variant="subtle" c="var(--buoy)" onClick={destroy}>
              Remove
            </Button>
          ) : null}
        </Group>
      </Pane>
      <Pane as="seen">
        {draft.effect === 'protect' && draft.mask ? <MaskSample draft={draft} /> : null}
        <Reach
          policyId={policy?.id ?? null}
          draft={settled}
          extend={disabled || draft.carried ? null : () => put({ carried: true })}
        />
      </Pane>
    </Panes>
  );
}
