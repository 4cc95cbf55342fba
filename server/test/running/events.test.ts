import type { CloudEvent } from '@idrel/contract/exchange';
import { CloudEvent as Shape } from '@idrel/contract/exchange';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { ADDRESS, Caller } from './caller.ts';

// Events of the running server: read from any point, and followed by a program with a key.
const steward = new Caller();
const mark = `Followed ${process.pid}`;
const keys: string[] = [];
let scheme = '';
beforeAll(async () => {
  await steward.as('Sunniva Dahlmark');
  scheme = ((await steward.call('GET', '/schemes')).body as { id: string }[])[0]?.id ?? '';
});
afterAll(async () => {
  for (const id of keys) await steward.call('DELETE', `/api-keys/${id}`);
});
const key = async () => {
  const { body } = await steward.call('POST', '/api-keys', { name: mark, scopes: ['read'], domainIds: null });
  keys.push(body.id);
  return body as { id: string; key: string };
};
const term = async (name: string) =>
  (await steward.call('POST', '/terms', { name, schemeId: scheme })).body.id as string;

/** Follows the stream with a key, and gathers what comes. */
async function follow(secret: string, query: string, headers: Record<string, string> = {}) {
  const gone = new AbortController();
  const response = await fetch(`${ADDRESS}/api/v1/events/stream?${query}`, {
    headers: { authorization: `Bearer ${secret}`, ...headers },
    signal: gone.signal,
  });
  const events: CloudEvent[] = [];
  const state = { ended: false };
  const reading = (async () => {
    const decoder = new TextDecoder();
    let text = '';
    for await (const piece of response.body as unknown as AsyncIterable<Uint8Array>) {
      text += decoder.decode(piece, { stream: true });
      const parts = text.split('\n\n');
      text = parts.pop() ?? '';
      for (const part of parts) {
        const data = part.split('\n').find((line) => line.startsWith('data: '));
        if (data) events.push(JSON.parse(data.slice(6)) as CloudEvent);
      }
    }
  })()
    .catch(() => undefined)
    .finally(() => {
      state.ended = true;
    });
  const leave = () => {
    gone.abort();
    return reading;
  };
  return { status: response.status, events, state, leave };
}

describe('events', () => {
  it('are read from the beginning on, page after page, the same each time', async () => {
    const all = async (limit: number, most: number) => {
      const ids: string[] = [];
      for (let after = 0; ids.length < most; ) {
        const { events, next, last } = (await steward.call('GET', `/events?after=${after}&limit=${limit}&kind=term`))
          .body;
        for (const event of events) {
          expect(Shape.validate(event, { convert: false }).error).toBeUndefined();
          ids.push(event.id);
        }
        after = next;
        if (next >= last) break;
      }
      return ids.slice(0, most);
    };
    const once = await all(100, 40);
    expect(once.length).toBe(40);
    expect(new Set(once).size).toBe(40);
    expect(await all(7, 40)).toEqual(once);
  });

  it('come to a program that follows them, which goes on where it was', async () => {
    const { key: secret } = await key();
    const { last } = (await steward.call('GET', '/events?limit=1')).body;
    const first = await follow(secret, `kind=term&after=${last}`);
    expect(first.status).toBe(200);
    const one = await term(`${mark} one`);
    const named = (events: CloudEvent[]) => events.map(({ type, data }) => `${type} ${data.name}`);
    await expect.poll(() => named(first.events)).toEqual([`idrel.term.created ${mark} one`]);
    await first.leave();
    const two = await term(`${mark} two`);
    const again = await follow(secret, 'kind=term', { 'last-event-id': String(Number(first.events[0]?.sequence)) });
    await expect.poll(() => named(again.events)).toEqual([`idrel.term.created ${mark} two`]);
    await again.leave();
    for (const id of [one, two]) await steward.call('DELETE', `/terms/${id}`);
  });

  it('come no more once the key has ended', async () => {
    const { id, key: secret } = await key();
    const { last } = (await steward.call('GET', '/events?limit=1')).body;
    const stream = await follow(secret, `after=${last}`);
    await steward.call('DELETE', `/api-keys/${id}`);
    const made = await term(`${mark} three`);
    await expect.poll(() => stream.state.ended).toBe(true);
    expect(stream.events.filter(({ data }) => data.name === `${mark} three`)).toEqual([]);
    await steward.call('DELETE', `/terms/${made}`);
  });

  it('are followed by one person ten times at once, and no more; who goes away makes room', async () => {
    const { key: secret } = await key();
    const after = (await steward.call('GET', '/events?after=0&limit=1')).body.last as number;
    const open = await Promise.all(Array.from({ length: 10 }, () => follow(secret, `after=${after}`)));
    expect(open.map(({ status }) => status)).toEqual(open.map(() => 200));
    const one = await follow(secret, `after=${after}`);
    expect(one.status).toBe(429);
    await Promise.all(open.map(({ leave }) => leave()));
    const again = () =>
      follow(secret, `after=${after}`).then(async ({ status, leave }) => {
        await leave();
        return status;
      });
    await expect.poll(again, { timeout: 60_000, interval: 500 }).toBe(200);
  });
});
