import type { TableExplained, TryAnswer } from '@idrel/contract/access';
import { decidedLimitInWords } from '@idrel/core/access/words';
import { Autocomplete, Button, Group, Select, Stack, Textarea } from '@mantine/core';
import { useState } from 'react';
import { problemOf, useLookAsMutation } from '../app/api.ts';
import { sayProblem } from '../app/say.ts';
import { useKeptText } from '../forms/useKeptText.ts';
import { Listing } from '../marks/Listing.tsx';
import { usePeopleQuery } from '../people/index.ts';
import { useSourceKindsQuery, useSourcesQuery } from '../sources/index.ts';
import { usePoliciesQuery, useTryQueryMutation } from './api.ts';
import { asSentence, maskWords } from './maskWords.ts';
import { type Since, since, TwoSides } from './TwoSides.tsx';

interface Tried {
  readonly key: string;
  readonly name: string;
  readonly answer: TryAnswer;
  readonly changes: Since | null;
}

/** Runs a SELECT as somebody, through the gateway: what they get, and beside it what was refused or masked and by which policy. */
export function TryAs() {
  const people = usePeopleQuery();
  const sources = useSourcesQuery();
  const [person, setPerson] = useState<string | null>(null);
  const [source, setSource] = useState<string | null>(null);
  const [sql, setSql] = useKeptText('try');
  const [purpose, setPurpose] = useState('');
  const [run, { data, error, isLoading }] = useTryQueryMutation();
  const [look] = useLookAsMutation();
  /** What was asked last and what came, and what came before of the same. */
  const [tried, setTried] = useState<Tried | null>(null);
  const asked = new Set((useSourceKindsQuery().data ?? []).flatMap((one) => (one.asked ? [one.kind] : [])));
  const purposes = [...new Set((usePoliciesQuery(undefined).data ?? []).flatMap((policy) => policy.purposes))].sort();
  const databases = (sources.data ?? []).filter(({ kind }) => asked.has(kind));
  const sourceId = source ?? databases.find((entry) => entry.name === 'Warehouse')?.id ?? databases[0]?.id ?? null;
  const problem = error ? problemOf(error) : undefined;
  const go = () => {
    if (!person || !sourceId || !sql.trim()) return;
    const asked = { personId: person, sourceId, sql, purpose: purpose.trim() || null };
    const name = (people.data ?? []).find(({ id }) => id === person)?.name ?? '';
    void run(asked)
      .unwrap()
      .then(
        (answer) =>
          setTried((before) => {
            const key = JSON.stringify([person, sourceId, sql]);
            return { key, name, answer, changes: before?.key === key ? since(before.answer, answer) : null };
          }),
        // It is told below.
        () => undefined,
      );
  };
  const tables = data?.tables ?? (Array.isArray(problem?.current) ? (problem.current as TableExplained[]) : []);
  return (
    <Stack>
      <Stack maw={980}>
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
          <Autocomplete
            className="grow"
            label="Stating as purpose"
            placeholder="nothing stated"
            data={purposes}
            value={purpose}
            onChange={setPurpose}
          />
        </Group>
        <Textarea
          label="Query"
          description="One SELECT; Ctrl Enter runs it"
          value={sql}
          onChange={(event) => setSql(event.currentTarget.value)}
          minRows={3}
          autosize
          styles={{ input: { fontFamily: 'var(--mantine-font-family-monospace)' } }}
          onKeyDown={(event) => {
            if (event.key === 'Enter' && (event.ctrlKey || event.metaKey)) go();
          }}
        />
        <Group>
          <Button onClick={go} loading={isLoading} disabled={!person || !sourceId || !sql.trim()}>
            Run as this person
          </Button>
          <Button
            variant="default"
            disabled={!person}
            onClick={() =>
              person &&
              void look(person)
                .unwrap()
                // All that is shown is asked anew, as they see it.
                .then(
                  () => window.location.assign('/catalog'),
                  (failed: unknown) => sayProblem(failed, 'The catalog cannot be looked at as them'),
                )
            }
          >
            Browse as this person
          </Button>
        </Group>
        {problem ? (
          <div className="notice" role="alert">
            <strong>{problem.status === 403 ? 'Refused' : 'Not run'}</strong>
            <div>{problem.detail}</div>
            <div>{problem.mend}</div>
          </div>
        ) : null}
      </Stack>
      {tried && data && !error ? (
        <div className={isLoading ? 'stack fading' : 'stack'}>
          {data.notes.map((note) => (
            <p key={note} className="notice">
              {note}
            </p>
          ))}
          <TwoSides answer={tried.answer} person={tried.name} changes={tried.changes} />
          <details>
            <summary className="quiet">What was sent to the database for them</summary>
            <pre className="code after">{data.rewritten}</pre>
          </details>
        </div>
      ) : null}
      {tables.length > 0 ? (
        <section aria-label="What the policies did" className="stack">
          <h2>What the policies did</h2>
          {tables.map((table) => (
            <TableVerdict key={table.tableId} table={table} />
          ))}
        </section>
      ) : error || isLoading ? null : (
        <p className="quiet">
          A run shows what they get beside what you get, row by row: values that are masked, rows that are missing, each
          with its reason. Run again after a policy was changed, it says what became of it.
        </p>
      )}
    </Stack>
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
