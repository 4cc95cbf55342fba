import type { OwnDetectorAnswer } from '@idrel/contract/recognition';
import type { DetectorSpec } from '@idrel/core/recognition/spec';
import { Button, Group, Select, Stack, Switch, TextInput } from '@mantine/core';
import { useMemo, useState } from 'react';
import { problemOf } from '../app/api.ts';
import { sayDone, sayProblem } from '../app/say.ts';
import { FormNotice } from '../forms/FormNotice.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { plural } from '../marks/index.tsx';
import { ProblemNotice } from '../marks/states.tsx';
import { useDetectorsQuery } from './api.ts';
import { ClassForm } from './ClassForm.tsx';
import { useClassesQuery } from './classesApi.ts';
import { SpecWords, Versions } from './DetectorVersions.tsx';
import { useRemoveOwnMutation, useSaveOwnMutation, useStartTrialMutation } from './detectorsApi.ts';
import { Examples, markedOf, NO_EXAMPLES } from './Examples.tsx';
import { precisionOf } from './precision.ts';
import { RuleFields } from './RuleFields.tsx';
import { TestValues } from './TestValues.tsx';
import { Trial } from './Trial.tsx';
import { useJudged } from './useJudged.ts';

const NEW: DetectorSpec = {
  value: { kind: 'pattern', pattern: '', caseless: false },
  checksum: 'none',
  namePattern: '',
  nameNeeded: false,
  minShare: 0.8,
  minDistinct: 5,
  accepts: [],
  rejects: [],
};

interface BenchFields {
  classKey: string;
  spec: DetectorSpec;
  note: string;
  /** Examples as they were pasted: never part of what is saved. */
  pasted: string;
}
const fieldsOf = ({ classKey, spec }: OwnDetectorAnswer): BenchFields => ({ classKey, spec, note: '', pasted: '' });

export function BenchForm({
  own,
  choose,
}: {
  own: OwnDetectorAnswer | undefined;
  choose: (id: string | null) => void;
}) {
  const [examples, setExamples] = useState(NO_EXAMPLES);
  const [making, setMaking] = useState(false);
  const [trial, setTrial] = useState<string | null>(null);
  const [keeping, setKeeping] = useState(false);
  const [problem, setProblem] = useState<ReturnType<typeof problemOf> | null>(null);
  const classes = useClassesQuery();
  const [save] = useSaveOwnMutation();
  const [start, starting] = useStartTrialMutation();
  const [remove] = useRemoveOwnMutation();
  const edit = useEditForm<BenchFields, OwnDetectorAnswer>({
    key: `detector:${own?.id ?? 'new'}`,
    now: own ? { version: own.version, values: fieldsOf(own) } : null,
    fresh: { classKey: '', spec: NEW, note: '', pasted: '' },
    valuesOf: fieldsOf,
    send: ({ classKey, spec: written, note }, version) =>
      save({ id: own?.id ?? null, version, body: { classKey, spec: tested(written), note } }).unwrap(),
    done: (saved) => {
      sayDone(`${saved.label}: version ${saved.version} of ${saved.id} is saved. It looks in the next scans.`);
      choose(saved.id);
    },
  });
  const { form, values: draft, put, differs } = edit;
  const { spec } = draft;
  const rule = useMemo(() => ({ value: spec.value, checksum: spec.checksum, namePattern: spec.namePattern }), [spec]);
  const marked = useMemo(() => markedOf(examples), [examples]);
  const judged = useJudged({ rule, values: marked });
  const taken = useMemo(
    () => new Map(marked.map((entry, index) => [entry.value, judged.taken[index] ?? false])),
    [marked, judged.taken],
  );
  const putSpec = (changes: Partial<DetectorSpec>) => put({ spec: { ...spec, ...changes } });
  // Some of what was marked can become the detector's own tests, where the rule agrees: real values, so only when somebody says so.
  const tests = (is: boolean) =>
    (keeping ? marked : [])
      .filter((entry) => entry.is === is && taken.get(entry.value) === is)
      .map((entry) => entry.value);
  const tested = (written: DetectorSpec): DetectorSpec => ({
    ...written,
    accepts: [...new Set([...written.accepts, ...tests(true)])].slice(0, 12),
    rejects: [...new Set([...written.rejects, ...tests(false)])].slice(0, 12),
  });
  const withTests = tested(spec);
  const attempt = async () => {
    setProblem(null);
    try {
      setTrial((await start({ classKey: draft.classKey, detectorId: own?.id ?? null, spec }).unwrap()).id);
    } catch (error) {
      setProblem(problemOf(error));
    }
  };
  const destroy = () =>
    own &&
    remove(own.id)
      .unwrap()
      .then(
        () => {
          edit.discard();
          sayDone(`${own.id} is removed, with what it found.`, () =>
            save({
              id: null,
              version: 0,
              body: { classKey: own.classKey, spec: own.spec, note: 'Brought back' },
            }),
          );
          choose(null);
        },
        (error: unknown) => sayProblem(error, 'The detector was not removed'),
      );
  const ready =
    draft.classKey !== '' &&
    judged.problem === null &&
    (spec.value?.kind !== 'pattern' || spec.value.pattern.trim() !== '') &&
    (spec.value?.kind !== 'combination' || spec.value.classKeys.length > 0);
  return (
    <div className="bench">
      <Stack>
        <h2>{own ? `${own.label}: ${own.id}` : 'New detector'}</h2>
        {own ? <Judged id={own.id} /> : null}
        {making ? (
          <ClassForm
            done={(made) => {
              setMaking(false);
              if (made) put({ classKey: made.key });
            }}
          />
        ) : (
          <Group align="flex-end">
            <Select
              className="grow"
              label="Recognises"
              placeholder="Choose a class"
              searchable
              disabled={Boolean(own)}
              value={draft.classKey || null}
              data={(classes.data ?? [])
                .filter((entry) => !entry.retired)
                .map((entry) => ({ value: entry.key, label: entry.label }))}
              onChange={(classKey) => put({ classKey: classKey ?? '' })}
            />
            {own ? null : (
              <Button variant="default" onClick={() => setMaking(true)}>
                New class
              </Button>
            )}
          </Group>
        )}
        <RuleFields
          classKey={draft.classKey}
          spec={spec}
          put={putSpec}
          problem={judged.problem}
          proposals={judged.proposals}
        />
        <TextInput
          label="What changes with this version"
          placeholder="For those who read its history"
          {...form.getInputProps('note')}
        />
        <ProblemNotice problem={problem} />
        <FormNotice
          edit={edit}
          words={{
            classKey: 'Recognises',
            spec: ['The rule', (written) => <SpecWords spec={written as DetectorSpec} />],
            note: 'What changes with this version',
            pasted: 'Pasted values',
          }}
        />
        <Group wrap="wrap">
          <Button onClick={() => void attempt()} variant="default" loading={starting.isLoading} disabled={!ready}>
            Try on the catalog
          </Button>
          <Button
            onClick={() => void edit.save()}
            loading={edit.saving}
            disabled={
              !ready ||
              edit.clashes.length > 0 ||
              (own !== undefined &&
                !differs &&
                withTests.accepts.length === own.spec.accepts.length &&
                withTests.rejects.length === own.spec.rejects.length)
            }
          >
            {own ? `Save version ${own.version + 1}` : 'Save detector'}
          </Button>
          {own ? (
            <Button variant="subtle" c="var(--buoy)" onClick={() => void destroy()}>
              Remove
            </Button>
          ) : differs ? (
            <Button variant="subtle" onClick={() => put({ classKey: '', spec: NEW, note: '', pasted: '' })}>
              Discard
            </Button>
          ) : null}
        </Group>
        {own ? <Versions own={own} take={(version) => put({ spec: version, note: '' })} now={spec} /> : null}
      </Stack>
      <Stack gap={22}>
        <Examples
          examples={examples}
          change={setExamples}
          taken={taken}
          pasted={draft.pasted}
          paste={(pasted) => put({ pasted })}
        />
        <section aria-label="Its own tests">
          <h3>Its own tests</h3>
          <p className="small quiet">
            Values that each version must take, or must not. They are kept with the detector, and whoever sees it sees
            them.
          </p>
          {marked.some((entry) => entry.is !== null) ? (
            <Switch
              mt={6}
              label="Keep up to twelve of the marked values on each side"
              checked={keeping}
              onChange={(event) => setKeeping(event.currentTarget.checked)}
            />
          ) : null}
          <TestValues
            words="Takes"
            values={withTests.accepts}
            remove={(value) => putSpec({ accepts: spec.accepts.filter((entry) => entry !== value) })}
          />
          <TestValues
            words="Does not take"
            values={withTests.rejects}
            remove={(value) => putSpec({ rejects: spec.rejects.filter((entry) => entry !== value) })}
          />
        </section>
        {trial ? <Trial id={trial} /> : null}
      </Stack>
    </div>
  );
}

/** How people judged what the detector found: to those who tune it. */
function Judged({ id }: { id: string }) {
  const { data } = useDetectorsQuery();
  const detector = data?.find((entry) => entry.id === id);
  if (!detector) return null;
  const precision = precisionOf(detector);
  return (
    <p className="quiet">
      {plural(detector.found, 'finding')}.{' '}
      {precision === null
        ? 'People have decided none yet.'
        : `People agreed with ${detector.confirmed} of ${detector.confirmed + detector.dismissed} that they decided: ${Math.round(precision * 100)} %.`}
    </p>
  );
}
