import type { RoutineAction, RoutineAnswer, RoutineBody, RoutinePreview } from '@idrel/contract/routines';
import { STANDINGS, type Standing } from '@idrel/core/catalog';
import { Button, Group, Select, Textarea, TextInput } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { useState } from 'react';
import { Link } from 'react-router';
import { problemOf } from '../app/api.ts';
import { sayDone, sayProblem } from '../app/say.ts';
import { opens } from '../catalog/index.ts';
import { FormNotice } from '../forms/FormNotice.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { useTermsQuery } from '../glossary/index.ts';
import { count, KindMark, Name, plural, When } from '../marks/index.tsx';
import { heard, Listing, num } from '../marks/Listing.tsx';
import { Pane, Panes } from '../marks/layout.tsx';
import { ProblemNotice } from '../marks/states.tsx';
import { usePeopleQuery } from '../people/index.ts';
import {
  useBringBackRoutineMutation,
  usePreviewRoutineQuery,
  useRemoveRoutineMutation,
  useRoutineRunsQuery,
  useRunRoutineMutation,
  useSaveRoutineMutation,
  useUndoRoutineRunMutation,
} from './api.ts';

const KINDS = [
  { value: 'owner', label: 'add the owner' },
  { value: 'steward', label: 'add the steward' },
  { value: 'term', label: 'add the term' },
  { value: 'standing', label: 'set the standing to' },
] as const;
interface Draft {
  name: string;
  filter: string;
  kind: RoutineAction['kind'];
  value: string;
}
const actionIn = ({ kind, value }: Pick<Draft, 'kind' | 'value'>): RoutineAction =>
  kind === 'standing' ? { kind, standing: value as Standing } : { kind, id: value };
const actionOf = (draft: Draft): RoutineAction | null => (draft.value ? actionIn(draft) : null);
const valueIn = (action: RoutineAction) => (action.kind === 'standing' ? action.standing : action.id);

const fieldsOf = ({ name, filter, action }: RoutineAnswer): Draft => ({
  name,
  filter,
  kind: action.kind,
  value: valueIn(action),
});
const bodyOf = ({ name, filter, ...rest }: Draft): RoutineBody => ({ name, filter, action: actionIn(rest) });

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
  const people = usePeopleQuery();
  const terms = useTermsQuery();
  const [save] = useSaveRoutineMutation();
  const [run, running] = useRunRoutineMutation();
  const [remove] = useRemoveRoutineMutation();
  const [bringBack] = useBringBackRoutineMutation();
  const [undo] = useUndoRoutineRunMutation();
  const [problem, setProblem] = useState<ReturnType<typeof problemOf> | null>(null);
  const edit = useEditForm<Draft, RoutineAnswer>({
    key: routine ? `routine:${routine.id}` : `routine:new:${filter}`,
    now: routine ? { version: routine.version, values: fieldsOf(routine) } : null,
    fresh: { name: '', filter, kind: 'owner', value: '' },
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
  const action = actionOf(settled);
  const preview = usePreviewRoutineQuery(
    { filter: settled.filter, action: action as RoutineAction },
    { skip: !action || !settled.filter.trim() },
  );
  const disabled = routine ? !routine.mayChange : false;
  const named = (list: readonly { id: string; name: string }[] | undefined) =>
    (list ?? []).map((entry) => ({ value: entry.id, label: entry.name }));
  const values =
    draft.kind === 'standing'
      ? STANDINGS.map((value) => ({ value, label: value }))
      : named(draft.kind === 'term' ? terms.data : people.data);
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
        <div className="fields">
          <Select
            label="What to do"
            data={KINDS.map((kind) => ({ ...kind }))}
            value={draft.kind}
            allowDeselect={false}
            onChange={(kind) => kind && put({ kind: kind as Draft['kind'], value: '' })}
            disabled={disabled}
          />
          <Select
            label={draft.kind === 'standing' ? 'Standing' : draft.kind === 'term' ? 'Term' : 'Person'}
            searchable
            data={values}
            value={draft.value || null}
            onChange={(value) => put({ value: value ?? '' })}
            disabled={disabled}
          />
        </div>
        <ProblemNotice problem={problem} />
        <FormNotice
          edit={edit}
          words={{
            name: 'Name',
            filter: 'Which assets',
            kind: ['What to do', (kind) => KINDS.find((entry) => entry.value === kind)?.label],
            value: ['To', (value) => values.find((entry) => entry.value === value)?.label],
          }}
        />
        <Group wrap="wrap">
          <Button
            variant={routine && !differs ? 'default' : 'filled'}
            onClick={() => void edit.save()}
            loading={edit.saving}
            disabled={
              disabled ||
              edit.clashes.length > 0 ||
              !differs ||
              !draft.name.trim() ||
              !draft.filter.trim() ||
              !draft.value
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

const EFFECTS = { changes: 'changes', same: 'as it should be', refused: 'you may not change it' } as const;

const Preview = ({ data, filter, fading }: { data: RoutinePreview; filter: string; fading: boolean }) => (
  <div className={fading ? 'fading' : undefined}>
    <p role="status">
      Finds <Link to={opens(filter)}>{plural(data.found, 'asset')}</Link>:{' '}
      <strong>{count(data.changes)} would change</strong>, {count(data.same)} are as they should be
      {data.refused > 0 ? (
        <>
          , <span className="attention">{count(data.refused)} you may not change</span>
        </>
      ) : null}
      .
    </p>
    {data.items.length > 0 ? (
      <Listing heads={['Kind', 'Asset', 'Now', 'Effect']} mt={8}>
        {data.items.map((item) => (
          <tr key={item.id}>
            <td>
              <KindMark kind={item.kind} />
            </td>
            <td>
              <Link to={`/assets/${item.id}`}>
                <Name text={item.path} most={34} />
              </Link>{' '}
              <span className="quiet small">{item.source}</span>
            </td>
            <td className="small">{item.before ?? <span className="quiet">nobody</span>}</td>
            <td className={item.effect === 'changes' ? 'small' : 'small quiet'}>{EFFECTS[item.effect]}</td>
          </tr>
        ))}
      </Listing>
    ) : null}
    {data.found > data.items.length ? (
      <p className="quiet small">The first {count(data.items.length)} are listed.</p>
    ) : null}
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
