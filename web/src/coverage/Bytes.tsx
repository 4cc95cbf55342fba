import dayjs from 'dayjs';
import { useMemo } from 'react';
import { Chart, ink } from '../marks/Chart.tsx';
import { bytes } from '../marks/index.tsx';

/** Room day by day: what is taken as a line, what of it is unused as the ground below one. */
export function Bytes({
  days,
  lines,
  label,
}: {
  days: readonly string[];
  lines: readonly { readonly name: string; readonly values: readonly number[] }[];
  label: string;
}) {
  const option = useMemo(
    () => ({
      grid: { left: 64, right: 90, top: 10, bottom: 24 },
      tooltip: { trigger: 'axis', valueFormatter: bytes },
      xAxis: { type: 'category', data: days.map((day) => dayjs(day).format('D MMM')), boundaryGap: false },
      yAxis: { type: 'value', axisLabel: { formatter: bytes, color: ink('--quiet') } },
      series: lines.map(({ name, values }, nth) => {
        const colour = ink(nth === 0 ? '--slate' : '--buoy');
        return {
          name,
          type: 'line',
          symbol: 'none',
          data: values,
          lineStyle: { width: 1.5, color: colour, type: nth === 0 ? 'solid' : 'dashed' },
          itemStyle: { color: colour },
          ...(nth === 0 ? {} : { areaStyle: { color: colour, opacity: 0.12 } }),
          endLabel: { show: true, formatter: '{a}', color: ink('--ink'), fontSize: 12 },
        };
      }),
    }),
    [days, lines],
  );
  return <Chart option={option} height={170} label={label} />;
}
