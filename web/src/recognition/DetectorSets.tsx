import { Button, Group } from '@mantine/core';
import { useMayAnywhere } from '../forms/Frame.tsx';
import { Beside, Choice } from '../marks/layout.tsx';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { useDetectorSetsQuery, useDetectorsQuery } from './api.ts';
import { ALL, SetForm } from './DetectorSetForm.tsx';

/** Choices of detectors that plans share. */
export function DetectorSets({ chosen, choose }: { chosen: string | null; choose: (set: string | null) => void }) {
  const sets = useDetectorSetsQuery();
  const detectors = useDetectorsQuery();
  const mayEdit = useMayAnywhere('steward', 'source administrator');
  if (sets.error || detectors.error)
    return <Trouble error={sets.error ?? detectors.error} what="The detector sets cannot be shown" />;
  if (!sets.data || !detectors.data) return <Coming />;
  const set = sets.data.find((entry) => entry.id === chosen);
  const from = chosen === 'copy:' ? ALL : sets.data.find((entry) => `copy:${entry.id}` === chosen);
  return (
    <Beside first="300px">
      <div>
        <Group mb={6}>
          <h2 className="grow">Detector sets</h2>
          {mayEdit ? <Button onClick={() => choose('new')}>New set</Button> : null}
        </Group>
        <ul className="tree flat" aria-label="Detector sets">
          <li className="node still">
            <span className="grow">All detectors</span>
            <span className="quiet small">the usual</span>
            {mayEdit ? (
              <Button
                variant="subtle"
                size="compact-xs"
                aria-label="Copy All detectors"
                onClick={() => choose('copy:')}
              >
                Copy
              </Button>
            ) : null}
          </li>
          {sets.data.map((entry) => (
            <Choice key={entry.id} chosen={entry.id === chosen} choose={() => choose(entry.id)}>
              <span className="grow cut">{entry.name}</span>
              <span className="quiet small">
                {entry.detectors} of {entry.all}
              </span>
            </Choice>
          ))}
        </ul>
      </div>
      {chosen === 'new' || set || from ? (
        <SetForm
          key={set?.id ?? chosen}
          set={set}
          from={from}
          detectors={detectors.data}
          mayEdit={mayEdit}
          done={choose}
        />
      ) : (
        <Empty title="One choice for many plans">
          <p>
            A detector set says which detectors look, whatever the kind of source: choose it in a scan plan under How.
            What it leaves out is named; detectors that come with later versions look as well.
          </p>
        </Empty>
      )}
    </Beside>
  );
}
