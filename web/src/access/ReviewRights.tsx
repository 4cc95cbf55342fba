import type { ReviewAnswer, ReviewItem } from '@idrel/contract/access';
import { Button, Group, SegmentedControl, Stack } from '@mantine/core';
import { useEffect, useState } from 'react';
import { Link } from 'react-router';
import { useKeys } from '../app/keys.tsx';
import { sayDone, sayProblem } from '../app/say.ts';
import { Name, plural, When } from '../marks/index.tsx';
import { heard, Listing } from '../marks/Listing.tsx';
import { Coming, Trouble } from '../marks/states.tsx';
import { lastDay } from './Conditions.tsx';
import { answererWords } from './requestWords.ts';
import { useDecideRightMutation, useReviewItemsQuery } from './reviewsApi.ts';

const AT_ONCE = 100;
const SHOWN_ASSETS = 3;
type Which = 'waiting' | 'decided' | 'all';

/** The rights of a review, one after the other: kept or ended by a key. */
export function ReviewRights({ review }: { review: ReviewAnswer }) {
  const [which, setWhich] = useState<Which>(review.waiting > 0 ? 'waiting' : 'all');
  const [offset, setOffset] = useState(0);
  const { data, error, refetch } = useReviewItemsQuery({ id: review.id, which, offset, limit: AT_ONCE });
  const [decide] = useDecideRightMutation();
  const [at, setAt] = useState(0);
  const items = data?.items ?? [];
  const chosen = items[Math.min(at, items.length - 1)];
  useEffect(() => {
    document.querySelector(`[data-right="${chosen?.id}"]`)?.scrollIntoView({ block: 'nearest' });
  }, [chosen?.id]);
  const say = (item: ReviewItem | undefined, decision: 'kept' | 'ended' | null) => {
    if (!item?.mayDecide || item.decision === decision) return;
    const before = item.decision === 'gone' ? null : item.decision;
    decide({ id: item.id, decision, seen: item.decidedAt })
      .unwrap()
      .then(
        (after) =>
          sayDone(
            decision === null
              ? `Nothing is said of ${whose(item)} any more.`
              : `${whose(item)} ${decision === 'kept' ? 'is kept' : 'has ended'}.`,
            () => decide({ id: item.id, decision: before, seen: after.decidedAt }).unwrap(),
          ),
        (problem: unknown) => sayProblem(problem, 'It was not decided'),
      );
    // What waited leaves the list: the next one comes into its place.
    if (which !== 'waiting') setAt((now) => Math.min(items.length - 1, now + 1));
  };
  const move = (step: number) => setAt((now) => Math.max(0, Math.min(items.length - 1, now + step)));
  useKeys('Review', [
    { key: 'j', what: 'next right', act: () => move(1) },
    { key: 'k', what: 'right before', act: () => move(-1) },
    { key: 'y', what: 'keep the right', act: () => say(chosen, 'kept') },
    { key: 'e', what: 'end the right', act: () => say(chosen, 'ended') },
  ]);
  if (error) return <Trouble error={error} what="The rights cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming lines={4} />;
  return (
    <Stack>
      <Group justify="space-between">
        <SegmentedControl
          aria-label="Which rights"
          value={which}
          onChange={(next) => {
            setWhich(next as Which);
            setOffset(0);
            setAt(0);
          }}
          data={[
            { value: 'waiting', label: `For you (${review.waiting})` },
            { value: 'decided', label: 'Decided' },
            { value: 'all', label: 'All' },
          ]}
        />
        {items.some(({ mayDecide }) => mayDecide) ? (
          <span className="quiet small">
            <kbd>j</kbd> <kbd>k</kbd> go through them, <kbd>y</kbd> keeps, <kbd>e</kbd> ends
          </span>
        ) : null}
      </Group>
      {items.length === 0 ? (
        <p className="quiet">
          {which === 'waiting'
            ? 'No right waits for you here.'
            : which === 'decided'
              ? 'Nothing is decided yet.'
              : 'None.'}
        </p>
      ) : (
        <Listing label="Rights under review" heads={['Who', 'Reads', 'By', 'Last used', heard('What is decided')]}>
          {items.map((item, nth) => (
            <tr key={item.id} data-right={item.id} aria-current={item.id === chosen?.id} onClick={() => setAt(nth)}>
              <td>
                {item.subject.name}
                {item.subject.kind === 'person' ? null : (
                  <div className="small quiet">{plural(item.people, 'person', 'people')}</div>
                )}
              </td>
              <td>
                {item.assets.slice(0, SHOWN_ASSETS).map(({ id, path }) => (
                  <div key={id}>
                    <Link to={`/assets/${id}`}>
                      <Name text={path} most={34} />
                    </Link>
                  </div>
                ))}
                {item.assets.length + item.hidden > SHOWN_ASSETS ? (
                  <div className="small quiet">
                    and{' '}
                    {plural(
                      item.assets.length + item.hidden - Math.min(SHOWN_ASSETS, item.assets.length),
                      'more asset',
                    )}
                  </div>
                ) : item.assets.length + item.hidden === 0 ? (
                  <span className="quiet">what a filter finds</span>
                ) : null}
              </td>
              <td>
                {item.requestId ? (
                  <Link to={`/access?show=requests&request=${item.requestId}`}>{item.policy}</Link>
                ) : (
                  item.policy
                )}
                {item.until ? <div className="small quiet">until {lastDay(item.until)}</div> : null}
              </td>
              <td className="oneline">
                {item.lastUsed ? <When at={item.lastUsed} /> : <span className="attention">not used</span>}
              </td>
              <td className="oneline">
                <Decision item={item} say={(decision) => say(item, decision)} />
              </td>
            </tr>
          ))}
        </Listing>
      )}
      {data.total > AT_ONCE ? (
        <Group>
          <Button variant="default" disabled={offset === 0} onClick={() => setOffset(Math.max(0, offset - AT_ONCE))}>
            Before
          </Button>
          <span className="quiet">
            {offset + 1} to {offset + items.length} of {data.total}
          </span>
          <Button
            variant="default"
            disabled={offset + items.length >= data.total}
            onClick={() => setOffset(offset + AT_ONCE)}
          >
            Next
          </Button>
        </Group>
      ) : null}
    </Stack>
  );
}

const whose = ({ subject, policy }: ReviewItem): string => `The right of ${subject.name} by “${policy}”`;

function Decision({ item, say }: { item: ReviewItem; say: (decision: 'kept' | 'ended' | null) => void }) {
  const { decision, decidedBy, decidedAt, mayDecide, answerers } = item;
  if (decision)
    return (
      <>
        <span className={decision === 'ended' ? 'attention' : ''}>
          {decision === 'gone' ? 'ended otherwise' : decision}
        </span>
        <div className="small quiet">
          {decidedBy ? `by ${decidedBy}, ` : decision === 'ended' ? 'with the review, ' : ''}
          <When at={decidedAt} />
          {mayDecide ? (
            <>
              {' '}
              <button
                type="button"
                className="linkish"
                aria-label={`Take back: ${whose(item)}`}
                onClick={() => say(null)}
              >
                take back
              </button>
            </>
          ) : null}
        </div>
      </>
    );
  if (!mayDecide) return <span className="quiet small">waits for {answererWords(answerers)}</span>;
  return (
    <Group gap={6} wrap="nowrap">
      <Button size="compact-sm" variant="default" aria-label={`Keep: ${whose(item)}`} onClick={() => say('kept')}>
        Keep
      </Button>
      <Button size="compact-sm" variant="default" aria-label={`End: ${whose(item)}`} onClick={() => say('ended')}>
        End
      </Button>
    </Group>
  );
}
