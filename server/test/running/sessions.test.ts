import { expect, it } from 'vitest';
import { Caller } from './caller.ts';

it('a session is ended from another one, and whoever goes on in it is asked to sign in', async () => {
  const [here, there] = [await new Caller().as('Maud Ilkley'), await new Caller().as('Maud Ilkley')];
  const ids = async (caller: Caller) => {
    const sessions = (await caller.call('GET', '/sessions')).body as { id: string; here: boolean }[];
    return { own: sessions.find((session) => session.here)?.id, all: sessions.map(({ id }) => id) };
  };
  const { own: other } = await ids(there);
  expect((await ids(here)).all).toContain(other);
  const stranger = await new Caller().as('Bettina Sark');
  expect((await stranger.call('DELETE', `/sessions/${other}`)).status).toBe(404);
  expect((await here.call('DELETE', `/sessions/${other}`)).status).toBe(204);
  expect((await there.call('GET', '/sources')).status).toBe(401);
  expect((await here.call('GET', '/sources')).status).toBe(200);
  expect((await ids(here)).all).not.toContain(other);
});
