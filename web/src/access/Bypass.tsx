import type { BypassAnswer } from '@idrel/contract/access';
import { chainInWords } from '@idrel/core/access/rights';
import { Button, Group, TextInput } from '@mantine/core';
import { useState } from 'react';
import { Link } from 'react-router';
import { sayDone, sayProblem } from '../app/say.ts';
import { FormNotice } from '../forms/FormNotice.tsx';
import { StripButtons } from '../forms/StripButtons.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { count, Level, plural, When } from '../marks/index.tsx';
import { Listing } from '../marks/Listing.tsx';
import { Part } from '../marks/layout.tsx';
import { useAcceptBypassMutation, useForgetAcceptedMutation } from './api.ts';
import { Closing } from './Closing.tsx';
import { afterDay, lastDay } from './Conditions.tsx';
import { RightWords } from './RightWords.tsx';

const TOLD = { masked: 'masked', refused: 'not at all', 'fewer rows': 'fewer rows' } as const;

/** One right at a source: who reads by it, what it opens, and how it is ended or accepted. */
export function Bypass({ bypass, back }: { bypass: BypassAnswer; back: () => void }) {
  const [closes, setCloses] = useState(false);
  const [accepts, setAccepts] = useState(false);
  const { accepted, mayMend } = bypass;
  return (
    <div className="stack">
      <div className="head">
        <div>
          <button type="button" className="linkish" onClick={back}>
            All rights
          </button>
          <h2>
            <RightWords right={bypass} />
          </h2>
          <p className="quiet">
            At {bypass.source}
            {bypass.since ? (
              <>
                , found <When at={bypass.since} />
              </>
            ) : null}
            . It opens {plural(bypass.columns, 'column')} of {plural(bypass.tables, 'table')}{' '}
            {bypass.against ? 'that policies keep' : 'that no policy allows'}
            {bypass.how === 'grant' && bypass.whole ? `, as it does all tables of ${bypass.schema}` : ''}
            {bypass.later ? ', and tables that are made later' : ''}.{' '}
            {bypass.used ? (
              <>
                They were asked for {plural(bypass.used.times, 'time')} so, last seen <When at={bypass.used.at} />.
              </>
            ) : (
              'That they were asked for so was not seen.'
            )}
          </p>
        </div>
        {mayMend ? (
          <Group>
            {accepted ? null : (
              <Button variant="default" aria-expanded={accepts} onClick={() => setAccepts(!accepts)}>
                Accept it
              </Button>
            )}
            <Button aria-expanded={closes} onClick={() => setCloses(!closes)}>
              Plan its end
            </Button>
          </Group>
        ) : null}
      </div>
      {accepted ? <Accepted accepted={accepted} mayMend={mayMend} /> : null}
      {accepts && !accepted ? <Accept bypass={bypass} close={() => setAccepts(false)} /> : null}
      {closes ? <Closing bypass={bypass} /> : null}
      <Part title="Who reads by it">
        <Listing heads={['Comes in as', 'Who that is', 'By way of']}>
          {bypass.logins.map(({ login, chain, people, program }) => (
            <tr key={login}>
              <td className="mono">{login}</td>
              <td>
                {people.length > 0 ? (
                  people.map(({ name }) => name).join(', ')
                ) : program ? (
                  'a program'
                ) : (
                  <Link to={`/access?show=sources&source=${bypass.sourceId}&roles=${bypass.sourceId}`}>
                    nobody said it yet
                  </Link>
                )}
              </td>
              <td>
                {bypass.holder === '' ? 'what everybody may' : chain.length > 1 ? chainInWords(chain) : 'its own right'}
                {bypass.through ? `, a member of ${bypass.through}` : ''}
              </td>
            </tr>
          ))}
        </Listing>
      </Part>
      <Part title="What it opens">
        <Listing heads={['Column', 'Level', 'By the policies', 'Which policies']}>
          {bypass.shown.map((row) => (
            <tr key={`${row.tableId} ${row.column}`}>
              <td className="mono">
                <Link to={`/assets/${row.tableId}`}>{row.table}</Link>.{row.column}
              </td>
              <td>
                <Level level={row.level} bare />
              </td>
              <td>{TOLD[row.told]}</td>
              <td>
                {row.policies.length > 0 ? row.policies.join(', ') : <span className="quiet">none allows it</span>}
              </td>
            </tr>
          ))}
        </Listing>
        {bypass.columns > bypass.shown.length ? (
          <p className="quiet small">and {count(bypass.columns - bypass.shown.length)} more</p>
        ) : null}
      </Part>
    </div>
  );
}

/** For what reason a right was accepted, and what it opens beyond. */
function Accepted({ accepted, mayMend }: { accepted: NonNullable<BypassAnswer['accepted']>; mayMend: boolean }) {
  const [forget, forgetting] = useForgetAcceptedMutation();
  return (
    <div className="notice calm">
      <p>
        Accepted by {accepted.by ?? 'somebody who has left'} <When at={accepted.at} />
        {accepted.until ? `, until the end of ${lastDay(accepted.until)}` : ''}: {accepted.reason}
      </p>
      {accepted.more > 0 ? (
        <p className="attention">It opens {plural(accepted.more, 'column')} more than when it was accepted.</p>
      ) : null}
      {mayMend ? (
        <Button
          variant="subtle"
          loading={forgetting.isLoading}
          onClick={() =>
            void forget(accepted.id)
              .unwrap()
              .then(
                () => sayDone('It is accepted no longer.'),
                (problem: unknown) => sayProblem(problem, 'It is accepted still'),
              )
          }
        >
          Accept it no longer
        </Button>
      ) : null}
    </div>
  );
}

interface Acceptance {
  reason: string;
  until: string | null;
}

function Accept({ bypass, close }: { bypass: BypassAnswer; close: () => void }) {
  const [accept] = useAcceptBypassMutation();
  const { sourceId, how, holder, through, schema } = bypass;
  const edit = useEditForm<Acceptance, Acceptance>({
    key: `accept:${sourceId}:${how}:${holder}:${through}:${schema}`,
    now: null,
    fresh: { reason: '', until: null },
    valuesOf: (values) => values,
    send: async (values) => {
      await accept({ sourceId, how, holder, through, schema, ...values }).unwrap();
      return { ...values, version: 1 };
    },
    done: () => {
      sayDone('It is accepted, and stands below the rest.');
      close();
    },
  });
  const { form, values, put } = edit;
  return (
    <form
      className="toolbar stack"
      aria-label="Accept it"
      onSubmit={(event) => {
        event.preventDefault();
        void edit.save();
      }}
    >
      <FormNotice edit={edit} words={{ reason: 'Reason', until: 'Until' }} />
      <Group wrap="wrap" align="flex-end">
        <TextInput className="grow" label="Reason" required autoFocus {...form.getInputProps('reason')} />
        <TextInput
          type="date"
          label="Until the end of"
          w={190}
          value={values.until === null ? '' : lastDay(values.until)}
          onChange={(event) => put({ until: afterDay(event.currentTarget.value) })}
        />
        <StripButtons edit={edit} words="Accept" ready={values.reason.trim() !== ''} close={close} />
      </Group>
      <p className="quiet small">What it comes to open beyond what it opens now is told all the same.</p>
    </form>
  );
}
