import { Select } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { useState } from 'react';
import { useAssetsQuery } from '../catalog/index.ts';

/** A type of a source that lists its values. */
export function PickType({ take, busy }: { take: (assetId: string) => void; busy: boolean }) {
  const [text, setText] = useState('');
  const [asked] = useDebouncedValue(text.replace(/[^\p{L}\p{N}_]+/gu, ' ').trim(), 150);
  const { data } = useAssetsQuery({ filter: `kind:type ${asked}`.trim(), limit: 50 });
  return (
    <Select
      label="Enumeration"
      description="A type of a source that lists the values it permits"
      placeholder="Words of its name"
      searchable
      disabled={busy}
      searchValue={text}
      onSearchChange={setText}
      value={null}
      filter={({ options }) => options}
      nothingFoundMessage={data ? 'No enumeration with these words' : 'Looking …'}
      data={(data?.items ?? [])
        .filter((asset) => asset.type === 'enumeration')
        .map((asset) => ({ value: asset.id, label: `${asset.path} · ${asset.source}` }))}
      onChange={(id) => id && take(id)}
    />
  );
}
