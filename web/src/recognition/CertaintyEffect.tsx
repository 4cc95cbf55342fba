import { Link } from 'react-router';
import { Effect } from '../forms/Frame.tsx';
import { Evidence, Name, plural } from '../marks/index.tsx';
import { type CertaintyChange, useCertaintyPreviewQuery } from './certaintyApi.ts';
import { useClassLabel } from './classLabels.ts';
import { percent } from './Percent.tsx';

const STATES = {
  certain: 'certain',
  'to-settle': 'to settle',
  confirmed: 'confirmed',
  dismissed: 'dismissed',
  ignored: 'ignored',
} as const;
export function Preview({ change }: { change: CertaintyChange }) {
  const { data } = useCertaintyPreviewQuery(change);
  const labelOf = useClassLabel();
  if (!data) return null;
  const words = data.counts
    .map((entry) => `${plural(entry.count, 'finding')} from ${STATES[entry.before]} to ${STATES[entry.after]}`)
    .join(', ');
  return (
    <Effect
      told={data.total === 0 ? 'Nothing: no finding would stand otherwise than it does.' : words}
      label="Findings that would stand otherwise"
      total={data.total}
      rows={data.shown.map((entry) => (
        <tr key={`${entry.assetId}:${entry.classKey}`}>
          <td>
            <Link to={`/assets/${entry.assetId}#findings`}>
              <Name text={entry.path} most={36} />
            </Link>
            <div className="small quiet">{entry.source}</div>
          </td>
          <td>{labelOf(entry.classKey)}</td>
          <td>
            <Evidence share={entry.share} narrow />
          </td>
          <td className="num">{percent(entry.confidence)}</td>
          <td>
            {STATES[entry.before]} → {STATES[entry.after]}
          </td>
        </tr>
      ))}
    />
  );
}
