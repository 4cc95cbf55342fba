import type { Webhook } from '@idrel/contract/exchange';
import { Button, Group, SegmentedControl } from '@mantine/core';
import { useState } from 'react';
import { sayDone, sayProblem } from '../app/say.ts';
import { count, plural, When } from '../marks/index.tsx';
import { heard, Listing, num } from '../marks/Listing.tsx';
import { Coming, Trouble } from '../marks/states.tsx';
import { useSendWebhookAgainMutation, useWebhookMessagesQuery } from './api.ts';

/** What the address of a webhook did not take: what waits to be sent again, and what is dead. */
export function NotTaken({ hook, close }: { hook: Webhook; close: () => void }) {
  const [dead, setDead] = useState(hook.dead > 0);
  const { data, error, refetch } = useWebhookMessagesQuery({ id: hook.id, dead }, { pollingInterval: 5000 });
  const [again, { isLoading }] = useSendWebhookAgainMutation();
  const send = (messages: readonly string[] | null) =>
    void again({ id: hook.id, messages })
      .unwrap()
      .then(
        ({ messages: sent }) => sayDone(`${plural(sent, 'message')} ${sent === 1 ? 'is' : 'are'} sent again.`),
        (failed: unknown) => sayProblem(failed, 'Nothing was sent again'),
      );
  return (
    <section aria-label={`Not taken by ${hook.name}`}>
      <div className="head level-with">
        <h2 className="grow">Not taken by {hook.name}</h2>
        <SegmentedControl
          aria-label="Which of them"
          value={dead ? 'dead' : 'waiting'}
          onChange={(value) => setDead(value === 'dead')}
          data={[
            { value: 'waiting', label: `Waiting: ${count(hook.waiting)}` },
            { value: 'dead', label: `Dead: ${count(hook.dead)}` },
          ]}
        />
        {dead && hook.dead > 0 ? (
          <Button variant="default" loading={isLoading} onClick={() => send(null)}>
            Send all dead again
          </Button>
        ) : null}
        <Button variant="subtle" onClick={close}>
          Close
        </Button>
      </div>
      <p className="quiet small">
        {dead
          ? 'These were tried for three days. They are sent again only when you say so, and kept as long as events are.'
          : 'These are sent again by themselves, those of one thing in order; the waits grow from seconds to a day.'}
      </p>
      {error && !data ? (
        <Trouble error={error} what="They cannot be shown" again={() => void refetch()} />
      ) : data ? (
        data.length === 0 ? (
          <p className="quiet">None.</p>
        ) : (
          <Listing
            heads={[num('Place'), 'What', num('Tried'), 'Last', 'Next', 'What is wrong', heard('What to do')]}
            label={`Messages not taken by ${hook.name}`}
          >
            {data.map((message) => (
              <tr key={message.id}>
                <td className="num">{message.place}</td>
                <td className="mono small">{message.type}</td>
                <td className="num">{count(message.tries)}</td>
                <td>{message.lastAt ? <When at={message.lastAt} /> : <span className="quiet">not yet</span>}</td>
                <td>
                  {message.nextAt === null ? (
                    <span className="quiet">not by itself</span>
                  ) : Date.parse(message.nextAt) > Date.now() ? (
                    <When at={message.nextAt} />
                  ) : (
                    'soon'
                  )}
                </td>
                <td className="small">
                  {message.problem ?? 'Not sent yet: it waits for an earlier one, or for the address.'}
                </td>
                <td>
                  <Group gap={2}>
                    <Button
                      variant="subtle"
                      size="compact-xs"
                      aria-label={`Send again: ${message.place}`}
                      onClick={() => send([message.id])}
                    >
                      Send again
                    </Button>
                  </Group>
                </td>
              </tr>
            ))}
          </Listing>
        )
      ) : (
        <Coming lines={2} />
      )}
    </section>
  );
}
