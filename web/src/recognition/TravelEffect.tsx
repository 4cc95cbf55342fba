import type { TravelPreview } from '@idrel/contract/recognition';
import { Link } from 'react-router';
import { Effect } from '../forms/Frame.tsx';
import { Name, plural } from '../marks/index.tsx';

/** To what a class or a tag would come along lineage, and from what it would go, if it travelled otherwise; nothing while that is being worked out. */
export function TravelEffect({ preview }: { preview: TravelPreview | undefined }) {
  if (!preview) return null;
  const { comes, goes, shown } = preview;
  const words = [
    comes > 0 ? `it comes to ${plural(comes, 'asset')}` : '',
    goes > 0 ? `it goes from ${plural(goes, 'asset')}` : '',
  ]
    .filter(Boolean)
    .join(', and ');
  return (
    <Effect
      told={words ? `Along lineage ${words}.` : 'Nothing: it comes to the same assets.'}
      label="Assets to which it comes, and from which it goes"
      total={comes + goes}
      rows={shown.map((entry) => (
        <tr key={`${entry.assetId} ${entry.value}`}>
          <td>
            <Link to={`/assets/${entry.assetId}`}>
              <Name text={entry.path} most={40} />
            </Link>
            <div className="small quiet">{entry.source}</div>
          </td>
          <td>
            {entry.change}
            {entry.value ? <span className="quiet small"> {entry.value}</span> : null}
          </td>
          <td className="quiet small">
            {entry.from ? <Name text={entry.from.path} most={36} /> : 'from where you may not see'},{' '}
            {plural(entry.distance, 'step')}
          </td>
        </tr>
      ))}
    />
  );
}
