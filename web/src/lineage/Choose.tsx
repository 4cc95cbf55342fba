import { Box } from '@mantine/core';
import { Link } from 'react-router';
import { useAssetsQuery } from '../catalog/index.ts';
import { useMayAnywhere } from '../forms/Frame.tsx';
import { KindMark, Level, Name } from '../marks/index.tsx';
import { Listing } from '../marks/Listing.tsx';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { useCrumbs } from '../shell/crumbs.tsx';

export function Choose() {
  useCrumbs({ text: 'Lineage' });
  const may = useMayAnywhere('editor', 'steward');
  const { data, error } = useAssetsQuery({ filter: 'kind:view,"materialised view","foreign table"', limit: 100 });
  if (error) return <Trouble error={error} what="The views cannot be shown" />;
  if (!data) return <Coming />;
  return (
    <div className="page">
      <div className="head">
        <h1>Lineage</h1>
        {may ? <Link to="/lineage/many">Say many edges at once</Link> : null}
      </div>
      <Box component="p" className="quiet" mb={12}>
        Where values come from and where they go. Choose where to begin; any asset’s page leads here as well.
      </Box>
      {data.items.length === 0 ? (
        <Empty title="No flow is known yet">
          <p>
            Lineage is read from the definitions of views when a database is scanned.{' '}
            <Link to="/sources">Scan a source</Link>.
          </p>
        </Empty>
      ) : (
        <Listing widths={[30]}>
          {data.items.map((asset) => (
            <tr key={asset.id}>
              <td>
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
        </Listing>
      )}
    </div>
  );
}
