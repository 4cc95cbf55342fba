import type { Choice } from '@idrel/contract/curation';
import { Button, Group, Stack } from '@mantine/core';
import { useState } from 'react';
import { Link } from 'react-router';
import { count, plural } from '../marks/index.tsx';
import { ProblemNotice } from '../marks/states.tsx';
import { type ActionDraft, ActionFields, actionIn } from './ActionFields.tsx';
import { DomainMoves } from './DomainMoves.tsx';
import { Effects } from './Effects.tsx';
import { usePrepared } from './usePrepared.ts';

const whyUnsuited = (what: ActionDraft['what']): string =>
  what === 'standing'
    ? 'not all is so that is asked of them before they are trusted'
    : what === 'domain'
      ? 'they lie where their tables lie'
      : what.startsWith('class')
        ? 'columns carry classes, and what holds them by them'
        : 'the tag says which kinds may carry it';
const NOTHING: ActionDraft = { what: 'tag', to: '', value: '' };

/** What is to be done to many chosen assets; what it would do to each is seen before. */
export function ManyPanel({
  choice,
  chosen,
  given,
  close,
  begun,
}: {
  choice: Choice;
  /** How many were chosen, as far as is known. */
  chosen: number;
  /** What is to be done, where one came to do that. */
  given: ActionDraft | undefined;
  close: () => void;
  begun: () => void;
}) {
  const [draft, setDraft] = useState(given ?? NOTHING);
  const { seen, problem, looking, go, starting } = usePrepared(choice, actionIn(draft), begun);
  const others = seen ? seen.refused + seen.unsuited : 0;
  return (
    <aside className="pane reading stack" aria-label="Change many at once">
      <Group>
        <h2 className="grow">Change {plural(chosen, 'asset')}</h2>
        <Button variant="default" size="compact-sm" onClick={close}>
          Close
        </Button>
      </Group>
      <Stack>
        <ActionFields draft={draft} put={(change) => setDraft((before) => ({ ...before, ...change }))} />
      </Stack>
      <ProblemNotice problem={problem} />
      {seen ? (
        <>
          {seen.unsuitedKinds.length > 0 ? (
            <p className="notice calm">
              Not for {seen.unsuitedKinds.map(({ kind, assets }) => `${plural(assets, kind)}`).join(', ')}:{' '}
              {whyUnsuited(draft.what)}. They are left out.
            </p>
          ) : null}
          <Group>
            <Button onClick={() => void go()} loading={starting} disabled={seen.changes === 0}>
              {others > 0 ? `Change the other ${count(seen.changes)}` : `Change ${plural(seen.changes, 'asset')}`}
            </Button>
            <span className="quiet small">Can be taken back for a day.</span>
          </Group>
          <DomainMoves moves={seen.moves} />
          <Effects effects={seen} found={`${plural(seen.found, 'asset')} chosen`} />
        </>
      ) : looking ? (
        <p className="quiet">Looking …</p>
      ) : problem ? null : (
        <p className="quiet">
          Say what to do: then each asset that would change is listed here, before anything is written. What you did
          before stands under <Link to="/catalog/many">your changes of many</Link>.
        </p>
      )}
    </aside>
  );
}
