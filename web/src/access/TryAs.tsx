import type { TableExplained } from '@idrel/contract/access';
import { decidedLimitInWords } from '@idrel/core/access/words';
import { Autocomplete, Button, Group, ScrollArea, Select, Stack, Textarea } from '@mantine/core';
import { useState } from 'react';
import { problemOf } from '../app/api.ts';
import { useKeptText } from '../forms/useKeptText.ts';
import { count, plural } from '../marks/index.tsx';
import { Listing } from '../marks/Listing.tsx';
import { Beside } from '../marks/layout.tsx';
import { usePeopleQuery } from '../people/index.ts';
import { useSourcesQuery } from '../sources/index.ts';
import { usePoliciesQuery, useTryQueryMutation } from './api.ts';
import { asSentence, maskWords } from './maskWords.ts';

/** Runs a SELECT as somebody, through the gateway: what they get, and beside it what was refused or masked and by which policy. */
export function TryAs() {
  const people = usePeopleQuery();
  const sources = useSourcesQuery();
  const [person, setPerson] = useState<string | null>(null);
  const [source, setSource] = useState<string | null>(null);
  const [sql, setSql] = useKeptText('try');
  const [purpose, setPurpose] = useState('');
  const [run, { data, error, isLoading }] = useTryQueryMutation();
  const purposes = [...new Set((usePoliciesQuery(undefined).data ?? []).flatMap((policy) => policy.purposes))].sort();
  const databases = (sources.data ?? []).filter((entry) => entry.kind === 'postgresql');
  const sourceId = source ?? databases.find((entry) => entry.name === 'Warehouse')?.id ?? databases[0]?.id ?? null;
  const problem = error ? problemOf(error) : undefined;
  const go = () => {
    if (person && sourceId && sql.trim())
      void run({ personId: person, sourceId, sql, purpose: purpose.trim() || null });
  };
  const tables = data?.tables ?? (Array.isArray(problem?.current) ? (problem.current as TableExplained[]) : []);
  return (
    <Beside first="minmax(0, 3fr)" second="minmax(260px, 1.2fr)" gap={24}>
      <Stack miw={0}>
        <Group align="flex-end">
          <Select
            className="grow"
            label="As"
            searchable
            placeholder="Choose a person"
            data={(people.data ?? []).map((entry) => ({ value: entry.id, label: entry.name }))}
            value={person}
            onChange={setPerson}
          />
          <Select
            className="grow"
            label="On"
            data={databases.map((entry) => ({ value: entry.id, label: entry.name }))}
            value={sourceId}
            onChange={setSource}
            allowDeselect={false}
          />
        </Group>
        <Autocomplete
          label="For"
          description="What they state that they read for, where a policy asks for it"
          placeholder="nothing stated"
          data={purposes}
          value={purpose}
          onChange={setPurpose}
        />
        <Textarea
          label="Query"
          description="One SELECT; Ctrl Enter runs it"
          value={sql}
          onChange={(event) => setSql(event.currentTarget.value)}
          minRows={4}
          styles={{ input: { fontFamily: 'var(--mantine-font-family-monospace)' } }}
          onKeyDown={(event) => {
            if (event.key === 'Enter' && (event.ctrlKey || event.metaKey)) go();
          }}
        />
        <Group>
          <Button onClick={go} loading={isLoading} disabled={!person || !sourceId || !sql.trim()}>
            Run as this person
          </Button>
        </Group>
        {problem ? (
          <div className="notice" role="alert">
            <strong>{problem.status === 403 ? 'Refused' : 'Not run'}</strong>
            <div>{problem.detail}</div>
            <div>{problem.mend}</div>
          </div>
        ) : null}
        {data ? (
          <>
            <p role="status">
              {plural(data.rows.length, 'row')}
              {data.capped ? ', and more that are not shown' : ''} in {count(data.milliseconds)} ms
            </p>
            <ScrollArea.Autosize mah={420}>
              <Listing heads={data.columns.map((text) => ({ text, mono: true }))} label="Result">
                {data.rows.map((row, line) => (
                  <tr key={`line-${line + 1}`}>
                    {row.map((value, index) => (
                      <td key={`cell-${index + 1}`} className="mono oneline">
                        {value ?? <span className="quiet">null</span>}
                      </td>
                    ))}
                  </tr>
                ))}
              </Listing>
            </ScrollArea.Autosize>
            {data.notes.map((note) => (
              <p key={note} className="notice">
                {note}
              </p>
            ))}
            <details>
              <summary className="quiet">What was sent to the database</summary>
              <pre className="code after">{data.rewritten}</pre>
            </details>
          </>
        ) : null}
      </Stack>
      <aside aria-label="What the policies did" className="stack">
        <h2>What the policies did</h2>
        {tables.length === 0 ? (
          <p className="quiet">
            After a run each table stands here, with what was masked or refused and by which policy.
          </p>
        ) : (
          tables.map((table) => <TableVerdict key={table.tableId} table={table} />)
        )}
      </aside>
    </Beside>
  );
}

export function TableVerdict({ table }: { table: TableExplained }) {
  const changed = table.columns.filter((column) => column.access !== 'plain');
  return (
    <div>
      <h3 className="mono">
        {table.path}: {table.access}
      </h3>
      {table.rowLimits.map((limit) => (
        <p key={limit.policy} className="small">
          {asSentence(decidedLimitInWords(limit))}: {limit.policy}
        </p>
      ))}
      {changed.length === 0 ? (
        <p className="quiet">Every column is read as it is.</p>
      ) : (
        <Listing>
          {changed.map((column) => (
            <tr key={column.name}>
              <td className="mono">{column.name}</td>
              <td>{column.access === 'masked' ? maskWords(column) : <span className="attention">refused</span>}</td>
              <td className="quiet small">
                {column.reasons
                  .filter((reason) => reason.effect !== 'allow')
                  .map((reason) => reason.policy)
                  .join(', ') || 'no policy allows it'}
              </td>
            </tr>
          ))}
        </Listing>
      )}
    </div>
  );
}
