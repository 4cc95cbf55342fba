import type { BreakingNews } from '@idrel/contract/worklist';
import { Button, Stack } from '@mantine/core';
import { Link } from 'react-router';
import { KindMark, Name, plural, When } from '../marks/index.tsx';
import { Reached } from './Reached.tsx';

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
          <Reached assets={change.reached} />
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
