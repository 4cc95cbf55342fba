import { Group, TextInput } from '@mantine/core';
import type { ReactNode } from 'react';
import { Pane } from './layout.tsx';

/** The list at the left of a view: its name, what can be made, a search within it, and what there is to choose from. */
export const ChooseFrom = ({
  title,
  make,
  above,
  label,
  placeholder,
  search,
  setSearch,
  children,
}: {
  title: string;
  make: ReactNode;
  above?: ReactNode;
  /** What is listed, in lower case. */
  label: string;
  placeholder?: string;
  search: string;
  setSearch: (text: string) => void;
  children: ReactNode;
}) => (
  <Pane as="list">
    <div className="stack above">
      <Group>
        <h1 className="grow">{title}</h1>
        {make}
      </Group>
      {above}
      <TextInput
        aria-label={`Search ${label}`}
        placeholder={placeholder ?? `Search ${label}`}
        value={search}
        onChange={(event) => setSearch(event.currentTarget.value)}
      />
    </div>
    <ul className="tree flat" aria-label={title}>
      {children}
    </ul>
  </Pane>
);
/** The one so many places from the chosen one of a list, within its ends. */
export const stepIn = (ids: readonly string[], chosen: string | null, by: number): string | null =>
  ids[Math.max(0, Math.min(ids.length - 1, ids.indexOf(chosen ?? '') + by))] ?? null;
