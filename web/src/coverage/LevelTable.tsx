import type { CoverageRow, LevelReport } from '@idrel/contract/coverage';
import { Box } from '@mantine/core';
import dayjs from 'dayjs';
import { lazy, Suspense } from 'react';
import { Link } from 'react-router';
import { opens } from '../catalog/index.ts';
import { count, Level, plural } from '../marks/index.tsx';
import { Listing, num } from '../marks/Listing.tsx';
import { Spark } from './Spark.tsx';

const Trend = lazy(() => import('./Trend.tsx').then(({ Trend }) => ({ default: Trend })));

/** What lies at guarded and above: what a privacy officer looks at first. */
const heavy = (counts: readonly number[]) => (counts[2] ?? 0) + (counts[3] ?? 0);

/** By how much a count moved, in words. */
const moved = (first: number, last: number): string =>
  last === first ? 'as then' : last > first ? `${count(last - first)} more` : `${count(first - last)} fewer`;

/** Sensitivity levels in rows, each figure opening its assets, with how they came to be so. */
export function LevelTable({ data }: { data: LevelReport }) {
  const [first] = data.days;
  return (
    <>
      <Box component="section" aria-label="Over time" mb={22}>
        <h2>Over time</h2>
        {data.days.length < 2 ? (
          <p className="quiet">
            The record begins {first ? 'today' : 'with the first scan that finds a class'}: each further day adds to it.
          </p>
        ) : (
          <Suspense fallback={<Box h={180} />}>
            <Trend days={data.days} counts={data.trends[0] ?? []} />
          </Suspense>
        )}
      </Box>
      <Listing
        label="Assets by level"
        className="spaced"
        heads={[
          'Name',
          num('Assets'),
          ...data.measures.map(({ help }, index) => num(index === 0 ? 'none' : <Level level={index} />, help)),
          first ? `The upper two since ${dayjs(first).format('D MMM YYYY')}` : 'The upper two over time',
        ]}
      >
        {[data.all, ...data.rows].map((row, index) => (
          <Line
            key={row.filter || 'all'}
            row={row}
            data={data}
            trend={(data.trends[index] ?? []).map(heavy)}
            strong={index === 0}
          />
        ))}
      </Listing>
    </>
  );
}

const Line = ({
  row,
  data,
  trend,
  strong,
}: {
  row: CoverageRow;
  data: LevelReport;
  trend: readonly number[];
  strong: boolean;
}) => (
  <tr>
    <td style={{ paddingLeft: row.depth * 16, fontWeight: strong ? 620 : undefined }}>{row.name}</td>
    <td className="num">
      <Link to={opens(row.filter)}>{count(row.assets)}</Link>
    </td>
    {data.measures.map((measure, index) => {
      const met = row.counts[index] ?? 0;
      return (
        <td key={measure.key} className="num">
          {met === 0 ? (
            <span className="quiet">0</span>
          ) : (
            <Link
              to={opens(row.filter, measure.filter)}
              aria-label={`${measure.label}: ${plural(met, 'asset')} of ${row.name}`}
            >
              {count(met)}
            </Link>
          )}
        </td>
      );
    })}
    <td>
      <Spark values={trend} told={moved} />
    </td>
  </tr>
);
