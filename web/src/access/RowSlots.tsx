import type { PolicyBody } from '@idrel/contract/access';
import { BY_EMAIL } from '@idrel/core/access/words';
import { Autocomplete, Select, TagsInput, TextInput } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { useState } from 'react';
import { useAssetQuery, useAssetsQuery } from '../catalog/index.ts';
import { NumberField } from '../marks/NumberField.tsx';
import { useAttributesOfPeopleQuery } from '../people/index.ts';

type Rows = NonNullable<PolicyBody['rows']>;
type Through = NonNullable<Rows['through']>;
type By = 'values' | 'attribute' | 'through' | 'least';

const BY: readonly { readonly value: By; readonly label: string }[] = [
  { value: 'values', label: 'is one of' },
  { value: 'attribute', label: 'is what the reader has as' },
  { value: 'through', label: 'is given to the reader by' },
  { value: 'least', label: 'has in each group told' },
];
export const FRESH_ROWS: Rows = { column: '', values: [], attribute: null, through: null };
const FRESH_THROUGH: Through = { tableId: '', column: '', reader: '', by: BY_EMAIL };

/** Told only together: at first of so many. */
const LEAST_AT_FIRST = 5;
export const FRESH_TOGETHER: Rows = { ...FRESH_ROWS, least: LEAST_AT_FIRST };

function byOf(rows: Rows): By {
  if (rows.least !== undefined) return 'least';
  return rows.through ? 'through' : rows.attribute === null ? 'values' : 'attribute';
}

/** Which rows may be read: by values of a column, by what is known of the reader, or by a table that says who may read which; or that they are told only together, and how many. */
export function RowSlots({ rows, put }: { rows: Rows; put: (rows: Rows) => void }) {
  const by = byOf(rows);
  return (
    <>
      <span>where</span>
      <TextInput
        aria-label="Column that limits rows"
        placeholder="column"
        value={rows.column}
        onChange={(event) => put({ ...rows, column: event.currentTarget.value })}
      />
      <Select
        aria-label="By what rows are limited"
        w={220}
        allowDeselect={false}
        data={[...BY]}
        value={by}
        onChange={(next) =>
          next &&
          put({
            column: rows.column,
            ...(next === 'least' ? { least: LEAST_AT_FIRST } : {}),
            attribute: next === 'attribute' ? '' : null,
            through: next === 'through' ? FRESH_THROUGH : null,
            values: next === 'values' ? rows.values : [],
          })
        }
      />
      {by === 'values' ? (
        <TagsInput
          className="slot"
          aria-label="Values of permitted rows"
          placeholder={rows.values.length > 0 ? '' : 'values'}
          value={[...rows.values]}
          onChange={(values) => put({ ...rows, values })}
        />
      ) : by === 'attribute' ? (
        <AttributeKey
          label="What is known of the reader"
          value={rows.attribute ?? ''}
          put={(attribute) => put({ ...rows, attribute })}
        />
      ) : rows.least !== undefined ? (
        <>
          <span>at least</span>
          <NumberField
            aria-label="So many different values are told together"
            w={72}
            min={2}
            max={1000}
            value={rows.least}
            put={(least) => put({ ...rows, least })}
          />
          <span>different values</span>
        </>
      ) : rows.through ? (
        <ThroughSlots through={rows.through} put={(through) => put({ ...rows, through })} />
      ) : null}
    </>
  );
}

/** A key of what is known of people: one that somebody has, or another. */
function AttributeKey({
  label,
  value,
  put,
  first = [],
}: {
  label: string;
  value: string;
  put: (key: string) => void;
  /** Offered before those that people have. */
  first?: readonly string[];
}) {
  const { data } = useAttributesOfPeopleQuery();
  return (
    <Autocomplete
      className="slot"
      aria-label={label}
      placeholder="port, country …"
      data={[...new Set([...first, ...(data ?? []).map(({ key }) => key)])]}
      value={value}
      onChange={put}
    />
  );
}

function ThroughSlots({ through, put }: { through: Through; put: (through: Through) => void }) {
  const [text, setText] = useState('');
  const [asked] = useDebouncedValue(text.replace(/[^\p{L}\p{N}_]+/gu, ' ').trim(), 150);
  const found = useAssetsQuery({ filter: `${asked} kind:table,view`, limit: 50 });
  const named = useAssetQuery(through.tableId, { skip: through.tableId === '' });
  const tables = new Map(
    [...(found.data?.items ?? []), ...(named.data ? [named.data] : [])].map((asset) => [
      asset.id,
      `${asset.path} (${asset.source})`,
    ]),
  );
  return (
    <>
      <Select
        className="slot wide"
        aria-label="Table of rights"
        placeholder="a table of rights"
        searchable
        data={[...tables].map(([value, label]) => ({ value, label }))}
        value={through.tableId || null}
        onChange={(tableId) => put({ ...through, tableId: tableId ?? '' })}
        onSearchChange={setText}
        filter={({ options }) => options}
        nothingFoundMessage="Nothing of that name"
      />
      <span>in its</span>
      <TextInput
        aria-label="Column of the permitted values"
        placeholder="column of values"
        value={through.column}
        onChange={(event) => put({ ...through, column: event.currentTarget.value })}
      />
      <span>for whom its</span>
      <TextInput
        aria-label="Column that names the reader"
        placeholder="column of readers"
        value={through.reader}
        onChange={(event) => put({ ...through, reader: event.currentTarget.value })}
      />
      <span>names by</span>
      <AttributeKey
        label="By what it names readers"
        first={[BY_EMAIL]}
        value={through.by}
        put={(by) => put({ ...through, by })}
      />
    </>
  );
}
