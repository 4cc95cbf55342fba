import type { AnswerBody, GrantBody, RequestAnswer } from '@idrel/contract/access';
import { type Mask, maskInWords } from '@idrel/core/access/masks';
import { Button, Checkbox, Group, Stack, Switch, Textarea, TextInput } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { useRef } from 'react';
import { useKeys } from '../app/keys.tsx';
import { sayDone } from '../app/say.ts';
import { FormNotice } from '../forms/FormNotice.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { Trouble } from '../marks/states.tsx';
import { AskedAssets } from './AskedAssets.tsx';
import { afterDay, lastDay } from './Conditions.tsx';
import { OpenedTables, WhatItOpens } from './GrantEffect.tsx';
import { MaskSome } from './MaskSome.tsx';
import { Columns } from './PolicyObjects.tsx';
import { useAnswerRequestMutation, useGrantEffectQuery } from './requestsApi.ts';

type Answering = GrantBody & Pick<AnswerBody, 'text'> & { readonly decision: 'granted' | 'refused' };

/** What was answered, or what was asked for: that is what an answer begins with. */
function valuesOf({ granted, assets, columns, until, answer, state }: RequestAnswer): Answering {
  const text = state === 'waiting' ? '' : (answer ?? '');
  if (granted) return { ...granted, text, decision: 'granted' };
  return {
    assetIds: assets.map(({ id }) => id),
    columns,
    columnsBut: false,
    until: until !== null && Date.parse(until) > Date.now() ? until : null,
    stated: false,
    masked: null,
    text,
    decision: 'granted',
  };
}

/** As it was answered before, to answer so again. */
function answered({ state, granted, answer }: RequestAnswer): AnswerBody {
  if (state === 'granted' && granted) return { decision: 'granted', grant: granted, text: answer ?? '' };
  if (state === 'refused') return { decision: 'refused', grant: null, text: answer ?? '' };
  return { decision: 'waiting', grant: null, text: '' };
}

/** Grants a request, wholly or in part, or refuses it; beside it what that opens. Give it the request's id as its key. */
export function AnswerForm({ request }: { request: RequestAnswer }) {
  const { id, number, person, purpose, assets, columns: asked } = request;
  const [answer] = useAnswerRequestMutation();
  const words = useRef<HTMLTextAreaElement>(null);
  const edit = useEditForm<Answering, RequestAnswer>({
    key: `request:${id}`,
    now: { version: request.version, values: valuesOf(request) },
    fresh: valuesOf(request),
    valuesOf,
    send: ({ decision, text, ...grant }, version) =>
      answer({ id, version, body: { decision, text, grant: decision === 'granted' ? grant : null } }).unwrap(),
    done(saved) {
      sayDone(`Request ${number} of ${person.name} is ${saved.state}.`, () =>
        answer({ id, version: saved.version, body: answered(request) }),
      );
    },
  });
  const { values, put, form } = edit;
  const { decision: _decision, text: _text, ...grant } = values;
  const [settled] = useDebouncedValue(grant, 250);
  const { masked } = values;
  const isSaid = values.assetIds.length > 0 && !(masked?.columnsBut && masked.columns === null);
  const save = (decision: Answering['decision']) => {
    if (decision === 'refused' && values.text.trim() === '') {
      form.setFieldError('text', 'A refusal says why.');
      words.current?.focus();
      return;
    }
    void edit.save({ decision });
  };
  useKeys('Request', [
    { key: 'g', what: 'grant the request as it stands', act: () => isSaid && save('granted') },
    { key: 'r', what: 'refuse the request', act: () => save('refused') },
  ]);
  const effect = useGrantEffectQuery({ id, body: settled }, { skip: settled.assetIds.length === 0 });
  const opens = effect.currentData ?? effect.data;
  const names = opens && [...new Set(opens.tables.flatMap(({ columns }) => columns))];
  return (
    <Stack component="form" aria-label="Your answer" onSubmit={(event) => event.preventDefault()}>
      <AskedAssets
        label="What is granted"
        assets={assets}
        last={(asset) =>
          assets.length > 1 ? (
            <Checkbox
              label="granted"
              aria-label={`${asset.path} is granted`}
              checked={values.assetIds.includes(asset.id)}
              onChange={(event) =>
                put({
                  assetIds: event.currentTarget.checked
                    ? [...values.assetIds, asset.id]
                    : values.assetIds.filter((other) => other !== asset.id),
                })
              }
            />
          ) : null
        }
      />
      <div className="sentence">
        <span>Let {person.name} read</span>
        <Columns draft={values} put={put} among={asked} names={names} />
        <span>until the end of</span>
        <TextInput
          type="date"
          aria-label="Until the end of"
          value={values.until === null ? '' : lastDay(values.until)}
          error={form.errors.until}
          onChange={(event) => put({ until: afterDay(event.currentTarget.value) })}
        />
        <span>{values.until === null ? '(no end)' : ''}</span>
      </div>
      <MaskSome masked={masked} put={(next) => put({ masked: next })} assetIds={values.assetIds} names={names} />
      <Switch
        label={`Only for who states “${purpose}” when they read`}
        description="Each time it is noted with what was read."
        checked={values.stated}
        onChange={(event) => put({ stated: event.currentTarget.checked })}
      />
      <Textarea
        ref={words}
        label="What you say to it"
        description="They read it with the answer. A refusal says why."
        autosize
        minRows={2}
        maxRows={8}
        maxLength={2000}
        {...form.getInputProps('text')}
      />
      <FormNotice
        edit={edit}
        words={{
          assetIds: ['What is granted', (ids) => `${(ids as string[]).length} of ${assets.length}`],
          columns: 'Columns',
          columnsBut: ['Which columns', (but) => (but ? 'all but these' : 'only these')],
          until: ['Until the end of', (until) => (until ? lastDay(until as string) : 'without an end')],
          stated: 'Only for who states the purpose',
          masked: ['Masked', (one) => (one ? maskInWords((one as { mask: Mask }).mask) : 'nothing')],
          text: 'What you say to it',
          decision: 'Answer',
        }}
      />
      {effect.error ? (
        <Trouble error={effect.error} what="What it would open cannot be computed" />
      ) : isSaid ? (
        <WhatItOpens who={person.name} assets={assets} grant={settled} effect={opens} />
      ) : (
        <p className="quiet">Choose what is granted.</p>
      )}
      <Group>
        <Button onClick={() => save('granted')} loading={edit.saving} disabled={!isSaid || edit.clashes.length > 0}>
          {request.state === 'granted' ? 'Grant it so' : 'Grant'} <kbd>g</kbd>
        </Button>
        <Button variant="default" onClick={() => save('refused')} disabled={edit.saving || edit.clashes.length > 0}>
          {request.state === 'granted' ? 'End and refuse' : 'Refuse'} <kbd>r</kbd>
        </Button>
        {edit.differs ? (
          <Button variant="subtle" onClick={edit.discard}>
            As it was asked
          </Button>
        ) : null}
      </Group>
      {isSaid && opens ? <OpenedTables effect={opens} /> : null}
    </Stack>
  );
}
