import { Select } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { useState } from 'react';
import { useAssetsQuery, useChildrenQuery } from '../catalog/index.ts';

const HOLDERS = 'kind:table,view,"materialised view","foreign table",file,"file set"';

/** A column of the catalog: first what holds it, found by words of its name or of its columns, then the column. */
export function PickColumn({ take, busy }: { take: (assetId: string) => void; busy: boolean }) {
  const [text, setText] = useState('');
  const [holder, setHolder] = useState<string | null>(null);
  const [asked] = useDebouncedValue(text.replace(/[^\p{L}\p{N}_]+/gu, ' ').trim(), 150);
  const { data } = useAssetsQuery({ filter: `${HOLDERS} ${asked}`.trim(), limit: 30 });
  const columns = useChildrenQuery(holder ?? '', { skip: holder === null });
  return (
    <div className="fields" role="group" aria-label="A column of the catalog">
      <Select
        label="Table or file"
        // Chosen again it is still chosen: the column below must not go with it.
        allowDeselect={false}
        description="You must have the right to read the column unmasked; that it was read stands in the journal"
        placeholder="Words of its name or of its columns"
        searchable
        disabled={busy}
        searchValue={text}
        onSearchChange={setText}
        value={holder}
        // What fits was found by the catalog, which knows more than the words that stand here.
        filter={({ options }) => options}
        nothingFoundMessage={data ? 'Nothing with these words' : 'Looking …'}
        data={(data?.items ?? []).map((asset) => ({ value: asset.id, label: `${asset.path} · ${asset.source}` }))}
        onChange={setHolder}
      />
      <Select
        label="Column"
        placeholder={holder === null ? 'First what holds it' : 'Choose one'}
        searchable
        disabled={busy || holder === null}
        value={null}
        data={(columns.data ?? [])
          .filter((asset) => asset.kind === 'column')
          .map((column) => ({ value: column.id, label: column.name }))}
        onChange={(id) => id && take(id)}
      />
    </div>
  );
}
