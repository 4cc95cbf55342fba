import type { KeptBy } from '@idrel/contract/coverage';
import { Anchor, Box, Group, SegmentedControl, Select } from '@mantine/core';
import dayjs from 'dayjs';
import { lazy, Suspense, useMemo } from 'react';
import { Link } from 'react-router';
import { useAddress } from '../app/address.ts';
import { opens } from '../catalog/index.ts';
import { count, percent, When } from '../marks/index.tsx';
import { Listing, num } from '../marks/Listing.tsx';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { useCoverageCourseQuery } from './api.ts';
import { useRowNames } from './rowNames.ts';
import { Spark } from './Spark.tsx';

const Shares = lazy(() => import('./Shares.tsx').then(({ Shares }) => ({ default: Shares })));
const DAYS = [
  ['30', '30 days'],
  ['90', '90 days'],
  ['365', 'A year'],
  ['3650', 'All'],
] as const;
/** So many rows have a line of their own in the chart. */
const LINES = 5;

const sharesOf = (met: readonly number[], assets: readonly number[]): number[] =>
  met.map((value, nth) => (assets[nth] ? value / assets[nth] : 0));
/** A difference of shares, in points of a percent. */
export const points = (first: number, last: number): string => {
  const more = Math.round((last - first) * 1000) / 10;
  return more === 0 ? 'as then' : `${more > 0 ? '+' : '−'}${Math.abs(more).toFixed(1)} points`;
};
const dayOf = (day: string) => dayjs(day).format('D MMM YYYY');

/** How a measure came to be what it is, of everything and row by row. */
export function OverTime({ by, domain }: { by: KeptBy; domain: string | undefined }) {
  const [params, put] = useAddress();
  const chosen = params.get('measure') ?? 'owned';
  const days = DAYS.find(([value]) => value === params.get('days'))?.[0] ?? '90';
  const { data, error, refetch, isFetching } = useCoverageCourseQuery({
    by,
    measure: chosen,
    days: Number(days),
    domain,
  });
  const nameOf = useRowNames(by);
  const measure = data?.measures.find(({ key }) => key === chosen);
  const lines = useMemo(() => {
    if (!data) return [];
    const whole = data.all.find(({ key }) => key === measure?.key)?.met ?? [];
    const rows = [...data.rows]
      .filter(({ depth, assets }) => depth === 0 && (assets.at(-1) ?? 0) > 0)
      .sort((a, b) => (b.assets.at(-1) ?? 0) - (a.assets.at(-1) ?? 0))
      .slice(0, LINES);
    return [
      { name: 'All', shares: sharesOf(whole, data.assets) },
      ...(rows.length > 1
        ? rows.map(({ name, met, assets }) => ({ name: nameOf(name), shares: sharesOf(met, assets) }))
        : []),
    ];
  }, [data, measure, nameOf]);
  if (error && !data)
    return <Trouble error={error} what="How it came to be cannot be shown" again={() => void refetch()} />;
  if (!data || !measure) return <Coming />;
  const [first, last] = [data.days[0], data.days.at(-1)];
  if (first === undefined || last === undefined)
    return (
      <Empty title="No figures are kept yet">
        <p>They are kept each hour, and the last of each day stands: from today on.</p>
      </Empty>
    );
  return (
    <div className={isFetching ? 'fading' : undefined}>
      <Group gap={12} align="flex-end">
        <Select
          label="Measure"
          data={data.measures.map(({ key, label }) => ({ value: key, label }))}
          value={measure.key}
          onChange={(value) => put({ measure: value })}
          allowDeselect={false}
          w={200}
        />
        <SegmentedControl
          aria-label="How far back"
          value={days}
          onChange={(value) => put({ days: value })}
          data={DAYS.map(([value, label]) => ({ value, label }))}
        />
        <p className="quiet small">
          {measure.help} Kept last <When at={data.at} />.
        </p>
      </Group>
      {data.days.length < 2 ? (
        <p className="quiet">The record begins today: each further day adds to it.</p>
      ) : (
        <Box mt={10}>
          <Suspense fallback={<Box h={230} />}>
            <Shares
              days={data.days}
              lines={lines}
              label={`${measure.label}: ${lines.map(({ name, shares }) => `${name} ${percent(shares[0] ?? 0)} on ${dayOf(first)}, ${percent(shares.at(-1) ?? 0)} on ${dayOf(last)}`).join('; ')}`}
            />
          </Suspense>
        </Box>
      )}
      <div className="time-parts">
        <section aria-label="All measures">
          <h2>All of it</h2>
          <Listing heads={['Measure', num('Now'), `Since ${dayOf(first)}`]} label="All measures">
            {data.all.flatMap(({ key, met }) => {
              const own = data.measures.find((one) => one.key === key);
              if (!own) return [];
              const shares = sharesOf(met, data.assets);
              return [
                <tr key={key} aria-current={key === measure.key}>
                  <td>
                    <Anchor component="button" type="button" inherit onClick={() => put({ measure: key })}>
                      {own.label}
                    </Anchor>
                  </td>
                  <td className="num">{percent(shares.at(-1) ?? 0)}</td>
                  <td>
                    <Spark values={shares} told={points} width={60} />
                  </td>
                </tr>,
              ];
            })}
          </Listing>
        </section>
        <section aria-label={`${measure.label}, row by row`}>
          <h2>{measure.label}</h2>
          <Listing
            heads={['Name', num('Assets'), num(dayOf(first)), num(dayOf(last)), 'Course']}
            label={`${measure.label}, row by row`}
          >
            {data.rows.map((row) => {
              const shares = sharesOf(row.met, row.assets);
              return (
                <tr key={row.key || 'none'}>
                  <td style={{ paddingLeft: row.depth * 16 }}>{nameOf(row.name)}</td>
                  <td className="num">{count(row.assets.at(-1) ?? 0)}</td>
                  <td className="num">{row.assets[0] ? percent(shares[0] ?? 0) : '–'}</td>
                  <td className="num">
                    <Link
                      to={opens(row.filter, measure.filter)}
                      aria-label={`${row.name}: ${percent(shares.at(-1) ?? 0)}`}
                    >
                      {percent(shares.at(-1) ?? 0)}
                    </Link>
                  </td>
                  <td>
                    <Spark values={shares} told={points} />
                  </td>
                </tr>
              );
            })}
          </Listing>
        </section>
      </div>
      <details className="under">
        <summary>Figures of each day</summary>
        <Listing heads={['Day', num('Assets'), ...lines.map(({ name }) => num(name))]} label="Figures of each day">
          {[...data.days.keys()].reverse().map((nth) => (
            <tr key={data.days[nth]}>
              <td>{dayOf(data.days[nth] as string)}</td>
              <td className="num">{count(data.assets[nth] ?? 0)}</td>
              {lines.map(({ name, shares }) => (
                <td key={name} className="num">
                  {percent(shares[nth] ?? 0)}
                </td>
              ))}
            </tr>
          ))}
        </Listing>
      </details>
    </div>
  );
}
