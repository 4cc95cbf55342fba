import type { FindingAnswer } from '@idrel/contract/recognition';
import { Button, Group, Stack } from '@mantine/core';
import { useState } from 'react';
import { Link } from 'react-router';
import { useKeys } from '../app/keys.tsx';
import { Evidence, Name, plural, When } from '../marks/index.tsx';
import { Listing } from '../marks/Listing.tsx';
import { useAlikeQuery } from './api.ts';

const SHOWN = 30;

/** Columns of the same name: what people decided there, and all that wait for the same decision, to be decided together once they were seen. */
export function Alike({
  finding,
  decideAll,
}: {
  finding: FindingAnswer;
  decideAll: (decision: 'confirmed' | 'dismissed', others: readonly string[]) => void;
}) {
  const { data } = useAlikeQuery({ asset: finding.assetId, class: finding.classKey });
  const [open, setOpen] = useState(false);
  const waiting = data?.waiting ?? [];
  useKeys('Columns like it', [
    ...(waiting.length > 0 ? [{ key: 'a', what: 'see the columns like it', act: () => setOpen(!open) }] : []),
    // Only once they are seen are they decided together.
    ...(open && waiting.length > 0
      ? [
          { key: 'shift+C', what: 'confirm all of them', act: () => decideAll('confirmed', ids) },
          { key: 'shift+D', what: 'dismiss all of them', act: () => decideAll('dismissed', ids) },
        ]
      : []),
  ]);
  const ids = waiting.map((entry) => entry.assetId);
  if (!data || data.waiting.length + data.decided.length === 0) return null;
  return (
    <Stack component="section" aria-label="Columns of the same name">
      {data.decided.length > 0 ? (
        <div>
          <div className="quiet small">What people decided of columns of this name</div>
          {data.decided.slice(0, 5).map((entry) => (
            <Group key={entry.assetId}>
              <Link to={`/assets/${entry.assetId}`}>
                <Name text={entry.path} most={40} />
              </Link>
              <span className="small quiet">
                {entry.source}: {entry.decision} by {entry.by}, <When at={entry.at} />
                {entry.reason ? `: ${entry.reason}` : ''}
              </span>
            </Group>
          ))}
        </div>
      ) : null}
      {data.waiting.length > 0 ? (
        <div>
          <button type="button" className="linkish" aria-expanded={open} onClick={() => setOpen(!open)}>
            {plural(data.waiting.length, 'more column')} of this name and type{' '}
            {data.waiting.length === 1 ? 'waits' : 'wait'} for the same decision <kbd>a</kbd>
          </button>
          {open ? (
            <>
              <Listing label="Columns like it">
                {data.waiting.slice(0, SHOWN).map((entry) => (
                  <tr key={entry.assetId}>
                    <td>
                      <Name text={entry.path} most={44} /> <span className="small quiet">{entry.source}</span>
                    </td>
                    <td>
                      <Evidence share={entry.share} narrow />
                    </td>
                    <td className="num">{Math.round(entry.confidence * 100)} %</td>
                  </tr>
                ))}
              </Listing>
              {data.waiting.length > SHOWN ? (
                <p className="quiet small">and {data.waiting.length - SHOWN} more</p>
              ) : null}
              <Group mt={8}>
                <Button
                  variant="default"
                  aria-label={`Confirm all ${ids.length + 1}`}
                  onClick={() => decideAll('confirmed', ids)}
                >
                  Confirm all {ids.length + 1} <kbd>⇧ c</kbd>
                </Button>
                <Button
                  variant="default"
                  aria-label={`Dismiss all ${ids.length + 1}`}
                  onClick={() => decideAll('dismissed', ids)}
                >
                  Dismiss all {ids.length + 1} <kbd>⇧ d</kbd>
                </Button>
              </Group>
            </>
          ) : null}
        </div>
      ) : null}
    </Stack>
  );
}
