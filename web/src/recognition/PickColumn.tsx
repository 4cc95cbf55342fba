import { Select } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { useState } from 'react';
import { useAssetsQuery } from '../catalog/api.ts';

/** A column of the catalog, found by words. */
export function PickColumn({ label, take, busy }: { label: string; take: (assetId: string) => void; busy: boolean }) {
  const [text, setText] = useState('');
  const [asked] = useDebouncedValue(text.replace(/[^\p{L}\p{N}_.]+/gu, ' ').trim(), 150);
  const { data } = useAssetsQuery({ filter: `kind:column ${asked.replace(/\./g, ' ')}`.trim(), limit: 30 });
  return (
    <Select
      label={label}
      description="You must have the right to read it unmasked; that it was read stands in the journal"
      placeholder="Words of its name or path"
      searchable
      disabled={busy}
      searchValue={text}
      onSearchChange={setText}
      value={null}
      filter={({ options }) => options}
      nothingFoundMessage={data ? 'No column with these words' : 'Looking …'}
      data={(data?.items ?? []).map((column) => ({ value: column.id, label: `${column.path} · ${column.source}` }))}
      onChange={(id) => id && take(id)}
    />
  );
}
