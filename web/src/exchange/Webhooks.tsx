import type { Webhook } from '@idrel/contract/exchange';
import { Button, Group } from '@mantine/core';
import { useState } from 'react';
import { useKeys } from '../app/keys.tsx';
import { sayDone, sayProblem } from '../app/say.ts';
import { removing, useMayAnywhere } from '../forms/Frame.tsx';
import { ShownOnce } from '../forms/ShownOnce.tsx';
import { count, When } from '../marks/index.tsx';
import { heard, Listing, num } from '../marks/Listing.tsx';
import { Coming, Empty, Trouble } from '../marks/states.tsx';
import { useCrumbs } from '../shell/crumbs.tsx';
import {
  useChangeWebhookMutation,
  useRemoveWebhookMutation,
  useRenewWebhookSecretMutation,
  useTryWebhookMutation,
  useWebhooksQuery,
} from './api.ts';
import { BeginAt } from './BeginAt.tsx';
import { NotTaken } from './NotTaken.tsx';
import { bodyOf, WebhookForm } from './WebhookForm.tsx';
import { toldOf } from './words.ts';

/** What of a webhook is open. */
type Part = 'form' | 'messages' | 'place';

/** So long the old secret signs beside a new one, in hours; so often it is looked how it goes, in milliseconds. */
const [OVERLAP, LOOKS] = [24, 5000];

/** Addresses that are told what changes: how that goes, and what they did not take. */
export function Component() {
  useCrumbs({ text: 'Settings', to: '/settings' }, { text: 'Webhooks' });
  const mayMake = useMayAnywhere('administrator');
  const { data, error, refetch } = useWebhooksQuery(undefined, { pollingInterval: LOOKS, skip: !mayMake });
  const [open, setOpen] = useState<{ readonly id: string; readonly part: Part } | null>(null);
  const [secret, show] = useState<{ readonly secret: string; readonly words: string } | null>(null);
  useKeys('Webhooks', [{ key: 'n', what: 'new webhook', act: () => mayMake && setOpen({ id: 'new', part: 'form' }) }]);
  if (!mayMake)
    return (
      <Empty title="Webhooks are for administrators">
        <p>They send what changes to other programs. Ask an administrator of your domain.</p>
      </Empty>
    );
  if (error && !data) return <Trouble error={error} what="The webhooks cannot be shown" again={() => void refetch()} />;
  if (!data) return <Coming />;
  const changed = open?.part === 'form' ? data.find(({ id }) => id === open.id) : undefined;
  return (
    <div className="page stack">
      <div className="head level-with">
        <div className="grow">
          <h1>Webhooks</h1>
          <p className="quiet">
            Each change of what you may see is sent to an address as it happens: signed, in order, and again until it is
            taken. The messages are CloudEvents, signed as Standard Webhooks says.
          </p>
        </div>
        <Button onClick={() => setOpen({ id: 'new', part: 'form' })} disabled={open?.part === 'form'}>
          New webhook
        </Button>
      </div>
      {secret ? <ShownOnce what="secret" {...secret} done={() => show(null)} /> : null}
      {open?.part === 'form' && (open.id === 'new' || changed) ? (
        <WebhookForm
          key={open.id}
          webhook={changed}
          close={() => setOpen(null)}
          made={(made) => show({ secret: made, words: 'Whoever is told checks with it that a message is from here.' })}
        />
      ) : null}
      {open?.part === 'place'
        ? data
            .filter(({ id }) => id === open.id)
            .map((hook) => <BeginAt key={hook.id} hook={hook} close={() => setOpen(null)} />)
        : null}
      {data.length === 0 ? (
        <Empty title="No webhooks yet">
          <p>A program that is to follow what changes gives an address; here it is told which changes go there.</p>
        </Empty>
      ) : (
        <Listing
          heads={['Webhook', 'Told of', 'How it goes', num('Taken'), num('Not taken'), heard('What to do')]}
          label="Webhooks"
        >
          {data.map((hook) => (
            <Row
              key={hook.id}
              hook={hook}
              here={hook.id === open?.id}
              open={(part) => setOpen({ id: hook.id, part })}
              renewed={(renewed) =>
                show({
                  secret: renewed,
                  words: `Messages to “${hook.name}” are signed by it; for ${OVERLAP} hours by the old one, too.`,
                })
              }
            />
          ))}
        </Listing>
      )}
      {open?.part === 'messages'
        ? data
            .filter(({ id }) => id === open.id)
            .map((hook) => <NotTaken key={hook.id} hook={hook} close={() => setOpen(null)} />)
        : null}
    </div>
  );
}

/** How it goes, in a word. */
const STATES: Readonly<Record<Webhook['state'], readonly [word: string, aim: string]>> = {
  well: ['well', 'is-met'],
  unwell: ['not taken', 'is-behind'],
  off: ['off', ''],
};

function Row({
  hook,
  here,
  open,
  renewed,
}: {
  hook: Webhook;
  here: boolean;
  open: (part: Part) => void;
  renewed: (secret: string) => void;
}) {
  const [attempt, { isLoading: trying }] = useTryWebhookMutation();
  const [change] = useChangeWebhookMutation();
  const [remove] = useRemoveWebhookMutation();
  const [renew] = useRenewWebhookSecretMutation();
  const { id, name, version } = hook;
  const [word, aim] = STATES[hook.state];
  const failed = (what: string) => (error: unknown) => sayProblem(error, what);
  const tryIt = () =>
    void attempt(id)
      .unwrap()
      .then(({ taken, status, problem, ms }) => {
        if (taken) sayDone(`“${name}” took the message (${status}, ${ms} ms).`);
        else
          sayProblem(
            { data: { detail: problem ?? '', mend: 'Look at its address, and at what listens there.' } },
            `“${name}” did not take it`,
          );
      }, failed('It was not tried'));
  const turn = () =>
    void change({ id, version, body: { ...bodyOf(hook), enabled: !hook.enabled } })
      .unwrap()
      .then(
        () =>
          sayDone(
            hook.enabled
              ? `“${name}” is off. What changes meanwhile waits for it.`
              : `“${name}” is on, and goes on where it stopped.`,
          ),
        failed('Nothing was changed'),
      );
  const another = () =>
    void renew({ id, hours: OVERLAP })
      .unwrap()
      .then(({ secret }) => renewed(secret), failed('The secret was not renewed'));
  const action = (label: string, act: () => void, red = false) => (
    <Button
      variant="subtle"
      size="compact-xs"
      aria-label={`${label}: ${name}`}
      onClick={act}
      {...(red ? { c: 'var(--buoy)' } : {})}
    >
      {label}
    </Button>
  );
  return (
    <tr aria-current={here}>
      <td className="anywhere">
        {name}
        <div className="quiet small mono">{hook.address}</div>
        <div className="quiet small">{hook.person ?? 'nobody answers for it'}</div>
      </td>
      <td className="small anywhere">{toldOf(hook)}</td>
      <td>
        <span className={`aim ${aim}`}>{word}</span>
        {hook.since ? (
          <div className="quiet small">
            since <When at={hook.since} />
          </div>
        ) : null}
        {hook.why ? <div className="small">{hook.why}</div> : null}
        {hook.behind > 0 && hook.state === 'well' ? (
          <div className="quiet small">{count(hook.behind)} still to be looked at</div>
        ) : null}
      </td>
      <td className="num">
        {count(hook.sent)}
        {hook.sentAt ? (
          <div className="quiet small">
            <When at={hook.sentAt} />
          </div>
        ) : null}
      </td>
      <td className="num">
        {hook.waiting > 0 ? <div>{count(hook.waiting)} waiting</div> : null}
        {hook.dead > 0 ? <div>{count(hook.dead)} dead</div> : null}
        {hook.waiting + hook.dead === 0 ? '0' : null}
      </td>
      <td>
        <Group gap={2} wrap="wrap" maw={230}>
          {trying ? <span className="quiet small">trying …</span> : action('Try', tryIt)}
          {hook.waiting + hook.dead > 0 ? action('Not taken', () => open('messages')) : null}
          {action('Change', () => open('form'))}
          {action(hook.enabled ? 'Turn off' : 'Turn on', turn)}
          {action('New secret', another)}
          {action('Begin at', () => open('place'))}
          {action(
            'Remove',
            () => removing(remove(id).unwrap(), 'The webhook was not removed', () => sayDone(`“${name}” is removed.`)),
            true,
          )}
        </Group>
      </td>
    </tr>
  );
}
