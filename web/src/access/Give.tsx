import type { GiveBody, Given, GivenAnswer } from '@idrel/contract/access';
import { Button, Group, MultiSelect, Select, Stack, Switch, TextInput } from '@mantine/core';
import { useState } from 'react';
import { sayDone, sayProblem } from '../app/say.ts';
import { FormNotice } from '../forms/FormNotice.tsx';
import { StripButtons } from '../forms/StripButtons.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { When } from '../marks/index.tsx';
import { heard, Listing } from '../marks/Listing.tsx';
import { Trouble } from '../marks/states.tsx';
import { useGroupsQuery, usePeopleQuery } from '../people/index.ts';
import { useGiveMutation, useGivenQuery, useTakeGivenMutation } from './api.ts';
import { afterDay, lastDay } from './Conditions.tsx';

const FRESH: GiveBody = { personIds: [], groupIds: [], columns: null, opens: 'read', passesOn: false, until: null };

/** On the page of an asset: what one may pass on of it, and to whom one did. Nothing where there is neither. Give it the asset's id as its key. */
export function Give({ id }: { id: string }) {
  const { data, error } = useGivenQuery(id);
  const [giving, setGiving] = useState(false);
  const [give] = useGiveMutation();
  const [take, taking] = useTakeGivenMutation();
  if (error) return <Trouble error={error} what="What you may give on cannot be shown" />;
  if (!data || (data.columns.length === 0 && data.given.length === 0)) return null;
  const takeBack = (gift: Given) =>
    take(gift.policyId)
      .unwrap()
      .then(
        () =>
          sayDone(
            `Taken back from ${names(gift)}.`,
            // What opens nothing any more cannot be given again.
            gift.holds ? () => give({ id, body: bodyOf(gift) }).unwrap() : undefined,
          ),
        (problem: unknown) => sayProblem(problem, 'It was not taken back'),
      );
  return (
    <Stack component="section" gap={8} mt={12} aria-label="Given on">
      {data.given.length > 0 ? (
        <Listing heads={['You gave it on to', 'What of it', 'Until', 'Since', heard('Take it back')]}>
          {data.given.map((gift) => (
            <tr key={gift.policyId}>
              <td>{names(gift)}</td>
              <td>
                {whatOf(gift)}
                {gift.passesOn ? <div className="quiet small">they may give it on</div> : null}
                {gift.holds ? null : (
                  <div className="attention small">opens nothing: you may not give it on any more</div>
                )}
              </td>
              <td>{gift.until ? lastDay(gift.until) : <span className="quiet">no end</span>}</td>
              <td>
                <When at={gift.at} />
              </td>
              <td>
                <Button
                  size="compact-sm"
                  variant="subtle"
                  c="var(--buoy)"
                  loading={taking.isLoading && taking.originalArgs === gift.policyId}
                  aria-label={`Take back from ${names(gift)}`}
                  onClick={() => void takeBack(gift)}
                >
                  Take back
                </Button>
              </td>
            </tr>
          ))}
        </Listing>
      ) : null}
      {data.columns.length === 0 ? null : giving ? (
        <GiveForm id={id} may={data} close={() => setGiving(false)} />
      ) : (
        <Group>
          <Button variant="default" onClick={() => setGiving(true)}>
            Give on
          </Button>
          <span className="quiet small">What you may read of it you may give on, as you read it.</span>
        </Group>
      )}
    </Stack>
  );
}

const names = ({ to }: Given): string => to.map(({ name }) => name).join(', ') || 'nobody any more';
const whatOf = ({ columns, opens }: Given): string =>
  `${opens === 'preview' ? 'a few rows of ' : ''}${columns ? columns.join(', ') : 'all that you may'}`;
const bodyOf = ({ to, columns, opens, passesOn, until }: Given): GiveBody => ({
  personIds: to.flatMap((one) => (one.kind === 'person' ? [one.id] : [])),
  groupIds: to.flatMap((one) => (one.kind === 'group' ? [one.id] : [])),
  columns,
  opens,
  passesOn,
  until,
});

function GiveForm({ id, may, close }: { id: string; may: GivenAnswer; close: () => void }) {
  const groups = useGroupsQuery();
  const people = usePeopleQuery();
  const [give] = useGiveMutation();
  const readable = may.columns.filter(({ preview }) => !preview);
  const edit = useEditForm<GiveBody, Given>({
    key: `give:${id}`,
    now: null,
    fresh: readable.length > 0 ? FRESH : { ...FRESH, opens: 'preview' },
    valuesOf: bodyOf,
    send: (body) => give({ id, body }).unwrap(),
    done(gift) {
      sayDone(`Given on to ${names(gift)}.`);
      close();
    },
  });
  const { form, values, put } = edit;
  const open = values.opens === 'read' ? readable : may.columns;
  const masked = open.filter(
    ({ name, masked: is }) => is && (values.columns === null || values.columns.includes(name)),
  );
  const parties = [
    // What a partner may read is offered to it as a share.
    ...(groups.data ?? [])
      .filter(({ partner }) => partner === null)
      .map((one) => ({ value: `g:${one.id}`, label: one.name })),
    ...(people.data ?? []).map((one) => ({ value: `p:${one.id}`, label: one.name })),
  ];
  const told = (ids: unknown, list: readonly { id: string; name: string }[] | undefined) =>
    (ids as string[]).map((one) => list?.find((entry) => entry.id === one)?.name ?? one).join(', ') || undefined;
  return (
    <form
      className="toolbar stack"
      aria-label="Give on"
      onSubmit={(event) => {
        event.preventDefault();
        void edit.save();
      }}
    >
      <Group align="flex-start" wrap="wrap">
        <MultiSelect
          className="grow"
          label="To"
          required
          searchable
          placeholder={values.personIds.length + values.groupIds.length > 0 ? '' : 'people or groups'}
          data={parties}
          error={form.errors.personIds ?? form.errors.groupIds}
          value={[...values.groupIds.map((one) => `g:${one}`), ...values.personIds.map((one) => `p:${one}`)]}
          onChange={(chosen) =>
            put({
              groupIds: chosen.flatMap((one) => (one.startsWith('g:') ? [one.slice(2)] : [])),
              personIds: chosen.flatMap((one) => (one.startsWith('p:') ? [one.slice(2)] : [])),
            })
          }
        />
        <Select
          label="How far"
          w={210}
          allowDeselect={false}
          data={[
            { value: 'read', label: 'To read it', disabled: readable.length === 0 },
            { value: 'preview', label: 'To be shown a few rows' },
          ]}
          value={values.opens}
          onChange={(opens) => opens && put({ opens: opens as GiveBody['opens'] })}
        />
        <TextInput
          type="date"
          label="Until the end of"
          description="Empty: for as long as you may"
          inputWrapperOrder={['label', 'input', 'description', 'error']}
          w={200}
          error={form.errors.until}
          value={values.until === null ? '' : lastDay(values.until)}
          onChange={(event) => put({ until: afterDay(event.currentTarget.value) })}
        />
      </Group>
      <MultiSelect
        label="Columns"
        description={`Empty: all that you may give on, ${open.length} now.`}
        inputWrapperOrder={['label', 'input', 'description', 'error']}
        searchable
        clearable
        data={open.map(({ name }) => name)}
        error={form.errors.columns}
        value={[...(values.columns ?? [])]}
        onChange={(columns) => put({ columns: columns.length > 0 ? columns : null })}
      />
      <Switch
        label="They may give it on"
        checked={values.passesOn}
        onChange={(event) => put({ passesOn: event.currentTarget.checked })}
      />
      <p className="quiet small" role="status">
        They read it as you do:{' '}
        {masked.length > 0
          ? `masked where you read it masked (${masked.map(({ name }) => name).join(', ')})`
          : 'as it is'}
        {may.limited ? ', and only the rows that you are given' : ''}. When you may not give it on any more, it opens
        nothing. What is denied or masked for them stays so.
      </p>
      <FormNotice
        edit={edit}
        words={{
          personIds: ['People', (ids) => told(ids, people.data)],
          groupIds: ['Groups', (ids) => told(ids, groups.data)],
          columns: 'Columns',
          opens: ['How far', (how) => (how === 'preview' ? 'a few rows' : 'to read it')],
          passesOn: ['They may give it on', (is) => (is ? 'yes' : 'no')],
          until: ['Until the end of', (until) => (until ? lastDay(until as string) : 'for as long as you may')],
        }}
      />
      <Group>
        <StripButtons
          edit={edit}
          words="Give it on"
          ready={values.personIds.length + values.groupIds.length > 0}
          close={close}
        />
      </Group>
    </form>
  );
}
