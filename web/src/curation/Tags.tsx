import type { TagAnswer } from '@idrel/contract/curation';
import { ASSET_KINDS } from '@idrel/contract/things';
import { where } from '@idrel/core/catalog';
import { Button, Group, MultiSelect, Select, Stack, TagsInput, Textarea, TextInput } from '@mantine/core';
import { useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { problemOf } from '../app/api.ts';
import { useKeys } from '../app/keys.tsx';
import { sayDone, sayProblem } from '../app/say.ts';
import { opens } from '../catalog/index.ts';
import { Frame, removing, useMayAnywhere } from '../forms/Frame.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { TermsOf, TermsOrTags } from '../glossary/index.ts';
import { History, useJournalQuery } from '../journal/index.ts';
import { ChooseFrom, stepIn } from '../marks/ChooseFrom.tsx';
import { count, plural } from '../marks/index.tsx';
import { Choice, Pane, Panes } from '../marks/layout.tsx';
import { Coming, Empty, ProblemNotice, Trouble } from '../marks/states.tsx';
import { useOurGroups } from '../people/index.ts';
import { TravelEffect, TravelKinds } from '../recognition/index.ts';
import { useCrumbs } from '../shell/crumbs.tsx';
import {
  useBringBackTagMutation,
  useMergeTagMutation,
  useRemoveTagMutation,
  useSaveTagMutation,
  useTagMergeQuery,
  useTagsQuery,
  useTagTravelQuery,
} from './tagsApi.ts';

/** The tags at the left, the chosen one at the right. */
export function Component() {
  const [params, setParams] = useSearchParams();
  const chosen = params.get('tag');
  const [search, setSearch] = useState('');
  const { data, error, refetch } = useTagsQuery();
  const may = useMayAnywhere('steward');
  const tag = data?.find((entry) => entry.id === chosen);
  useCrumbs(
    { text: 'Glossary', to: '/glossary' },
    { text: 'Tags', to: '/glossary/tags' },
    ...(tag ? [{ text: tag.name }] : []),
  );
  const shown = (data ?? []).filter(({ name }) => name.toLowerCase().includes(search.toLowerCase()));
  const choose = (id: string | null) => setParams(id ? { tag: id } : {}, { replace: true });
  const step = (by: number) =>
    choose(
      stepIn(
        shown.map(({ id }) => id),
        chosen,
        by,
      ),
    );
  useKeys('Tags', [
    { key: 'j', what: 'next tag', act: () => step(1) },
    { key: 'k', what: 'tag before', act: () => step(-1) },
    { key: 'n', what: 'new tag', act: () => may && choose('new') },
  ]);
  if (error) return <Trouble error={error} what="The tags cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming />;
  return (
    <Panes first="320px">
      <ChooseFrom
        title="Tags"
        make={may ? <Button onClick={() => choose('new')}>New tag</Button> : null}
        above={<TermsOrTags here="tags" />}
        label="tags"
        search={search}
        setSearch={setSearch}
      >
        {shown.map((entry) => (
          <Choice key={entry.id} chosen={entry.id === chosen} choose={() => choose(entry.id)}>
            <span className="grow cut">{entry.name}</span>
            <span className="quiet small">{entry.assets > 0 ? plural(entry.assets, 'asset') : ''}</span>
          </Choice>
        ))}
      </ChooseFrom>
      <Pane as="one">
        {chosen === 'new' ? (
          <TagForm key="new" tag={undefined} tags={data} may={may} choose={choose} />
        ) : tag ? (
          <TagForm key={tag.id} tag={tag} tags={data} may={may && tag.mayGive} choose={choose} />
        ) : (
          <Empty title={data.length === 0 ? 'No tag yet' : 'Choose a tag'}>
            <p>
              A tag marks assets with a key, and where it has values with one of them: retention with short or long. It
              is given on an asset’s page, or to many at once in the catalog.
            </p>
          </Empty>
        )}
      </Pane>
    </Panes>
  );
}

interface Draft {
  name: string;
  description: string;
  values: 'none' | 'any' | 'these';
  permitted: string[];
  kinds: NonNullable<TagAnswer['kinds']>[number][];
  groupIds: string[];
  travels: TagAnswer['travels'][number][];
}
const fieldsOf = ({ name, description, permitted, kinds, groupIds, travels }: TagAnswer): Draft => ({
  name,
  description,
  values: permitted === null ? 'any' : permitted.length === 0 ? 'none' : 'these',
  permitted: [...(permitted ?? [])],
  kinds: [...(kinds ?? [])],
  groupIds: [...groupIds],
  travels: [...travels],
});
const NEW: Draft = { name: '', description: '', values: 'none', permitted: [], kinds: [], groupIds: [], travels: [] };
const VALUES = [
  { value: 'none', label: 'none: the tag is enough' },
  { value: 'these', label: 'one of a list' },
  { value: 'any', label: 'any text' },
];

function TagForm({
  tag,
  tags,
  may,
  choose,
}: {
  tag: TagAnswer | undefined;
  tags: readonly TagAnswer[];
  may: boolean;
  choose: (id: string | null) => void;
}) {
  const groups = useOurGroups();
  const [save] = useSaveTagMutation();
  const [remove] = useRemoveTagMutation();
  const [bringBack] = useBringBackTagMutation();
  const edit = useEditForm<Draft, TagAnswer>({
    key: `tag:${tag?.id ?? 'new'}`,
    now: tag ? { version: tag.version, values: fieldsOf(tag) } : null,
    fresh: NEW,
    valuesOf: fieldsOf,
    send: ({ values, permitted, kinds, ...rest }, version) =>
      save({
        id: tag?.id ?? null,
        version,
        body: {
          ...rest,
          permitted: values === 'any' ? null : values === 'none' ? [] : permitted,
          kinds: kinds.length > 0 ? kinds : null,
        },
      }).unwrap(),
    done: (saved) => {
      sayDone(`The tag “${saved.name}” is saved.`);
      choose(saved.id);
    },
  });
  const { form, values: draft, put } = edit;
  const sorted = (list: readonly string[] | null) => [...(list ?? [])].sort().join();
  // Other kinds change where it comes to only if it travels at all.
  const travelsOtherwise =
    tag !== undefined &&
    (sorted(draft.travels) !== sorted(tag.travels) ||
      (tag.travels.length > 0 && sorted(draft.kinds) !== sorted(tag.kinds)));
  const effect = useTagTravelQuery(
    { id: tag?.id ?? '', travels: draft.travels, kinds: draft.kinds.length > 0 ? draft.kinds : null },
    { skip: !travelsOtherwise },
  );
  const groupNames = (ids: unknown) =>
    (ids as string[]).map((id) => groups.data?.find((group) => group.id === id)?.name ?? id).join(', ') ||
    'every editor';
  const destroy = (gone: TagAnswer) =>
    removing(remove(gone.id).unwrap(), 'The tag was not removed', () => {
      edit.discard();
      sayDone(
        gone.assets > 0
          ? `“${gone.name}” is removed from ${plural(gone.assets, 'asset')}.`
          : `“${gone.name}” is removed.`,
        () => bringBack(gone.id),
      );
      choose(null);
    });
  return (
    <Frame
      title={tag?.name ?? 'New tag'}
      may={may}
      edit={edit}
      fields={{
        name: 'Name',
        description: 'Description',
        values: ['Its values', (values) => VALUES.find((entry) => entry.value === values)?.label],
        permitted: 'Permitted values',
        kinds: ['For', (kinds) => (kinds as string[]).join(', ') || 'every kind'],
        groupIds: ['Given by', groupNames],
        travels: ['Travels', (kinds) => (kinds as string[]).join(', ') || 'nowhere'],
      }}
      ready={draft.name.trim() !== '' && (draft.values !== 'these' || draft.permitted.length > 0)}
      words="Save tag"
      remove={tag ? () => destroy(tag) : undefined}
      removeWords={tag && tag.assets > 0 ? `Remove from ${plural(tag.assets, 'asset')}` : 'Remove'}
      below={tag ? <Carried key={tag.id} tag={tag} tags={tags} may={may} choose={choose} /> : null}
    >
      <TextInput label="Name" required {...form.getInputProps('name')} />
      <Textarea label="Description" autosize minRows={2} {...form.getInputProps('description')} />
      <div className="fields">
        <Select
          label="Its values"
          data={VALUES}
          value={draft.values}
          allowDeselect={false}
          onChange={(values) => values && put({ values: values as Draft['values'] })}
        />
        <MultiSelect
          label="For"
          description="Which kinds of asset may carry it"
          placeholder={draft.kinds.length === 0 ? 'every kind' : ''}
          searchable
          data={Object.keys(ASSET_KINDS)}
          {...form.getInputProps('kinds')}
        />
      </div>
      {draft.values === 'these' ? (
        <TagsInput
          label="Permitted values"
          description="Enter after each"
          {...form.getInputProps('permitted')}
          clearButtonProps={{ 'aria-label': 'Remove all' }}
        />
      ) : null}
      <MultiSelect
        label="Given by"
        description="Members of these groups alone give it and take it away"
        placeholder={draft.groupIds.length === 0 ? 'every editor' : ''}
        searchable
        data={(groups.data ?? []).map((group) => ({ value: group.id, label: group.name }))}
        {...form.getInputProps('groupIds')}
      />
      <TravelKinds
        description="What is made of what carries it carries it as well. Nothing chosen: it stays where it is given."
        {...form.getInputProps('travels')}
      />
      {travelsOtherwise ? <TravelEffect preview={effect.data} /> : null}
      {tag && !tag.mayGive ? (
        <p className="quiet small">Only members of {tag.groups.join(' or ')} give it, and change it.</p>
      ) : null}
    </Frame>
  );
}

/** What carries a tag, with which values; merging it into another; its history. */
function Carried({
  tag,
  tags,
  may,
  choose,
}: {
  tag: TagAnswer;
  tags: readonly TagAnswer[];
  may: boolean;
  choose: (id: string | null) => void;
}) {
  const history = useJournalQuery(tag.id);
  return (
    <>
      <h3 className="under">What carries it</h3>
      {tag.assets === 0 ? (
        <p className="quiet">Nothing yet.</p>
      ) : (
        <ul className="flat">
          <li className="row line">
            <Link to={opens(`kind:any ${where('tag', tag.name)} not ${where('came', tag.name)}`)}>
              {plural(tag.assets, 'asset')}
            </Link>
          </li>
          {tag.arrived > 0 ? (
            <li className="row line">
              <Link to={opens(`kind:any ${where('came', tag.name)}`)}>{count(tag.arrived)} along lineage</Link>
            </li>
          ) : null}
          {tag.values
            .filter(({ value }) => value !== '')
            .map(({ value, assets }) => (
              <li key={value} className="row line">
                <Link to={opens(`kind:any ${where('tag', `${tag.name}/${value}`)}`)}>{value}</Link>
                <span className="quiet small">{count(assets)}</span>
              </li>
            ))}
        </ul>
      )}
      {tag.mayGive ? (
        <p>
          <Link to={`/catalog?give=tag:${tag.id}`}>Find assets and give it to them</Link>
        </p>
      ) : null}
      <h3 className="under">What it means</h3>
      <TermsOf of={{ tag: tag.id }} name={tag.name} />
      {may && tags.length > 1 ? <Merge tag={tag} tags={tags} choose={choose} /> : null}
      <h3 className="under">History</h3>
      <History entries={history.data ?? []} />
    </>
  );
}

/** Merging a tag into another one: what would become of what carries it is told before. */
function Merge({
  tag,
  tags,
  choose,
}: {
  tag: TagAnswer;
  tags: readonly TagAnswer[];
  choose: (id: string | null) => void;
}) {
  const [into, setInto] = useState<string | null>(null);
  const preview = useTagMergeQuery({ id: tag.id, into: into ?? '' }, { skip: !into });
  const [merge, merging] = useMergeTagMutation();
  const other = tags.find(({ id }) => id === into);
  const seen = preview.data;
  const go = async () => {
    if (!into || !seen) return;
    try {
      const left = await merge({ id: tag.id, into, assets: seen.assets }).unwrap();
      sayDone(`“${tag.name}” is merged into “${left.name}”.`);
      choose(left.id);
    } catch (error) {
      sayProblem(error, 'The tag was not merged');
      void preview.refetch();
    }
  };
  return (
    <>
      <h3 className="under">Merge</h3>
      <Stack>
        <Select
          label="Into another tag"
          w={320}
          searchable
          clearable
          clearButtonProps={{ 'aria-label': 'Into none' }}
          data={tags
            .filter(({ id, mayGive }) => id !== tag.id && mayGive)
            .map(({ id, name }) => ({ value: id, label: name }))}
          value={into}
          onChange={setInto}
        />
        {preview.error ? <ProblemNotice problem={problemOf(preview.error)} /> : null}
        {seen && other ? (
          <>
            <p role="status">
              {plural(seen.assets, 'asset')} would carry “{other.name}” instead
              {seen.both > 0 ? `; ${count(seen.both)} carry it already and keep its value` : ''}
              {seen.unpermitted > 0
                ? `; ${count(seen.unpermitted)} get it without their value, which it does not permit`
                : ''}
              {seen.unsuited > 0
                ? `; ${count(seen.unsuited)} are of a kind that may not carry it, and lose the tag`
                : ''}
              . “{tag.name}” is removed.
              {seen.searches.length > 0
                ? ` Routines that search for it find it no more: ${seen.searches.join(', ')}.`
                : ''}
            </p>
            <Group>
              <Button onClick={() => void go()} loading={merging.isLoading}>
                Merge into {other.name}
              </Button>
            </Group>
          </>
        ) : null}
      </Stack>
    </>
  );
}
