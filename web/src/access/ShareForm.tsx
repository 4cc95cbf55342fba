import type { ShareAnswer, ShareBody } from '@idrel/contract/access';
import { type Mask, maskInWords } from '@idrel/core/access/masks';
import { Group, Select, Stack, Switch, TagsInput, Textarea, TextInput } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { problemOf } from '../app/api.ts';
import { sayDone } from '../app/say.ts';
import { useAssetQuery } from '../catalog/index.ts';
import { FormNotice } from '../forms/FormNotice.tsx';
import { StripButtons } from '../forms/StripButtons.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { ProblemNotice } from '../marks/states.tsx';
import { afterDay, lastDay } from './Conditions.tsx';
import { OpenedTables, WhatItOpens } from './GrantEffect.tsx';
import { MaskSome } from './MaskSome.tsx';
import { Assets, Columns } from './PolicyObjects.tsx';
import { useChangeShareMutation, useOfferShareMutation, usePartnersQuery, useShareEffectQuery } from './sharesApi.ts';

const FRESH: ShareBody = {
  partnerId: '',
  name: '',
  note: '',
  assetIds: [],
  columns: null,
  columnsBut: false,
  masked: null,
  rows: null,
  until: null,
};
const valuesOf = ({
  partnerId,
  name,
  note,
  assetIds,
  columns,
  columnsBut,
  masked,
  rows,
  until,
}: ShareBody): ShareBody => ({ partnerId, name, note, assetIds, columns, columnsBut, masked, rows, until });

/** Offers assets to a partner, or changes what is shared; beside it what anybody of the partner would read. @param close told which was offered */
export function ShareForm({ share, close }: { share?: ShareAnswer; close: (id?: string) => void }) {
  const partners = usePartnersQuery();
  const [offer] = useOfferShareMutation();
  const [change] = useChangeShareMutation();
  const edit = useEditForm<ShareBody, ShareAnswer>({
    key: `share:${share?.id ?? 'new'}`,
    now: share ? { version: share.version, values: valuesOf(share) } : null,
    fresh: FRESH,
    valuesOf,
    send: (body, version) => (share ? change({ id: share.id, version, body }) : offer(body)).unwrap(),
    done(saved, before) {
      if (share)
        sayDone(`“${saved.name}” is changed.`, () => change({ id: saved.id, version: saved.version, body: before }));
      else sayDone(`“${saved.name}” is offered to ${saved.partner}.`);
      close(saved.id);
    },
  });
  const { form, values, put } = edit;
  const [settled] = useDebouncedValue(values, 250);
  const isSaid =
    settled.partnerId !== '' && settled.assetIds.length > 0 && !(settled.rows && settled.rows.values.length === 0);
  const effect = useShareEffectQuery(
    { shareId: share?.id ?? null, draft: { ...settled, name: settled.name.trim() || 'a draft' } },
    { skip: !isSaid },
  );
  const opens = effect.error ? undefined : (effect.currentData ?? effect.data);
  const first = useAssetQuery(values.assetIds[0] ?? '', { skip: values.assetIds.length === 0 });
  const names = opens && [...new Set(opens.tables.flatMap(({ columns }) => columns))];
  const partner = partners.data?.find(({ id }) => id === values.partnerId)?.name ?? 'the partner';
  const { masked, rows } = values;
  return (
    <form
      className="toolbar stack"
      aria-label={share ? 'Change the share' : 'Offer a share'}
      onSubmit={(event) => {
        event.preventDefault();
        void edit.save();
      }}
    >
      <Group align="flex-start" wrap="wrap">
        <Select
          label="With"
          w={250}
          required
          disabled={share !== undefined}
          placeholder="Choose a partner"
          data={(partners.data ?? []).map(({ id, name }) => ({ value: id, label: name }))}
          {...form.getInputProps('partnerId')}
          value={values.partnerId || null}
          onChange={(id) => put({ partnerId: id ?? '' })}
        />
        <TextInput
          className="grow"
          label="Name"
          description="As it is offered"
          inputWrapperOrder={['label', 'input', 'description', 'error']}
          placeholder="Departures for the planning of berths"
          required
          maxLength={120}
          {...form.getInputProps('name')}
        />
        <TextInput
          type="date"
          label="Until the end of"
          description="Empty: without an end"
          inputWrapperOrder={['label', 'input', 'description', 'error']}
          w={180}
          value={values.until === null ? '' : lastDay(values.until)}
          error={form.errors.until}
          onChange={(event) => put({ until: afterDay(event.currentTarget.value) })}
        />
      </Group>
      <div className="sentence">
        <span>Share</span>
        <Columns draft={values} put={put} names={names} />
        <span>of</span>
        <Assets form={form} draft={values} empty="tables, views or schemas of one source" also={share?.assets ?? []} />
      </div>
      <Switch
        label="Only some of the rows"
        checked={rows !== null}
        onChange={(event) => put({ rows: event.currentTarget.checked ? { column: '', values: [] } : null })}
      />
      {rows ? (
        <div className="sentence">
          <span>Only where</span>
          <Select
            aria-label="Column that limits the rows"
            className="slot"
            searchable
            placeholder="a column"
            error={form.errors.rows}
            data={names ?? (rows.column ? [rows.column] : [])}
            value={rows.column || null}
            onChange={(column) => put({ rows: { ...rows, column: column ?? '' } })}
          />
          <span>is</span>
          <TagsInput
            aria-label="Values of the rows"
            className="slot"
            placeholder={rows.values.length > 0 ? '' : 'a value, Enter'}
            value={[...rows.values]}
            onChange={(next) => put({ rows: { ...rows, values: next } })}
          />
        </div>
      ) : null}
      <MaskSome masked={masked} put={(next) => put({ masked: next })} assetIds={values.assetIds} names={names} />
      <Textarea
        label="What it is for, and what was agreed"
        description="The partner reads it before it accepts."
        autosize
        minRows={2}
        maxRows={8}
        maxLength={2000}
        {...form.getInputProps('note')}
      />
      <FormNotice
        edit={edit}
        words={{
          partnerId: 'With',
          name: 'Name',
          note: 'What it is for',
          assetIds: ['Assets', (ids) => `${(ids as string[]).length}`],
          columns: 'Columns',
          columnsBut: ['Which columns', (but) => (but ? 'all but these' : 'only these')],
          masked: ['Masked', (one) => (one ? maskInWords((one as { mask: Mask }).mask) : 'nothing')],
          rows: [
            'Rows',
            (one) =>
              one ? `${(one as { column: string }).column}: ${(one as { values: string[] }).values.join(', ')}` : 'all',
          ],
          until: ['Until the end of', (until) => (until ? lastDay(until as string) : 'without an end')],
        }}
      />
      {effect.error ? <ProblemNotice problem={problemOf(effect.error)} /> : null}
      {isSaid && !effect.error ? (
        <WhatItOpens
          who={`Anybody of ${partner}`}
          assets={values.assetIds.map((id) => ({
            id,
            kind: id === first.data?.id ? first.data.kind : 'table',
          }))}
          grant={{ ...settled, stated: false }}
          effect={opens}
        />
      ) : null}
      <Stack gap={8}>
        <Group>
          <StripButtons
            edit={edit}
            words={share ? 'Save it' : 'Offer it'}
            ready={
              values.partnerId !== '' &&
              values.name.trim() !== '' &&
              values.assetIds.length > 0 &&
              (rows === null || (rows.column !== '' && rows.values.length > 0))
            }
            close={() => close()}
          />
        </Group>
        {opens && isSaid ? <OpenedTables effect={opens} /> : null}
      </Stack>
    </form>
  );
}
