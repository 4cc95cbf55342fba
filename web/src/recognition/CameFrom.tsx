import { Link } from 'react-router';
import { Name, plural } from '../marks/index.tsx';

/** From where something came along lineage, and by how many steps. @param column whether it is followed through columns */
export function CameFrom({
  assetId,
  column,
  from,
  distance,
}: {
  assetId: string;
  column: boolean;
  from: { readonly id: string; readonly path: string } | null;
  distance: number;
}) {
  return (
    <>
      <Link to={`/lineage?focus=${assetId}${column ? `&column=${assetId}` : ''}`}>along lineage</Link>
      <span className="quiet">
        {' '}
        from{' '}
        {from ? (
          <Link to={`/assets/${from.id}`}>
            <Name text={from.path} most={22} />
          </Link>
        ) : (
          'where you may not see'
        )}
        {distance > 1 ? `, ${plural(distance, 'step')}` : ''}
      </span>
    </>
  );
}
