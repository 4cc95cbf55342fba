import { Button } from '@mantine/core';
import { problemOf } from '../app/api.ts';
import { useAssetImageQuery } from './api.ts';

/**
 * What a report or a dashboard looks like, as its source last drew it; or why who looks may not see that. Its figures stand nowhere else on the page: where
 * its fields come from does.
 */
export function ReportImage({ id, name, source }: { id: string; name: string; source: string }) {
  const { data, error, isFetching, refetch } = useAssetImageQuery(id, { refetchOnMountOrArgChange: true });
  if (error) {
    const problem = problemOf(error);
    return (
      <p className="quiet report-image-not">
        {problem.detail} {problem.mend}{' '}
        {problem.code === 'forbidden' ? null : (
          <Button variant="default" size="compact-sm" loading={isFetching} onClick={() => void refetch()}>
            Ask again
          </Button>
        )}
      </p>
    );
  }
  return (
    <figure className="report-image">
      {data ? (
        <>
          <img src={data} alt={`${name}, as it was last drawn`} />
          <figcaption className="quiet small">
            As {source} last drew it. You see it because you may read all that lies behind it; it is kept nowhere.
          </figcaption>
        </>
      ) : (
        <p className="quiet" role="status">
          Asking {source} for its image …
        </p>
      )}
    </figure>
  );
}
