import dayjs from 'dayjs';
import { useMemo } from 'react';
import { Chart, ink } from '../marks/Chart.tsx';

/** Changes of each day of two weeks: those of the last stronger. */
export function WeekBars({ days }: { days: readonly { readonly day: string; readonly times: number }[] }) {
  const option = useMemo(
    () => ({
      grid: { left: 44, right: 10, top: 10, bottom: 24 },
      tooltip: { trigger: 'axis' },
      xAxis: { type: 'category', data: days.map(({ day }) => dayjs(day).format('ddd D MMM')) },
      yAxis: { type: 'value', minInterval: 1 },
      series: [
        {
          name: 'Changes',
          type: 'bar',
          barMaxWidth: 26,
          data: days.map(({ times }, nth) => ({
            value: times,
            itemStyle: { color: ink('--kelp'), opacity: nth < 7 ? 0.35 : 1 },
          })),
        },
      ],
    }),
    [days],
  );
  return (
    <Chart
      option={option}
      height={120}
      label={`Your changes: ${days.map(({ day, times }) => `${dayjs(day).format('D MMM')} ${times}`).join(', ')}`}
    />
  );
}
