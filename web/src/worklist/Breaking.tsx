import type { BreakingNews } from '@idrel/contract/worklist';
import { Button, Stack } from '@mantine/core';
import { Link } from 'react-router';
import { KindMark, Name, plural, When } from '../marks/index.tsx';
import { Listing } from '../marks/Listing.tsx';

/** Changes at a source that can break something of one's own: what changed, and what lies downstream of it. */
export function Breaking({ news, seen }: { news: BreakingNews; seen: () => void }) {
  return (
    <Stack gap={16}>
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
          <Listing widths={[34]}>
            {change.reached.slice(0, 30).map((asset) => (
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
          {change.reached.length > 30 ? (
            <p className="quiet small">and {plural(change.reached.length - 30, 'more asset')}</p>
          ) : null}
          <Link to={`/lineage?focus=${change.id}`}>See the picture</Link>
        </section>
      ))}
      <div>
        <Button onClick={seen}>
          Noted <kbd>n</kbd>
        </Button>
      </div>
    </Stack>
  );
}
