import type { RoutineRunAnswer } from '@idrel/contract/routines';
import { Button, Group, Select } from '@mantine/core';
import { useEffect, useState } from 'react';
import { useDispatch } from 'react-redux';
import { Link } from 'react-router';
import { api, problemOf } from '../app/api.ts';
import { sayDone, sayProblem } from '../app/say.ts';
import { EFFECTS } from '../curation/index.ts';
import { count, KindMark, Name, plural, When } from '../marks/index.tsx';
import { heard, Listing, num } from '../marks/Listing.tsx';
import { Coming, ProblemNotice } from '../marks/states.tsx';
import {
  useGoOnRunMutation,
  useRoutineRunAssetsQuery,
  useRoutineRunQuery,
  useStopRunMutation,
  useUndoRoutineRunMutation,
} from './api.ts';
import { RUN_STATES, whyInWords } from './words.ts';

type State = RoutineRunAnswer['state'];
const MOVING: readonly State[] = ['running', 'undoing'];
/** Often enough to be followed, and seldom enough for a run of hours. */
const EVERY = 1000;
const PAGE = 100;
const CHOICES = [
  { value: 'changes', label: 'What was changed' },
  { value: 'decided', label: 'Decided by hand, and left' },
  { value: 'refused', label: 'Not allowed' },
  { value: 'unsuited', label: 'Of another kind' },
  { value: 'passed over', label: 'Changed meanwhile' },
] as const;
type Effect = (typeof CHOICES)[number]['value'];

/** One run of a routine: its steps, what it did asset by asset, and what can be done about it. */
export function RunPane({ id, close }: { id: string; close: () => void }) {
  const [moving, setMoving] = useState(true);
  const { data: run, error } = useRoutineRunQuery(id, { pollingInterval: moving ? EVERY : 0 });
  const dispatch = useDispatch();
  const [goOn] = useGoOnRunMutation();
  const [stop] = useStopRunMutation();
  const [undo] = useUndoRoutineRunMutation();
  const state = run?.state;
  useEffect(() => {
    if (!state) return;
    const goes = MOVING.includes(state);
    setMoving(goes);
    // What it changed is read anew when it is done.
    if (!goes) dispatch(api.util.invalidateTags(['Asset']));
  }, [state, dispatch]);
  if (error) return <ProblemNotice problem={problemOf(error)} />;
  if (!run) return <Coming />;
  const act = (work: Promise<unknown>, failed: string) =>
    void work.then(
      () => setMoving(true),
      (problem: unknown) => sayProblem(problem, failed),
    );
  return (
    <div className="stack">
      <Group>
        <h2 className="grow">
          Run of <When at={run.at} />: {RUN_STATES[run.state]}
        </h2>
        <Button variant="subtle" onClick={close}>
          Close
        </Button>
      </Group>
      <p role="status">
        {run.dueAt ? (
          <>
            It goes on <When at={run.dueAt} />.{' '}
          </>
        ) : null}
        It began because {whyInWords(run.why, run.person)}
        {run.cause ? (
          <>
            {' '}
            (<Link to={`/runs/${run.cause.runId}`}>scan of {run.cause.source}</Link>)
          </>
        ) : null}
        , with the rights of {run.person ?? 'somebody who left'}. Found {plural(run.found, 'asset')}:{' '}
        <strong>{plural(run.changed, 'change')}</strong>, {count(run.same)} as they should be
        {run.decided > 0 ? `, ${count(run.decided)} decided by hand` : ''}
        {run.refused > 0 ? `, ${count(run.refused)} not allowed` : ''}
        {run.unsuited > 0 ? `, ${count(run.unsuited)} of another kind` : ''}
        {run.passedOver > 0 ? `, ${count(run.passedOver)} changed meanwhile` : ''}
        {run.told > 0 ? `, ${plural(run.told, 'person', 'people')} written to` : ''}
        {run.tickets > 0 ? `, ${plural(run.tickets, 'ticket')} opened` : ''}
        {run.calls > 0 ? `, ${plural(run.calls, 'message')} to webhooks` : ''}.
        {run.restored !== null ? ` ${plural(run.restored, 'change')} taken back.` : ''}
      </p>
      {run.guard && run.state === 'asks' ? (
        <div className="notice">
          <p>
            It would make <strong>{plural(run.guard.changes, 'change')}</strong>, more than{' '}
            {run.guard.usual
              ? `${count(run.guard.most)}, which would be usual of late`
              : `the ${count(run.guard.most)} that it may`}
            . Nothing of this step is done yet.
          </p>
          {run.mayGoOn ? (
            <Group>
              <Button onClick={() => act(goOn({ id, skip: false }).unwrap(), 'It did not go on')}>
                Let it change {plural(run.guard.changes, 'asset')}
              </Button>
              <Button
                variant="default"
                onClick={() => act(goOn({ id, skip: true }).unwrap(), 'The run was not skipped')}
              >
                Skip this run
              </Button>
            </Group>
          ) : null}
        </div>
      ) : null}
      {run.problem ? <p className="notice">{run.problem}</p> : null}
      <Listing heads={['Step', 'How far', num('Over'), num('Changed')]} label="Steps of the run">
        {run.steps.map((step, nth) => (
          <tr key={nth}>
            <td className="anywhere">{step.told}</td>
            <td className="small">{{ done: 'done', now: 'now', ahead: 'still to come' }[step.state]}</td>
            <td className="num">{step.found > 0 ? count(step.found) : ''}</td>
            <td className="num">{step.changed > 0 ? count(step.changed) : ''}</td>
          </tr>
        ))}
      </Listing>
      <Group>
        {run.undoable ? (
          <Button
            variant="default"
            onClick={() => act(undo({ id, assetId: null }).unwrap(), 'The run was not taken back')}
          >
            Take the run back
          </Button>
        ) : null}
        {run.mayGoOn && (run.state === 'running' || run.state === 'waiting') ? (
          <Button variant="default" onClick={() => act(stop(id).unwrap(), 'The run was not stopped')}>
            Stop it here
          </Button>
        ) : null}
      </Group>
      <RunAssets run={run} />
    </div>
  );
}

const countOf = (run: RoutineRunAnswer, effect: Effect): number =>
  ({
    changes: run.state === 'asks' ? (run.guard?.changes ?? 0) : run.changed,
    decided: run.decided,
    refused: run.refused,
    unsuited: run.unsuited,
    'passed over': run.passedOver,
  })[effect];

function RunAssets({ run }: { run: RoutineRunAnswer }) {
  const [effect, setEffect] = useState<Effect>('changes');
  const [offset, setOffset] = useState(0);
  const [undo] = useUndoRoutineRunMutation();
  const { data, isFetching, error } = useRoutineRunAssetsQuery({ id: run.id, query: { effect, offset, limit: PAGE } });
  const back = (assetId: string, path: string) =>
    void undo({ id: run.id, assetId })
      .unwrap()
      .then(
        () => sayDone(`${path} is as it was before the run. No routine does it again.`),
        (problem: unknown) => sayProblem(problem, `${path} was not taken back`),
      );
  return (
    <section>
      <Select
        label="Assets"
        w={260}
        data={CHOICES.map(({ value, label }) => ({
          value,
          label: `${run.state === 'asks' && value === 'changes' ? 'What it would change' : label} (${count(countOf(run, value))})`,
        }))}
        value={effect}
        allowDeselect={false}
        onChange={(next) => {
          setEffect((next ?? 'changes') as Effect);
          setOffset(0);
        }}
      />
      {error ? <ProblemNotice problem={problemOf(error)} /> : null}
      {data && data.items.length > 0 ? (
        <Listing
          className={isFetching ? 'fading' : undefined}
          heads={['Kind', 'Asset', 'Step', 'Before', heard('What to do')]}
          mt={8}
        >
          {data.items.map((item) => (
            <tr key={`${item.id} ${item.step}`}>
              <td>
                <KindMark kind={item.kind} />
              </td>
              <td className="anywhere">
                <Link to={`/assets/${item.id}`}>
                  <Name text={item.path} most={34} />
                </Link>{' '}
                <span className="quiet small">{item.source}</span>
              </td>
              <td className="num">{item.step + 1}</td>
              <td className="small">
                {item.before ?? <span className="quiet">none</span>}
                {item.decided ? (
                  <span className="quiet">
                    {' '}
                    {EFFECTS.decided} by {item.decided.by}, <When at={item.decided.at} />
                  </span>
                ) : null}
              </td>
              <td className="small">
                {item.effect !== 'changes' || run.state === 'asks' ? null : item.undone || run.state === 'undone' ? (
                  <span className="quiet">taken back</span>
                ) : run.undoable ? (
                  <button
                    type="button"
                    className="linkish"
                    aria-label={`Take back ${item.path}`}
                    onClick={() => back(item.id, item.path)}
                  >
                    Take back
                  </button>
                ) : null}
              </td>
            </tr>
          ))}
        </Listing>
      ) : data ? (
        <p className="quiet small">
          None that you may see{run.endedAt && countOf(run, effect) > 0 ? '; after 90 days they are told no more' : ''}.
        </p>
      ) : (
        <Coming lines={3} />
      )}
      {data && data.total > PAGE ? (
        <Group>
          <Button variant="default" disabled={offset === 0} onClick={() => setOffset(Math.max(0, offset - PAGE))}>
            Before
          </Button>
          <span className="small quiet">
            {count(offset + 1)} to {count(Math.min(offset + PAGE, data.total))} of {count(data.total)}
          </span>
          <Button variant="default" disabled={offset + PAGE >= data.total} onClick={() => setOffset(offset + PAGE)}>
            Next
          </Button>
        </Group>
      ) : null}
    </section>
  );
}
