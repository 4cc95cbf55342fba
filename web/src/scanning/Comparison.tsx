import type { ChangedAsset, Rename, RunAnswer } from '@idrel/contract/scanning';
import { Link } from 'react-router';
import { sayDone, sayProblem } from '../app/say.ts';
import { count, KindMark, plural } from '../marks/index.tsx';
import { useSettleRenameMutation } from '../sources/api.ts';

/** What a run found different from the one before, with what is likely renamed. */
export function Comparison({ run }: { run: RunAnswer }) {
  const comparison = run.comparison;
  if (!comparison) return null;
  if (comparison.first)
    return (
      <div className="notice calm">
        The first scan of this source: {count(comparison.counts.new)} assets are new. <Link to={`/catalog?filter=${encodeURIComponent(`source:"${run.source}"`)}`}>Show them</Link>
      </div>
    );
  const { counts } = comparison;
  if (counts.new + counts.changed + counts.gone + counts.back === 0) return <div className="notice calm">Nothing is different from the run before.</div>;
  const list = (title: string, total: number, assets: readonly ChangedAsset[]) =>
    total > 0 ? (
      <div style={{ marginBottom: 10 }}>
        <h3>
          {count(total)} {title}
        </h3>
        <table className="plain">
          <tbody>
            {assets.map((asset) => (
              <tr key={asset.id}>
                <td style={{ width: 30 }}>
                  <KindMark kind={asset.kind} />
                </td>
                <td>
                  <Link to={`/assets/${asset.id}`} className="mono">
                    {asset.path}
                  </Link>
                </td>
                <td className="quiet">{asset.what?.join('; ') ?? (asset.columns ? `with ${plural(asset.columns, 'column')}` : '')}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    ) : null;
  return (
    <section aria-label="Comparison">
      <h2 style={{ marginBottom: 6 }}>Different from the run before</h2>
      <Renames run={run} renames={comparison.renames ?? []} />
      {list('new', counts.new, comparison.new)}
      {list('changed', counts.changed, comparison.changed)}
      {list('gone', counts.gone, comparison.gone)}
      {list('back', counts.back, comparison.back)}
    </section>
  );
}

/** Pairs that are likely the same under another name: a person says so, and everything written moves along. */
function Renames({ run, renames }: { run: RunAnswer; renames: readonly Rename[] }) {
  const [settle, settling] = useSettleRenameMutation();
  if (renames.length === 0) return null;
  const say = async (rename: Rename, same: boolean) => {
    try {
      await settle({ id: run.id, from: rename.from.id, to: rename.to.id, same }).unwrap();
      sayDone(same ? `${rename.from.path} is ${rename.to.path} now, with everything written about it.` : 'They stay two.');
    } catch (error) {
      sayProblem(error, 'It was not settled');
    }
  };
  return (
    <div style={{ marginBottom: 14 }}>
      <h3>{count(renames.length)} likely renamed</h3>
      <p className="quiet">When they are the same, descriptions, people, terms, decisions and policies of the old one hold for the new one.</p>
      <table className="plain" aria-label="Likely renamed">
        <tbody>
          {renames.map((rename) => (
            <tr key={rename.from.id}>
              <td style={{ width: 30 }}>
                <KindMark kind={rename.to.kind} />
              </td>
              <td>
                <span className="mono">{rename.from.path}</span> → <span className="mono">{rename.to.path}</span>
              </td>
              <td className="quiet">{rename.why.join('; ')}</td>
              <td className="num">
                {rename.settled ? (
                  rename.settled === 'same' ? (
                    <Link to={`/assets/${rename.from.id}`}>the same</Link>
                  ) : (
                    'two different ones'
                  )
                ) : (
                  <span className="row" style={{ justifyContent: 'flex-end', gap: 12, whiteSpace: 'nowrap' }}>
                    <button type="button" className="linkish" disabled={settling.isLoading} onClick={() => void say(rename, true)}>
                      The same
                    </button>
                    <button type="button" className="linkish" disabled={settling.isLoading} onClick={() => void say(rename, false)}>
                      Different
                    </button>
                  </span>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
