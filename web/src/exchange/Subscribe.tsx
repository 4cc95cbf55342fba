import type { Pace, Subscribed, Subscription } from '@idrel/contract/exchange';
import { Button, Menu } from '@mantine/core';
import { Link } from 'react-router';
import { sayDone, sayProblem } from '../app/say.ts';
import {
  useChangeSubscriptionMutation,
  useEndSubscriptionMutation,
  useSubscribeMutation,
  useSubscriptionsQuery,
} from './newsApi.ts';
import { PACE_WORDS, PACES } from './words.ts';

/** What is done with a subscription, each with the way back. */
export function useSubscribing() {
  const [subscribe] = useSubscribeMutation();
  const [change] = useChangeSubscriptionMutation();
  const [end] = useEndSubscriptionMutation();
  const again = ({ what, subjectId, filter, below, pace, mail, chat }: Subscription) =>
    subscribe({ what, subjectId, filter, below, pace, mail, chat });
  return {
    begin: (what: Subscribed, of: { subjectId: string } | { filter: string }, pace: Pace, mail: boolean) =>
      void subscribe({ what, subjectId: null, filter: null, below: true, pace, mail, chat: false, ...of })
        .unwrap()
        .then(
          (made) => sayDone(`You are told ${PACE_WORDS[pace]} what others change.`, () => end(made.id)),
          (failed: unknown) => sayProblem(failed, 'You are not told'),
        ),
    put: (of: Subscription, how: Partial<Pick<Subscription, 'pace' | 'mail' | 'chat' | 'below'>>) => {
      const { id, version, pace, mail, chat, below } = of;
      void change({ id, version, body: { pace, mail, chat, below, ...how } })
        .unwrap()
        .then(
          (saved) =>
            sayDone('How you are told is changed.', () =>
              change({ id, version: saved.version, body: { pace, mail, chat, below } }),
            ),
          (failed: unknown) => sayProblem(failed, 'Nothing was changed'),
        );
    },
    stop: (of: Subscription) =>
      void end(of.id)
        .unwrap()
        .then(
          () => sayDone('You are told of it no more. What came stays.', () => again(of)),
          (failed: unknown) => sayProblem(failed, 'It was not ended'),
        ),
  };
}

/** Has one told of something: how soon, and whether by mail. Shows how one is told of it already. */
export function Subscribe({
  what,
  of,
  called,
  small,
}: {
  what: Subscribed;
  /** The id of an asset, domain or term; the filter of a search. */
  of: string;
  called: string;
  small?: boolean;
}) {
  const { data } = useSubscriptionsQuery();
  const { begin, put, stop } = useSubscribing();
  const own = data?.items.find((one) => one.what === what && (one.subjectId ?? one.filter) === of);
  // How one is told already is not known yet.
  if (!data) return null;
  const choose = (pace: Pace) => {
    if (own) put(own, { pace });
    else begin(what, what === 'search' ? { filter: of } : { subjectId: of }, pace, data.canMail);
  };
  return (
    <Menu position="bottom-end" withinPortal>
      <Menu.Target>
        <Button
          variant={small ? 'subtle' : 'default'}
          size={small ? 'compact-xs' : 'compact-sm'}
          {...(small ? { px: 6 } : {})}
        >
          {own ? `Told ${PACE_WORDS[own.pace]}` : 'Subscribe'}
        </Button>
      </Menu.Target>
      <Menu.Dropdown maw={340}>
        <Menu.Label>
          {own ? `You are told what others change of ${called}` : `Be told what others change of ${called}`}
        </Menu.Label>
        <Menu.RadioGroup value={own?.pace ?? ''} onChange={(pace) => choose(pace as Pace)}>
          {PACES.map((pace) => (
            <Menu.RadioItem key={pace} value={pace} closeMenuOnClick>
              {sentence(PACE_WORDS[pace])}
            </Menu.RadioItem>
          ))}
        </Menu.RadioGroup>
        {own ? (
          <>
            <Menu.Divider />
            {data.canMail || own.mail ? (
              <Menu.CheckboxItem checked={own.mail} onChange={(mail) => put(own, { mail })} closeMenuOnClick>
                Also by mail
              </Menu.CheckboxItem>
            ) : null}
            {data.canChat || own.chat ? (
              <Menu.CheckboxItem checked={own.chat} onChange={(chat) => put(own, { chat })} closeMenuOnClick>
                Also in the chat
              </Menu.CheckboxItem>
            ) : null}
            {what === 'asset' ? (
              <Menu.CheckboxItem checked={own.below} onChange={(below) => put(own, { below })} closeMenuOnClick>
                Also what lies below it
              </Menu.CheckboxItem>
            ) : null}
            <Menu.Item onClick={() => stop(own)}>Tell me no more</Menu.Item>
          </>
        ) : null}
        <Menu.Divider />
        <Menu.Item component={Link} to="/news?show=subscriptions">
          All subscriptions
        </Menu.Item>
      </Menu.Dropdown>
    </Menu>
  );
}

const sentence = (text: string): string => `${text.charAt(0).toUpperCase()}${text.slice(1)}`;
