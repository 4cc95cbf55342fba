import type { PlanAnswer } from '@idrel/contract/scanning';
import type { SourceAnswer } from '@idrel/contract/sources';
import { Box, Button } from '@mantine/core';
import { Link, useNavigate } from 'react-router';
import { sayDone, sayProblem } from '../app/say.ts';
import { plural, When } from '../marks/index.tsx';
import { heard, Listing } from '../marks/Listing.tsx';
import { Part } from '../marks/layout.tsx';
import { Empty, Trouble } from '../marks/states.tsx';
import {
  useAddPlanMutation,
  useChangePlanMutation,
  usePlansQuery,
  useRemovePlanMutation,
  useRunPlanMutation,
} from './api.ts';
import { useRunsQuery } from './runsApi.ts';

/** The scan plans of a source, and what none of them reads. */
export function PlanList({ source }: { source: SourceAnswer }) {
  const { data, error } = usePlansQuery(source.id);
  const runs = useRunsQuery(source.id);
  const left = runs.data?.find((run) => run.state === 'done' || run.state === 'partly done')?.notCovered;
  return (
    <Part
      title="Scan plans"
      actions={
        source.mayScan ? (
          <Button component={Link} to={`/sources/${source.id}/plans/new`} variant="default" size="compact-sm">
            New plan
          </Button>
        ) : null
      }
    >
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
        <Listing heads={['Plan', 'Covers', 'Runs', 'Next', 'Last run', heard('What to do')]}>
          {data.map((plan) => (
            <PlanRow key={plan.id} plan={plan} />
          ))}
        </Listing>
      ) : null}
      {left && left.count > 0 ? (
        <Box component="details" mt={8}>
          <summary>
            <span className="attention">{plural(left.count, 'object')} not covered</span> by the last run
          </summary>
          <Box component="p" className="mono small" mt={6}>
            {left.paths.join(', ')}
            {left.count > left.paths.length ? ' …' : ''}
          </Box>
        </Box>
      ) : null}
    </Part>
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
      sayDone(`The plan “${plan.name}” is removed; its runs stay.`, () =>
        add({ source: plan.sourceId, body: { name, scope, options, schedule, enabled } }),
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
          <span className="row steps-of">
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
