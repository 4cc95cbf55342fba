import type { Schedule, Scope } from '@idrel/contract/scanning';
import { problemOf } from '../app/api.ts';
import { count } from '../marks/index.tsx';
import { usePlanPreviewQuery } from './api.ts';

const shown = (time: string, timeZone: string) =>
  new Intl.DateTimeFormat('en-GB', {
    weekday: 'short',
    day: 'numeric',
    month: 'short',
    year: 'numeric',
    hour: '2-digit',
    minute: '2-digit',
    timeZone,
    timeZoneName: 'short',
  }).format(new Date(time));

/** What a plan would do, as it is written: a sentence, counts from the live source, the next five times. */
export function PlanAside({ source, scope, schedule }: { source: string; scope: Scope; schedule: Schedule | null }) {
  const { currentData, data, error } = usePlanPreviewQuery({ source, scope, schedule });
  const preview = currentData ?? data;
  const problem = error ? problemOf(error) : undefined;
  return (
    <aside aria-label="What the plan does" aria-live="polite" className="stack">
      <h2>What it does</h2>
      {problem ? (
        <p className="notice">
          {problem.detail} {problem.mend}
        </p>
      ) : null}
      {preview && !problem ? (
        <>
          <p>{preview.scopeSentence}</p>
          {preview.all === null ? (
            <p className="quiet">
              The source cannot be asked what it holds just now; the plan can be saved all the same.
            </p>
          ) : (
            <p className="quiet">
              Covers {count(preview.covered)} of {count(preview.all)} objects that are there now.
            </p>
          )}
          <h3>{schedule ? 'The next times' : 'When'}</h3>
          {schedule ? (
            <ol className="times">
              {preview.next.map((time) => (
                <li key={time}>{shown(time, schedule.timeZone)}</li>
              ))}
            </ol>
          ) : (
            <p className="quiet">Only when somebody asks for it.</p>
          )}
          {schedule && preview.next.length === 0 ? <p className="attention">It has no time to come.</p> : null}
          {schedule ? (
            <p className="quiet small">Times that were missed while Idrel stood still are made up once.</p>
          ) : null}
        </>
      ) : null}
    </aside>
  );
}
