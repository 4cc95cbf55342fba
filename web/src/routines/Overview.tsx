import type { RoutineAnswer } from '@idrel/contract/routines';
import { count, When } from '../marks/index.tsx';
import { Listing, num } from '../marks/Listing.tsx';
import { RUN_STATES, STANDS, startsInWords } from './words.ts';

const ASKING: readonly RoutineAnswer['stands'][] = ['unkept', 'not agreed'];

/** All routines: which act by themselves and when next, what they did last and of late, and what waits for a person. */
export const Overview = ({
  routines,
  choose,
}: {
  routines: readonly RoutineAnswer[];
  choose: (id: string) => void;
}) => (
  <Listing
    label="Routines"
    heads={[
      'Routine',
      'Kept by',
      'Starts',
      'Next',
      'Last run',
      num('Found'),
      num('Changed'),
      num('Runs', 'In the last 30 days'),
      num('Changes', 'In the last 30 days'),
      num('Failed', 'In the last 30 days'),
    ]}
  >
    {routines.map((routine) => (
      <tr key={routine.id}>
        <td className="anywhere">
          <button type="button" className="linkish" onClick={() => choose(routine.id)}>
            {routine.name}
          </button>
        </td>
        <td className="small">{routine.keeper?.name ?? <span className="attention">nobody</span>}</td>
        <td className="small">
          {startsInWords(routine.starts)}
          {routine.stands === 'acts' || routine.stands === 'by hand' ? null : (
            <div className={ASKING.includes(routine.stands) ? 'attention' : 'quiet'}>{STANDS[routine.stands]}</div>
          )}
        </td>
        <td className="small">{routine.stands === 'acts' && routine.nextAt ? <When at={routine.nextAt} /> : ''}</td>
        <td className="small">
          {routine.lastRun ? (
            <>
              <When at={routine.lastRun.at} />{' '}
              <span className={['asks', 'failed'].includes(routine.lastRun.state) ? 'attention' : 'quiet'}>
                {RUN_STATES[routine.lastRun.state]}
              </span>
            </>
          ) : (
            <span className="quiet">never</span>
          )}
        </td>
        <td className="num">{routine.lastRun ? count(routine.lastRun.found) : ''}</td>
        <td className="num">{routine.lastRun ? count(routine.lastRun.changed) : ''}</td>
        <td className="num">{count(routine.recent.runs)}</td>
        <td className="num">{count(routine.recent.changed)}</td>
        <td className="num">
          {routine.recent.failed > 0 ? <span className="attention">{count(routine.recent.failed)}</span> : ''}
        </td>
      </tr>
    ))}
  </Listing>
);
