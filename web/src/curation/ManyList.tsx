import type { BulkEditBrief } from '@idrel/contract/curation';
import { Button } from '@mantine/core';
import { Link } from 'react-router';
import { sayProblem } from '../app/say.ts';
import { When } from '../marks/index.tsx';
import { heard, Listing } from '../marks/Listing.tsx';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { useCrumbs } from '../shell/crumbs.tsx';
import { outcome, progress } from './ManyUnderWay.tsx';
import { isUnderWay, useBulkEditsQuery, useCancelBulkEditMutation, useUndoBulkEditMutation } from './manyApi.ts';

/** One's changes of many assets at once: how far they are, what came of them, and the way back. */
export function Component() {
  useCrumbs({ text: 'Catalog', to: '/catalog' }, { text: 'Your changes of many' });
  const { data, error, refetch } = useBulkEditsQuery();
  if (error) return <Trouble error={error} what="Your changes cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming />;
  return (
    <div className="page">
      <h1>Your changes of many</h1>
      {data.length === 0 ? (
        <Empty title="None yet">
          <p>
            Choose assets <Link to="/catalog">in the catalog</Link> with x or by their boxes, then press Change. What
            was changed can be taken back for a day.
          </p>
        </Empty>
      ) : (
        <Listing heads={['When', 'What', 'What came of it', heard('What to do')]} widths={[130]}>
          {data.map((edit) => (
            <tr key={edit.id}>
              <td className="small">
                <When at={edit.at} />
              </td>
              <td>{edit.told}</td>
              <td className={edit.state === 'failed' ? 'attention' : undefined}>
                {isUnderWay(edit) ? `${edit.state}: ${progress(edit)}` : outcome(edit)}
              </td>
              <td>
                <Ways edit={edit} />
              </td>
            </tr>
          ))}
        </Listing>
      )}
    </div>
  );
}

function Ways({ edit }: { edit: BulkEditBrief }) {
  const [undo] = useUndoBulkEditMutation();
  const [cancel] = useCancelBulkEditMutation();
  if (edit.undoable)
    return (
      <Button
        size="compact-sm"
        variant="default"
        onClick={() =>
          void undo(edit.id)
            .unwrap()
            .catch((error: unknown) => sayProblem(error, 'It was not taken back'))
        }
      >
        Take back
      </Button>
    );
  if (edit.state !== 'waiting' && edit.state !== 'running') return null;
  return (
    <Button
      size="compact-sm"
      variant="default"
      onClick={() =>
        void cancel(edit.id)
          .unwrap()
          .catch((error: unknown) => sayProblem(error, 'It was not stopped'))
      }
    >
      Stop
    </Button>
  );
}
