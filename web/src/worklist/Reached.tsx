import type { ReachedAsset } from '@idrel/contract/worklist';
import { Button } from '@mantine/core';
import { Link } from 'react-router';
import { KindMark, Name, plural } from '../marks/index.tsx';
import { Listing } from '../marks/Listing.tsx';

const SHOWN = 30;

/** What lies downstream of something that happened, one's own first. */
export function Reached({ assets }: { assets: readonly ReachedAsset[] }) {
  return (
    <>
      <Listing widths={[34]}>
        {assets.slice(0, SHOWN).map((asset) => (
          <tr key={asset.id}>
            <td>
              <KindMark kind={asset.kind} />
            </td>
            <td>
              <Link to={`/assets/${asset.id}`}>
                <Name text={asset.path} />
              </Link>
            </td>
            <td className="quiet">{asset.source}</td>
            <td className="quiet">{plural(asset.distance, 'step')}</td>
            <td>{asset.mine ? 'yours' : ''}</td>
          </tr>
        ))}
      </Listing>
      {assets.length > SHOWN ? <p className="quiet small">and {plural(assets.length - SHOWN, 'more asset')}</p> : null}
    </>
  );
}

/** What lies behind something that does not go as it should, and the ways on: to note it, or to see the picture. */
export const Behind = ({ id, reached, seen }: { id: string; reached: readonly ReachedAsset[]; seen: () => void }) => (
  <>
    {reached.length > 0 ? (
      <section aria-label="What lies behind it">
        <h3>What lies behind it</h3>
        <Reached assets={reached} />
      </section>
    ) : null}
    <div className="row">
      <Button onClick={seen}>
        Noted <kbd>n</kbd>
      </Button>
      <Link to={`/lineage?focus=${id}`}>See the picture</Link>
    </div>
  </>
);
