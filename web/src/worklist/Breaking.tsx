import type { BreakingNews } from '@idrel/contract/worklist';
import { Button } from '@mantine/core';
import { Link } from 'react-router';
import { KindMark, Name, plural, When } from '../marks/index.tsx';

/** Changes at a source that can break something of one's own: what changed, and what lies downstream of it. */
export function Breaking({ news, seen }: { news: BreakingNews; seen: () => void }) {
  return (
    <div className="stack" style={{ gap: 16 }}>
      <div>
        <h2>
          {plural(news.changes.length, 'change')} in <Link to={`/sources/${news.sourceId}`}>{news.source}</Link> can
          break what is made from it
        </h2>
        <p className="quiet">
          Found by <Link to={`/runs/${news.runId}`}>the scan</Link> <When at={news.at} />
        </p>
      </div>
      {news.changes.map((change) => (
        <section key={change.id} aria-label={change.path}>
          <h3 className="row">
            <KindMark kind={change.kind} />
            <Link to={`/assets/${change.id}`}>
              <Name text={change.path} />
            </Link>
            <span className="attention">{change.what}</span>
          </h3>
          <table className="plain">
            <tbody>
              {change.reached.slice(0, 30).map((asset) => (
                <tr key={asset.id}>
                  <td style={{ width: 34 }}>
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
            </tbody>
          </table>
          {change.reached.length > 30 ? (
            <p className="quiet small">and {plural(change.reached.length - 30, 'more asset')}</p>
          ) : null}
          <Link to={`/lineage?focus=${change.id}`}>See the picture</Link>
        </section>
      ))}
      <div>
        <Button onClick={seen}>
          Noted <kbd style={{ marginLeft: 8 }}>n</kbd>
        </Button>
      </div>
    </div>
  );
}
