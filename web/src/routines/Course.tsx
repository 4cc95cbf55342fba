import { useMemo } from 'react';
import { Chart, ink } from '../marks/Chart.tsx';

/** How many assets the runs of a routine found and changed, one after the other. The table below it says the same in figures. */
export function Course({
  runs,
}: {
  runs: readonly { readonly at: string; readonly found: number; readonly changed: number }[];
}) {
  const option = useMemo(
    () => ({
      grid: { left: 44, right: 10, top: 10, bottom: 24 },
      tooltip: { trigger: 'axis' },
      xAxis: { type: 'category', data: runs.map(({ at }) => at) },
      yAxis: { type: 'value', minInterval: 1 },
      series: [
        {
          name: 'found',
          type: 'line',
          step: 'middle',
          symbol: 'none',
          lineStyle: { width: 1, color: ink('--quiet') },
          itemStyle: { color: ink('--quiet') },
          data: runs.map(({ found }) => found),
        },
        {
          name: 'changed',
          type: 'bar',
          barMaxWidth: 14,
          itemStyle: { color: ink('--kelp') },
          data: runs.map(({ changed }) => changed),
        },
      ],
    }),
    [runs],
  );
  return (
    <Chart
      option={option}
      height={120}
      label={`What ${runs.length} runs found, as a line, and changed, as bars; the table below says it in figures`}
    />
  );
}
