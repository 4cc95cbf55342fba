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

/** Room above and below the lines, and so far names stand apart, in pixels. */
const [TOP, BOTTOM, APART] = [10, 24, 14];

/** By how much the name of each line is moved so that no two stand in one place. @param ends where lines end, in pixels from the top */
export function movedApart(ends: readonly number[]): number[] {
  const order = [...ends.keys()].sort((a, b) => (ends[a] as number) - (ends[b] as number));
  const placed: number[] = [];
  for (const nth of order) {
    const before = placed.length > 0 ? (placed.at(-1) as number) + APART : Number.NEGATIVE_INFINITY;
    placed.push(Math.max(ends[nth] as number, before));
  }
  // What was pushed below the ground goes up again, with what it meets.
  let below = Math.max(0, ...ends) + APART / 2;
  for (let at = placed.length - 1; at >= 0; at -= 1) {
    placed[at] = Math.min(placed[at] as number, below);
    below = (placed[at] as number) - APART;
  }
  const moves = new Array<number>(ends.length);
  order.forEach((nth, at) => {
    moves[nth] = (placed[at] as number) - (ends[nth] as number);
  });
  return moves;
}

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
  const option = useMemo(() => {
    const most = Math.max(0.1, ...lines.flatMap(({ shares }) => shares));
    const max = Math.min(100, Math.ceil(most * 10) * 10);
    const moves = movedApart(
      lines.map(({ shares }) => (1 - ((shares.at(-1) ?? 0) * 100) / max) * (height - TOP - BOTTOM)),
    );
    return {
      grid: { left: 44, right: 150, top: TOP, bottom: BOTTOM },
      tooltip: { trigger: 'axis', valueFormatter: (value: number) => `${value.toFixed(1)} %` },
      xAxis: {
        type: 'category',
        data: days.map((day) => dayjs(day).format('D MMM')),
        boundaryGap: false,
      },
      yAxis: { type: 'value', min: 0, max, axisLabel: { formatter: '{value} %', color: ink('--quiet') } },
      series: lines.map(({ name, shares }, nth) => {
        const [colour, type] = STROKES[nth % STROKES.length] as (typeof STROKES)[number];
        return {
          name,
          type: 'line',
          symbol: 'none',
          data: shares.map((share) => Math.round(share * 1000) / 10),
          lineStyle: { width: nth === 0 ? 2.5 : 1.5, type, color: ink(colour) },
          itemStyle: { color: ink(colour) },
          endLabel: {
            show: true,
            formatter: '{a}',
            color: ink('--ink'),
            fontSize: 12,
            offset: [0, moves[nth] ?? 0],
          },
        };
      }),
    };
  }, [days, lines, height]);
  return <Chart option={option} height={height} label={label} />;
}
