import type { Pace, Subscription } from '@idrel/contract/exchange';
import { THINGS } from '@idrel/contract/things';
import { Button, Checkbox, Select } from '@mantine/core';
import { Link } from 'react-router';
import { opens } from '../catalog/index.ts';
import { count } from '../marks/index.tsx';
import { heard, Listing, num } from '../marks/Listing.tsx';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { useSubscriptionsQuery } from './newsApi.ts';
import { useSubscribing } from './Subscribe.tsx';
import { PACE_WORDS, PACES } from './words.ts';

/** The way to what a subscription is of. */
const addressOf = ({ what, subjectId, filter }: Subscription): string =>
  what === 'search' || subjectId === null ? opens(filter ?? '') : THINGS[what].address(subjectId);

/** What one has oneself told of, how soon, and how. */
export function Subscriptions() {
  const { data, error, refetch } = useSubscriptionsQuery();
  const { put, stop } = useSubscribing();
  if (error && !data)
    return <Trouble error={error} what="Your subscriptions cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming />;
  if (data.items.length === 0)
    return (
      <Empty title="No subscriptions yet">
        <p>
          Under <em>Subscribe</em> on the page of an asset, a term or a domain, and beside a search in the catalog, you
          have yourself told what others change of it.
        </p>
      </Empty>
    );
  return (
    <>
      {data.canMail ? null : (
        <p className="notice quiet">No mail can be sent to you here: what comes stands under News alone.</p>
      )}
      <Listing heads={['Of', 'How soon', 'How', num('Came in 30 days'), heard('What to do')]} label="Subscriptions">
        {data.items.map((own) => {
          const name = own.name ?? 'what is gone, or not yours to see';
          return (
            <tr key={own.id}>
              <td className="anywhere">
                {own.what}{' '}
                {own.name === null ? (
                  <span className="quiet">{name}</span>
                ) : (
                  <Link className="mono" to={addressOf(own)}>
                    {own.name}
                  </Link>
                )}
              </td>
              <td>
                <Select
                  aria-label={`How soon: ${own.what} ${name}`}
                  data={PACES.map((pace) => ({ value: pace, label: PACE_WORDS[pace] }))}
                  value={own.pace}
                  onChange={(pace) => pace && pace !== own.pace && put(own, { pace: pace as Pace })}
                  allowDeselect={false}
                  size="xs"
                  w={140}
                />
              </td>
              <td>
                <Checkbox
                  label="by mail"
                  aria-label={`by mail: ${own.what} ${name}`}
                  checked={own.mail}
                  disabled={!data.canMail && !own.mail}
                  onChange={(event) => put(own, { mail: event.currentTarget.checked })}
                />
                {data.canChat || own.chat ? (
                  <Checkbox
                    mt={4}
                    label="in the chat"
                    aria-label={`in the chat: ${own.what} ${name}`}
                    checked={own.chat}
                    onChange={(event) => put(own, { chat: event.currentTarget.checked })}
                  />
                ) : null}
                {own.what === 'asset' ? (
                  <Checkbox
                    mt={4}
                    label="with what lies below it"
                    aria-label={`with what lies below it: ${name}`}
                    checked={own.below}
                    onChange={(event) => put(own, { below: event.currentTarget.checked })}
                  />
                ) : null}
              </td>
              <td className="num">{count(own.came)}</td>
              <td>
                <Button
                  variant="subtle"
                  size="compact-xs"
                  c="var(--buoy)"
                  aria-label={`End: ${own.what} ${name}`}
                  onClick={() => stop(own)}
                >
                  End
                </Button>
              </td>
            </tr>
          );
        })}
      </Listing>
    </>
  );
}
