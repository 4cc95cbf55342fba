import type { RoutineAction, RoutineAnswer, RoutineBody, RoutinePreview } from '@idrel/contract/routines';
import { Button, Group, Textarea, TextInput } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { useState } from 'react';
import { Link } from 'react-router';
import { problemOf } from '../app/api.ts';
import { sayDone, sayProblem } from '../app/say.ts';
import { opens } from '../catalog/index.ts';
import {
  type ActionDraft,
  ActionFields,
  actionIn,
  draftOf,
  Effects,
  useActionOptions,
  whatInWords,
} from '../curation/index.ts';
import { FormNotice } from '../forms/FormNotice.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { count, plural, When } from '../marks/index.tsx';
import { heard, Listing, num } from '../marks/Listing.tsx';
import { Pane, Panes } from '../marks/layout.tsx';
import { ProblemNotice } from '../marks/states.tsx';
import {
  useBringBackRoutineMutation,
  usePreviewRoutineQuery,
  useRemoveRoutineMutation,
  useRoutineRunsQuery,
  useRunRoutineMutation,
  useSaveRoutineMutation,
  useUndoRoutineRunMutation,
} from './api.ts';

interface Draft extends ActionDraft {
  name: string;
  filter: string;
}
const fieldsOf = ({ name, filter, action }: RoutineAnswer): Draft => ({ name, filter, ...draftOf(action) });
const bodyOf = ({ name, filter, ...rest }: Draft): RoutineBody => ({
  name,
  filter,
  action: actionIn(rest) as RoutineAction,
});

/** A routine as a form; beside it what it would change now, and its runs. */
export function RoutineForm({
  routine,
  filter,
  close,
}: {
  routine: RoutineAnswer | undefined;
  filter: string;
  close: (id: string | null) => void;
}) {
  const [save] = useSaveRoutineMutation();
  const [run, running] = useRunRoutineMutation();
  const [remove] = useRemoveRoutineMutation();
  const [bringBack] = useBringBackRoutineMutation();
  const [undo] = useUndoRoutineRunMutation();
  const [problem, setProblem] = useState<ReturnType<typeof problemOf> | null>(null);
  const edit = useEditForm<Draft, RoutineAnswer>({
    key: routine ? `routine:${routine.id}` : `routine:new:${filter}`,
    now: routine ? { version: routine.version, values: fieldsOf(routine) } : null,
    fresh: { name: '', filter, what: 'owner', to: '', value: '' },
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
  const action = actionIn(settled);
  const preview = usePreviewRoutineQuery(
    { filter: settled.filter, action: action as RoutineAction },
    { skip: !action || !settled.filter.trim() },
  );
  const disabled = routine ? !routine.mayChange : false;
  const options = useActionOptions(draft.what);
  const takeBack = (id: string) =>
    undo(id)
      .unwrap()
      .then(
        (answer) =>
          sayDone(
            `${plural(answer.restored ?? 0, 'asset')} of ${count(answer.changed)} are as they were before the run.`,
          ),
        (error: unknown) => sayProblem(error, 'The run was not taken back'),
      );
  const start = async () => {
    if (!routine || !preview.data) return;
    try {
      const done = await run({ id: routine.id, changes: preview.data.changes }).unwrap();
      setProblem(null);
      sayDone(`${plural(done.changed, 'asset')} changed.`, () => takeBack(done.id));
    } catch (error) {
      setProblem(problemOf(error));
      void preview.refetch();
    }
  };
  const destroy = () =>
    routine &&
    remove(routine.id)
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
        <TextInput label="Name" required {...form.getInputProps('name')} disabled={disabled} />
        <Textarea
          label="Which assets"
          description="Words and conditions, as in the search box: kind:table domain:Travel owner:none"
          required
          autosize
          {...form.getInputProps('filter')}
          disabled={disabled}
        />
        <ActionFields draft={draft} put={put} disabled={disabled} />
        <ProblemNotice problem={problem} />
        <FormNotice
          edit={edit}
          words={{
            name: 'Name',
            filter: 'Which assets',
            what: ['What to do', whatInWords],
            to: ['To', (to) => options.find((entry) => entry.value === to)?.label],
            value: 'Its value',
          }}
        />
        <Group wrap="wrap">
          <Button
            variant={routine && !differs ? 'default' : 'filled'}
            onClick={() => void edit.save()}
            loading={edit.saving}
            disabled={
              disabled || edit.clashes.length > 0 || !differs || !draft.name.trim() || !draft.filter.trim() || !draft.to
            }
          >
            Save routine
          </Button>
          {routine && !differs ? (
            <Button
              onClick={() => void start()}
              loading={running.isLoading}
              disabled={!preview.data || preview.data.changes === 0}
            >
              {preview.data ? `Run now: change ${plural(preview.data.changes, 'asset')}` : 'Run now'}
            </Button>
          ) : null}
          {routine?.mayChange ? (
            <Button variant="subtle" c="var(--buoy)" onClick={() => void destroy()}>
              Remove
            </Button>
          ) : null}
        </Group>
        {routine && differs ? (
          <p className="quiet small">Save it to run it. What you typed is kept when you leave.</p>
        ) : null}
        {disabled ? (
          <p className="quiet small">
            Made by {routine?.madeBy ?? 'somebody who left'}: they, and administrators, may change it. You may run it
            where you may edit.
          </p>
        ) : null}
        {routine ? <Runs id={routine.id} takeBack={(id) => void takeBack(id)} /> : null}
      </Pane>
      <Pane as="seen">
        <h2>What it would do now</h2>
        {!action || !settled.filter.trim() ? (
          <p className="quiet">
            Say which assets, and what to do with them: then each one that would change is listed here, before anything
            is written.
          </p>
        ) : preview.error ? (
          <ProblemNotice problem={problemOf(preview.error)} />
        ) : preview.data ? (
          <Preview data={preview.data} filter={settled.filter} fading={preview.isFetching} />
        ) : (
          <p className="quiet">Looking …</p>
        )}
      </Pane>
    </Panes>
  );
}

const Preview = ({ data, filter, fading }: { data: RoutinePreview; filter: string; fading: boolean }) => (
  <div className={fading ? 'fading' : undefined}>
    <Effects
      effects={data}
      found={
        <>
          Finds <Link to={opens(filter)}>{plural(data.found, 'asset')}</Link>
        </>
      }
    />
  </div>
);

function Runs({ id, takeBack }: { id: string; takeBack: (run: string) => void }) {
  const { data } = useRoutineRunsQuery(id);
  return (
    <section>
      <h3>Runs</h3>
      {!data || data.length === 0 ? (
        <p className="quiet">{data ? 'None yet.' : 'Looking …'}</p>
      ) : (
        <Listing heads={['When', 'Who', num('Found'), num('Changed'), heard('What to do')]}>
          {data.map((run) => (
            <tr key={run.id}>
              <td className="small">
                <When at={run.at} />
              </td>
              <td className="small">{run.person ?? ''}</td>
              <td className="num">{count(run.found)}</td>
              <td className="num">{count(run.changed)}</td>
              <td>
                {run.undoneAt ? (
                  <span className="quiet small">taken back ({count(run.restored)})</span>
                ) : run.changed > 0 ? (
                  <button type="button" className="linkish" onClick={() => takeBack(run.id)}>
                    Take back
                  </button>
                ) : null}
              </td>
            </tr>
          ))}
        </Listing>
      )}
    </section>
  );
}
