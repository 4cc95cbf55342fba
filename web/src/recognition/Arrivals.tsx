import { Button } from '@mantine/core';
import { Trouble } from '../marks/states.tsx';
import { CameFrom } from './CameFrom.tsx';
import { useArrivalsQuery } from './classesApi.ts';
import { useClassLabel } from './classLabels.ts';
import { useDeciding } from './FindingList.tsx';

/** Classes that came to an asset along lineage, or to its columns: from where, by how many steps; each can be refused, and then goes no further from here. */
export function Arrivals({
  id,
  label: beside,
}: {
  id: string /** What stands beside it, where nothing else does. */;
  label?: string;
}) {
  const { data, error, refetch } = useArrivalsQuery(id);
  const labelOf = useClassLabel();
  const decide = useDeciding();
  if (error)
    return <Trouble error={error} what="What came along lineage cannot be shown" again={() => void refetch()} />;
  // Most assets have none: no room is kept for it.
  if (!data || data.length === 0) return null;
  const list = (
    <section aria-label="Classes along lineage" className="small">
      <ul className="bare">
        {data.map(({ assetId, path, classKey, from, distance, refused, mayDecide }) => {
          const [label, here] = [labelOf(classKey), path.split(/[./]/).at(-1) ?? path];
          return (
            <li key={`${assetId} ${classKey}`}>
              <span className={refused ? 'gone' : ''}>
                {assetId === id ? null : <span className="mono">{here}: </span>}
                {label}
              </span>{' '}
              <CameFrom assetId={assetId} column from={from} distance={distance} />
              {mayDecide ? (
                <>
                  {' '}
                  <Button
                    variant="subtle"
                    size="compact-xs"
                    aria-label={`${refused ? 'Take it as it comes' : 'Refuse'}: ${label} in ${path}`}
                    onClick={() =>
                      void decide(
                        [{ assetId, classKey, decision: refused ? 'open' : 'dismissed' }],
                        refused
                          ? `${label} comes to ${here} again.`
                          : `${label} is refused in ${here}, and goes no further from there.`,
                      )
                    }
                  >
                    {refused ? 'Take it as it comes' : 'Refuse'}
                  </Button>
                </>
              ) : refused ? (
                <span className="quiet"> refused</span>
              ) : null}
            </li>
          );
        })}
      </ul>
    </section>
  );
  return beside ? (
    <div className="field">
      <span className="label">{beside}</span>
      {list}
    </div>
  ) : (
    list
  );
}
