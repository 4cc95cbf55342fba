import type { PlanAnswer } from '@idrel/contract/scanning';
import type { SourceAnswer } from '@idrel/contract/sources';
import { Button, TextInput } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { useEffect, useState } from 'react';
import { useNavigate, useParams } from 'react-router';
import { useAddress } from '../app/address.ts';
import { problemOf } from '../app/api.ts';
import { useKeys } from '../app/keys.tsx';
import { sayDone } from '../app/say.ts';
import { Coming, ProblemNotice, Trouble } from '../marks/states.tsx';
import { useCrumbs } from '../shell/crumbs.tsx';
import { useSourceQuery } from '../sources/api.ts';
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
  options: { sample: true, rows: 500, method: 'random', detectorSetId: null, profile: true, onlyChanged: false, minutes: null, retries: 0, memoryMb: null, fileKinds: null },
  schedule: null,
  enabled: true,
};
const bodyOf = ({ name, scope, options, schedule, enabled }: PlanAnswer): PlanBody => ({ name, scope, options, schedule, enabled });

/** Making or changing a scan plan, in three steps that can be taken in any order, left, and taken up again. */
export function Component() {
  const { id, source: sourceId } = useParams();
  const plan = usePlanQuery(id ?? '', { skip: !id });
  const source = useSourceQuery(sourceId ?? plan.data?.sourceId ?? '', { skip: !sourceId && !plan.data });
  useCrumbs({ text: 'Sources', to: '/sources' }, { text: source.data?.name ?? '…', to: source.data ? `/sources/${source.data.id}` : '/sources' }, { text: id ? (plan.data?.name ?? '…') : 'New plan' });
  if (plan.error || source.error) return <Trouble error={plan.error ?? source.error} what="The plan cannot be shown" />;
  if (!source.data || (id && !plan.data)) return <Coming />;
  return <Editor key={plan.data?.id ?? 'new'} source={source.data} plan={plan.data} />;
}

function readDraft(key: string): PlanBody | undefined {
  try {
    return JSON.parse(localStorage.getItem(key) ?? 'null') ?? undefined;
  } catch {
    return undefined;
  }
}

function Editor({ source, plan }: { source: SourceAnswer; plan?: PlanAnswer }) {
  const key = `idrel-draft:plan:${plan?.id ?? source.id}`;
  const saved = plan ? bodyOf(plan) : FRESH;
  const [body, setBody] = useState<PlanBody>(() => readDraft(key) ?? saved);
  const [resumed] = useState(() => readDraft(key) !== undefined);
  const [params, put] = useAddress();
  const step = params.get('step') ?? 'what';
  const at = STEPS.findIndex(([name]) => name === step);
  const navigate = useNavigate();
  const [add, adding] = useAddPlanMutation();
  const [change, changing] = useChangePlanMutation();
  const [settled] = useDebouncedValue(body, 300);
  const changed = JSON.stringify(body) !== JSON.stringify(saved);
  useEffect(() => {
    if (changed) localStorage.setItem(key, JSON.stringify(body));
    else localStorage.removeItem(key);
  }, [key, body, changed]);
  const failed = adding.error ?? changing.error;
  const problem = failed ? problemOf(failed) : undefined;
  const leave = () => {
    localStorage.removeItem(key);
    navigate(`/sources/${source.id}`);
  };
  const save = async () => {
    const made = await (plan ? change({ id: plan.id, version: plan.version, change: body }) : add({ source: source.id, body })).unwrap().catch(() => undefined);
    if (!made) return;
    leave();
    sayDone(`The plan “${made.name}” is saved.`);
  };
  const go = (to: number) => put({ step: STEPS[Math.max(0, Math.min(STEPS.length - 1, to))]?.[0] ?? 'what' });
  useKeys('Plan', [
    { key: 'mod+Enter', what: 'save the plan', act: () => void save() },
    { key: 'ArrowRight', what: 'next step', act: () => go(at + 1) },
    { key: 'ArrowLeft', what: 'step before', act: () => go(at - 1) },
  ]);
  return (
    <div className="page">
      <h1>{plan ? plan.name : `New plan for ${source.name}`}</h1>
      {resumed && changed ? (
        <p className="notice calm" style={{ margin: '8px 0' }}>
          You left this unfinished; it is as you left it.{' '}
          <button type="button" className="linkish" onClick={() => setBody(saved)}>
            Begin anew
          </button>
        </p>
      ) : null}
      <div className="plan">
        <div className="stack">
          <TextInput label="Name" required value={body.name} placeholder="Nightly" onChange={(event) => setBody({ ...body, name: event.currentTarget.value })} />
          <div className="steps" role="tablist" aria-label="Steps">
            {STEPS.map(([name, label], index) => (
              <button key={name} type="button" role="tab" aria-selected={name === step} className={name === step ? 'now' : ''} onClick={() => go(index)}>
                {index + 1} {label}
              </button>
            ))}
          </div>
          {step === 'what' ? <ScopeChooser source={source.id} separator={source.separator} scope={body.scope} change={(scope) => setBody({ ...body, scope })} /> : null}
          {step === 'how' ? <HowChooser options={body.options} kind={source.kind} change={(options) => setBody({ ...body, options })} /> : null}
          {step === 'when' ? <ScheduleChooser schedule={body.schedule} change={(schedule) => setBody({ ...body, schedule })} /> : null}
          <ProblemNotice problem={problem} />
          <div className="row">
            {at < STEPS.length - 1 ? (
              <Button variant="default" onClick={() => go(at + 1)}>
                Next
              </Button>
            ) : null}
            <Button onClick={() => void save()} loading={adding.isLoading || changing.isLoading} disabled={body.name.trim() === '' || (plan !== undefined && !changed)}>
              Save plan
            </Button>
            <Button variant="subtle" onClick={leave}>
              Discard
            </Button>
          </div>
        </div>
        <PlanAside source={source.id} scope={settled.scope} schedule={settled.schedule} />
      </div>
    </div>
  );
}
