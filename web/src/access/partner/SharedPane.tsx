import type { SharedAnswer, SharedTable } from '@idrel/contract/access';
import { Button, Group, Stack, Textarea, TextInput } from '@mantine/core';
import { useState } from 'react';
import { problemOf } from '../../app/api.ts';
import { sayDone, sayProblem } from '../../app/say.ts';
import { useKeptText } from '../../forms/useKeptText.ts';
import { plural, When } from '../../marks/index.tsx';
import { Listing } from '../../marks/Listing.tsx';
import { Coming, ProblemNotice, Trouble } from '../../marks/states.tsx';
import { lastDay } from '../Conditions.tsx';
import { useAnswerShareMutation, useSharedTablesQuery } from '../sharesApi.ts';
import { AskShared } from './AskShared.tsx';

/** A share as who reads it sees it: an offer with its answer, or its tables and a place to ask them. */
export function SharedPane({ share, leads }: { share: SharedAnswer; leads: boolean }) {
  const { id, name, note, state, localName, until } = share;
  const open = state === 'offered' || state === 'accepted';
  return (
    <Stack gap={16}>
      <div>
        <h2>{name}</h2>
        <p className="quiet">
          Share {share.number} · offered <When at={share.offeredAt} />
          {until && open ? ` · until the end of ${lastDay(until)}` : ''}
          {state === 'accepted' && share.answeredAt ? (
            <>
              {' '}
              · accepted by {share.answeredBy ?? 'somebody'} <When at={share.answeredAt} />
            </>
          ) : null}
          {open ? '' : ` · ${state}`}
          {share.endedAt && !open ? (
            <>
              {' '}
              <When at={share.endedAt} />
            </>
          ) : null}
        </p>
      </div>
      {note ? <p className="written">{note}</p> : null}
      {state === 'offered' ? leads ? <Answer share={share} /> : <NotYet /> : null}
      {open ? <Tables id={id} offered={state === 'offered'} localName={localName} /> : null}
      {state === 'ended' ? (
        <p className="notice calm">
          It has ended: nothing of it is read any more. If it is offered again, it stands here anew.
        </p>
      ) : null}
      {state === 'accepted' && leads ? <GiveBack share={share} /> : null}
    </Stack>
  );
}

const NotYet = () => (
  <p className="notice calm">Nothing of it is read before somebody who speaks for your organisation accepts it.</p>
);

/** A first proposal of a name for programs. */
const nameFrom = (name: string): string =>
  name
    .normalize('NFD')
    .replace(/\p{M}/gu, '')
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, '_')
    .replace(/^[\p{N}_]+|_+$/gu, '')
    .split('_')
    .slice(0, 3)
    .join('_');

/** Accepts an offer under a name, or declines it. */
function Answer({ share }: { share: SharedAnswer }) {
  const { id, version, name } = share;
  const [answer, { error, isLoading }] = useAnswerShareMutation();
  const [keptName, keepName] = useKeptText(`share-name:${id}`);
  // What was emptied stays empty: a name is proposed at first alone.
  const [called, setCalled] = useState(keptName || nameFrom(name));
  const [text, setText] = useKeptText(`share-answer:${id}`);
  const problem = error ? problemOf(error) : null;
  const send = (decision: 'accepted' | 'declined') =>
    void answer({ id, version, body: { decision, localName: decision === 'accepted' ? called : null, text } })
      .unwrap()
      .then(
        () => {
          keepName('');
          setText('');
          sayDone(decision === 'accepted' ? `“${name}” is read as ${called}.` : `“${name}” is declined.`);
        },
        // It is told below.
        () => undefined,
      );
  return (
    <form
      className="toolbar stack"
      aria-label="Your answer"
      onSubmit={(event) => {
        event.preventDefault();
        send('accepted');
      }}
    >
      <TextInput
        label="Read it as"
        description="The name of a database for your programs: letters, digits, - and _"
        maw={420}
        maxLength={63}
        styles={{ input: { fontFamily: 'var(--mantine-font-family-monospace)' } }}
        value={called}
        error={problem?.fields?.find(({ field }) => field === 'localName')?.message}
        onChange={(event) => {
          setCalled(event.currentTarget.value);
          keepName(event.currentTarget.value);
        }}
      />
      <Textarea
        label="What you say to it"
        description="Whoever offers it reads it"
        autosize
        minRows={1}
        maxRows={6}
        maxLength={2000}
        value={text}
        onChange={(event) => setText(event.currentTarget.value)}
      />
      <ProblemNotice problem={problem} />
      <Group>
        <Button type="submit" loading={isLoading} disabled={called === ''}>
          Accept it
        </Button>
        <Button variant="default" disabled={isLoading} onClick={() => send('declined')}>
          Decline it
        </Button>
      </Group>
    </form>
  );
}

/** What a share holds, table by table, and a query over it. */
function Tables({ id, offered, localName }: { id: string; offered: boolean; localName: string | null }) {
  const { data, error, refetch } = useSharedTablesQuery(id);
  if (error) return <Trouble error={error} what="Its tables cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming lines={3} />;
  return (
    <>
      {offered ? null : <AskShared id={id} tables={data} localName={localName ?? ''} />}
      <section aria-label="Tables" className="stack">
        <h3>
          {data.length === 0
            ? 'Nothing of it can be read now'
            : `${plural(data.length, 'table')}${offered ? ' that you would read' : ''}`}
        </h3>
        {data.map((table) => (
          <Table key={`${table.schema}.${table.name}`} table={table} />
        ))}
      </section>
    </>
  );
}

const Table = ({ table: { schema, name, kind, meaning, limited, columns } }: { table: SharedTable }) => (
  <section aria-label={`${schema}.${name}`}>
    <h4 className="mono">
      {schema}.{name}
    </h4>
    <p className="quiet small">
      {[kind, limited ? 'some of its rows' : 'all rows', plural(columns.length, 'column')].join(' · ')}
    </p>
    {meaning ? <p>{meaning}</p> : null}
    <Listing heads={['Column', 'Type', 'Meaning']} widths={[190, 150]} label={`Columns of ${schema}.${name}`}>
      {columns.map((column) => (
        <tr key={column.name}>
          <td className="mono">{column.name}</td>
          <td className="mono quiet">{column.type}</td>
          <td>
            {column.meaning}
            {column.masked ? <div className="small quiet">shown as {column.masked}</div> : null}
          </td>
        </tr>
      ))}
    </Listing>
  </section>
);

/** Ends a share from the side of who reads it. */
function GiveBack({ share }: { share: SharedAnswer }) {
  const { id, version, name } = share;
  const [answer, { isLoading }] = useAnswerShareMutation();
  const [asking, setAsking] = useState(false);
  if (!asking)
    return (
      <Group>
        <Button variant="default" onClick={() => setAsking(true)}>
          Give it back
        </Button>
      </Group>
    );
  return (
    <div className="toolbar stack">
      <p>Your people and programs read nothing of it any more, at once. It has to be offered anew to be read again.</p>
      <Group>
        <Button
          loading={isLoading}
          onClick={() =>
            void answer({ id, version, body: { decision: 'given back', localName: null, text: '' } })
              .unwrap()
              .then(
                () => sayDone(`“${name}” is given back.`),
                (failed: unknown) => sayProblem(failed, 'It was not given back'),
              )
          }
        >
          Give it back now
        </Button>
        <Button variant="default" onClick={() => setAsking(false)}>
          Leave it
        </Button>
      </Group>
    </div>
  );
}
