import type { LevelPreview } from '@idrel/contract/recognition';
import { Link } from 'react-router';
import { Effect } from '../forms/Frame.tsx';
import { KindMark, Name, plural } from '../marks/index.tsx';
import { useLevelWord } from '../marks/levelNames.ts';
import { type LevelChange, useLevelPreviewQuery } from './levelsApi.ts';

/** What a change of what levels follow from would change, asset by asset. */
export function LevelEffect({ change }: { change: LevelChange }) {
  const { data } = useLevelPreviewQuery(change);
  return data ? <Told told={data} /> : null;
}

function Told({ told }: { told: LevelPreview }) {
  const levelWord = useLevelWord();
  const words = told.counts
    .map((entry) => `${plural(entry.count, 'asset')} from ${levelWord(entry.before)} to ${levelWord(entry.after)}`)
    .join(', ');
  return (
    <Effect
      told={told.total === 0 ? 'Nothing: no level would differ from what it is now.' : words}
      label="Assets whose level would change"
      total={told.total}
      rows={told.shown.map((asset) => (
        <tr key={asset.id}>
          <td>
            <span className="row">
              <KindMark kind={asset.kind} />
              <Link to={`/assets/${asset.id}`}>
                <Name text={asset.path} most={46} />
              </Link>
            </span>
          </td>
          <td className="quiet small">{asset.source}</td>
          <td>
            {levelWord(asset.before)} → {levelWord(asset.after)}
          </td>
        </tr>
      ))}
    />
  );
}
