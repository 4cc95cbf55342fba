import dayjs from 'dayjs';
import { useMemo } from 'react';
import { Chart, ink } from '../marks/Chart.tsx';

/** Inks of lines, each with a stroke of its own: colour never stands alone. */
const STROKES = [
  ['--kelp', 'solid'],
  ['--slate', 'dashed'],
  ['--sand', 'dotted'],
  ['--heather', [8, 3, 2, 3]],
  ['--slate', [2, 3]],
  ['--sand', [10, 4]],
] as const;

/** Shares day by day, as lines that end with their names. */
export function Shares({
  days,
  lines,
  label,
  height = 230,
}: {
  days: readonly string[];
  lines: readonly { readonly name: string; readonly shares: readonly number[] }[];
  label: string;
  height?: number;
}) {
  const option = useMemo(
    () => ({
      grid: { left: 44, right: 150, top: 10, bottom: 24 },
      tooltip: { trigger: 'axis', valueFormatter: (value: number) => `${value.toFixed(1)} %` },
      xAxis: {
        type: 'category',
        data: days.map((day) => dayjs(day).format('D MMM')),
        boundaryGap: false,
      },
      yAxis: { type: 'value', min: 0, max: 100, axisLabel: { formatter: '{value} %', color: ink('--quiet') } },
      series: lines.map(({ name, shares }, nth) => {
        const [colour, type] = STROKES[nth % STROKES.length] as (typeof STROKES)[number];
        return {
          name,
          type: 'line',
          symbol: 'none',
          data: shares.map((share) => Math.round(share * 1000) / 10),
          lineStyle: { width: nth === 0 ? 2.5 : 1.5, type, color: ink(colour) },
          itemStyle: { color: ink(colour) },
          endLabel: { show: true, formatter: '{a}', color: ink('--ink'), fontSize: 12 },
          labelLayout: { moveOverlap: 'shiftY' },
        };
      }),
    }),
    [days, lines],
  );
  return <Chart option={option} height={height} label={label} />;
}
