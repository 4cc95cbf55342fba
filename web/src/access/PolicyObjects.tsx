import type { PolicyBody } from '@idrel/contract/access';
import { readPolicyFilter } from '@idrel/core/access/policyFilter';
import { MultiSelect, Select } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { useEffect, useMemo, useRef, useState } from 'react';
import { FilterField, useAssetsQuery, useChildrenQuery } from '../catalog/index.ts';
import { usePoliciesQuery } from './api.ts';

const NONE: readonly { readonly id: string; readonly path: string }[] = [];

/** What is looked for where a name is typed; of one with dots the last part, since that is what an asset is called. */
export const wordsOf = (typed: string): string =>
  (
    typed
      .split('.')
      .filter((part) => part.trim() !== '')
      .at(-1) ?? ''
  )
    .replace(/[^\p{L}\p{N}_]+/gu, ' ')
    .trim();

/** Assets are found by searching; the ones chosen stay in the list. */
export function Assets({
  form,
  draft,
  empty,
  also = NONE,
}: {
  form: { getInputProps(field: 'assetIds'): object };
  draft: Pick<PolicyBody, 'assetIds'>;
  empty: string;
  /** Those that were chosen before, as they are called. */
  also?: readonly { readonly id: string; readonly path: string }[];
}) {
  const [text, setText] = useState('');
  const [asked] = useDebouncedValue(text, 150);
  const words = wordsOf(asked);
  const found = useAssetsQuery({
    filter: `${words} kind:database,schema,table,view,"materialised view","foreign table"`,
    limit: 50,
  });
  const policies = usePoliciesQuery(undefined);
  const [known, setKnown] = useState<Record<string, string>>({});
  useEffect(() => {
    setKnown((before) => ({
      ...before,
      ...Object.fromEntries(also.map((asset) => [asset.id, asset.path])),
      ...Object.fromEntries(
        (policies.data ?? []).flatMap((policy) => policy.assets.map((asset) => [asset.id, asset.path])),
      ),
      ...Object.fromEntries(
        (found.data?.items ?? []).map((asset) => [
          asset.id,
          asset.kind === 'schema' || asset.kind === 'database'
            ? `${asset.path} (${asset.kind} in ${asset.source})`
            : `${asset.path} (${asset.source})`,
        ]),
      ),
    }));
  }, [also, found.data, policies.data]);
  const data = [...new Set([...draft.assetIds, ...(found.data?.items ?? []).map((asset) => asset.id)])].map(
    (value) => ({ value, label: known[value] ?? 'an asset' }),
  );
  return (
    <MultiSelect
      className="slot wide"
      aria-label="Assets"
      placeholder={draft.assetIds.length > 0 ? '' : empty}
      searchable
      searchValue={text}
      onSearchChange={setText}
      data={data}
      {...form.getInputProps('assetIds')}
      nothingFoundMessage="Nothing of that name"
      filter={({ options }) => options}
    />
  );
}

/** Chosen columns of the tables named, or all but these; all when none is chosen. */
export function Columns({
  draft,
  put,
  among = null,
  only = false,
  names: given,
  label = 'Columns',
}: {
  draft: Pick<PolicyBody, 'assetIds' | 'columns' | 'columnsBut'>;
  put: (changes: Partial<Pick<PolicyBody, 'columns' | 'columnsBut'>>) => void;
  /** Only of these, and none of those added later. */
  among?: readonly string[] | null;
  /** The columns that there are, where they are not those of the first asset. */
  names?: readonly string[] | undefined;
  /** Nothing but these columns can be meant, and not all but these. */
  only?: boolean;
  label?: string;
}) {
  const [first] = draft.assetIds;
  const children = useChildrenQuery(first ?? '', { skip: !first || given !== undefined });
  const names = useMemo(
    () =>
      among ?? [
        ...new Set([
          ...(given ?? (children.data ?? []).filter((child) => child.kind === 'column').map((child) => child.name)),
          ...(draft.columns ?? []),
        ]),
      ],
    [among, given, children.data, draft.columns],
  );
  if (names.length === 0) return <span>all columns</span>;
  return (
    <>
      {draft.columns && among === null && !only ? (
        <Select
          aria-label={`Which of its ${label.toLowerCase()}`}
          w={130}
          allowDeselect={false}
          data={[
            { value: 'only', label: 'only' },
            { value: 'but', label: 'all but' },
          ]}
          value={draft.columnsBut ? 'but' : 'only'}
          onChange={(which) => put({ columnsBut: which === 'but' })}
        />
      ) : null}
      <MultiSelect
        className="slot"
        aria-label={label}
        placeholder={draft.columns ? '' : 'all columns'}
        searchable
        clearable
        data={[...names]}
        value={[...(draft.columns ?? [])]}
        onChange={(columns) => put(columns.length > 0 ? { columns } : { columns: among, columnsBut: false })}
        clearButtonProps={{ 'aria-label': 'All columns' }}
      />
    </>
  );
}

/** Whatever a filter finds, now and later. */
export function Matching({ filter, put }: { filter: string | null; put: (filter: string | null) => void }) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <div className="slot full">
      <FilterField
        text={filter ?? ''}
        setText={(text) => put(text === '' ? null : text)}
        search={() => undefined}
        inputRef={input}
        within={{ label: 'Filter', placeholder: 'tag:personal, level>=guarded …', read: readPolicyFilter }}
      />
    </div>
  );
}
