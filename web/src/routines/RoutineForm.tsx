import type { RoutineAnswer, RoutinePreview, RoutineStep } from '@idrel/contract/routines';
import { Button, Group, Textarea, TextInput } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { useMemo, useState } from 'react';
import { Link } from 'react-router';
import { problemOf } from '../app/api.ts';
import { sayDone, sayProblem } from '../app/say.ts';
import { opens } from '../catalog/index.ts';
import { Effects } from '../curation/index.ts';
import { FormNotice } from '../forms/FormNotice.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { zoneHere } from '../forms/week.tsx';
import { count, plural, When } from '../marks/index.tsx';
import { Note, Pane, Panes } from '../marks/layout.tsx';
import { ProblemNotice } from '../marks/states.tsx';
import {
  useBringBackRoutineMutation,
  usePreviewRoutineQuery,
  useRemoveRoutineMutation,
  useRunRoutineMutation,
  useSaveRoutineMutation,
  useTakeRoutineMutation,
} from './api.ts';
import { bodyOf, type Draft, fieldsOf, freshDraft, stepIn, stepsIn } from './fields.ts';
import { LastDays } from './LastDays.tsx';
import { RunPane } from './RunPane.tsx';
import { Runs } from './Runs.tsx';
import { begunWith, readyMade } from './readyMade.ts';
import { Starts } from './Starts.tsx';
import { Steps } from './Steps.tsx';
import { STANDS, startsInWords } from './words.ts';

const NOTHING: readonly RoutineStep[] = [];

/** A routine as a form; beside it what it would change now, or one of its runs. */
export function RoutineForm({
  routine,
  filter,
  close,
  run: chosenRun,
  chooseRun,
}: {
  routine: RoutineAnswer | undefined;
  filter: string;
  close: (id: string | null) => void;
  /** The run that is looked at. */
  run: string | null;
  chooseRun: (id: string | null) => void;
}) {
  const [save] = useSaveRoutineMutation();
  const [run, running] = useRunRoutineMutation();
  const [take] = useTakeRoutineMutation();
  const [remove] = useRemoveRoutineMutation();
  const [bringBack] = useBringBackRoutineMutation();
  const [problem, setProblem] = useState<ReturnType<typeof problemOf> | null>(null);
  const now = useMemo(() => (routine ? { version: routine.version, values: fieldsOf(routine) } : null), [routine]);
  const fresh = useMemo(() => freshDraft(filter), [filter]);
  const edit = useEditForm<Draft, RoutineAnswer>({
    key: routine ? `routine:${routine.id}` : `routine:new:${filter}`,
    now,
    fresh,
    valuesOf: fieldsOf,
    send: (values, version) => save({ id: routine?.id ?? null, version, body: bodyOf(values) }).unwrap(),
    done: (saved) => {
      setProblem(null);
      sayDone(`“${saved.name}” is saved.`);
      close(saved.id);
    },
  });
  const { form, values: draft, put, differs } = edit;
  const [settled] = useDebouncedValue(draft, 250);
  const steps = useMemo(() => stepsIn(settled.steps), [settled.steps]);
  const searched = settled.filter.trim();
  const preview = usePreviewRoutineQuery(
    { filter: searched, steps: steps ?? NOTHING },
    { skip: !steps || !searched || chosenRun !== null },
  );
  const disabled = routine ? !routine.mayChange : false;
  const complete = stepsIn(draft.steps) !== null && draft.name.trim() !== '' && draft.filter.trim() !== '';
  const start = async () => {
    if (!routine || !preview.data) return;
    try {
      const begun = await run({ id: routine.id, changes: preview.data.changes }).unwrap();
      setProblem(null);
      chooseRun(begun.id);
    } catch (error) {
      setProblem(problemOf(error));
      void preview.refetch();
    }
  };
  const takeOn = () =>
    routine &&
    void take(routine.id)
      .unwrap()
      .then(
        () => sayDone(`“${routine.name}” acts with your rights from now on.`),
        (error: unknown) => sayProblem(error, 'The routine was not taken on'),
      );
  const destroy = () =>
    routine &&
    void remove(routine.id)
      .unwrap()
      .then(
        () => {
          edit.discard();
          sayDone(`“${routine.name}” is removed; what it changed stays.`, () => bringBack(routine.id));
          close(null);
        },
        (error: unknown) => sayProblem(error, 'The routine was not removed'),
      );
  return (
    <Panes first="minmax(380px, 1fr)" second="minmax(360px, 1fr)">
      <Pane as="form">
        <h2>{routine?.name ?? 'New routine'}</h2>
        {routine ? <Standing routine={routine} takeOn={takeOn} /> : null}
        <TextInput label="Name" required {...form.getInputProps('name')} disabled={disabled} />
        <Textarea
          label="Which assets"
          description="Words and conditions, as in the search box: kind:table domain:Travel owner:none"
          required
          autosize
          {...form.getInputProps('filter')}
          disabled={disabled}
        />
        <Steps steps={draft.steps} put={(next) => put({ steps: next })} disabled={disabled} />
        <Starts starts={draft.starts} guard={draft.guard} enabled={draft.enabled} put={put} disabled={disabled} />
        <ProblemNotice problem={problem} />
        <FormNotice
          edit={edit}
          words={{
            name: 'Name',
            filter: 'Which assets',
            steps: ['What it does', (value) => <StepsSaid steps={value as Draft['steps']} />],
            starts: ['When', (value) => startsInWords(value as Draft['starts'])],
            guard: 'When it asks first',
            enabled: 'It acts by itself',
          }}
        />
        <Group wrap="wrap">
          <Button
            variant={routine && !differs ? 'default' : 'filled'}
            onClick={() => void edit.save()}
            loading={edit.saving}
            disabled={disabled || edit.clashes.length > 0 || !differs || !complete}
          >
            Save routine
          </Button>
          {routine && !differs ? (
            <Button
              onClick={() => void start()}
              loading={running.isLoading}
              disabled={!preview.data || (preview.data.changes === 0 && onlyChanges(preview.data))}
            >
              {preview.data ? `Run now: ${plural(preview.data.changes, 'change')}` : 'Run now'}
            </Button>
          ) : null}
          {routine?.mayChange ? (
            <Button variant="subtle" c="var(--buoy)" onClick={destroy}>
              Remove
            </Button>
          ) : null}
        </Group>
        {routine && differs ? (
          <p className="quiet small">
            Save it to run it. What you typed is kept when you leave.
            {routine.mine ? '' : ' With that you keep it, and it acts with your rights.'}
          </p>
        ) : null}
        {disabled ? (
          <p className="quiet small">
            Kept by {routine?.keeper?.name ?? 'nobody'}: they, and administrators, may change it. You may run it where
            you may do what it does.
          </p>
        ) : null}
        {routine ? <Runs id={routine.id} chosen={chosenRun} choose={chooseRun} /> : null}
      </Pane>
      <Pane as="seen">
        {chosenRun ? (
          <RunPane key={chosenRun} id={chosenRun} close={() => chooseRun(null)} />
        ) : (
          <>
            <h2>What it would do now</h2>
            {!steps || !searched ? (
              <>
                <p className="quiet">
                  Say which assets, and what to do with them: then each one that would change is listed here, before
                  anything is written.
                </p>
                {routine ? null : <Begin put={put} />}
              </>
            ) : preview.error ? (
              <ProblemNotice problem={problemOf(preview.error)} />
            ) : preview.data ? (
              <>
                <Preview data={preview.data} filter={settled.filter} fading={preview.isFetching} />
                {preview.data.steps.some(({ effects }) => effects !== null) ? (
                  <LastDays key={searched} filter={searched} steps={steps} />
                ) : null}
              </>
            ) : (
              <p className="quiet">Looking …</p>
            )}
          </>
        )}
      </Pane>
    </Panes>
  );
}

/** Routines to begin with. */
const Begin = ({ put }: { put: (values: Draft) => void }) => (
  <section aria-label="Ready-made" style={{ marginTop: 20 }}>
    <h3>Or begin with one of these</h3>
    <ul className="bare stack">
      {readyMade(zoneHere()).map((one) => (
        <li key={one.name}>
          <button type="button" className="linkish" onClick={() => put(begunWith(one))}>
            {one.name}
          </button>
          <Note>{one.what}</Note>
        </li>
      ))}
    </ul>
  </section>
);

/** Whether all that it does is to change assets: then a run without a change does nothing. */
const onlyChanges = ({ steps }: RoutinePreview) => steps.every(({ effects }) => effects !== null);

/** How a routine stands: whether it acts by itself, when next, and with whose rights. */
function Standing({ routine, takeOn }: { routine: RoutineAnswer; takeOn: () => void }) {
  const { stands, keeper, nextAt, mine, mayChange, asks } = routine;
  const waits = stands === 'unkept' || stands === 'not agreed';
  return (
    <div className={waits ? 'notice' : undefined}>
      <p className={waits ? undefined : 'quiet small'}>
        {stands === 'unkept'
          ? 'Who kept it has left. It does nothing by itself until somebody takes it on.'
          : stands === 'not agreed'
            ? `It was given to ${keeper?.name}. It does nothing by itself until they take it on.`
            : `Kept by ${keeper?.name ?? 'nobody'}; ${STANDS[stands]}${stands === 'acts' ? ' with their rights' : ''}.`}
        {stands === 'acts' && nextAt ? (
          <>
            {' '}
            Next: <When at={nextAt} />.
          </>
        ) : null}
        {asks ? (
          <>
            {' '}
            <Link className="attention" to={`/routines?routine=${routine.id}&run=${asks}`}>
              A run asks
            </Link>
            .
          </>
        ) : null}
      </p>
      {waits && (mine || mayChange || stands === 'unkept') ? <Button onClick={takeOn}>Take it on</Button> : null}
    </div>
  );
}

const StepsSaid = ({ steps }: { steps: Draft['steps'] }) => (
  <ul className="bare small">
    {steps.map((step) => (
      <li key={step.key} className="mono">
        {JSON.stringify(stepIn(step))}
      </li>
    ))}
  </ul>
);

function Preview({ data, filter, fading }: { data: RoutinePreview; filter: string; fading: boolean }) {
  const only = data.steps.length === 1;
  return (
    <div className={fading ? 'fading stack' : 'stack'}>
      {only ? null : (
        <p role="status">
          Finds <Link to={opens(filter)}>{plural(data.found, 'asset')}</Link>, and makes{' '}
          <strong>{plural(data.changes, 'change')}</strong> in {plural(data.steps.length, 'step')}, as everything is
          now.
        </p>
      )}
      {data.steps.map((step) =>
        step.effects ? (
          <section key={step.nth}>
            {only ? null : (
              <h3>
                {step.nth + 1}. {step.told}
              </h3>
            )}
            <Effects
              effects={step.effects}
              found={
                only ? (
                  <>
                    Finds <Link to={opens(filter)}>{plural(data.found, 'asset')}</Link>
                  </>
                ) : (
                  `Of ${plural(step.goesOn, 'asset')}`
                )
              }
            />
          </section>
        ) : (
          <section key={step.nth}>
            <h3>
              {step.nth + 1}. {step.told}
            </h3>
            <p className="quiet small">Goes on with {count(step.goesOn)}.</p>
          </section>
        ),
      )}
    </div>
  );
}
