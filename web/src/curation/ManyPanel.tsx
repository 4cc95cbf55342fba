import type { BulkEditAnswer, Choice } from '@idrel/contract/curation';
import { Button, Group, Stack } from '@mantine/core';
import { useEffect, useRef, useState } from 'react';
import { Link } from 'react-router';
import { problemOf } from '../app/api.ts';
import { sayProblem } from '../app/say.ts';
import { count, plural } from '../marks/index.tsx';
import { ProblemNotice } from '../marks/states.tsx';
import { type ActionDraft, ActionFields, actionIn } from './ActionFields.tsx';
import { Effects } from './Effects.tsx';
import { usePrepareBulkEditMutation, useStartBulkEditMutation } from './manyApi.ts';

const whyUnsuited = (what: ActionDraft['what']): string =>
  what === 'standing'
    ? 'not all is so that is asked of them before they are trusted'
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
  const [prepare, preparing] = usePrepareBulkEditMutation();
  const [start, starting] = useStartBulkEditMutation();
  const [seen, setSeen] = useState<BulkEditAnswer>();
  const [problem, setProblem] = useState<ReturnType<typeof problemOf> | null>(null);
  const action = actionIn(draft);
  const asked = useRef(0);
  const wanted = JSON.stringify({ choice, action });
  useEffect(() => {
    asked.current += 1;
    const mine = asked.current;
    setSeen(undefined);
    setProblem(null);
    const { action: given, ...rest } = JSON.parse(wanted) as Parameters<typeof prepare>[0];
    if (!given) return undefined;
    // What is still typed, as the value of a tag, is asked for once it rests; an answer that comes late is not shown.
    const waiting = setTimeout(() => {
      prepare({ action: given, ...rest })
        .unwrap()
        .then(
          (answer) => mine === asked.current && setSeen(answer),
          (error: unknown) => mine === asked.current && setProblem(problemOf(error)),
        );
    }, 250);
    return () => clearTimeout(waiting);
  }, [wanted, prepare]);
  const go = async () => {
    if (!seen) return;
    try {
      await start(seen.id).unwrap();
      begun();
    } catch (error) {
      sayProblem(error, 'Nothing was changed');
    }
  };
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
            <Button onClick={() => void go()} loading={starting.isLoading} disabled={seen.changes === 0}>
              {others > 0 ? `Change the other ${count(seen.changes)}` : `Change ${plural(seen.changes, 'asset')}`}
            </Button>
            <span className="quiet small">Can be taken back for a day.</span>
          </Group>
          <Effects effects={seen} found={`${plural(seen.found, 'asset')} chosen`} />
        </>
      ) : preparing.isLoading ? (
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
