import type { LaterBody, PolicyBody } from '@idrel/contract/access';
import { valuesOf } from '@idrel/core/catalog';
import { Button, Group, MultiSelect, Select, Stack, TagsInput, TextInput } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { useState } from 'react';
import { problemOf } from '../app/api.ts';
import { useAssetQuery, useAssetsQuery } from '../catalog/index.ts';
import { count, plural } from '../marks/index.tsx';
import { ProblemNotice } from '../marks/states.tsx';
import { useClassesQuery } from '../recognition/index.ts';
import { useReachLaterQuery } from './api.ts';
import { WhoReads } from './WhoReads.tsx';

const ROWS = 60;
const COLUMNS = 60;
/** In these tables lie. */
const HOLDS: readonly string[] = ['schema', 'database', 'folder'];
/** A column that carries nothing, so that it is seen what becomes of those. */
const PLAIN = 'anything_else';

/** What a draft would do with a table that is not there yet: made up as the draft says, and as one likes. */
export function Later({ policyId, draft }: { policyId: string | null; draft: PolicyBody }) {
  const [open, setOpen] = useState(false);
  if (!open)
    return (
      <div>
        <Button variant="default" size="compact-sm" onClick={() => setOpen(true)}>
          Try it on a table that is not there yet
        </Button>
      </div>
    );
  return <MadeUp policyId={policyId} draft={draft} close={() => setOpen(false)} />;
}

const named = (filter: string | null, key: 'tag' | 'class' | 'name' | 'domain' | 'source'): string[] =>
  [...valuesOf(filter ?? '', key)].filter((value) => value !== 'any' && value !== 'none');

function MadeUp({ policyId, draft, close }: { policyId: string | null; draft: PolicyBody; close: () => void }) {
  const classList = useClassesQuery();
  const [name, setName] = useState(() => named(draft.filter, 'name')[0]?.replaceAll('*', 'new') ?? 'made_tomorrow');
  const [tags, setTags] = useState(() => named(draft.filter, 'tag'));
  const [classKeys, setClassKeys] = useState(() => [...new Set([...draft.classKeys, ...named(draft.filter, 'class')])]);
  const [chosen, setChosen] = useState<string | null>(null);
  const [text, setText] = useState('');
  const [asked] = useDebouncedValue(text.replace(/[^\p{L}\p{N}_]+/gu, ' ').trim(), 150);
  // It would lie in what the policy names, or in some schema that is like what its filter says.
  const listed = useAssetQuery(draft.assetIds[0] ?? '', { skip: draft.assetIds.length === 0 }).data;
  const home = listed && (HOLDS.includes(listed.kind) ? listed.id : listed.parentId);
  const likely = (['domain', 'source'] as const).flatMap((key) =>
    named(draft.filter, key).map((value) => `${key}:"${value}"`),
  );
  // What is chosen stands in the field by its whole name: that is no search.
  const search = asked === '' || asked.includes(' ') ? likely : [asked];
  const found = useAssetsQuery({ filter: [...search, 'kind:schema,folder'].join(' '), limit: 50 }).data?.items ?? [];
  const place = chosen ?? home ?? found[0]?.id ?? null;
  const there = useAssetQuery(place ?? '', { skip: !place }).data;
  const options = [...(there && !found.some(({ id }) => id === place) ? [there] : []), ...found];
  const known = (classList.data ?? []).filter((entry) => classKeys.includes(entry.key));
  const columns = new Map<string, readonly string[]>([
    [PLAIN, []],
    ...(draft.columns ?? []).map((column) => [column, []] as const),
    ...known.map(({ key, label }) => [label.toLowerCase().replace(/[^\p{L}\p{N}]+/gu, '_'), [key]] as const),
  ]);
  const body: LaterBody | null =
    place && name.trim()
      ? {
          policyId,
          draft: { ...draft, name: 'draft' },
          table: {
            parentId: place,
            name: name.trim(),
            tags,
            columns: [...columns].slice(0, COLUMNS).map(([column, keys]) => ({ name: column, classKeys: [...keys] })),
          },
        }
      : null;
  const [settled] = useDebouncedValue(body, 300);
  const later = useReachLaterQuery(settled as LaterBody, { skip: settled === null });
  const answer = later.currentData ?? later.data;
  return (
    <section className="toolbar stack" aria-label="A table that is not there yet">
      <Group align="flex-end" wrap="wrap">
        <TextInput
          className="grow"
          label="A table named"
          value={name}
          maxLength={120}
          onChange={(event) => setName(event.currentTarget.value)}
        />
        <Select
          className="grow"
          label="in"
          searchable
          data={options.map((asset) => ({ value: asset.id, label: `${asset.path} (${asset.source})` }))}
          value={place}
          onChange={setChosen}
          onSearchChange={setText}
          filter={({ options: all }) => all}
          nothingFoundMessage="Nothing of that name"
        />
      </Group>
      <TagsInput label="Tagged" placeholder={tags.length > 0 ? '' : 'with nothing'} value={tags} onChange={setTags} />
      <MultiSelect
        label="With columns that hold"
        placeholder={classKeys.length > 0 ? '' : 'nothing that is known'}
        searchable
        data={(classList.data ?? [])
          .filter((entry) => !entry.retired || classKeys.includes(entry.key))
          .map((entry) => ({ value: entry.key, label: entry.label }))}
        value={classKeys}
        onChange={setClassKeys}
      />
      {later.error ? <ProblemNotice problem={problemOf(later.error)} /> : null}
      {answer && !later.error ? (
        <Stack className={later.isFetching ? 'fading' : ''} gap={8}>
          <p role="status">
            {answer.rows.length === 0 ? (
              'Nobody would read it otherwise than without this policy.'
            ) : (
              <>
                {plural(answer.people, 'person', 'people')} would read it otherwise than without this policy
                {answer.sensitive > 0 ? (
                  <>
                    , <strong className="attention">guarded or sealed values as they are</strong>
                  </>
                ) : null}
                .
              </>
            )}
          </p>
          {answer.rows.length > 0 ? <WhoReads rows={answer.rows.slice(0, ROWS)} levels /> : null}
          {answer.rows.length > ROWS ? (
            <p className="quiet small">and {count(answer.rows.length - ROWS)} more</p>
          ) : null}
        </Stack>
      ) : null}
      <div>
        <Button variant="subtle" size="compact-sm" onClick={close}>
          Leave it
        </Button>
      </div>
    </section>
  );
}
