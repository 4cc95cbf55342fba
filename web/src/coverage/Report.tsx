import { Button, Checkbox, Group } from '@mantine/core';
import dayjs from 'dayjs';
import { lazy, Suspense, useMemo } from 'react';
import { Link } from 'react-router';
import { useSessionQuery } from '../app/api.ts';
import { sayDone, sayProblem } from '../app/say.ts';
import { bytes, count, Evidence, percent } from '../marks/index.tsx';
import { Listing, num } from '../marks/Listing.tsx';
import { Coming, Trouble } from '../marks/states.tsx';
import { useCrumbs } from '../shell/crumbs.tsx';
import {
  useCoverageCourseQuery,
  useCoverageQuery,
  useReportReaderQuery,
  useRoomPriceQuery,
  useSetReportReaderMutation,
  useTargetsQuery,
} from './api.ts';
import { points } from './OverTime.tsx';
import { costOf } from './Room.tsx';
import { courseInWords } from './Targets.tsx';

const Shares = lazy(() => import('./Shares.tsx').then(({ Shares }) => ({ default: Shares })));
/** Measures that the chart of the report shows. */
const DRAWN = ['owned', 'described', 'relied', 'certified'];

/** Coverage on one page, to be printed or filed. */
export function Component() {
  useCrumbs({ text: 'Coverage', to: '/coverage' }, { text: 'Report' });
  const now = useCoverageQuery({ by: 'domain' });
  const course = useCoverageCourseQuery({ by: 'domain', measure: 'owned', days: 90 });
  const targets = useTargetsQuery();
  const price = useRoomPriceQuery();
  const person = useSessionQuery().data?.person?.name;
  const lines = useMemo(
    () =>
      (course.data?.measures ?? [])
        .filter(({ key }) => DRAWN.includes(key))
        .map(({ key, label }) => ({
          name: label,
          shares: (course.data?.all.find((one) => one.key === key)?.met ?? []).map((met, nth) => {
            const assets = course.data?.assets[nth] ?? 0;
            return assets === 0 ? 0 : met / assets;
          }),
        })),
    [course.data],
  );
  const failed = [now, course, targets, price].find(({ error, data }) => error && !data);
  if (failed)
    return (
      <Trouble
        error={failed.error}
        what="The report cannot be made"
        again={() => void [now, course, targets, price].map((one) => one.refetch())}
      />
    );
  if (!now.data || !course.data || !targets.data || !price.data) return <Coming />;
  const { all, rows, measures } = now.data;
  const { days, assets } = course.data;
  const then = (key: string) => {
    const met = course.data?.all.find((one) => one.key === key)?.met[0] ?? 0;
    return assets[0] ? met / assets[0] : 0;
  };
  const tops = rows.filter(({ depth }) => depth === 0);
  const labelOf = (key: string) => measures.find((one) => one.key === key)?.label ?? key;
  return (
    <div className="page report">
      <div className="head">
        <div>
          <h1>How far the catalog is governed</h1>
          <p className="quiet">
            {dayjs().format('D MMMM YYYY')}, of {count(all.assets)} assets as {person} may see them.
          </p>
        </div>
        <Group className="noprint" gap={12}>
          <Monthly />
          <Button onClick={() => window.print()}>Print</Button>
        </Group>
      </div>
      {days.length > 1 ? (
        <Suspense fallback={<div style={{ height: 170 }} />}>
          <Shares
            days={days}
            lines={lines}
            height={170}
            label={`Shares since ${dayjs(days[0]).format('D MMM YYYY')}; the table below says them in figures`}
          />
        </Suspense>
      ) : null}
      <div className="halves">
        <section aria-label="Measures">
          <h2>Measures</h2>
          <p className="quiet small">{days[0] ? `Since ${dayjs(days[0]).format('D MMM YYYY')}` : ''}</p>
          <Listing heads={['Measure', 'Now', num('Assets'), 'Since then']} label="Measures">
            {measures.map((measure, nth) => {
              const share = all.assets ? (all.counts[nth] ?? 0) / all.assets : 0;
              return (
                <tr key={measure.key}>
                  <td>{measure.label}</td>
                  <td>
                    <Evidence share={share} narrow />
                  </td>
                  <td className="num">{count(all.counts[nth] ?? 0)}</td>
                  <td className="small">{days.length > 1 ? points(then(measure.key), share) : '–'}</td>
                </tr>
              );
            })}
          </Listing>
        </section>
        <section aria-label="Domains">
          <h2>Domains</h2>
          <p className="quiet small">With what lies below them.</p>
          <Listing heads={['Domain', num('Assets'), ...DRAWN.map((key) => num(labelOf(key)))]} label="Domains">
            {tops.map((row) => (
              <tr key={row.key}>
                <td>{row.name}</td>
                <td className="num">{count(row.assets)}</td>
                {DRAWN.map((key) => (
                  <td key={key} className="num">
                    {percent((row.counts[measures.findIndex((one) => one.key === key)] ?? 0) / row.assets)}
                  </td>
                ))}
              </tr>
            ))}
          </Listing>
        </section>
      </div>
      <section className="part" aria-label="Targets">
        <h2>Targets</h2>
        {targets.data.targets.length === 0 ? (
          <p className="quiet">
            None is set. <Link to="/coverage?show=targets">Targets</Link>
          </p>
        ) : (
          <Listing
            heads={['Domain', 'Measure', num('Now'), num('Target'), 'By', 'Stands', 'Where it leads']}
            label="Targets"
          >
            {targets.data.targets.map((target) => (
              <tr key={target.id}>
                <td>{target.domain}</td>
                <td>{labelOf(target.measure)}</td>
                <td className="num">{percent(target.now)}</td>
                <td className="num">{percent(target.share)}</td>
                <td className="day">{dayjs(target.byDay).format('D MMM YYYY')}</td>
                <td>
                  <span className={`aim is-${target.state.replace(' ', '-')}`}>{target.state}</span>
                </td>
                <td className="small">{courseInWords(target)}</td>
              </tr>
            ))}
          </Listing>
        )}
      </section>
      <section className="part" aria-label="Room">
        <h2>Room</h2>
        <p>
          {all.bytes === 0
            ? 'No source told how much room it takes.'
            : `${bytes(all.bytes)} are taken; nobody asked in 90 days for ${bytes(all.unusedBytes)} of it (${percent(all.unusedBytes / all.bytes)})${
                price.data.price === null ? '' : `, which costs ${costOf(all.unusedBytes, price.data)} a month`
              }.`}
        </p>
      </section>
    </div>
  );
}

/** Whether the report is sent each month. */
function Monthly() {
  const { data } = useReportReaderQuery();
  const [set] = useSetReportReaderMutation();
  if (!data) return null;
  return (
    <Checkbox
      label="Send it to me each month"
      description={data.canSend ? undefined : 'No mail is set up here, or you have no address.'}
      checked={data.sent}
      disabled={!data.canSend && !data.sent}
      onChange={(event) =>
        void set(event.currentTarget.checked)
          .unwrap()
          .then(
            ({ sent }) =>
              sayDone(sent ? 'The report comes with the first days of each month.' : 'It is sent no longer.'),
            (error: unknown) => sayProblem(error, 'It was not changed'),
          )
      }
    />
  );
}
