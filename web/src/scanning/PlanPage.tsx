import type { PlanAnswer } from '@idrel/contract/scanning';
import type { SourceAnswer } from '@idrel/contract/sources';
import { Button, Group, Stack, TextInput } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { useNavigate, useParams } from 'react-router';
import { useAddress } from '../app/address.ts';
import { useKeys } from '../app/keys.tsx';
import { sayDone } from '../app/say.ts';
import { FormNotice } from '../forms/FormNotice.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { Coming, Trouble } from '../marks/states.tsx';
import { useCrumbs } from '../shell/crumbs.tsx';
import { useSourceQuery } from '../sources/index.ts';
import { type PlanBody, useAddPlanMutation, useChangePlanMutation, usePlanQuery } from './api.ts';
import { HowChooser } from './HowChooser.tsx';
import { PlanAside } from './PlanAside.tsx';
import { ScheduleChooser } from './ScheduleChooser.tsx';
import { ScopeChooser } from './ScopeChooser.tsx';

const STEPS = [
  ['what', 'What'],
  ['how', 'How'],
  ['when', 'When'],
] as const;
const FRESH: PlanBody = {
  name: '',
  scope: { cover: 'everything', chosen: [], include: [], exclude: [] },
  options: {
    sample: true,
    rows: 500,
    method: 'random',
    detectorSetId: null,
    profile: true,
    onlyChanged: false,
    minutes: null,
    retries: 0,
    memoryMb: null,
    fileKinds: null,
  },
  schedule: null,
  enabled: true,
};
const bodyOf = ({ name, scope, options, schedule, enabled }: PlanAnswer): PlanBody => ({
  name,
  scope,
  options,
  schedule,
  enabled,
});

/** Making or changing a scan plan, in three steps that can be taken in any order, left, and taken up again. */
export function Component() {
  const { id, source: sourceId } = useParams();
  const plan = usePlanQuery(id ?? '', { skip: !id });
  const source = useSourceQuery(sourceId ?? plan.data?.sourceId ?? '', { skip: !sourceId && !plan.data });
  useCrumbs(
    { text: 'Sources', to: '/sources' },
    { text: source.data?.name ?? '…', to: source.data ? `/sources/${source.data.id}` : '/sources' },
    { text: id ? (plan.data?.name ?? '…') : 'New plan' },
  );
  if (plan.error || source.error) return <Trouble error={plan.error ?? source.error} what="The plan cannot be shown" />;
  if (!source.data || (id && !plan.data)) return <Coming />;
  return <Editor key={plan.data?.id ?? 'new'} source={source.data} plan={plan.data} />;
}

function Editor({ source, plan }: { source: SourceAnswer; plan?: PlanAnswer }) {
  const [params, goTo] = useAddress();
  const step = params.get('step') ?? 'what';
  const at = STEPS.findIndex(([name]) => name === step);
  const navigate = useNavigate();
  const [add] = useAddPlanMutation();
  const [change] = useChangePlanMutation();
  const home = `/sources/${source.id}`;
  const edit = useEditForm<PlanBody, PlanAnswer>({
    key: `plan:${plan?.id ?? `new:${source.id}`}`,
    now: plan ? { version: plan.version, values: bodyOf(plan) } : null,
    fresh: FRESH,
    valuesOf: bodyOf,
    send: (values, version) =>
      (plan ? change({ id: plan.id, version, change: values }) : add({ source: source.id, body: values })).unwrap(),
    done: (made) => {
      navigate(home);
      sayDone(`The plan “${made.name}” is saved.`);
    },
  });
  const { form, values: body, put } = edit;
  const [settled] = useDebouncedValue(body, 300);
  const ready = body.name.trim() !== '' && (plan === undefined || edit.differs) && edit.clashes.length === 0;
  const save = () => {
    if (ready && !edit.saving) void edit.save();
  };
  const leave = () => {
    edit.discard();
    navigate(home);
  };
  const go = (to: number) => goTo({ step: STEPS[Math.max(0, Math.min(STEPS.length - 1, to))]?.[0] ?? 'what' });
  useKeys('Plan', [
    { key: 'mod+Enter', what: 'save the plan', act: save },
    { key: 'ArrowRight', what: 'next step', act: () => go(at + 1) },
    { key: 'ArrowLeft', what: 'step before', act: () => go(at - 1) },
  ]);
  return (
    <div className="page">
      <h1>{plan ? plan.name : `New plan for ${source.name}`}</h1>
      <div className="plan">
        <Stack>
          <TextInput label="Name" required placeholder="Nightly" {...form.getInputProps('name')} />
          <div className="steps" role="tablist" aria-label="Steps">
            {STEPS.map(([name, label], index) => (
              <button
                key={name}
                type="button"
                role="tab"
                aria-selected={name === step}
                className={name === step ? 'now' : ''}
                onClick={() => go(index)}
              >
                {index + 1} {label}
              </button>
            ))}
          </div>
          {step === 'what' ? (
            <ScopeChooser
              source={source.id}
              separator={source.separator}
              scope={body.scope}
              change={(scope) => put({ scope })}
            />
          ) : null}
          {step === 'how' ? (
            <HowChooser options={body.options} kind={source.kind} change={(options) => put({ options })} />
          ) : null}
          {step === 'when' ? (
            <ScheduleChooser schedule={body.schedule} change={(schedule) => put({ schedule })} />
          ) : null}
          <FormNotice
            edit={edit}
            words={{ name: 'Name', scope: 'What', options: 'How', schedule: 'When', enabled: 'On' }}
          />
          <Group>
            {at < STEPS.length - 1 ? (
              <Button variant="default" onClick={() => go(at + 1)}>
                Next
              </Button>
            ) : null}
            <Button onClick={save} loading={edit.saving} disabled={!ready}>
              Save plan
            </Button>
            <Button variant="subtle" onClick={leave}>
              Discard
            </Button>
          </Group>
        </Stack>
        <PlanAside source={source.id} scope={settled.scope} schedule={settled.schedule} />
      </div>
    </div>
  );
}
