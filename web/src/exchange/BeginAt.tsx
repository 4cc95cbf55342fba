import type { Webhook } from '@idrel/contract/exchange';
import { Button, Group } from '@mantine/core';
import { type SyntheticEvent, useState } from 'react';
import { problemOf } from '../app/api.ts';
import { sayDone } from '../app/say.ts';
import { NumberField } from '../marks/NumberField.tsx';
import { ProblemNotice } from '../marks/states.tsx';
import { useSendWebhookFromMutation } from './api.ts';

/** Has a webhook begin at another place: what lies behind it is sent, also where it was before. */
export function BeginAt({ hook, close }: { hook: Webhook; close: () => void }) {
  const [after, setAfter] = useState(hook.after);
  const [begin, { isLoading, error }] = useSendWebhookFromMutation();
  const last = hook.after + hook.behind;
  const send = (event: SyntheticEvent) => {
    event.preventDefault();
    void begin({ id: hook.id, after })
      .unwrap()
      .then(
        () => {
          sayDone(`“${hook.name}” begins behind place ${after}.`, () => begin({ id: hook.id, after: hook.after }));
          close();
        },
        () => undefined,
      );
  };
  return (
    <form className="toolbar stack" aria-label={`Where ${hook.name} begins`} onSubmit={send}>
      <p className="quiet">
        It was told up to place {hook.after}; the last is {last}. Events have their places in the order in which they
        came (<span className="mono">sequence</span>). 0 begins with the oldest that is kept; the last leaves out what
        was not sent yet. What was sent before comes again with the same id.
      </p>
      <Group align="flex-end">
        <NumberField label="Begin behind place" min={0} max={last} value={after} put={setAfter} w={180} />
        <Button type="submit" loading={isLoading}>
          Begin there
        </Button>
        <Button variant="default" onClick={close}>
          Leave it
        </Button>
      </Group>
      {error ? <ProblemNotice problem={problemOf(error)} /> : null}
    </form>
  );
}
