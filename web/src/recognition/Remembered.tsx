import type { CertaintyAnswer } from '@idrel/contract/recognition';
import { Button, Group } from '@mantine/core';
import { sayDone, sayProblem } from '../app/say.ts';
import { plural, When } from '../marks/index.tsx';
import { useForgetDismissalMutation } from './certaintyApi.ts';

export function Remembered({
  remembered,
  labelOf,
}: {
  remembered: CertaintyAnswer['remembered'];
  labelOf: (key: string) => string;
}) {
  const [forget] = useForgetDismissalMutation();
  return (
    <section aria-label="Remembered dismissals">
      <h2>Remembered dismissals</h2>
      {remembered.length === 0 ? (
        <p className="small quiet">
          None. Dismissing a finding on the worklist can be told to hold for every column of its name.
        </p>
      ) : null}
      {remembered.map((entry) => (
        <Group key={entry.id} className="item" align="flex-start">
          <div className="grow">
            <span className="mono">{entry.column}</span> is no {labelOf(entry.classKey)}
            <div className="small quiet">
              {entry.type ? `${entry.type}, ` : ''}
              {entry.domain} and below · {plural(entry.columns, 'column')} now · {entry.by ?? 'somebody who left'},{' '}
              <When at={entry.at} />
              {entry.reason ? `: ${entry.reason}` : ''}
            </div>
          </div>
          {entry.mayForget ? (
            <Button
              variant="subtle"
              size="compact-xs"
              aria-label={`Forget that ${entry.column} is no ${labelOf(entry.classKey)}`}
              onClick={() =>
                void forget(entry.id)
                  .unwrap()
                  .then(
                    () => sayDone(`What was remembered of ${entry.column} is forgotten.`),
                    (error: unknown) => sayProblem(error, 'It was not forgotten'),
                  )
              }
            >
              Forget
            </Button>
          ) : null}
        </Group>
      ))}
    </section>
  );
}
