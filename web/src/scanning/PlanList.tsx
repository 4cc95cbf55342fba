import type { PlanAnswer } from '@idrel/contract/scanning';
import type { SourceAnswer } from '@idrel/contract/sources';
import { Button, VisuallyHidden } from '@mantine/core';
import { Link, useNavigate } from 'react-router';
import { sayDone, sayProblem } from '../app/say.ts';
import { plural, When } from '../marks/index.tsx';
import { Empty, Trouble } from '../marks/states.tsx';
import { useRunsQuery } from '../sources/api.ts';
import {
  useAddPlanMutation,
  useChangePlanMutation,
  usePlansQuery,
  useRemovePlanMutation,
  useRunPlanMutation,
} from './api.ts';

/** The scan plans of a source, and what none of them reads. */
export function PlanList({ source }: { source: SourceAnswer }) {
  const { data, error } = usePlansQuery(source.id);
  const runs = useRunsQuery(source.id);
  const left = runs.data?.find((run) => run.state === 'done' || run.state === 'partly done')?.notCovered;
  return (
    <section aria-label="Scan plans" style={{ marginBottom: 22 }}>
      <div className="head" style={{ marginBottom: 6 }}>
        <h2>Scan plans</h2>
        {source.mayScan ? (
          <Button component={Link} to={`/sources/${source.id}/plans/new`} variant="default" size="compact-sm">
            New plan
          </Button>
        ) : null}
      </div>
      {error ? <Trouble error={error} what="The plans cannot be shown" /> : null}
      {data?.length === 0 ? (
        <Empty title="No plan yet">
          <p>
            A plan says which part of the source is read, how, and when: once, every night, on the second Tuesday of a
            month …
          </p>
        </Empty>
      ) : null}
      {data && data.length > 0 ? (
        <table className="plain">
          <thead>
            <tr>
              <th>Plan</th>
              <th>Covers</th>
              <th>Runs</th>
              <th>Next</th>
              <th>Last run</th>
              <th>
                <VisuallyHidden>What to do</VisuallyHidden>
              </th>
            </tr>
          </thead>
          <tbody>
            {data.map((plan) => (
              <PlanRow key={plan.id} plan={plan} />
            ))}
          </tbody>
        </table>
      ) : null}
      {left && left.count > 0 ? (
        <details style={{ marginTop: 8 }}>
          <summary>
            <span className="attention">{plural(left.count, 'object')} not covered</span> by the last run
          </summary>
          <p className="mono small" style={{ marginTop: 6 }}>
            {left.paths.join(', ')}
            {left.count > left.paths.length ? ' …' : ''}
          </p>
        </details>
      ) : null}
    </section>
  );
}

function PlanRow({ plan }: { plan: PlanAnswer }) {
  const navigate = useNavigate();
  const [run, running] = useRunPlanMutation();
  const [change] = useChangePlanMutation();
  const [remove] = useRemovePlanMutation();
  const [add] = useAddPlanMutation();
  const start = async () => {
    try {
      navigate(`/runs/${(await run(plan.id).unwrap()).id}`);
    } catch (error) {
      sayProblem(error, 'The plan was not run');
    }
  };
  const pause = () =>
    void change({ id: plan.id, version: plan.version, change: { enabled: !plan.enabled } })
      .unwrap()
      .catch((error: unknown) => sayProblem(error, 'The plan was not changed'));
  const takeAway = async () => {
    const { name, scope, options, schedule, enabled } = plan;
    try {
      await remove(plan.id).unwrap();
      sayDone(
        `The plan “${plan.name}” is removed; its runs stay.`,
        () => void add({ source: plan.sourceId, body: { name, scope, options, schedule, enabled } }),
      );
    } catch (error) {
      sayProblem(error, 'The plan was not removed');
    }
  };
  return (
    <tr>
      <td>{plan.mayEdit ? <Link to={`/plans/${plan.id}`}>{plan.name}</Link> : plan.name}</td>
      <td>
        {plan.scopeSentence}
        {plan.options.sample ? '' : ' Structure only.'}
      </td>
      <td>{plan.scheduleSentence ?? <span className="quiet">when asked</span>}</td>
      <td>
        {plan.enabled ? plan.next[0] ? <When at={plan.next[0]} /> : <span className="quiet">none</span> : 'paused'}
      </td>
      <td>
        {plan.lastRun ? (
          <Link to={`/runs/${plan.lastRun.id}`}>
            {plan.lastRun.state === 'failed' ? <span className="attention">failed</span> : plan.lastRun.state}{' '}
            <When at={plan.lastRun.at} />
          </Link>
        ) : (
          <span className="quiet">never</span>
        )}
      </td>
      <td className="num">
        {plan.mayEdit ? (
          <span className="row" style={{ justifyContent: 'flex-end', gap: 12, whiteSpace: 'nowrap' }}>
            <button type="button" className="linkish" onClick={() => void start()} disabled={running.isLoading}>
              Run now
            </button>
            {plan.schedule ? (
              <button type="button" className="linkish" onClick={pause}>
                {plan.enabled ? 'Pause' : 'Resume'}
              </button>
            ) : null}
            <button type="button" className="linkish" onClick={() => void takeAway()}>
              Remove
            </button>
          </span>
        ) : null}
      </td>
    </tr>
  );
}
