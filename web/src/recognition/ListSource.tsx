import type { ExampleColumn } from '@idrel/contract/recognition';
import { Button, FileButton, Group, Select, Stack } from '@mantine/core';
import { useState } from 'react';
import { toBase64 } from '../app/files.ts';
import { sayDone, sayProblem } from '../app/say.ts';
import { plural } from '../marks/index.tsx';
import { useColumnValuesMutation, useExampleFileMutation } from './detectorsApi.ts';
import { EXAMPLE_FILES } from './files.ts';
import { PickColumn } from './PickColumn.tsx';
import { PickType } from './PickType.tsx';

const MOST = 1_000_000;

/** Where the entries of a list come from: a column of a file, one of the catalog, or a type that lists its values. */
export function ListSource({ values, take }: { values: readonly string[]; take: (values: string[]) => void }) {
  const [read, reading] = useExampleFileMutation();
  const [readColumn, readingColumn] = useColumnValuesMutation();
  const [columns, setColumns] = useState<readonly ExampleColumn[]>([]);
  const [picking, setPicking] = useState<'column' | 'type' | null>(null);
  const fill = (entries: readonly string[], from: string) => {
    const before = [...values];
    const distinct = [...new Set(entries.map((entry) => entry.trim()).filter(Boolean))].slice(0, MOST);
    take(distinct);
    setColumns([]);
    setPicking(null);
    sayDone(`The list has ${plural(distinct.length, 'entry', 'entries')} of ${from}.`, () => take(before));
  };
  const load = async (file: File | null) => {
    if (!file) return;
    try {
      const found = (await read({ name: file.name, content: await toBase64(file), rows: MOST }).unwrap()).columns;
      const [only] = found;
      if (found.length === 1 && only) fill(only.values, file.name);
      else setColumns(found);
    } catch (error) {
      sayProblem(error, 'The file was not read');
    }
  };
  const pick = async (assetId: string) => {
    try {
      const told = await readColumn({ assetId, rows: MOST }).unwrap();
      fill(told.values, told.path);
    } catch (error) {
      sayProblem(error, 'The values were not read');
    }
  };
  return (
    <Stack role="group" aria-label="Entries of the list">
      <Group>
        <FileButton onChange={(file) => void load(file)} accept={EXAMPLE_FILES}>
          {(props) => (
            <Button {...props} variant="default" size="compact-sm" loading={reading.isLoading}>
              From a file
            </Button>
          )}
        </FileButton>
        <Button
          variant="default"
          size="compact-sm"
          aria-expanded={picking === 'column'}
          onClick={() => setPicking(picking === 'column' ? null : 'column')}
        >
          From a column
        </Button>
        <Button
          variant="default"
          size="compact-sm"
          aria-expanded={picking === 'type'}
          onClick={() => setPicking(picking === 'type' ? null : 'type')}
        >
          From an enumeration
        </Button>
      </Group>
      {columns.length > 0 ? (
        <Select
          label="Which column of the file"
          placeholder="Choose one"
          value={null}
          data={columns.map((column, index) => ({
            value: String(index),
            label: `${column.name}: ${plural(new Set(column.values).size, 'different value')}`,
          }))}
          onChange={(at) => at !== null && fill(columns[Number(at)]?.values ?? [], columns[Number(at)]?.name ?? '')}
        />
      ) : null}
      {picking === 'type' ? <PickType take={(id) => void pick(id)} busy={readingColumn.isLoading} /> : null}
      {picking === 'column' ? <PickColumn take={(id) => void pick(id)} busy={readingColumn.isLoading} /> : null}
    </Stack>
  );
}
