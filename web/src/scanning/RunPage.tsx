import type { LogLine, RunAnswer } from '@idrel/contract/scanning';
import { Box, Button, Group } from '@mantine/core';
import { useEffect, useState } from 'react';
import { useDispatch } from 'react-redux';
import { Link, useNavigate, useParams } from 'react-router';
import { api } from '../app/api.ts';
import { sayProblem } from '../app/say.ts';
import { count, When } from '../marks/index.tsx';
import { Listing } from '../marks/Listing.tsx';
import { Coming, Trouble } from '../marks/states.tsx';
import { useCrumbs } from '../shell/crumbs.tsx';
import { useSourceQuery } from '../sources/index.ts';
import { useRunPlanMutation } from './api.ts';
import { Comparison } from './Comparison.tsx';
import { RunWay } from './RunWay.tsx';
import { useCancelRunMutation, useRunQuery, useStartRunMutation } from './runsApi.ts';

const STAGES = ['waiting', 'structure', 'sampling', 'recognition', 'lineage'];
const ENDED = ['done', 'partly done', 'failed', 'cancelled'];

/** Follows a run over Server-Sent Events: counts and log as they come. */
function useRun(id: string): { run: RunAnswer | undefined; log: LogLine[]; error: unknown } {
  const first = useRunQuery(id);
  const dispatch = useDispatch();
  const [run, setRun] = useState<RunAnswer>();
  const [log, setLog] = useState<LogLine[]>([]);
  useEffect(() => {
    setRun(undefined);
    setLog([]);
    const events = new EventSource(`/api/v1/runs/${id}/events`);
    events.addEventListener('run', (event) => {
      const next = JSON.parse((event as MessageEvent<string>).data) as RunAnswer;
      setRun(next);
      if (!ENDED.includes(next.state)) return;
      events.close();
      dispatch(api.util.invalidateTags(['Source', 'Run', 'Asset', 'Finding']));
    });
    events.addEventListener('log', (event) => {
      const lines = JSON.parse((event as MessageEvent<string>).data) as LogLine[];
      setLog((before) => [...before, ...lines.filter((line) => !before.some((known) => known.id === line.id))]);
    });
    return () => events.close();
  }, [id, dispatch]);
  // An ended run changes only by what people settle of it: then the answer is newer than the last event.
  const settled = first.data && ENDED.includes(first.data.state) ? first.data : undefined;
  return { run: settled ?? run ?? first.data, log, error: first.error };
}

/** One run: stages, live counts, log, and what it found different. */
export function Component() {
  const { id = '' } = useParams();
  const navigate = useNavigate();
  const { run, log, error } = useRun(id);
  const [cancel, cancelling] = useCancelRunMutation();
  const [start] = useStartRunMutation();
  const [runPlan] = useRunPlanMutation();
  const source = useSourceQuery(run?.sourceId ?? '', { skip: !run });
  useCrumbs(
    { text: 'Sources', to: '/sources' },
    ...(run ? [{ text: run.source, to: `/sources/${run.sourceId}` }] : []),
    { text: 'Scan run' },
  );
  if (error && !run) return <Trouble error={error} what="The run cannot be shown" />;
  if (!run) return <Coming />;
  const ended = ENDED.includes(run.state);
  const at = STAGES.indexOf(run.state);
  const again = async () => {
    try {
      const next = run.planId ? runPlan(run.planId) : start({ id: run.sourceId, sample: true });
      navigate(`/runs/${(await next.unwrap()).id}`);
    } catch (failed) {
      sayProblem(failed, 'The scan was not started');
    }
  };
  const figures: [string, number | undefined][] = [
    ['objects', run.counts.objects],
    ['columns', run.counts.columns],
    ...(run.counts.unchanged === undefined ? [] : [['unchanged', run.counts.unchanged] as [string, number]]),
    ['sampled', run.counts.sampled],
    ['findings', run.counts.findings],
    ['flows', run.counts.flows],
    ['edges', run.counts.edges],
  ];
  return (
    <div className="page">
      <div className="head">
        <div>
          <h1>Scan of {run.source}</h1>
          <p className="quiet">
            {run.plan ? `${run.plan}, ` : ''}asked by {run.askedBy} <When at={run.askedAt} />
            {run.agent ? `, read by the agent ${run.agent}` : ''}
          </p>
        </div>
        {ended ? (
          <Button variant="default" onClick={() => void again()}>
            Scan again
          </Button>
        ) : (
          <Button color="buoy.7" loading={cancelling.isLoading} onClick={() => void cancel(id)}>
            Cancel
          </Button>
        )}
      </div>
      {run.notBefore ? (
        <div className="notice calm" role="status">
          The run before it failed; this one tries again <When at={run.notBefore} />. A scan started by hand takes its
          place.
        </div>
      ) : null}
      {run.waitsFor && !run.notBefore ? (
        <div className={run.waitsFor.present > 0 ? 'notice calm' : 'notice'} role="status">
          {run.waitsFor.present > 0
            ? `It waits for an agent of the group “${run.waitsFor.group}” to be free; ${run.waitsFor.present === 1 ? 'one is' : `${run.waitsFor.present} are`} there.`
            : `It waits for an agent of the group “${run.waitsFor.group}”, and none is there. `}
          {run.waitsFor.present > 0 ? null : <Link to="/sources/agents">Look at the agents</Link>}
        </div>
      ) : null}
      <Box component="ol" className="stages" aria-label="Stages" p={0} mt={0} mb={16}>
        {[...STAGES, ended ? run.state : 'done'].map((stage, index) => (
          <li
            key={stage}
            className={
              ended
                ? run.state === 'done' || run.state === 'partly done' || index === STAGES.length
                  ? 'past'
                  : ''
                : index < at
                  ? 'past'
                  : index === at
                    ? 'now'
                    : ''
            }
            {...(index === at ? { 'aria-current': 'step' } : {})}
          >
            {stage}
          </li>
        ))}
      </Box>
      {run.problem ? (
        <Box className="notice" role="alert" mb={14}>
          <strong>{run.problem.what}</strong>
          <div>The catalog is as it was before this run.</div>
          <pre className="code after">{run.problem.mend}</pre>
        </Box>
      ) : null}
      <Group aria-live="polite" wrap="wrap" gap={26} mb={18}>
        {figures.map(([label, value]) => (
          <div key={label}>
            <div className="figure">
              {value === undefined ? '–' : count(value)}
              {label === 'sampled' && run.counts.toSample ? (
                <span className="quiet"> of {count(run.counts.toSample)}</span>
              ) : null}
            </div>
            <div className="quiet small">{label}</div>
          </div>
        ))}
      </Group>
      <RunWay run={run} going={!ended} mayScan={source.data?.mayScan ?? false} />
      {run.comparison ? <Comparison run={run} /> : null}
      <Box component="h2" mt={18} mb={6}>
        Log
      </Box>
      <Listing widths={[90, 70]} label="Log">
        {log.map((line) => (
          <tr key={line.id}>
            <td className="quiet mono">{new Date(line.at).toLocaleTimeString('en-GB')}</td>
            <td className={line.level === 'info' ? 'quiet' : 'attention'}>{line.level}</td>
            <td>{line.text}</td>
          </tr>
        ))}
      </Listing>
    </div>
  );
}
