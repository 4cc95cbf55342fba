import type { ClassAnswer } from '@idrel/contract/recognition';
import { Link } from 'react-router';
import { Effect } from '../forms/Frame.tsx';
import { Name, plural } from '../marks/index.tsx';
import { useTravelPreviewQuery } from './classesApi.ts';

/** To what a class would come along lineage, and from what it would go, if it travelled otherwise. */
export function TravelEffect({ classKey, travels }: { classKey: string; travels: ClassAnswer['travels'] }) {
  const { data } = useTravelPreviewQuery({ key: classKey, travels: [...travels] });
  if (!data) return null;
  const words = [
    data.comes > 0 ? `it comes to ${plural(data.comes, 'asset')}` : '',
    data.goes > 0 ? `it goes from ${plural(data.goes, 'asset')}` : '',
  ]
    .filter(Boolean)
    .join(', and ');
  return (
    <Effect
      told={words ? `Along lineage ${words}.` : 'Nothing: it comes to the same assets.'}
      label="Assets to which it comes, and from which it goes"
      total={data.comes + data.goes}
      rows={data.shown.map((entry) => (
        <tr key={entry.assetId}>
          <td>
            <Link to={`/assets/${entry.assetId}`}>
              <Name text={entry.path} most={40} />
            </Link>
            <div className="small quiet">{entry.source}</div>
          </td>
          <td>{entry.change}</td>
          <td className="quiet small">
            {entry.from ? <Name text={entry.from.path} most={36} /> : 'from where you may not see'},{' '}
            {plural(entry.distance, 'step')}
          </td>
        </tr>
      ))}
    />
  );
}
