import type { EnforcementAnswer } from '@idrel/contract/access';
import { Button, Group, TextInput } from '@mantine/core';
import { useState } from 'react';
import { Link } from 'react-router';
import { sayDone, sayProblem } from '../app/say.ts';
import { FormNotice } from '../forms/FormNotice.tsx';
import { StripButtons } from '../forms/StripButtons.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { count, plural, When } from '../marks/index.tsx';
import { Part } from '../marks/layout.tsx';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { CredentialField, useSourceQuery } from '../sources/index.ts';
import {
  useBypassesQuery,
  useChangeEnforcementMutation,
  useCheckEnforcementMutation,
  useEndEnforcementMutation,
  useEnforcementQuery,
} from './api.ts';
import { EnforcedReaders } from './EnforcedReaders.tsx';
import { EnforcingPlan } from './EnforcingPlan.tsx';

/** How the policies are held by a source itself: what was made there, whether it is read so, and what was changed by hand. */
export function Enforcement({ id, back }: { id: string; back: () => void }) {
  const source = useSourceQuery(id);
  const { data, error, refetch } = useEnforcementQuery(id);
  const [plans, setPlans] = useState(false);
  if (error)
    return <Trouble error={error} what="What the source holds itself cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming />;
  const name = source.data?.name ?? 'the source';
  return (
    <div className="stack">
      <div className="head">
        <div>
          <button type="button" className="linkish" onClick={back}>
            All rights
          </button>
          <h2>Policies held by {name} itself</h2>
          <p className="quiet">
            Whoever comes in by a login of the database does not pass the gateway. The policies can be made to hold
            there as well, as roles, rights and views of the database: what is read by them is looked at every hour.
          </p>
        </div>
        {data.offered && data.mayMake && data.credentialId ? (
          <Group wrap="nowrap">
            {data.made ? <Check id={id} /> : null}
            <Button aria-expanded={plans} onClick={() => setPlans(!plans)}>
              {data.made ? 'Plan it anew' : 'Plan it'}
            </Button>
          </Group>
        ) : null}
      </div>
      {data.why ? <p className="notice">{data.why}</p> : <Maker key={id} id={id} now={data} />}
      {data.offered && !data.mayMake ? (
        <p className="quiet">
          What is made there is planned and seen by whoever administers policies in every domain that {name} has tables
          in.
        </p>
      ) : null}
      {plans ? <EnforcingPlan id={id} name={name} done={() => setPlans(false)} /> : null}
      {data.made ? (
        <Made id={id} now={data} made={data.made} plan={() => setPlans(true)} />
      ) : data.offered && data.mayMake && !plans ? (
        <Empty title="Nothing was made there yet">
          <p>
            {data.credentialId
              ? 'A plan shows each role, right and view that would be made, and who would read what by it. Nothing is made before you have seen it.'
              : 'Choose the role that makes it: one of its own, not the one that scans. What it needs is told by the plan.'}
          </p>
        </Empty>
      ) : null}
    </div>
  );
}

/** The role that makes it: chosen by whoever administers the source. */
function Maker({ id, now }: { id: string; now: EnforcementAnswer }) {
  const [change] = useChangeEnforcementMutation();
  const [open, setOpen] = useState(false);
  const valuesOf = ({ credentialId }: EnforcementAnswer) => ({ credentialId });
  const edit = useEditForm<{ credentialId: string | null }, EnforcementAnswer>({
    key: `enforcement:${id}`,
    now: { version: now.version, values: valuesOf(now) },
    fresh: { credentialId: null },
    valuesOf,
    send: (body, version) => change({ id, version, body }).unwrap(),
    done: ({ role }) => {
      sayDone(role ? `${role} makes it.` : 'No role makes it.');
      setOpen(false);
    },
  });
  if (!open && !edit.differs)
    return (
      <p>
        {now.role ? (
          <>
            Made by <span className="mono">{now.role}</span> <span className="quiet">({now.credential})</span>
          </>
        ) : (
          <span className="quiet">No role was chosen that makes it.</span>
        )}{' '}
        {now.mayChoose && !now.made ? (
          <button type="button" className="linkish" onClick={() => setOpen(true)}>
            {now.role ? 'Choose another role' : 'Choose the role'}
          </button>
        ) : null}
      </p>
    );
  return (
    <form
      className="toolbar stack"
      aria-label="The role that makes it"
      onSubmit={(event) => {
        event.preventDefault();
        void edit.save();
      }}
    >
      <FormNotice edit={edit} words={{ credentialId: ['Credential', () => undefined] }} />
      <CredentialField
        kind="user and password"
        description="Of a role of its own that may make roles and schemas, and reads what policies open"
        value={edit.values.credentialId}
        onChange={(credentialId) => edit.put({ credentialId })}
      />
      <Group>
        <StripButtons edit={edit} words="Save" ready={edit.differs} close={() => setOpen(false)} />
      </Group>
    </form>
  );
}

function Check({ id }: { id: string }) {
  const [check, { isLoading }] = useCheckEnforcementMutation();
  return (
    <Button
      variant="default"
      loading={isLoading}
      onClick={() =>
        void check({ id, accept: null })
          .unwrap()
          .then(
            ({ checked }) =>
              sayDone(checked && isWell(checked) ? 'All is as the policies have it.' : 'It was looked at.'),
            (problem: unknown) => sayProblem(problem, 'It could not be looked at'),
          )
      }
    >
      Look now
    </Button>
  );
}

type Checked = NonNullable<EnforcementAnswer['checked']>;
const isWell = ({ differences, drift, outdated, problem }: Checked): boolean =>
  differences.length === 0 && drift.length === 0 && !outdated && problem === null;

function Made({
  id,
  now,
  made,
  plan,
}: {
  id: string;
  now: EnforcementAnswer;
  made: NonNullable<EnforcementAnswer['made']>;
  plan: () => void;
}) {
  const { checked, accepted } = now;
  return (
    <>
      <Verdict id={id} checked={checked} plan={plan} />
      <Beyond id={id} logins={made.readers.flatMap((one) => one.logins)} />
      {accepted ? (
        <p className="quiet">
          What had been changed by hand was taken as it is by {accepted.by ?? 'somebody who has left'}{' '}
          <When at={accepted.at} />: {accepted.reason}
        </p>
      ) : null}
      <Part title="Who reads by it">
        <EnforcedReaders readers={made.readers} />
      </Part>
      <p className="quiet">
        Made by {made.by ?? 'somebody who has left'} <When at={made.at} />. <TakeBack id={id} />
      </p>
    </>
  );
}

/** What the same logins read by other rights of the source: what was made is no use where these give more. */
function Beyond({ id, logins }: { id: string; logins: readonly string[] }) {
  const { data } = useBypassesQuery({ source: id });
  const more = (data?.items ?? []).filter(
    (right) =>
      (right.accepted === null || right.accepted.more > 0) && right.logins.some(({ login }) => logins.includes(login)),
  );
  if (more.length === 0) return null;
  return (
    <p className="notice">
      {plural(more.length, 'right')} that {more.length === 1 ? 'was' : 'were'} there before{' '}
      {more.length === 1 ? 'gives' : 'give'} these logins more than the policies do.{' '}
      <Link to={`/access?show=sources&source=${id}`}>Close {more.length === 1 ? 'it' : 'them'}</Link>
    </p>
  );
}

const WHAT = { gone: 'is gone', changed: 'was changed', added: 'was added' } as const;

/** What the last look found, and what can be done about it. */
function Verdict({ id, checked, plan }: { id: string; checked: Checked | null; plan: () => void }) {
  const [accepts, setAccepts] = useState(false);
  if (!checked) return <p className="quiet">It is looked at soon.</p>;
  const seen = (
    <>
      {checked.looked < checked.of
        ? `${count(checked.looked)} of ${plural(checked.of, 'table')}`
        : plural(checked.of, 'table')}{' '}
      read as {checked.of === 1 ? 'its readers do' : 'their readers do'}, <When at={checked.at} />
    </>
  );
  if (isWell(checked))
    return (
      <p className="notice calm" role="status">
        <strong>Verified.</strong> {seen}: columns, the count of rows, and a sample cell by cell are what the policies
        say. Nothing was changed by hand.
      </p>
    );
  return (
    <div className="notice stack" role="status">
      <strong>It is not as the policies have it</strong>
      {checked.problem ? <p>It could not be looked at: {checked.problem}</p> : null}
      {checked.outdated ? <p>The policies, the tables or who comes in have changed since it was made.</p> : null}
      {checked.drift.length > 0 ? (
        <div>
          Changed by hand:
          <ul>
            {checked.drift.map(({ what, words, after, readers }) => (
              <li key={`${what} ${words}`}>
                {words} {WHAT[what]}, since <When at={after} /> at the earliest
                {readers.length > 0
                  ? ` (${readers.join(', ')} ${what === 'gone' ? 'read by it' : 'can read by it'})`
                  : ''}
              </li>
            ))}
          </ul>
        </div>
      ) : null}
      {checked.differences.length > 0 ? (
        <div>
          Read otherwise:
          <ul>
            {checked.differences.map(({ role, table, what }) => (
              <li key={`${role} ${table} ${what}`}>
                <span className="mono">{table}</span> by <span className="mono">{role}</span>: {what}
              </li>
            ))}
          </ul>
        </div>
      ) : null}
      <p className="quiet small">{seen}.</p>
      <Group>
        <Button onClick={plan}>Plan it anew</Button>
        {checked.drift.length > 0 && !accepts ? (
          <Button variant="default" onClick={() => setAccepts(true)}>
            Leave what was changed
          </Button>
        ) : null}
      </Group>
      {accepts ? <Accept id={id} close={() => setAccepts(false)} /> : null}
    </div>
  );
}

function Accept({ id, close }: { id: string; close: () => void }) {
  const [check] = useCheckEnforcementMutation();
  const edit = useEditForm<{ reason: string }, { reason: string }>({
    key: `enforcement-left:${id}`,
    now: null,
    fresh: { reason: '' },
    valuesOf: (values) => values,
    send: async ({ reason }) => {
      await check({ id, accept: reason }).unwrap();
      return { reason, version: 1 };
    },
    done: () => {
      sayDone('What was changed by hand stays as it is.');
      close();
    },
  });
  return (
    <form
      className="stack"
      aria-label="Leave what was changed"
      onSubmit={(event) => {
        event.preventDefault();
        void edit.save();
      }}
    >
      <FormNotice edit={edit} words={{ reason: 'Reason' }} />
      <Group wrap="wrap" align="flex-end">
        <TextInput className="grow" label="Reason" required autoFocus {...edit.form.getInputProps('reason')} />
        <StripButtons edit={edit} words="Let it stay" ready={edit.values.reason.trim() !== ''} close={close} />
      </Group>
    </form>
  );
}

function TakeBack({ id }: { id: string }) {
  const [asks, setAsks] = useState(false);
  const [end, { isLoading }] = useEndEnforcementMutation();
  if (!asks)
    return (
      <button type="button" className="linkish" onClick={() => setAsks(true)}>
        Take it back
      </button>
    );
  return (
    <span>
      Whoever reads by it reads nothing by it any more.{' '}
      <Button
        size="compact-sm"
        loading={isLoading}
        onClick={() =>
          void end(id)
            .unwrap()
            .then(
              () => sayDone('All that was made there is taken back.'),
              (problem: unknown) => sayProblem(problem, 'Nothing was taken back'),
            )
        }
      >
        Take it back now
      </Button>{' '}
      <Button size="compact-sm" variant="default" onClick={() => setAsks(false)}>
        Leave it
      </Button>
    </span>
  );
}
