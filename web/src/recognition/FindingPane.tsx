import type { FindingAnswer } from '@idrel/contract/recognition';
import { Button, Checkbox, Group, Select, Stack, TextInput } from '@mantine/core';
import { useRef } from 'react';
import { Link } from 'react-router';
import { useKeys } from '../app/keys.tsx';
import { Alike } from './Alike.tsx';
import { useClassesQuery } from './classesApi.ts';
import { FindingEvidence } from './FindingEvidence.tsx';

/** What somebody said of a finding before they decided; it stays with it until then. */
export interface Said {
  readonly reason: string;
  /** The dismissal holds for every column of the name. */
  readonly remember: boolean;
}
export const NOTHING_SAID: Said = { reason: '', remember: false };

/** One finding with its evidence, settled with a key. */
export function FindingPane({
  finding,
  said,
  say,
  settle,
  change,
}: {
  finding: FindingAnswer;
  said: Said;
  say: (changes: Partial<Said>) => void;
  settle: (decision: 'confirmed' | 'dismissed', others?: readonly string[]) => void;
  change: (classKey: string | null) => void;
}) {
  const classes = useClassesQuery();
  const reason = useRef<HTMLInputElement>(null);
  const other = useRef<HTMLInputElement>(null);
  useKeys('The finding', [
    { key: 'r', what: 'write a reason; Enter goes back to the keys', act: () => reason.current?.focus() },
    { key: 'o', what: 'it is something else: choose the class', act: () => other.current?.focus() },
    { key: 'e', what: 'dismiss for every column of the name, or not', act: () => say({ remember: !said.remember }) },
  ]);
  return (
    <Stack gap={16}>
      <div>
        <h2>
          Does{' '}
          <Link to={`/assets/${finding.assetId}`} className="mono">
            {finding.column}
          </Link>{' '}
          hold: {finding.label}?
        </h2>
        <p className="quiet">
          {finding.source} · {finding.domain} · <span className="mono">{finding.path}</span>
        </p>
      </div>
      <FindingEvidence finding={finding} />
      <Group align="flex-end">
        <TextInput
          ref={reason}
          label={
            <>
              Reason <kbd>r</kbd>
            </>
          }
          aria-label="Reason"
          placeholder="Stays with the decision"
          w={280}
          value={said.reason}
          onChange={(event) => say({ reason: event.currentTarget.value })}
          onKeyDown={(event) => (event.key === 'Enter' || event.key === 'Escape') && event.currentTarget.blur()}
        />
        <Select
          ref={other}
          label={
            <>
              It is something else <kbd>o</kbd>
            </>
          }
          aria-label="It is something else"
          placeholder="Choose the class"
          w={240}
          searchable
          openOnFocus
          value={null}
          data={(classes.data ?? [])
            .filter((entry) => !entry.retired && entry.key !== finding.classKey)
            .map((entry) => ({ value: entry.key, label: entry.label }))}
          onChange={change}
        />
      </Group>
      <Group>
        <Button onClick={() => settle('confirmed')}>
          Confirm <kbd>c</kbd>
        </Button>
        <Button variant="default" onClick={() => settle('dismissed')}>
          Dismiss <kbd>d</kbd>
        </Button>
        <Checkbox
          label={
            <>
              for every column called {finding.column} in {finding.domain}, also later <kbd>e</kbd>
            </>
          }
          checked={said.remember}
          onChange={(event) => say({ remember: event.currentTarget.checked })}
        />
      </Group>
      <Alike finding={finding} decideAll={settle} />
    </Stack>
  );
}
