import { Select } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { useState } from 'react';
import { useAssetQuery, useAssetsQuery } from '../catalog/index.ts';
import { wordsOf } from './PolicyObjects.tsx';

/** Chooses a table, a view or what they lie in, by searching. */
export function AssetChooser({
  label,
  asset,
  choose,
}: {
  label: string;
  asset: string | null;
  choose: (asset: string | null) => void;
}) {
  const [text, setText] = useState('');
  const [asked] = useDebouncedValue(wordsOf(text), 150);
  const found = useAssetsQuery({
    filter: `${asked.includes(' ') ? '' : asked} kind:table,view,"materialised view","foreign table",schema`,
    limit: 50,
  });
  // The one that is chosen is among the options also when the search would not find it.
  const named = useAssetQuery(asset ?? '', { skip: !asset });
  const options = [
    ...(found.data?.items ?? []),
    ...(named.data && !found.data?.items.some((entry) => entry.id === asset) ? [named.data] : []),
  ].map((entry) => ({
    value: entry.id,
    label: `${entry.path} (${entry.source})`,
  }));
  return (
    <Select
      className="grow"
      label={label}
      searchable
      placeholder="Search a table, view or schema"
      clearable
      data={options}
      value={asset}
      onChange={choose}
      searchValue={text}
      onSearchChange={setText}
      filter={({ options }) => options}
      nothingFoundMessage="Nothing of that name"
    />
  );
}
