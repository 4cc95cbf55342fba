import type { TrialAnswer, TrialColumn } from '@idrel/contract/recognition';
import { Button, Group, Progress, Stack } from '@mantine/core';
import { useEffect, useState } from 'react';
import { Link } from 'react-router';
import { count, Evidence, Name, plural } from '../marks/index.tsx';
import { Listing } from '../marks/Listing.tsx';
import { useClassLabel } from './classLabels.ts';
import { useStopTrialMutation, useTrialQuery } from './detectorsApi.ts';

/** What a draft would find in the whole catalog, as it is looked for. */
export function Trial({ id }: { id: string }) {
  const [ended, setEnded] = useState(false);
  const { data } = useTrialQuery(id, { pollingInterval: ended ? 0 : 700, refetchOnMountOrArgChange: true });
  useEffect(() => setEnded(data?.ended ?? false), [data?.ended]);
  const [stop] = useStopTrialMutation();
  if (!data) return <p className="quiet">The trial begins …</p>;
  return (
    <Stack component="section" aria-label="In the catalog">
      <Group>
        <h2 className="grow">In the catalog</h2>
        {data.ended ? null : (
          <Button variant="default" onClick={() => void stop(id)}>
            Stop
          </Button>
        )}
      </Group>
      {data.ended ? null : (
        <Progress size="xs" value={data.total ? (100 * data.done) / data.total : 5} aria-label="How far the trial is" />
      )}
      <p role="status">{toldOf(data)}</p>
      <Columns title="Would gain the class" columns={data.gains} />
      <Columns title="Would lose the class" columns={data.loses} />
      {data.problems.length > 0 ? (
        <details>
          <summary className="quiet">
            {plural(data.problems.length, 'table or source', 'tables or sources')} could not be looked into
          </summary>
          <ul className="small quiet">
            {data.problems.slice(0, 50).map((problem) => (
              <li key={problem}>{problem}</li>
            ))}
          </ul>
        </details>
      ) : null}
    </Stack>
  );
}

function toldOf({ ended, cancelled, done, total, columns, gains, loses, keeps }: TrialAnswer): string {
  const found = `It would add the class to ${plural(gains.length, 'column')}, take it from ${count(loses.length)}, and keep it on ${count(keeps)}.`;
  const looked = `${plural(columns, 'column')} in ${count(done)}${total === null || ended ? '' : ` of ${count(total)}`} tables and files looked into, 300 rows of each.`;
  return `${cancelled ? 'Stopped. ' : ''}${ended || columns > 0 ? found : ''} ${looked}`.trim();
}

const MOST = 100;

function Columns({ title, columns }: { title: string; columns: readonly TrialColumn[] }) {
  const labelOf = useClassLabel();
  // A combination raises several classes: then it is said which.
  const several = new Set(columns.map((column) => column.classKey)).size > 1;
  if (columns.length === 0) return null;
  return (
    <div>
      <h3>
        {title}: {count(columns.length)}
      </h3>
      <Listing label={title}>
        {columns.slice(0, MOST).map((column) => (
          <tr key={`${column.assetId}:${column.classKey}`}>
            <td>
              <Link to={`/assets/${column.assetId}`}>
                <Name text={column.path} most={40} />
              </Link>
              <div className="small quiet">{column.source}</div>
            </td>
            {several ? <td>{labelOf(column.classKey)}</td> : null}
            <td>
              <Evidence share={column.share} narrow />
            </td>
            <td className="num">{plural(column.distinct, 'different value')}</td>
            <td className="mono small quiet">{column.examples.slice(0, 2).join('   ')}</td>
          </tr>
        ))}
      </Listing>
      {columns.length > MOST ? <p className="quiet small">and {count(columns.length - MOST)} more</p> : null}
    </div>
  );
}
