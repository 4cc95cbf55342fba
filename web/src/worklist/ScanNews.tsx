import type { WorkItem } from '@idrel/contract/worklist';
import { Box, Button, Group, Stack } from '@mantine/core';
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
    <Stack gap={16}>
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
          <Box component="ul" my={6} pl={18}>
            {scan.renames.map((rename) => (
              <li key={rename.from}>
                <span className="mono">{rename.from}</span> → <span className="mono">{rename.to}</span>
              </li>
            ))}
          </Box>
          <Link to={`/runs/${scan.runId}`}>
            Settle {scan.renames.length === 1 ? 'it' : 'them'} on the page of the run
          </Link>
        </section>
      ) : null}
      {scan.uncovered.length > 0 ? (
        <section aria-label="New and not covered">
          <h3>{plural(scan.uncovered.length, 'new object')} that the plan does not cover</h3>
          <Box component="p" className="mono small" my={6}>
            {scan.uncovered.join(', ')}
          </Box>
          {scan.planId ? (
            <Group>
              <Button variant="default" onClick={leaveOut}>
                Leave {scan.uncovered.length === 1 ? 'it' : 'them'} out <kbd>l</kbd>
              </Button>
              <Link to={`/plans/${scan.planId}?step=what`}>Change what the plan covers</Link>
            </Group>
          ) : null}
        </section>
      ) : null}
    </Stack>
  );
}
