import type { RoutineStep } from '@idrel/contract/routines';
import { Button } from '@mantine/core';
import dayjs from 'dayjs';
import { lazy, Suspense, useMemo, useState } from 'react';
import { problemOf } from '../app/api.ts';
import { count, plural } from '../marks/index.tsx';
import { Listing, num } from '../marks/Listing.tsx';
import { Coming, ProblemNotice } from '../marks/states.tsx';
import { useReplayRoutineQuery } from './api.ts';

const Course = lazy(async () => ({ default: (await import('./Course.tsx')).Course }));
const dayOf = (day: string) => dayjs(day).format('D MMM');

/** What a routine would have done on each of the last days, looked for when it is asked. */
export function LastDays({ filter, steps }: { filter: string; steps: readonly RoutineStep[] }) {
  const [asked, ask] = useState(false);
  return (
    <section aria-label="The last 30 days" style={{ marginTop: 20 }}>
      <h3>On each of the last 30 days</h3>
      {asked ? (
        <Days filter={filter} steps={steps} />
      ) : (
        <Button variant="default" size="compact-sm" onClick={() => ask(true)}>
          See what it would have done
        </Button>
      )}
    </section>
  );
}

function Days({ filter, steps }: { filter: string; steps: readonly RoutineStep[] }) {
  const { data, error, isFetching } = useReplayRoutineQuery({ filter, steps });
  const shown = useMemo(
    () => data?.days.map(({ day, found, changed }) => ({ at: dayOf(day), found, changed })) ?? [],
    [data],
  );
  if (error) return <ProblemNotice problem={problemOf(error)} />;
  if (!data) return <Coming lines={3} />;
  const { days, step, knownFrom, asNow } = data;
  const changed = days.reduce((sum, day) => sum + day.changed, 0);
  const active = [...days].reverse().filter((day) => day.changed > 0);
  return (
    <div className={isFetching ? 'fading' : undefined}>
      <p>
        Run every day, it would have changed <strong>{plural(changed, 'asset')}</strong>
        {step ? ` (${step})` : ''}, on {plural(active.length, 'day')}; each once.
      </p>
      <Suspense fallback={<div style={{ height: 120 }} />}>
        <Course points={shown} of={`the last ${days.length} days`} />
      </Suspense>
      {active.length > 0 ? (
        <Listing heads={['Day', num('Found'), num('Changed')]} label="Days on which it would have changed something">
          {active.map((day) => (
            <tr key={day.day}>
              <td>{dayOf(day.day)}</td>
              <td className="num">{count(day.found)}</td>
              <td className="num">{count(day.changed)}</td>
            </tr>
          ))}
        </Listing>
      ) : null}
      <p className="quiet small">
        By what people said and what scans found since. Classes, levels and domains are known as they were from{' '}
        {dayjs(knownFrom).format('D MMMM YYYY')} on
        {asNow.length > 0 ? `; ${asNow.join(', ')} ${asNow.length === 1 ? 'is' : 'are'} taken as now` : ''}.
      </p>
    </div>
  );
}
