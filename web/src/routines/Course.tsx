import { useMemo } from 'react';
import { Chart, ink } from '../marks/Chart.tsx';

/** How many assets were found and changed, one point after the other. The table below it says the same in figures. @param of what the points are, in words */
export function Course({
  points,
  of,
}: {
  points: readonly { readonly at: string; readonly found: number; readonly changed: number }[];
  of: string;
}) {
  const option = useMemo(
    () => ({
      grid: { left: 44, right: 10, top: 10, bottom: 24 },
      tooltip: { trigger: 'axis' },
      xAxis: { type: 'category', data: points.map(({ at }) => at) },
      yAxis: { type: 'value', minInterval: 1 },
      series: [
        {
          name: 'found',
          type: 'line',
          step: 'middle',
          symbol: 'none',
          lineStyle: { width: 1, color: ink('--quiet') },
          itemStyle: { color: ink('--quiet') },
          data: points.map(({ found }) => found),
        },
        {
          name: 'changed',
          type: 'bar',
          barMaxWidth: 14,
          itemStyle: { color: ink('--kelp') },
          data: points.map(({ changed }) => changed),
        },
      ],
    }),
    [points],
  );
  return (
    <Chart
      option={option}
      height={120}
      label={`Found, as a line, and changed, as bars, over ${of}; the table below says it in figures`}
    />
  );
}
