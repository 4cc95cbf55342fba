import type { AssetAnswer, ColumnProfile } from '@idrel/contract/catalog';
import { PROFILE_LONGEST, PROFILE_QUANTILES } from '@idrel/core/scanning/profile';
import { Box, Group, Stack } from '@mantine/core';
import { lazy, Suspense } from 'react';
import { Link } from 'react-router';
import { count, Evidence, Name, When } from '../marks/index.tsx';
import { Listing, num } from '../marks/Listing.tsx';
import { Coming, Trouble } from '../marks/states.tsx';
import { useProfilesQuery } from './api.ts';
import { basis, extent, figure, stepsOf } from './profileWords.ts';

const Chart = lazy(() => import('../marks/Chart.tsx').then(({ Chart }) => ({ default: Chart })));

/** What the values are like: of one column in full, of a table column by column. */
export function Profile({ asset }: { asset: AssetAnswer }) {
  const { data, error } = useProfilesQuery(asset.id);
  if (error) return <Trouble error={error} what="The profile cannot be shown" />;
  if (!data) return <Coming lines={3} />;
  const [first] = data;
  if (!first)
    return (
      <p className="quiet">
        No profile that you may see. A scan that samples values brings one, unless its plan says otherwise; what you may
        not read, nothing is told of.
      </p>
    );
  return (
    <>
      <Box component="p" className="quiet small" mb={8}>
        From {basis(first.profile)}, <When at={first.at} />.
      </Box>
      {asset.kind === 'column' ? <OneColumn profile={first.profile} /> : <Columns entries={data} />}
    </>
  );
}

const Columns = ({ entries }: { entries: readonly { assetId: string; name: string; profile: ColumnProfile }[] }) => (
  <Listing heads={['Column', 'Filled', num('Different'), 'From … to']}>
    {entries.map(({ assetId, name, profile }) => (
      <tr key={assetId}>
        <td>
          <Link to={`/assets/${assetId}`}>
            <Name text={name} most={30} />
          </Link>
        </td>
        <td>
          <Evidence share={profile.rows === 0 ? 0 : 1 - profile.nulls / profile.rows} narrow />
        </td>
        <td className="num">{count(profile.distinct)}</td>
        <td className="small">
          {profile.guarded ? <span className="quiet">guarded: no values are kept</span> : extent(profile)}
        </td>
      </tr>
    ))}
  </Listing>
);

function OneColumn({ profile }: { profile: ColumnProfile }) {
  const { rows, nulls, distinct, length, span, quantiles } = profile;
  const facts: [string, string][] = [
    ['Empty', `${count(nulls)} of ${count(rows)}`],
    ['Different values', `${count(distinct)}${distinct > 0 && distinct === rows - nulls ? ', each once' : ''}`],
    ...(length
      ? [
          [
            'Length',
            `${count(length.min)} to ${length.max >= PROFILE_LONGEST ? `${PROFILE_LONGEST} or more` : count(length.max)}, ${length.mean.toFixed(1)} on average`,
          ] as [string, string],
        ]
      : []),
    ...(span ? [['Mean', figure(span.mean, profile)] as [string, string]] : []),
    ...(extent(profile) ? [['From … to', extent(profile)] as [string, string]] : []),
  ];
  return (
    <Stack gap={16}>
      <Listing maw={520}>
        {facts.map(([label, value]) => (
          <tr key={label}>
            <td className="quiet">{label}</td>
            <td>{value}</td>
          </tr>
        ))}
        {quantiles ? (
          <tr>
            <td className="quiet">Shares lie below</td>
            <td>
              {quantiles
                .map((value, index) => `${(PROFILE_QUANTILES[index] ?? 0) * 100} %: ${figure(value, profile)}`)
                .join(' · ')}
            </td>
          </tr>
        ) : null}
      </Listing>
      {profile.guarded ? (
        <p className="quiet">
          This column is guarded or may be: its values, and figures from which one could be read, are not kept.
        </p>
      ) : null}
      <Histogram profile={profile} />
      <Group align="flex-start" gap={32}>
        <Counted title="Most frequent values" entries={profile.frequent} rows={rows} />
        <Counted
          title="How values are built"
          entries={profile.patterns}
          rows={rows}
          note="9 is a digit, A a run of capitals, a of small letters"
        />
      </Group>
    </Stack>
  );
}

const Counted = ({
  title,
  entries,
  rows,
  note,
}: {
  title: string;
  entries: ColumnProfile['frequent'];
  rows: number;
  note?: string;
}) =>
  entries.length === 0 ? null : (
    <div className="grow">
      <h3>{title}</h3>
      {note ? <p className="quiet small">{note}</p> : null}
      <Listing widths={[null, null, 120]}>
        {entries.map(([value, n]) => (
          <tr key={value}>
            <td>{value === '' ? <span className="quiet">empty text</span> : <Name text={value} most={32} />}</td>
            <td className="num">{count(n)}</td>
            <td>
              <Evidence share={n / rows} narrow />
            </td>
          </tr>
        ))}
      </Listing>
    </div>
  );

function Histogram({ profile }: { profile: ColumnProfile }) {
  const steps = stepsOf(profile);
  if (steps.length === 0 || profile.distinct < 2) return null;
  const { from = 0, to = 0 } = profile.span ?? {};
  const most = steps.reduce((best, step) => (step.rows > best.rows ? step : best));
  const option = {
    grid: { left: 48, right: 8, top: 8, bottom: 24 },
    tooltip: { trigger: 'axis' },
    xAxis: {
      type: 'category',
      data: steps.map((step) => step.label),
      axisLabel: {
        interval: (index: number) => index === 0 || index === steps.length - 1,
        formatter: (_: string, index: number) => figure(index === 0 ? from : to, profile),
      },
    },
    yAxis: { type: 'value', minInterval: 1 },
    series: [
      {
        type: 'bar',
        name: 'rows',
        data: steps.map((step) => step.rows),
        barCategoryGap: '12%',
        itemStyle: { color: getComputedStyle(document.documentElement).getPropertyValue('--kelp').trim() },
      },
    ],
  };
  return (
    <Box maw={620}>
      <h3>How values spread</h3>
      <Suspense fallback={<Box h={150} />}>
        <Chart
          option={option}
          height={150}
          label={`Histogram of ${steps.length} equal steps; most rows, ${count(most.rows)}, lie from ${most.label}`}
        />
      </Suspense>
    </Box>
  );
}
