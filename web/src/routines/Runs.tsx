import type { RoutineRunAnswer } from '@idrel/contract/routines';
import dayjs from 'dayjs';
import { lazy, Suspense, useMemo } from 'react';
import { count, When } from '../marks/index.tsx';
import { Listing, num } from '../marks/Listing.tsx';
import { useRoutineRunsQuery } from './api.ts';
import { RUN_STATES, whyInWords } from './words.ts';

type Line = Pick<RoutineRunAnswer, 'id' | 'at' | 'state' | 'why' | 'found' | 'changed' | 'person' | 'restored'>;
const Course = lazy(async () => ({ default: (await import('./Course.tsx')).Course }));
/** From so many runs on their course says something. */
const FROM = 3;

/** The runs of a routine, newest first, with their course over time. */
export function Runs({ id, chosen, choose }: { id: string; chosen: string | null; choose: (run: string) => void }) {
  const { data } = useRoutineRunsQuery(id);
  return (
    <section aria-label="Runs">
      <h3>Runs</h3>
      {data && data.length >= FROM ? <OverTime runs={data} /> : null}
      {!data || data.length === 0 ? (
        <p className="quiet">{data ? 'None yet.' : 'Looking …'}</p>
      ) : (
        <Listing heads={['When', 'Why', 'How', num('Found'), num('Changed')]}>
          {data.map((run) => (
            <tr key={run.id} aria-current={run.id === chosen || undefined}>
              <td className="small">
                <button type="button" className="linkish" onClick={() => choose(run.id)}>
                  <When at={run.at} />
                </button>
              </td>
              <td className="small">{whyInWords(run.why, run.person)}</td>
              <td className="small">
                <span className={run.state === 'asks' || run.state === 'failed' ? 'attention' : undefined}>
                  {RUN_STATES[run.state]}
                </span>
                {run.restored ? <span className="quiet"> ({count(run.restored)})</span> : null}
              </td>
              <td className="num">{count(run.found)}</td>
              <td className="num">{count(run.changed)}</td>
            </tr>
          ))}
        </Listing>
      )}
    </section>
  );
}

function OverTime({ runs }: { runs: readonly Line[] }) {
  const shown = useMemo(
    () =>
      [...runs].reverse().map(({ at, found, changed }) => ({ at: dayjs(at).format('D MMM HH:mm'), found, changed })),
    [runs],
  );
  return (
    <Suspense fallback={<div style={{ height: 120 }} />}>
      <Course points={shown} of={`${shown.length} runs`} />
    </Suspense>
  );
}
