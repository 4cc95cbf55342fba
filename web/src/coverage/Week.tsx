import type { WeekAnswer } from '@idrel/contract/coverage';
import { Box } from '@mantine/core';
import dayjs from 'dayjs';
import { lazy, Suspense } from 'react';
import { Link } from 'react-router';
import { opens } from '../catalog/index.ts';
import { count, percent, plural } from '../marks/index.tsx';
import { Listing, num } from '../marks/Listing.tsx';
import { Coming, Trouble } from '../marks/states.tsx';
import { useCoverageWeekQuery } from './api.ts';
import { points } from './OverTime.tsx';

const WeekBars = lazy(() => import('./WeekBars.tsx').then(({ WeekBars }) => ({ default: WeekBars })));

/** What facts of assets, and other things, are called where they were changed. */
const WORDS: Readonly<Record<string, string>> = {
  description: 'Descriptions',
  owners: 'Owners',
  stewards: 'Stewards',
  custodians: 'Custodians',
  experts: 'Experts',
  terms: 'Terms given',
  tags: 'Tags given',
  standing: 'Standings',
  level: 'Levels',
  domain: 'Domains of assets',
  finding: 'Findings decided',
  person: 'People, and keys',
  term: 'Terms of the glossary',
  policy: 'Policies',
  'certainty rule': 'Rules that confirm',
  request: 'Requests for access',
  'saved search': 'Searches kept',
  'data class': 'Data classes',
  'native right': 'Rights at sources',
  'coverage target': 'Targets',
  'room price': 'Prices of room',
};
const wordsOf = (action: string): string =>
  WORDS[action] ??
  (action.startsWith('asset: ')
    ? `Assets: ${action.slice(7)}`
    : `${action.charAt(0).toUpperCase()}${action.slice(1)}s`);

/** What waits, as the worklist calls it. */
const WAITING: Readonly<Record<string, string>> = {
  finding: 'findings to settle',
  unowned: 'assets without owner',
  lapsed: 'certifications that lapsed',
  discussion: 'questions and mentions',
  scan: 'scans with something to decide',
  breaking: 'changes that break something',
  failed: 'flows that failed',
  broken: 'things that are broken',
  request: 'requests for access',
  review: 'reviews of rights',
  routine: 'routines that wait',
};

/** The last seven days of whoever looks, beside the seven before. */
export function Week() {
  const { data, error, refetch } = useCoverageWeekQuery();
  if (error && !data) return <Trouble error={error} what="Your week cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming />;
  const sum = (days: WeekAnswer['days']) => days.reduce((total, { times }) => total + times, 0);
  const [before, now] = [sum(data.days.slice(0, 7)), sum(data.days.slice(7))];
  return (
    <>
      <p className="told">
        From {dayjs(data.from).format('D MMM')} to today you changed <strong>{plural(data.assets, 'asset')}</strong>,
        with {plural(now, 'entry', 'entries')} in the journal; in the week before there were {count(before)}.
      </p>
      <Suspense fallback={<Box h={120} />}>
        <WeekBars days={data.days} />
      </Suspense>
      <div className="halves">
        <section aria-label="What you did">
          <h2>What you did</h2>
          {data.done.length === 0 ? (
            <p className="quiet">Nothing in these two weeks.</p>
          ) : (
            <Listing heads={['What', num('This week'), num('Before')]} label="What you did">
              {data.done.map(({ action, times, before: then }) => (
                <tr key={action}>
                  <td>{wordsOf(action)}</td>
                  <td className="num">{count(times)}</td>
                  <td className="num quiet">{count(then)}</td>
                </tr>
              ))}
            </Listing>
          )}
        </section>
        <section aria-label="What waits for you">
          <h2>What waits for you</h2>
          {data.waiting.length === 0 ? (
            <p className="quiet">Your worklist is empty.</p>
          ) : (
            <Listing label="What waits for you" heads={['What', num('Now')]}>
              {data.waiting.map(({ kind, items }) => (
                <tr key={kind}>
                  <td>
                    <Link to={`/worklist?kind=${kind}`}>{WAITING[kind] ?? kind}</Link>
                  </td>
                  <td className="num">{count(items)}</td>
                </tr>
              ))}
            </Listing>
          )}
        </section>
      </div>
      <section className="part" aria-label="What moved in your domains" style={{ marginTop: 22 }}>
        <h2>What moved in your domains</h2>
        {data.moved.length === 0 ? (
          <p className="quiet">
            No figure of a domain that you look after as steward is other than a week ago, or the record began later.
          </p>
        ) : (
          <Listing
            heads={['Domain', 'Measure', num('A week ago'), num('Now'), 'Of all its assets']}
            label="What moved in your domains"
          >
            {data.moved.map((row) => (
              <tr key={`${row.domain} ${row.key}`}>
                <td>{row.domain}</td>
                <td>{row.measure}</td>
                <td className="num">{count(row.before)}</td>
                <td className="num">
                  <Link to={opens(row.filter)}>{count(row.now)}</Link>
                </td>
                <td className="small">
                  {percent(row.assets ? row.now / row.assets : 0)},{' '}
                  {points(row.assetsBefore ? row.before / row.assetsBefore : 0, row.assets ? row.now / row.assets : 0)}
                </td>
              </tr>
            ))}
          </Listing>
        )}
      </section>
    </>
  );
}
