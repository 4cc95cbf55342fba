import { Link } from 'react-router';
import { useAssetsQuery } from '../catalog/api.ts';
import { KindMark, Level, Name } from '../marks/index.tsx';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { useCrumbs } from '../shell/crumbs.tsx';

export function Choose() {
  useCrumbs({ text: 'Lineage' });
  const { data, error } = useAssetsQuery({ filter: 'kind:view,"materialised view","foreign table"', limit: 100 });
  if (error) return <Trouble error={error} what="The views cannot be shown" />;
  if (!data) return <Coming />;
  return (
    <div className="page">
      <h1>Lineage</h1>
      <p className="quiet" style={{ marginBottom: 12 }}>
        Where values come from and where they go. Choose where to begin; any asset’s page leads here as well.
      </p>
      {data.items.length === 0 ? (
        <Empty title="No flow is known yet">
          <p>
            Lineage is read from the definitions of views when a database is scanned.{' '}
            <Link to="/sources">Scan a source</Link>.
          </p>
        </Empty>
      ) : (
        <table className="plain">
          <tbody>
            {data.items.map((asset) => (
              <tr key={asset.id}>
                <td style={{ width: 30 }}>
                  <KindMark kind={asset.kind} />
                </td>
                <td>
                  <Link to={`/lineage?focus=${asset.id}`}>
                    <Name text={asset.path} />
                  </Link>
                </td>
                <td className="quiet">{asset.source}</td>
                <td>
                  <Level level={asset.level} bare />
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </div>
  );
}
