import type { ExampleColumn } from '@idrel/contract/recognition';
import { Button, FileButton, Group, SegmentedControl, Stack, Textarea } from '@mantine/core';
import { useState } from 'react';
import { toBase64 } from '../app/files.ts';
import { sayProblem } from '../app/say.ts';
import { count, plural } from '../marks/index.tsx';
import { useColumnValuesMutation, useExampleFileMutation } from './detectorsApi.ts';
import { EXAMPLE_FILES } from './files.ts';
import type { Marked } from './judge.ts';
import { PickColumn } from './PickColumn.tsx';

/** Columns of examples with what was said of each as a whole, and of single values. */
export interface ExampleSet {
  readonly columns: readonly (ExampleColumn & {
    readonly is: boolean | null;
    readonly said: Readonly<Record<string, boolean>>;
  })[];
}
export const NO_EXAMPLES: ExampleSet = { columns: [] };

/** Values that are judged, each different one once: those of columns that were marked, and those marked by themselves. */
export function markedOf({ columns }: ExampleSet): Marked[] {
  const marks = new Map<string, boolean | null>();
  for (const column of columns)
    for (const value of column.values) {
      const is = column.said[value] ?? column.is;
      if (is !== null || !marks.has(value)) marks.set(value, is);
    }
  return [...marks].map(([value, is]) => ({ value, is }));
}

const SHOWN = 60;

/** Examples from a file or pasted: columns are marked as a whole, single values by a click; the draft marks what it takes. */
export function Examples({
  examples,
  change,
  taken,
  pasted,
  paste,
}: {
  examples: ExampleSet;
  change: (examples: ExampleSet) => void;
  taken: ReadonlyMap<string, boolean>;
  pasted: string;
  paste: (text: string) => void;
}) {
  const [read, reading] = useExampleFileMutation();
  const [readColumn, readingColumn] = useColumnValuesMutation();
  const [open, setOpen] = useState(false);
  const [picking, setPicking] = useState(false);
  const add = (columns: readonly ExampleColumn[]) =>
    change({ columns: [...examples.columns, ...columns.map((column) => ({ ...column, is: null, said: {} }))] });
  const load = async (file: File | null) => {
    if (!file) return;
    try {
      add((await read({ name: file.name, content: await toBase64(file) }).unwrap()).columns);
    } catch (error) {
      sayProblem(error, 'The file was not read');
    }
  };
  const pick = async (assetId: string) => {
    try {
      const { path, values } = await readColumn({ assetId, rows: 2000 }).unwrap();
      add([{ name: path, values }]);
      setPicking(false);
    } catch (error) {
      sayProblem(error, 'The column was not read');
    }
  };
  const put = (at: number, changes: Partial<ExampleSet['columns'][number]>) =>
    change({ columns: examples.columns.map((column, index) => (index === at ? { ...column, ...changes } : column)) });
  const lines = pasted.split('\n').flatMap((line) => line.trim() || []);
  return (
    <Stack component="section" aria-label="Examples">
      <Group>
        <h2 className="grow">Examples</h2>
        <FileButton onChange={(file) => void load(file)} accept={EXAMPLE_FILES}>
          {(props) => (
            <Button {...props} variant="default" loading={reading.isLoading}>
              Read a file
            </Button>
          )}
        </FileButton>
        <Button variant="default" onClick={() => setPicking(!picking)} aria-expanded={picking}>
          Take a column
        </Button>
        <Button variant="default" onClick={() => setOpen(!open)} aria-expanded={open}>
          Paste values
        </Button>
        {examples.columns.length > 0 ? (
          <Button variant="subtle" onClick={() => change(NO_EXAMPLES)}>
            Clear
          </Button>
        ) : null}
      </Group>
      {picking ? <PickColumn take={(id) => void pick(id)} busy={readingColumn.isLoading} /> : null}
      {open || (pasted && examples.columns.length === 0) ? (
        <Stack>
          <Textarea
            aria-label="Values, one a line"
            placeholder="One value a line"
            autosize
            minRows={3}
            maxRows={8}
            value={pasted}
            onChange={(event) => paste(event.currentTarget.value)}
            styles={{ input: { fontFamily: 'var(--mantine-font-family-monospace)' } }}
          />
          <Group>
            {[true, false].map((is) => (
              <Button
                key={String(is)}
                variant="default"
                disabled={lines.length === 0}
                onClick={() => {
                  change({
                    columns: [
                      ...examples.columns,
                      { name: is ? 'pasted: is' : 'pasted: is not', values: lines, is, said: {} },
                    ],
                  });
                  paste('');
                  setOpen(false);
                }}
              >
                {is ? 'These are' : 'These are not'}
              </Button>
            ))}
            <span className="quiet small">{plural(lines.length, 'value')}</span>
          </Group>
        </Stack>
      ) : null}
      {examples.columns.length === 0 ? (
        <p className="quiet">
          Read a file that holds such values, beside others, take a column of the catalog, or paste some. Mark the
          columns that are of the class and those that are not; a click on a value says otherwise for that one. Nothing
          of a file is kept.
        </p>
      ) : null}
      {examples.columns.map((column, at) => (
        <ExampleBlock key={`${column.name}:${at}`} column={column} taken={taken} put={(changes) => put(at, changes)} />
      ))}
    </Stack>
  );
}

const SAID = { is: true, 'is not': false, '–': null } as const;

function ExampleBlock({
  column,
  taken,
  put,
}: {
  column: ExampleSet['columns'][number];
  taken: ReadonlyMap<string, boolean>;
  put: (changes: Partial<ExampleSet['columns'][number]>) => void;
}) {
  const values = [...new Set(column.values)];
  const isOf = (value: string) => column.said[value] ?? column.is;
  // What is judged otherwise than it was marked comes first: that is what there is to mend.
  const wrong = (value: string) => isOf(value) !== null && isOf(value) !== (taken.get(value) ?? false);
  const ordered = [...values.filter(wrong), ...values.filter((value) => !wrong(value))].slice(0, SHOWN);
  const matched = values.filter((value) => taken.get(value)).length;
  const said = (Object.keys(SAID) as (keyof typeof SAID)[]).find((key) => SAID[key] === column.is) ?? '–';
  const turn = (value: string) => {
    const is = isOf(value);
    put({ said: { ...column.said, [value]: is === null ? true : !is } });
  };
  return (
    <div>
      <Group mb={4}>
        <span className="mono strong">{column.name}</span>
        <SegmentedControl
          size="xs"
          aria-label={`${column.name} is of the class`}
          value={said}
          data={Object.keys(SAID)}
          onChange={(value) => put({ is: SAID[value as keyof typeof SAID], said: {} })}
        />
        <span className="quiet small">
          {count(matched)} of {count(values.length)} taken
          {values.some(wrong) ? (
            <span className="attention">, {count(values.filter(wrong).length)} otherwise than marked</span>
          ) : null}
        </span>
      </Group>
      <div className="chips">
        {ordered.map((value) => {
          const state = `${taken.get(value) ? 'taken' : 'not taken'}${isOf(value) === null ? '' : isOf(value) ? ', marked: is' : ', marked: is not'}`;
          return (
            <button
              key={value}
              type="button"
              className={`chip mono value${taken.get(value) ? ' taken' : ''}${wrong(value) ? ' wrong' : ''}`}
              title={state}
              aria-label={`${value}: ${state}`}
              onClick={() => turn(value)}
            >
              <span aria-hidden="true" className="sign">
                {taken.get(value) ? '✓' : '·'}
              </span>
              {value.length > 60 ? `${value.slice(0, 59)}…` : value}
            </button>
          );
        })}
        {values.length > SHOWN ? <span className="quiet small">and {count(values.length - SHOWN)} more</span> : null}
      </div>
    </div>
  );
}
