import type { ReviewAnswer } from '@idrel/contract/access';
import { Button, Group, Stack } from '@mantine/core';
import { useState } from 'react';
import { sayDone, sayProblem } from '../app/say.ts';
import { count, plural, When } from '../marks/index.tsx';
import { Listing, num } from '../marks/Listing.tsx';
import { Trouble } from '../marks/states.tsx';
import { useEndReviewMutation, useReviewEffectQuery } from './reviewsApi.ts';

const SHOWN = 30;

/** What would end with a review now, and the way to end it. */
export function ReviewEnd({ review }: { review: ReviewAnswer }) {
  const [open, setOpen] = useState(false);
  return (
    <Stack>
      <Group>
        <Button variant="default" aria-expanded={open} onClick={() => setOpen(!open)}>
          What would end with it
        </Button>
      </Group>
      {open ? <Ending review={review} close={() => setOpen(false)} /> : null}
    </Stack>
  );
}

function Ending({ review, close }: { review: ReviewAnswer; close: () => void }) {
  const { data, error } = useReviewEffectQuery(review.id);
  const [end, ending] = useEndReviewMutation();
  if (error) return <Trouble error={error} what="What would end cannot be computed" />;
  if (!data) return <p className="quiet">Computing …</p>;
  const over = (rest: 'ends' | 'stays') =>
    end({ id: review.id, rest, open: review.open })
      .unwrap()
      .then(
        () => {
          sayDone(`“${review.name}” is over.`);
          close();
        },
        (problem: unknown) => sayProblem(problem, 'It is not over'),
      );
  return (
    <section className="toolbar stack" aria-label="What would end with it">
      <p role="status">
        {data.rights === 0
          ? 'Everything is decided: nothing would end with it.'
          : `${plural(data.rights, 'right')} of which nobody has said anything would end: ${
              data.people === 0
                ? 'nobody would read less, since other policies open the same'
                : `${plural(data.people, 'person', 'people')} would read ${plural(data.columns, 'column')} of ${plural(data.tables, 'table')} no more`
            }.`}
      </p>
      {data.used.length > 0 ? (
        <section aria-label="In use">
          <h3 className="attention">In use in the last 30 days</h3>
          <Listing heads={['Person', 'Loses', num('Asked'), 'Last']}>
            {data.used.slice(0, SHOWN).map((row) => (
              <tr key={`${row.personId} ${row.table} ${row.column}`}>
                <td>{row.person}</td>
                <td className="mono">{row.column === null ? `rows of ${row.table}` : `${row.table}.${row.column}`}</td>
                <td className="num">{plural(row.times, 'time')}</td>
                <td className="oneline">
                  <When at={row.at} />
                </td>
              </tr>
            ))}
          </Listing>
        </section>
      ) : null}
      {data.rows.length > 0 ? (
        <Listing heads={['Person', num('Tables'), num('Columns lost'), 'Such as']}>
          {data.rows.slice(0, SHOWN).map((row) => (
            <tr key={row.person}>
              <td>{row.person}</td>
              <td className="num">{count(row.tables)}</td>
              <td className="num">{count(row.columns)}</td>
              <td className="mono small">{row.first.join(', ')}</td>
            </tr>
          ))}
        </Listing>
      ) : null}
      {data.people > SHOWN ? (
        <p className="quiet small">and {plural(data.people - SHOWN, 'more person', 'more people')}</p>
      ) : null}
      <Group>
        <Button onClick={() => void over('ends')} loading={ending.isLoading}>
          End it now{data.rights > 0 ? ', and these rights' : ''}
        </Button>
        {data.rights > 0 ? (
          <Button variant="default" onClick={() => void over('stays')} disabled={ending.isLoading}>
            End it, and leave them
          </Button>
        ) : null}
        <Button variant="subtle" onClick={close}>
          Leave it
        </Button>
      </Group>
    </section>
  );
}
