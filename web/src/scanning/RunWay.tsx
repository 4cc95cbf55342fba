import type { RunAnswer } from '@idrel/contract/scanning';
import { Box, Button } from '@mantine/core';
import { lazy, Suspense, useMemo } from 'react';
import { useNavigate } from 'react-router';
import { sayProblem } from '../app/say.ts';
import { count, plural } from '../marks/index.tsx';
import { Listing, num } from '../marks/Listing.tsx';
import { Part } from '../marks/layout.tsx';
import { ratesOf, remaining, span } from './pace.ts';
import { useFailedAgainMutation } from './runsApi.ts';

const Chart = lazy(() => import('../marks/Chart.tsx').then(({ Chart }) => ({ default: Chart })));
const SHOWN = 50;

/** How a run goes, or went: pace and what is left, what took longest, what could not be read. */
export function RunWay({ run, going, mayScan }: { run: RunAnswer; going: boolean; mayScan: boolean }) {
  const { slowest = [], problems = [] } = run.details ?? {};
  return (
    <>
      <Pace run={run} going={going} />
      {problems.length > 0 ? <Problems run={run} problems={problems} mayScan={mayScan} /> : null}
      {slowest.length > 0 ? (
        <Box component="details" mb={16}>
          <summary>What took longest</summary>
          <Listing heads={['Object', num('Seconds'), num('Rows read')]} label="What took longest">
            {slowest.map((entry) => (
              <tr key={entry.path}>
                <td className="mono">{entry.path}</td>
                <td className="num">{entry.seconds.toFixed(2)}</td>
                <td className="num">{count(entry.rows)}</td>
              </tr>
            ))}
          </Listing>
        </Box>
      ) : null}
    </>
  );
}

function Pace({ run, going }: { run: RunAnswer; going: boolean }) {
  const pace = run.pace ?? [];
  const rates = useMemo(() => ratesOf(pace), [pace]);
  const left = going ? remaining(pace, run.counts) : undefined;
  const most = Math.max(0, ...rates.map((entry) => entry.rate));
  const words = left
    ? `${left.rate.toFixed(1)} objects a second, about ${span(left.seconds)} left`
    : `at most ${most.toFixed(1)} objects a second`;
  const option = useMemo(
    () => ({
      grid: { left: 44, right: 12, top: 10, bottom: 24 },
      tooltip: { trigger: 'axis', valueFormatter: (value: number) => `${value.toFixed(1)} a second` },
      xAxis: { type: 'value', name: 's', min: 0, max: 'dataMax', splitLine: { show: false } },
      yAxis: { type: 'value', splitNumber: 2 },
      series: [
        {
          type: 'line',
          step: 'end',
          showSymbol: false,
          areaStyle: { opacity: 0.15 },
          lineStyle: { width: 1.5 },
          color: '#2f8f8f',
          data: rates.map((entry) => [entry.seconds, entry.rate]),
        },
      ],
    }),
    [rates],
  );
  if (rates.length < 4) return null;
  return (
    <Part title="Pace">
      <p className="quiet">{words}</p>
      <Suspense fallback={<Box h={110} />}>
        <Chart option={option} height={110} label={`Pace of the run: ${words}`} />
      </Suspense>
    </Part>
  );
}

function Problems({
  run,
  problems,
  mayScan,
}: {
  run: RunAnswer;
  problems: readonly { path: string; what: string }[];
  mayScan: boolean;
}) {
  const [again, asking] = useFailedAgainMutation();
  const navigate = useNavigate();
  const start = () =>
    again(run.id)
      .unwrap()
      .then((next) => navigate(`/runs/${next.id}`))
      .catch((failed: unknown) => sayProblem(failed, 'The scan was not started'));
  return (
    <Part
      label="What could not be read"
      title={`${plural(problems.length, 'object')} could not be read`}
      actions={
        mayScan ? (
          <Button size="xs" variant="default" loading={asking.isLoading} onClick={() => void start()}>
            Scan these again
          </Button>
        ) : null
      }
    >
      <Listing>
        {problems.slice(0, SHOWN).map((problem) => (
          <tr key={`${problem.path} ${problem.what}`}>
            <td className="mono">{problem.path}</td>
            <td className="attention">{problem.what}</td>
          </tr>
        ))}
      </Listing>
      {problems.length > SHOWN ? (
        <p className="quiet">and {count(problems.length - SHOWN)} more; the log has all.</p>
      ) : null}
    </Part>
  );
}
