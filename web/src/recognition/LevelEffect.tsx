import type { LevelPreview } from '@idrel/contract/recognition';
import { Link } from 'react-router';
import { count, KindMark, Name, plural } from '../marks/index.tsx';
import { useLevelWord } from '../marks/levelNames.ts';
import { type LevelChange, useLevelPreviewQuery } from './ownApi.ts';

const SHOWN = 60;

/** What a change of what levels follow from would change, asset by asset. */
export function LevelEffect({ change }: { change: LevelChange }) {
  const { data } = useLevelPreviewQuery(change);
  return data ? <Told told={data} /> : null;
}

function Told({ told }: { told: LevelPreview }) {
  const levelWord = useLevelWord();
  return (
    <section aria-label="What it would change">
      <h3>What it would change</h3>
      <p role="status">
        {told.total === 0
          ? 'Nothing: no level would differ from what it is now.'
          : told.counts.map((entry) => `${plural(entry.count, 'asset')} from ${levelWord(entry.before)} to ${levelWord(entry.after)}`).join(', ')}
      </p>
      {told.shown.length > 0 ? (
        <table className="plain" aria-label="Assets whose level would change">
          <tbody>
            {told.shown.slice(0, SHOWN).map((asset) => (
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
          </tbody>
        </table>
      ) : null}
      {told.total > Math.min(SHOWN, told.shown.length) ? <p className="quiet small">and {count(told.total - Math.min(SHOWN, told.shown.length))} more</p> : null}
    </section>
  );
}
