import type { MoveEffect } from '@idrel/contract/people';
import { Effect } from '../forms/Frame.tsx';
import { plural } from '../marks/index.tsx';
import { Coming, Trouble } from '../marks/states.tsx';
import { useDomainArrivalQuery, useDomainMoveEffectQuery } from './api.ts';

/** What moving a domain would change, before it is moved. */
export function MoveOfDomain({ id, name, to }: { id: string; name: string; to: string | null }) {
  const { currentData, error, refetch } = useDomainMoveEffectQuery({ id, to });
  if (error) return <Trouble error={error} what="What it would change cannot be told" again={() => void refetch()} />;
  if (!currentData) return <Coming lines={2} />;
  return <MoveChanges effect={currentData} where={`in ${name} and below`} />;
}

/** What moving assets from one domain into another would change. @param what the assets, in words */
export function MoveOfAssets({ from, to, what }: { from: string; to: string; what: string }) {
  const { currentData, error, refetch } = useDomainArrivalQuery({ id: to, from });
  if (error) return <Trouble error={error} what="What it would change cannot be told" again={() => void refetch()} />;
  if (!currentData) return <Coming lines={2} />;
  return <MoveChanges effect={currentData} where={`in ${what}`} />;
}

/** Whose rights a move changes, and which dismissals. @param where in which part of the catalog */
export function MoveChanges({ effect, where }: { effect: MoveEffect; where: string }) {
  const { people, peopleCount, dismissals } = effect;
  const dismissed = [
    dismissals.begin > 0 ? `${plural(dismissals.begin, 'remembered dismissal')} would begin to hold there` : '',
    dismissals.end > 0 ? `${plural(dismissals.end, 'remembered dismissal')} would hold there no more` : '',
  ].filter(Boolean);
  const whose =
    peopleCount > 0
      ? `The rights of ${plural(peopleCount, 'person', 'people')} change ${where}`
      : `Nobody's rights change ${where}`;
  return (
    <Effect
      told={`${[whose, ...dismissed].join('; ')}.`}
      label="Whose rights change"
      total={peopleCount}
      rows={people.map(({ id, name, gains, loses, keepsIn }) => (
        <tr key={id}>
          <td>{name}</td>
          <td>
            {gains.length > 0 ? <div>becomes {gains.join(' and ')}</div> : null}
            {loses.length > 0 ? (
              <div>
                is {loses.join(' and ')} no more
                {keepsIn.length > 0 ? `; has a role of their own in ${keepsIn.join(', ')}` : ''}
              </div>
            ) : null}
          </td>
        </tr>
      ))}
    />
  );
}
