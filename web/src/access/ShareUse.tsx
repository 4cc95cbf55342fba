import type { ShareAnswer } from '@idrel/contract/access';
import { useComputedColorScheme } from '@mantine/core';
import dayjs from 'dayjs';
import { useMemo } from 'react';
import { Chart, ink } from '../marks/Chart.tsx';
import { count, plural, When } from '../marks/index.tsx';

/** What the people of a partner have read by a share, day by day. */
export function ShareUse({ share: { partner, use } }: { share: ShareAnswer }) {
  const { days, queries, people, rows, last } = use;
  const scheme = useComputedColorScheme();
  // biome-ignore lint/correctness/useExhaustiveDependencies: the colours are read anew when the theme changes
  const option = useMemo(
    () => ({
      grid: { left: 34, right: 8, top: 8, bottom: 22 },
      tooltip: { trigger: 'axis' },
      xAxis: {
        type: 'category',
        data: days.map((_, at) =>
          dayjs()
            .subtract(days.length - 1 - at, 'day')
            .format('D MMM'),
        ),
      },
      yAxis: { type: 'value', minInterval: 1 },
      series: [{ type: 'bar', name: 'queries', data: [...days], barMaxWidth: 12, itemStyle: { color: ink('--kelp') } }],
    }),
    [days, scheme],
  );
  return (
    <section aria-label="What is read">
      <h3>What is read</h3>
      {queries === 0 ? (
        <p className="quiet">Nobody of {partner} has read anything by it in the last thirty days.</p>
      ) : (
        <>
          <p>
            {plural(queries, 'query', 'queries')} by {plural(people, 'person', 'people')} in the last thirty days,{' '}
            {count(rows)} rows in all{last ? ', last ' : ''}
            {last ? <When at={last} /> : null}.
          </p>
          <Chart height={110} label={`Queries on each of the last thirty days: ${days.join(', ')}`} option={option} />
        </>
      )}
    </section>
  );
}
