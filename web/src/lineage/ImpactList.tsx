import { where } from '@idrel/core/catalog';
import { SegmentedControl, Stack } from '@mantine/core';
import { Link } from 'react-router';
import { opens, useAssetQuery } from '../catalog/index.ts';
import { KindMark, Name } from '../marks/index.tsx';
import { Listing, num } from '../marks/Listing.tsx';
import { Trouble } from '../marks/states.tsx';
import { useImpactQuery } from './api.ts';

export function ImpactList({
  asset,
  direction,
  setDirection,
}: {
  asset: string;
  direction: 'upstream' | 'downstream';
  setDirection: (direction: string) => void;
}) {
  const { data, error } = useImpactQuery({ asset, direction });
  const { data: start } = useAssetQuery(asset);
  return (
    <Stack>
      <SegmentedControl
        aria-label="Direction"
        value={direction}
        onChange={setDirection}
        data={[
          { value: 'downstream', label: 'Downstream' },
          { value: 'upstream', label: 'Upstream' },
        ]}
      />
      {error ? <Trouble error={error} what="The list cannot be shown" /> : null}
      {data?.length === 0 ? <p className="quiet">Nothing lies {direction}.</p> : null}
      {start && data && data.length > 0 ? (
        <p className="quiet small">
          <Link to={opens(where(direction, start.path), where('kind', 'any'))}>Open them in the catalog</Link>, to
          narrow them down or to do something with all.
        </p>
      ) : null}
      {data && data.length > 0 ? (
        <Listing heads={[num('Steps'), 'Asset', 'How', 'Owner']}>
          {data.map((row) => (
            <tr key={row.id}>
              <td className="num">{row.distance}</td>
              <td>
                <span className="row">
                  <KindMark kind={row.kind} />
                  <Link to={`/assets/${row.id}`} title={row.way.join(' → ')}>
                    <Name text={row.path} most={28} />
                  </Link>
                </span>
              </td>
              <td>{row.how}</td>
              <td>{row.owners.join(', ') || <span className="attention">none</span>}</td>
            </tr>
          ))}
        </Listing>
      ) : null}
    </Stack>
  );
}
