import type { TermLine } from '@idrel/contract/glossary';
import { MultiSelect, type MultiSelectProps, Select, type SelectProps } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { useState } from 'react';
import { useFindTermsQuery, useSchemesQuery, useTermQuery } from './api.ts';

/** So many terms are offered for what is typed. */
const OFFERED = 50;
interface Named {
  readonly id: string;
  readonly name: string;
}

/** Terms that fit what is typed, found by any of their labels; the chosen ones, which have to be among them, first. */
function useOffered(search: string, chosen: readonly Named[], but?: string) {
  const [typed] = useDebouncedValue(search, 120);
  // While one is chosen the field holds its name: then others are offered, too.
  const found = useFindTermsQuery({ search: chosen.some(({ name }) => name === typed) ? '' : typed, limit: OFFERED });
  const schemes = useSchemesQuery();
  const several = (schemes.data?.length ?? 0) > 1;
  const told = ({ name, by, scheme }: TermLine) => `${name}${by ? ` (${by})` : ''}${several ? ` · ${scheme}` : ''}`;
  const ids = new Set(chosen.map(({ id }) => id));
  return [
    ...chosen.map(({ id, name }) => ({ value: id, label: name })),
    ...(found.data?.items ?? [])
      .filter(({ id }) => !ids.has(id) && id !== but)
      .map((line) => ({ value: line.id, label: told(line) })),
  ];
}
const asFound: NonNullable<SelectProps['filter']> = ({ options }) => options;

/** Several terms. @param known those that are chosen now, with their names; @param but a term that cannot be chosen */
export function TermsChooser({
  value,
  known,
  but,
  put,
  ...more
}: {
  value: readonly string[];
  known: readonly Named[];
  but?: string | undefined;
  put: (ids: string[]) => void;
} & Omit<MultiSelectProps, 'value' | 'data' | 'onChange'>) {
  const [search, setSearch] = useState('');
  const [seen, setSeen] = useState<readonly Named[]>([]);
  const names = new Map([...known, ...seen].map((term) => [term.id, term]));
  const offered = useOffered(
    search,
    value.flatMap((id) => names.get(id) ?? []),
    but,
  );
  return (
    <MultiSelect
      {...more}
      data={offered}
      value={[...value]}
      searchable
      hidePickedOptions
      filter={asFound}
      searchValue={search}
      onSearchChange={setSearch}
      onChange={(ids) => {
        setSeen((before) => [
          ...before,
          ...offered
            .filter((option) => ids.includes(option.value))
            .map(({ value: id, label }) => ({ id, name: label })),
        ]);
        put(ids);
      }}
      nothingFoundMessage="No term of that name"
    />
  );
}

/** One term. */
export function TermChooser({
  value,
  put,
  ...more
}: { value: string; put: (id: string) => void } & Omit<SelectProps, 'value' | 'data' | 'onChange'>) {
  const [search, setSearch] = useState('');
  const known = useTermQuery(value, { skip: !value });
  const offered = useOffered(search, known.data && value ? [known.data] : []);
  return (
    <Select
      {...more}
      data={offered}
      value={value || null}
      searchable
      filter={asFound}
      searchValue={search}
      onSearchChange={setSearch}
      onChange={(id) => put(id ?? '')}
      nothingFoundMessage="No term of that name"
    />
  );
}
