import dayjs from 'dayjs';
import { useMemo } from 'react';
import { Chart, ink } from '../marks/Chart.tsx';
import { useLevelChoices } from '../marks/levelNames.ts';

/** How many assets had which level, day by day: the highest level lowest, so that what matters stands on the ground. */
export function Trend({ days, counts }: { days: readonly string[]; counts: readonly (readonly number[])[] }) {
  const names = useLevelChoices();
  const option = useMemo(
    () => ({
      grid: { left: 44, right: 10, top: 10, bottom: 24 },
      tooltip: { trigger: 'axis' },
      xAxis: { type: 'category', data: days.map((day) => dayjs(day).format('D MMM')) },
      yAxis: { type: 'value', minInterval: 1 },
      series: [4, 3, 2, 1].map((level) => ({
        name: names[level - 1]?.label,
        type: 'line',
        stack: 'levels',
        step: 'end',
        symbol: 'none',
        lineStyle: { width: 1, color: ink('--kelp') },
        itemStyle: { color: ink('--kelp'), opacity: level / 4 },
        areaStyle: { color: ink('--kelp'), opacity: 0.12 + level * 0.17 },
        data: counts.map((day) => day[level - 1] ?? 0),
      })),
    }),
    [days, counts, names],
  );
  return (
    <Chart
      option={option}
      height={180}
      label={`Assets by level on ${days.length} days; the table below says it in figures`}
    />
  );
}
