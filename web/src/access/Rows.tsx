import type { RowsAnswer } from '@idrel/contract/access';
import { decidedLimitInWords } from '@idrel/core/access/words';
import { Button, Group, Stack } from '@mantine/core';
import { useState } from 'react';
import { Link } from 'react-router';
import { count, plural } from '../marks/index.tsx';
import { Listing } from '../marks/Listing.tsx';
import { Trouble } from '../marks/states.tsx';
import { useLazySampleRowsQuery } from './api.ts';
import { maskWords } from './maskWords.ts';
import { Purpose } from './Purpose.tsx';

const AT_ONCE = 20;

/** A few rows of a table, or values of a column, as who looks may read them: read when they are asked for. Give it the asset's id as its key. */
export function Rows({ id, kind }: { id: string; kind: string }) {
  const [read, { data, error, isFetching }] = useLazySampleRowsQuery();
  const what = kind === 'column' ? 'values' : 'rows';
  const [purpose, setPurpose] = useState<string | null>(null);
  const ask = (stated: string | null) => {
    setPurpose(stated);
    void read({ id, limit: AT_ONCE, purpose: stated });
  };
  return (
    <Stack>
      <Group>
        <Button variant="default" loading={isFetching} onClick={() => ask(purpose)}>
          {data ? `Read them again` : `Read some ${what}`}
        </Button>
        <span className="quiet small">
          As you may read them, read from the source now. They are shown here and kept nowhere.
        </span>
      </Group>
      {error ? <Trouble error={error} what={`The ${what} cannot be read`} /> : null}
      {data && !error && data.table.purposes.length > 0 ? (
        <Purpose purposes={data.table.purposes} stated={purpose} state={ask} />
      ) : null}
      {data && !error ? <Read answer={data} what={what} /> : null}
    </Stack>
  );
}

function Read({ answer, what }: { answer: RowsAnswer; what: string }) {
  const { columns, rows, table, more, notes, milliseconds } = answer;
  const how = new Map(table.columns.map((column) => [column.name, column]));
  const refused = table.columns.filter(({ access }) => access === 'refused');
  const together = table.rowLimits.filter(({ least }) => least !== null);
  const previewed = table.columns.some(({ access }) => access === 'preview');
  if (table.access !== 'no' && together.length > 0)
    return (
      <p className="notice calm">
        No row of it is told by itself:{' '}
        {together.map((limit) => `${decidedLimitInWords(limit)} (${limit.policy})`).join('; ')}. Counts, sums and
        averages of such groups can be asked for through the gateway, with <code>group by</code>.
      </p>
    );
  if (columns.length === 0)
    return (
      <p className="notice">
        You may read nothing of it: {causes(refused)}.{' '}
        <Link to={`/access?show=requests&ask=${table.tableId}`}>Ask for access</Link>.
      </p>
    );
  return (
    <>
      {notes.map((note) => (
        <p key={note} className="notice">
          {note}
        </p>
      ))}
      {rows.length === 0 ? (
        <p className="quiet">
          {table.rowLimits.length > 0 ? 'None of its rows is one that you may read.' : `It has no ${what} now.`}
        </p>
      ) : (
        // biome-ignore lint/a11y/noNoninteractiveTabindex: whoever works with the keyboard scrolls it by its arrows
        <section className="scrolled" aria-label="Rows, to be scrolled" tabIndex={0}>
          <Listing
            label="Rows"
            heads={columns.map((name) => {
              const column = how.get(name);
              return {
                mono: true,
                text: (
                  <>
                    {name}
                    {column?.mask ? <span className="as-masked">{maskWords(column)}</span> : null}
                  </>
                ),
              };
            })}
          >
            {rows.map((row, line) => (
              <tr key={`line-${line + 1}`}>
                {row.map((value, index) => (
                  <td key={columns[index]} className="mono oneline sample" title={value ?? undefined}>
                    {value ?? <span className="quiet">null</span>}
                  </td>
                ))}
              </tr>
            ))}
          </Listing>
        </section>
      )}
      <p className="quiet small" role="status">
        {plural(rows.length, 'row')} in {count(milliseconds)} ms
        {more > 0 ? `; ${plural(more, 'more column')} that you may read ${more === 1 ? 'is' : 'are'} not shown` : ''}
        {table.rowLimits.map((limit) => `; ${decidedLimitInWords(limit)} (${limit.policy})`)}
        {refused.length > 0 ? `; not for you: ${named(refused)} (${causes(refused)})` : ''}
        {previewed ? '. These few rows are what you may be shown: statements of your own are not answered.' : ''}
      </p>
    </>
  );
}

type Column = RowsAnswer['table']['columns'][number];
const NAMED = 8;
const named = (columns: readonly Column[]): string =>
  columns
    .slice(0, NAMED)
    .map(({ name }) => name)
    .join(', ') + (columns.length > NAMED ? ` and ${count(columns.length - NAMED)} more` : '');

/** The policies that keep columns from the reader, or that there is none that opens them. */
function causes(columns: readonly Column[]): string {
  const denied = columns.flatMap(({ reasons }) => reasons.filter(({ effect }) => effect !== 'allow'));
  const names = [...new Set(denied.map(({ policy }) => `“${policy}”`))];
  return names.length > 0 ? `denied by ${names.join(', ')}` : 'no policy allows it';
}
