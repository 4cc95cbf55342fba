import type { WorkItem } from '@idrel/contract/worklist';
import { Button } from '@mantine/core';
import { Link } from 'react-router';
import { plural, When } from '../marks/index.tsx';

/** What the last run of a source left to decide: likely renames, and new objects that no plan covers. */
export function ScanNews({
  scan,
  leaveOut,
}: {
  scan: Extract<WorkItem, { kind: 'scan' }>['scan'];
  leaveOut: () => void;
}) {
  return (
    <div className="stack" style={{ gap: 16 }}>
      <div>
        <h2>
          What of <Link to={`/sources/${scan.sourceId}`}>{scan.source}</Link> is renamed, or should be covered?
        </h2>
        <p className="quiet">
          {scan.domain} · {scan.plan ? `${scan.plan}, ` : ''}
          <When at={scan.at} />
        </p>
      </div>
      {scan.renames.length > 0 ? (
        <section aria-label="Likely renamed">
          <h3>Likely renamed</h3>
          <ul style={{ margin: '6px 0', paddingLeft: 18 }}>
            {scan.renames.map((rename) => (
              <li key={rename.from}>
                <span className="mono">{rename.from}</span> → <span className="mono">{rename.to}</span>
              </li>
            ))}
          </ul>
          <Link to={`/runs/${scan.runId}`}>
            Settle {scan.renames.length === 1 ? 'it' : 'them'} on the page of the run
          </Link>
        </section>
      ) : null}
      {scan.uncovered.length > 0 ? (
        <section aria-label="New and not covered">
          <h3>{plural(scan.uncovered.length, 'new object')} that the plan does not cover</h3>
          <p className="mono small" style={{ margin: '6px 0' }}>
            {scan.uncovered.join(', ')}
          </p>
          {scan.planId ? (
            <div className="row">
              <Button variant="default" onClick={leaveOut}>
                Leave {scan.uncovered.length === 1 ? 'it' : 'them'} out <kbd style={{ marginLeft: 8 }}>l</kbd>
              </Button>
              <Link to={`/plans/${scan.planId}?step=what`}>Change what the plan covers</Link>
            </div>
          ) : null}
        </section>
      ) : null}
    </div>
  );
}
