import type { AssetAnswer } from '@idrel/contract/catalog';
import type { TagAnswer } from '@idrel/contract/curation';
import { Stack, TagsInput } from '@mantine/core';
import { useState } from 'react';
import { FormNotice } from '../forms/FormNotice.tsx';
import { Editable } from '../marks/Editable.tsx';
import { useTagsQuery } from './tagsApi.ts';
import { Unsaved } from './Unsaved.tsx';
import { useAssetForm } from './useAssetForm.ts';

interface Given {
  id: string;
  value: string;
}
const written = (name: string, value: string) => (value ? `${name}/${value}` : name);

/** Everything that can be chosen for a kind of asset: each tag without a value, and with each that is permitted or was given before. */
export const offeredTags = (tags: readonly TagAnswer[], kind: string): string[] =>
  tags
    .filter((tag) => tag.mayGive && (!tag.kinds || (tag.kinds as readonly string[]).includes(kind)))
    .flatMap(({ name, permitted, values }) => [
      name,
      ...(permitted ?? values.map((entry) => entry.value).filter(Boolean)).map((value) => written(name, value)),
    ]);

/** What was written, as tags with values: a key, or a key, a stroke and a value; the last of each key counts. Unknown ones are told. */
export function readTags(
  texts: readonly string[],
  tags: readonly TagAnswer[],
): { given: Given[]; wrong: string | undefined } {
  const given = new Map<string, string>();
  let wrong: string | undefined;
  for (const text of texts) {
    const [name = '', ...rest] = text.split('/');
    const value = rest.join('/').trim();
    const tag = tags.find((entry) => entry.name.toLowerCase() === name.trim().toLowerCase());
    if (!tag) wrong ??= `There is no tag “${name.trim()}”.`;
    else if (value && tag.permitted && !tag.permitted.includes(value))
      wrong ??=
        tag.permitted.length > 0
          ? `“${value}” is no value of ${tag.name}: use ${tag.permitted.join(', ')}.`
          : `${tag.name} is given without a value.`;
    else {
      given.delete(tag.id);
      given.set(tag.id, value);
    }
  }
  return { given: [...given].map(([id, value]) => ({ id, value })), wrong };
}

/** The tags of an asset, written or chosen where they stand, and saved when the field is left. */
export function TagChooser({ asset }: { asset: AssetAnswer }) {
  const { data: tags = [] } = useTagsQuery();
  const [open, setOpen] = useState(false);
  const [texts, setTexts] = useState<string[]>([]);
  /** What is being written, and was not taken with Enter yet. */
  const [writing, setWriting] = useState('');
  const edit = useAssetForm(
    asset,
    'tags',
    (now) => ({ tags: now.tags.map(({ id, value }): Given => ({ id, value })) }),
    () => setOpen(false),
  );
  const nameOf = (id: string) =>
    tags.find((tag) => tag.id === id)?.name ?? asset.tags.find((tag) => tag.id === id)?.name ?? id;
  const inWords = (given: unknown) => (given as Given[]).map(({ id, value }) => written(nameOf(id), value));
  const text = asset.tags.map(({ name, value }) => written(name, value)).join(', ');
  const { wrong } = readTags(texts, tags);
  /** What the field holds from now on; another value of a tag takes the place of the one before. @returns undefined where some of it cannot be */
  const take = (next: string[]): Given[] | undefined => {
    const { given, wrong: unknown } = readTags(next, tags);
    setTexts(unknown ? next : inWords(given));
    if (unknown) return undefined;
    edit.put({ tags: given });
    return given;
  };
  if (!asset.mayEdit) return <span>{text || <span className="quiet">none</span>}</span>;
  if (!open && !edit.differs)
    return (
      <Editable
        label="Tags"
        onOpen={() => {
          setTexts(inWords(edit.values.tags));
          setOpen(true);
        }}
      >
        {text || <span className="quiet">none yet</span>}
      </Editable>
    );
  return (
    <Stack>
      <TagsInput
        aria-label="Tags"
        placeholder={texts.length > 0 ? '' : 'retention/short'}
        data={offeredTags(tags, asset.kind)}
        value={open ? texts : inWords(edit.values.tags)}
        maxDropdownHeight={260}
        error={wrong ?? edit.form.errors.tags}
        autoFocus={open}
        onFocus={() => {
          if (open) return;
          setTexts(inWords(edit.values.tags));
          setOpen(true);
        }}
        searchValue={writing}
        onSearchChange={setWriting}
        acceptValueOnBlur={false}
        onChange={take}
        onBlur={() => {
          // Left without Enter, what was written counts as well; what cannot be stays, and is told.
          const given = take(writing.trim() ? [...texts, writing.trim()] : texts);
          setWriting('');
          if (!given) return;
          setOpen(false);
          const differs = inWords(given).sort().join() !== inWords(asset.tags).sort().join();
          if (differs && edit.clashes.length === 0 && !edit.saving) void edit.save({ tags: given });
        }}
        onKeyDown={(event) => {
          if (event.key !== 'Escape') return;
          edit.discard();
          setOpen(false);
        }}
      />
      <FormNotice edit={edit} words={{ tags: ['Tags', (given) => inWords(given).join(', ') || undefined] }} />
      {open ? null : <Unsaved edit={edit} />}
    </Stack>
  );
}
