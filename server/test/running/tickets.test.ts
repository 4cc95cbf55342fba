import { expect, it } from 'vitest';
import { Caller } from './caller.ts';

interface Ticket {
  readonly key: string | null;
  readonly url: string | null;
  readonly state: string;
  readonly title: string;
}

it('a ticket goes to the tracker, and what is done with it there comes back', async () => {
  const caller = await new Caller().as('Sunniva Dahlmark');
  const [asset] = (await caller.call('GET', '/assets?limit=1&filter=kind:table%20booking_leg')).body.items as {
    id: string;
  }[];
  const title = `Seen at ${Date.now()}`;
  expect((await caller.call('POST', `/assets/${asset?.id}/tickets`, { title, text: '' })).body.state).toBe(
    'being opened',
  );
  const ticket = async () => {
    const { items } = (await caller.call('GET', `/assets/${asset?.id}/tickets`)).body as { items: Ticket[] };
    return items.find((one) => one.title === title);
  };
  await expect.poll(async () => (await ticket())?.state).toBe('open');
  const { url, key } = (await ticket()) as Ticket;
  expect(key).toMatch(/^QUAY-\d+$/);
  const closes = async () => (await fetch(url ?? '', { method: 'POST', redirect: 'manual' })).status;
  expect(await closes()).toBe(303);
  expect((await ticket())?.state).toBe('closed');
  expect(await closes()).toBe(303);
  expect((await ticket())?.state).toBe('open');
  expect(await closes()).toBe(303);
});
