import { Select } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { useState } from 'react';
import { useAssetsQuery } from '../catalog/index.ts';

export interface Picked {
  readonly id: string;
  readonly path: string;
}

/** An asset, found by words of its name. @param within a filter that it must pass */
export function PickAsset({
  label,
  description,
  within,
  value,
  onChange,
}: {
  label: string;
  description?: string;
  within: string;
  value: Picked | null;
  onChange: (picked: Picked | null) => void;
}) {
  const [search, setSearch] = useState(value?.path ?? '');
  const [typed] = useDebouncedValue(search.trim(), 150);
  const asked = typed.replace(/[^\p{L}\p{N}_]+/gu, ' ').trim();
  // By words, or by a part of the path as it is written everywhere.
  const found = useAssetsQuery(
    { filter: `${within} ((${asked}) or path:"*${typed.replace(/["\\*\s]+/g, '*')}*")`, limit: 30 },
    { skip: asked.length < 2 },
  );
  const options = new Map(
    [...(value ? [{ ...value, source: '' }] : []), ...(found.data?.items ?? [])].map(({ id, path, source }) => [
      id,
      { path, label: source ? `${path} · ${source}` : path },
    ]),
  );
  return (
    <Select
      label={label}
      description={description}
      searchable
      clearable
      clearButtonProps={{ 'aria-label': `No ${label.toLowerCase()}` }}
      data={[...options].map(([id, option]) => ({ value: id, label: option.label }))}
      value={value?.id ?? null}
      searchValue={search}
      onSearchChange={setSearch}
      onChange={(id) => onChange(id === null ? null : { id, path: options.get(id)?.path ?? '' })}
      filter={({ options: all }) => all}
      nothingFoundMessage={asked.length < 2 ? 'Write the beginning of its name' : 'Nothing of that name'}
    />
  );
}
