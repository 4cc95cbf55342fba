import type { ReviewAnswer } from '@idrel/contract/access';
import { Button, Group, Stack } from '@mantine/core';
import { useState } from 'react';
import { useAddress } from '../app/address.ts';
import { useKeys } from '../app/keys.tsx';
import { useMayAnywhere } from '../forms/Frame.tsx';
import { count, plural, When } from '../marks/index.tsx';
import { Beside, Choice, Note } from '../marks/layout.tsx';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { lastDay } from './Conditions.tsx';
import { ReviewEnd } from './ReviewEnd.tsx';
import { ReviewRights } from './ReviewRights.tsx';
import { useReviewsQuery } from './reviewsApi.ts';
import { StartReview } from './StartReview.tsx';

/** Reviews of rights: those who answer for what is opened keep each right, or end it. */
export function Reviews() {
  const [params, put] = useAddress();
  const { data, error, refetch } = useReviewsQuery();
  const mayStart = useMayAnywhere('policy administrator');
  const [starting, setStarting] = useState(false);
  const chosen = params.get('review');
  useKeys('Reviews', [{ key: 'n', what: 'start a review', act: () => mayStart && setStarting(true) }]);
  if (error) return <Trouble error={error} what="The reviews cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming lines={4} />;
  const one = data.find(({ id }) => id === chosen) ?? data[0];
  return (
    <Stack>
      {starting ? (
        <StartReview
          close={(id) => {
            setStarting(false);
            if (id) put({ review: id });
          }}
        />
      ) : mayStart ? (
        <Group>
          <Button onClick={() => setStarting(true)}>Start a review</Button>
        </Group>
      ) : null}
      {one ? (
        <Beside first="minmax(220px, 280px)">
          <ul className="tree flat" aria-label="Reviews">
            {data.map((review) => (
              <Choice key={review.id} chosen={review.id === one.id} choose={() => put({ review: review.id })}>
                <span className="grow cut">
                  {review.name}
                  <Note>
                    {review.overAt ? (
                      <>
                        over <When at={review.overAt} />
                      </>
                    ) : (
                      `until ${lastDay(review.endsAt)}${review.waiting > 0 ? ` · ${count(review.waiting)} for you` : ''}`
                    )}
                  </Note>
                </span>
              </Choice>
            ))}
          </ul>
          <One key={one.id} review={one} />
        </Beside>
      ) : starting ? null : (
        <Empty title="No review yet">
          <p>
            In a review everybody who answers for something is asked about each right to read it: they keep it or end
            it, with a key. What nobody has kept by its last day ends, and who would lose what is seen before.
            {mayStart ? '' : ' Policy administrators start one; what asks you comes onto your worklist.'}
          </p>
        </Empty>
      )}
    </Stack>
  );
}

function One({ review }: { review: ReviewAnswer }) {
  const { name, filter, startedBy, startedAt, endsAt, overAt, rest, kept, ended, open } = review;
  const all = kept + ended + open;
  return (
    <Stack>
      <div>
        <h2>{name}</h2>
        <p className="quiet">
          {plural(all, 'right')}
          {filter ? (
            <>
              {' '}
              on what matches <span className="mono">{filter}</span>
            </>
          ) : null}
          . Started by {startedBy ?? 'somebody who has left'} <When at={startedAt} />.{' '}
          {overAt ? (
            <>
              It was over <When at={overAt} />.
            </>
          ) : (
            `By the end of ${lastDay(endsAt)} ${rest === 'ends' ? 'what nobody has kept ends' : 'it is over; what nobody has decided on stays'}.`
          )}
        </p>
        <p role="status">
          {count(kept)} kept, {count(ended)} ended, {count(open)} open
          {review.waiting > 0 ? `, ${count(review.waiting)} for you` : ''}.
        </p>
      </div>
      {review.mayEnd && !overAt ? <ReviewEnd review={review} /> : null}
      <ReviewRights review={review} />
    </Stack>
  );
}
