import type { RequestAnswer } from '@idrel/contract/access';
import type { ReactNode } from 'react';
import { Link } from 'react-router';
import { KindMark, Name } from '../marks/index.tsx';
import { Listing } from '../marks/Listing.tsx';

type Asset = RequestAnswer['assets'][number];

/** The assets of a request. @param last what stands at the end of each */
export const AskedAssets = ({
  label,
  assets,
  last,
}: {
  label: string;
  assets: readonly Asset[];
  last: (asset: Asset) => ReactNode;
}) => (
  <Listing label={label} widths={[34]}>
    {assets.map((asset) => (
      <tr key={asset.id}>
        <td>
          <KindMark kind={asset.kind} />
        </td>
        <td>
          <Link to={`/assets/${asset.id}`}>
            <Name text={asset.path} most={70} />
          </Link>
        </td>
        <td className="quiet">{asset.source}</td>
        <td>{last(asset)}</td>
      </tr>
    ))}
  </Listing>
);
