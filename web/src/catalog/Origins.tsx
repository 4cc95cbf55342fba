import { Link } from 'react-router';
import { useFieldOriginsQuery } from '../lineage/index.ts';
import { Name, plural } from '../marks/index.tsx';
import { Listing } from '../marks/Listing.tsx';
import { Coming, Trouble } from '../marks/states.tsx';

/** Where each field of a report or a dashboard comes from, in one step; what is not in the catalog is named as the report names it. */
export function Origins({ id }: { id: string }) {
  const { data, error, refetch } = useFieldOriginsQuery(id);
  if (error)
    return <Trouble error={error} what="Where its fields come from cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming lines={3} />;
  if (data.length === 0) return null;
  return (
    <>
      <h3 className="under">Where its fields come from</h3>
      <Listing label="Where its fields come from" heads={['Field', 'Comes from', 'How']}>
        {data.map(({ id: field, name, from, more, hidden }) => (
          <tr key={field}>
            <td>
              <Link to={`/assets/${field}`}>{name}</Link>
            </td>
            <td className="anywhere">
              {from.map((one) => (
                <div key={`${one.id} ${one.path}`}>
                  {one.id ? (
                    <Link to={`/assets/${one.id}`}>
                      <Name text={one.path} />
                    </Link>
                  ) : (
                    <span className="mono">{one.path}</span>
                  )}{' '}
                  <span className="quiet small">{one.id ? one.source : `not in the catalog: ${one.source}`}</span>
                </div>
              ))}
              {from.length === 0 && hidden === 0 ? <span className="quiet">nothing is known</span> : null}
              {more > 0 ? <div className="quiet small">and {plural(more, 'more column')}</div> : null}
              {hidden > 0 ? (
                <div className="quiet small">
                  {from.length > 0 ? 'and ' : ''}
                  {plural(hidden, 'column')} that you may not see
                </div>
              ) : null}
            </td>
            <td className="small">{[...new Set(from.map(({ kind }) => kind))].join(', ')}</td>
          </tr>
        ))}
      </Listing>
    </>
  );
}
