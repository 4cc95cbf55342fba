import type { AssetAnswer } from '@idrel/contract/catalog';
import type { Ticket, TicketBody } from '@idrel/contract/curation';
import { Button, Textarea, TextInput } from '@mantine/core';
import { useState } from 'react';
import { sayDone, sayProblem } from '../app/say.ts';
import { Framed } from '../forms/Framed.tsx';
import { useEditForm } from '../forms/useEditForm.ts';
import { When } from '../marks/index.tsx';
import { useOpenTicketAgainMutation, useOpenTicketMutation, useTicketsQuery } from './ticketsApi.ts';

/** While the tracker is being given one, it is looked how that goes, in milliseconds. */
const LOOKS = 2000;

/** Tickets about an asset, where there is a tracker, or were some. Give it the asset's id as its key. */
export function Tickets({ asset }: { asset: AssetAnswer }) {
  const [waits, setWaits] = useState(false);
  const { data } = useTicketsQuery(asset.id, { pollingInterval: waits ? LOOKS : 0 });
  const [opening, setOpening] = useState(false);
  const waiting = data?.items.some(({ state, problem }) => state === 'being opened' && problem === null) ?? false;
  if (waiting !== waits) setWaits(waiting);
  if (!data || (!data.tracker && data.items.length === 0)) return null;
  return (
    <div className="field">
      <span className="label">Tickets</span>
      <div>
        {data.items.length === 0 && !opening ? <span className="quiet">none yet</span> : null}
        <ul className="bare">
          {data.items.map((ticket) => (
            <Line key={ticket.id} ticket={ticket} />
          ))}
        </ul>
        {opening ? <TicketForm asset={asset} close={() => setOpening(false)} /> : null}
        {data.tracker && !opening ? (
          <Button variant="subtle" size="compact-xs" onClick={() => setOpening(true)}>
            Open a ticket
          </Button>
        ) : null}
      </div>
    </div>
  );
}

function Line({ ticket }: { ticket: Ticket }) {
  const { id, key, url, title, state, by, routine, openedAt, closedAt, problem } = ticket;
  const [again] = useOpenTicketAgainMutation();
  const called = key === null ? title : `${key}: ${title}`;
  return (
    <li className="link-line">
      {url === null ? (
        <span>{called}</span>
      ) : (
        <a href={url} target="_blank" rel="noreferrer noopener">
          {called}
        </a>
      )}
      <div className="quiet small">
        {state} · {by ?? 'somebody who left'}
        {routine === null ? '' : `, by the routine “${routine}”`}, <When at={openedAt} />
        {closedAt === null ? null : (
          <>
            {' · closed '}
            <When at={closedAt} />
          </>
        )}
        {state === 'not opened' ? (
          <>
            {' · '}
            <button
              type="button"
              className="linkish"
              onClick={() =>
                again(id)
                  .unwrap()
                  .catch((error: unknown) => sayProblem(error, 'The ticket was not opened'))
              }
            >
              Try again
            </button>
          </>
        ) : null}
      </div>
      {problem === null ? null : (
        <div className="small attention">
          {problem}
          {state === 'being opened' ? ' It is tried again.' : ''}
        </div>
      )}
    </li>
  );
}

function TicketForm({ asset, close }: { asset: AssetAnswer; close: () => void }) {
  const [open] = useOpenTicketMutation();
  const edit = useEditForm<TicketBody, Ticket & { version: number }>({
    key: `ticket:${asset.id}`,
    now: null,
    fresh: { title: '', text: '' },
    valuesOf: ({ title }) => ({ title, text: '' }),
    // It is given away once, and is not edited here after.
    send: async (body) => ({ ...(await open({ assetId: asset.id, body }).unwrap()), version: 1 }),
    done: ({ title }) => {
      sayDone(`“${title}” is given to the tracker.`);
      close();
    },
  });
  const { form, values } = edit;
  return (
    <Framed
      label="New ticket"
      edit={edit}
      fields={{ title: 'What is wrong', text: 'More of it' }}
      words="Open it"
      ready={values.title.trim() !== ''}
      close={close}
    >
      <TextInput label="What is wrong" required autoFocus maxLength={200} {...form.getInputProps('title')} />
      <Textarea
        label="More of it"
        description="The tracker also gets the address of this page, and who you are."
        autosize
        minRows={2}
        maxRows={8}
        {...form.getInputProps('text')}
      />
    </Framed>
  );
}
