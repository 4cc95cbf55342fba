import type { SharedTable } from '@idrel/contract/access';
import { Button, Group, Stack, Textarea } from '@mantine/core';
import { problemOf } from '../../app/api.ts';
import { useKeptText } from '../../forms/useKeptText.ts';
import { plural } from '../../marks/index.tsx';
import { Listing } from '../../marks/Listing.tsx';
import { ProblemNotice } from '../../marks/states.tsx';
import { useQuerySharedMutation } from '../sharesApi.ts';

/** So many rows are shown here; programs read all. */
const SHOWN = 200;
const plain = /^[a-z_][a-z0-9_]*$/;
const quoted = (name: string): string => (plain.test(name) ? name : `"${name.replaceAll('"', '""')}"`);

/** A query over what is shared, and how programs ask the same. */
export function AskShared({
  id,
  tables,
  localName,
}: {
  id: string;
  tables: readonly SharedTable[];
  localName: string;
}) {
  const [typed, setTyped] = useKeptText(`shared:${id}`);
  const [run, { data, error, isLoading }] = useQuerySharedMutation();
  const [first] = tables;
  const sql = typed || (first ? `select * from ${quoted(first.schema)}.${quoted(first.name)} limit 50` : '');
  if (!first) return null;
  const go = () => void run({ id, sql, limit: SHOWN });
  return (
    <section aria-label="Ask it" className="stack">
      <Textarea
        label="Query"
        description={
          <>
            One SELECT; Ctrl Enter runs it. Programs ask the same of the database <code>{localName}</code>: see Programs
            and password.
          </>
        }
        value={sql}
        onChange={(event) => setTyped(event.currentTarget.value)}
        minRows={2}
        autosize
        styles={{ input: { fontFamily: 'var(--mantine-font-family-monospace)' } }}
        onKeyDown={(event) => {
          if (event.key === 'Enter' && (event.ctrlKey || event.metaKey)) go();
        }}
      />
      <Group>
        <Button onClick={go} loading={isLoading} disabled={sql.trim() === ''}>
          Run it
        </Button>
      </Group>
      <ProblemNotice problem={error ? problemOf(error) : null} />
      {data && !error ? (
        <Stack gap={6} className={isLoading ? 'fading' : ''}>
          <p className="quiet small" role="status">
            {data.rows.length === 0
              ? 'No row comes of it.'
              : `${plural(data.rows.length, 'row')}${data.capped ? ': the first ones; programs read all' : ''}`}
          </p>
          {data.rows.length > 0 ? (
            // biome-ignore lint/a11y/noNoninteractiveTabindex: whoever works with the keyboard scrolls it by its arrows
            <section className="scrolled" aria-label="Rows, to be scrolled" tabIndex={0}>
              <Listing label="Rows" heads={data.columns.map((name) => ({ mono: true, text: name }))}>
                {data.rows.map((row, at) => (
                  <tr key={at}>
                    {row.map((value, column) => (
                      <td key={data.columns[column] ?? column} className="mono">
                        {value ?? <span className="quiet">none</span>}
                      </td>
                    ))}
                  </tr>
                ))}
              </Listing>
            </section>
          ) : null}
        </Stack>
      ) : null}
    </section>
  );
}
