import type { AskBody } from '@idrel/contract/access';
import { Autocomplete, Group, MultiSelect, Textarea, TextInput } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { useEffect, useRef, useState } from 'react';
import { useSessionQuery } from '../app/api.ts';
import { sayDone } from '../app/say.ts';
import { useAssetQuery, useAssetsQuery } from '../catalog/index.ts';
import { FormNotice } from '../forms/FormNotice.tsx';
import { StripButtons } from '../forms/StripButtons.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { plural } from '../marks/index.tsx';
import { AssetNames } from './AssetNames.tsx';
import { useExplainQuery } from './api.ts';
import { ASKED_MOST } from './askedMost.ts';
import { afterDay, lastDay } from './Conditions.tsx';
import { Columns } from './PolicyObjects.tsx';
import { useAskMutation, useTakeRequestBackMutation } from './requestsApi.ts';
import { answersWords } from './requestWords.ts';

/** Asks for access: to what, which columns, what for and until when. Give it the assets as its key. */
export function AskAccess({
  assetIds,
  purpose = '',
  choose = false,
  close,
}: {
  assetIds: readonly string[];
  purpose?: string;
  /** Whether the assets can be chosen here. */
  choose?: boolean;
  close: () => void;
}) {
  const [ask] = useAskMutation();
  const [takeBack] = useTakeRequestBackMutation();
  const edit = useEditForm<AskBody, { readonly version: number }>({
    key: `ask:${assetIds.join(' ')}`,
    now: null,
    fresh: { assetIds: [...assetIds], columns: null, purpose, note: '', until: null },
    valuesOf: () => ({ assetIds: [...assetIds], columns: null, purpose, note: '', until: null }),
    async send(body) {
      const made = await ask(body).unwrap();
      const [first] = made;
      sayDone(
        made.length === 1 && first
          ? `Asked. ${answersWords(first.answerers)}`
          : `Asked, in ${plural(made.length, 'request')}: different people answer.`,
        async () => {
          for (const { id } of made) await takeBack(id).unwrap();
        },
      );
      return { version: 1 };
    },
    done: close,
  });
  const { form, values, put } = edit;
  const [only] = values.assetIds;
  const one = values.assetIds.length === 1 && only ? only : null;
  const me = useSessionQuery().data?.person?.id ?? '';
  const reads = useExplainQuery({ person: me, asset: one ?? '' }, { skip: !one || !me });
  const purposes = [...new Set((reads.data ?? []).flatMap((table) => table.purposes))];
  const all = reads.data && reads.data.length > 0 && reads.data.every(({ access }) => access === 'yes');
  return (
    <form
      className="toolbar stack"
      aria-label="Ask for access"
      onSubmit={(event) => {
        event.preventDefault();
        void edit.save();
      }}
    >
      {choose ? (
        <Chosen ids={values.assetIds} put={(ids) => put({ assetIds: [...ids], columns: null })} />
      ) : values.assetIds.length > 1 ? (
        <div>
          <AssetNames ids={values.assetIds} />
        </div>
      ) : null}
      {values.assetIds.length > 0 ? <Answering ids={values.assetIds} /> : null}
      {all ? (
        <p className="notice calm">You may read all of it now. Ask only if you need it for longer.</p>
      ) : purposes.length > 0 ? (
        <p className="quiet small">
          More of it is open to who states {purposes.map((entry) => `“${entry}”`).join(' or ')} when they read: for that
          nobody has to be asked.
        </p>
      ) : null}
      {one ? (
        <Group>
          <span>To read</span>
          <Columns
            draft={{ ...values, columnsBut: false }}
            only
            put={({ columns }) => put({ columns: columns ?? null })}
          />
        </Group>
      ) : null}
      <Group align="flex-start" wrap="wrap">
        <Autocomplete
          className="grow"
          label="What for"
          description="In a few words: whoever answers weighs it, and it stands in the journal"
          placeholder="Complaints of the autumn, yearly report …"
          required
          maxLength={120}
          data={purposes}
          {...form.getInputProps('purpose')}
        />
        <TextInput
          type="date"
          label="Until the end of"
          description="Empty: without an end"
          w={190}
          value={values.until === null ? '' : lastDay(values.until)}
          error={form.errors.until}
          onChange={(event) => put({ until: afterDay(event.currentTarget.value) })}
        />
      </Group>
      <Textarea
        label="What else should be known"
        autosize
        minRows={2}
        maxRows={8}
        maxLength={2000}
        {...form.getInputProps('note')}
      />
      <FormNotice
        edit={edit}
        words={{ purpose: 'What for', note: 'What else', until: 'Until', columns: 'Columns', assetIds: 'Assets' }}
      />
      <Group>
        <StripButtons
          edit={edit}
          words="Ask"
          ready={values.purpose.trim() !== '' && values.assetIds.length > 0}
          close={close}
        />
      </Group>
    </form>
  );
}

/** Assets, found by searching; the ones chosen stay in the list. */
function Chosen({ ids, put }: { ids: readonly string[]; put: (ids: readonly string[]) => void }) {
  const [text, setText] = useState('');
  const [asked] = useDebouncedValue(text.replace(/[^\p{L}\p{N}_]+/gu, ' ').trim(), 150);
  const found = useAssetsQuery({
    filter: `${asked} kind:table,view,"materialised view","foreign table",file,"file set",schema,folder`,
    limit: 50,
  });
  const [names, setNames] = useState<Readonly<Record<string, string>>>({});
  const options = (found.data?.items ?? []).map((asset) => ({
    value: asset.id,
    label: `${asset.path} (${asset.source})`,
  }));
  return (
    <>
      <MultiSelect
        label="To what"
        placeholder={ids.length > 0 ? '' : 'Search tables, views, files, schemas'}
        searchable
        searchValue={text}
        onSearchChange={setText}
        maxValues={ASKED_MOST}
        data={[
          ...options,
          ...ids
            .filter((id) => !options.some(({ value }) => value === id))
            .map((value) => ({ value, label: names[value] ?? '…' })),
        ]}
        value={[...ids]}
        onChange={(next) => {
          setNames({ ...names, ...Object.fromEntries(options.map(({ value, label }) => [value, label])) });
          put(next);
        }}
        nothingFoundMessage="Nothing of that name"
        filter={({ options: all }) => all}
      />
      {ids
        .filter((id) => names[id] === undefined)
        .map((id) => (
          <Named key={id} id={id} name={(label) => setNames((before) => ({ ...before, [id]: label }))} />
        ))}
    </>
  );
}

/** Tells the name of an asset that was chosen elsewhere. */
function Named({ id, name }: { id: string; name: (label: string) => void }) {
  const { data } = useAssetQuery(id);
  const label = data && `${data.path} (${data.source})`;
  const tell = useRef(name);
  tell.current = name;
  useEffect(() => {
    if (label) tell.current(label);
  }, [label]);
  return null;
}

/** Who answers for the first of the assets: its owner, or that of what it lies in. */
function Answering({ ids }: { ids: readonly string[] }) {
  const [first = ''] = ids;
  const { data } = useAssetQuery(first, { skip: !first });
  if (!data) return null;
  const owners = data.owners.length > 0 ? data.owners : (data.inherited?.owners ?? []);
  const who = owners.map(({ name }) => name).join(', ');
  return (
    <p className="quiet">
      {who
        ? `${who} answers${data.owners.length === 0 ? `, who answers for ${data.inherited?.from.name}` : ''}${ids.length > 1 ? '; for other assets perhaps somebody else' : ''}.`
        : 'Nobody owns it: a policy administrator of its domain answers.'}
    </p>
  );
}
