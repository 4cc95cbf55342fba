import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { readRequest } from '../src/access/index.ts';
import { chatOfRequest } from '../src/access/requests/mails.ts';
import { askForAccess } from '../src/access/requests/service.ts';
import { repliesTo } from '../src/exchange/chat.ts';
import type { Who } from '../src/people/index.ts';
import { finderHere, personWith } from './place.ts';
import { day, salesPlace } from './sales.ts';

// Maud owns the guests; Olav asks for them. She answers in the chat.
const address = 'https://idrel.example';
let place: Awaited<ReturnType<typeof salesPlace>>;
let finder: ReturnType<typeof finderHere>;
let editor: Who;
const say = async (text: string, from = 'maud@example.org', answers = true) =>
  (await repliesTo(place.db, finder, { address, chat: { answers } }, { from, text })).map((reply) => {
    expect(reply.only).toBe(true);
    return reply.text;
  });
const one = async (text: string, from?: string) => {
  const [reply, ...more] = await say(text, from);
  expect(more).toEqual([]);
  return reply ?? '';
};
const ask = async (who: Who, name: string, more: object = {}) => {
  const [request] = await place.db.transaction((tx) =>
    askForAccess(tx, who, {
      assetIds: [place.id(name)],
      columns: null,
      purpose: 'Fares of 2027',
      note: '',
      until: null,
      ...more,
    }),
  );
  if (!request) throw new Error('nothing was asked');
  return request;
};
const stateOf = async (id: string) => (await readRequest(place.db, place.maud, id)).state;

beforeAll(async () => {
  place = await salesPlace();
  finder = finderHere(place.db);
  editor = await personWith(place.db, 'Edda', 'editor', place.domainId);
  await place.db.run("update person set email = 'edda@example.org' where id = $1", [editor.id]);
});
afterAll(() => place.drop());

describe('a request for access', () => {
  it('is told to who may answer it, granted once its effect was seen, and stands in the journal as done by way of the chat', async () => {
    expect(await one('requests')).toBe('No request for access waits for you.');
    const request = await ask(place.olav, 'guest', { until: day(30), note: 'For the board' });
    const told = await one('Requests');
    expect(told).toContain(`${request.number}: Olav asks to read sales.guest for “Fares of 2027”, until`);
    expect(told).toContain('For the board');
    expect(await one('requests', 'olav@example.org')).toBe('No request for access waits for you.');
    expect(await one(`grant ${request.number}`, 'olav@example.org')).toContain('waits for your answer is not there');

    const effect = await one(`grant ${request.number}`);
    expect(effect).toContain('lets Olav read sales.guest until');
    expect(effect).toContain('3 columns of 1 table more than now, 1 of them guarded or sealed.');
    const print = new RegExp(`grant ${request.number} ([0-9a-f]{6})`).exec(effect)?.[1] ?? '';
    expect(await stateOf(request.id)).toBe('waiting');
    expect(await one(`grant ${request.number} ffffff`)).toContain('It would open something else by now.');
    // Another level of a column is another effect.
    await place.db.run('update asset set level_set = 3 where id = $1', [place.id('port')]);
    const anew = await one(`grant ${request.number} ${print}`);
    expect(anew).toContain('It would open something else by now.');
    expect(anew).toContain('2 of them guarded or sealed.');
    expect(await stateOf(request.id)).toBe('waiting');

    const seen = new RegExp(`grant ${request.number} ([0-9a-f]{6})`).exec(anew)?.[1];
    expect(await one(`grant ${request.number} ${seen}`)).toBe(
      `Request ${request.number} is granted: Olav may read sales.guest.`,
    );
    expect(await stateOf(request.id)).toBe('granted');
    const entry = await place.db.one<{ action: string; by_key: string }>(
      "select action, by_key from journal where subject_kind = 'request' and subject_id = $1 order by id desc limit 1",
      [request.id],
    );
    expect(entry).toEqual({ action: 'granted', by_key: 'the chat' });
    expect(await one(`grant ${request.number} ${seen}`)).toContain('is not there');
  });

  it('is refused with a reason, and not without one', async () => {
    const request = await ask(place.rune, 'guest');
    expect(await one(`refuse ${request.number}`)).toContain('A refusal says why: Rune reads it.');
    expect(await one(`refuse ${request.number} ${'No. '.repeat(600)}`)).toContain('longer than 2,000 letters');
    expect(await stateOf(request.id)).toBe('waiting');
    expect(await one(`refuse ${request.number} Ask for the fares instead.`)).toContain('is refused');
    expect(await readRequest(place.db, place.maud, request.id)).toMatchObject({
      state: 'refused',
      answer: 'Ask for the fares instead.',
    });
  });

  it('is told in the chat as it is made, to who may answer it, where that is set up', async () => {
    const request = await ask(place.rune, 'guest', { purpose: 'Another' });
    const jobs = await place.db.rows<{ task: string }>(
      'select t.identifier as task from graphile_worker._private_jobs j join graphile_worker._private_tasks t on t.id = j.task_id where j.payload::text like $1 order by 1',
      [`%${request.id}%`],
    );
    expect(jobs.map(({ task }) => task)).toEqual(['request', 'request-chat']);
    const messages: string[] = [];
    const chat = { url: 'https://chat.example/in', secret: '', answers: true };
    const tell = async (to: string, { number }: { number: number }) => void messages.push(`${to} ${number}`);
    const told = { requestId: request.id, why: 'asked' } as const;
    expect(await chatOfRequest(place.db, { chat, address }, told, tell)).toBe(1);
    expect(messages).toEqual([`maud@example.org ${request.number}`]);
    expect(await chatOfRequest(place.db, { chat: { ...chat, answers: false }, address }, told, tell)).toBe(0);
    await one(`refuse ${request.number} No.`);
    expect(await chatOfRequest(place.db, { chat, address }, told, tell)).toBe(0);
  });
});

describe('a suggestion', () => {
  it('is told at an address with what speaks for it, taken or left, by who may edit the asset', async () => {
    const link = `${address}/assets/${place.id('fare')}`;
    // Its neighbour has an owner; no more is known.
    expect(await one(`suggestions ${link}`, 'edda@example.org')).not.toContain('description');
    await place.db.run("update asset set native_comment = 'What a passage costs.' where id = $1", [place.id('fare')]);
    await place.db.run("update asset set native_comment = 'In crowns.' where id = $1", [place.id('amount')]);
    const told = await one(`suggestions ${link}`, 'edda@example.org');
    expect(told).toContain('fare, description: What a passage costs. (comment)');
    const [, first = ''] = /fare, description[\s\S]*?\n {2}take ([0-9a-f]{6}) /.exec(told) ?? [];
    const [, second = ''] = /amount, description[\s\S]*?\n {2}take ([0-9a-f]{6}) /.exec(told) ?? [];
    expect(await one(`take ${first} ${link}`, 'edda@example.org')).toBe(
      'Taken: fare, description: What a passage costs.',
    );
    expect(await place.db.one('select description from asset where id = $1', [place.id('fare')])).toEqual({
      description: 'What a passage costs.',
    });
    expect(await one(`take ${first} ${link}`, 'edda@example.org')).toContain('or not any more');
    expect(await one(`leave ${second} ${link}`, 'edda@example.org')).toContain('does not come back');
    expect(await one(`suggestions ${link}`, 'edda@example.org')).not.toContain('description');
    expect(await place.db.one('select description from asset where id = $1', [place.id('amount')])).toEqual({
      description: null,
    });
  });

  it('is no business of who may only read, or may not see the asset', async () => {
    const link = `${address}/assets/${place.id('guest')}`;
    await place.db.run("update asset set native_comment = 'Who came aboard.' where id = $1", [place.id('guest')]);
    const told = await one(`suggestions ${link}`, 'edda@example.org');
    const [, print = ''] = /guest, description[\s\S]*?\n {2}take ([0-9a-f]{6}) /.exec(told) ?? [];
    expect(print).not.toBe('');
    expect(await one(`take ${print} ${link}`, 'olav@example.org')).not.toContain('Taken');
    expect(await place.db.one('select description from asset where id = $1', [place.id('guest')])).toEqual({
      description: null,
    });
    expect(await one(`suggestions ${link}`, 'sten@example.org')).toContain('An asset at this address is not there');
    expect(await one('suggestions somewhere', 'edda@example.org')).toContain('is not there');
  });
});

describe('where the chat may not answer', () => {
  it('nothing is told of what waits, and nothing is done', async () => {
    const request = await ask(place.olav, 'fare', { purpose: 'Quiet' });
    for (const text of [
      'requests',
      `grant ${request.number}`,
      `refuse ${request.number} No.`,
      `suggestions ${address}/assets/${place.id('fare')}`,
    ])
      expect(await say(text, 'petra@example.org', false)).toEqual([
        'Requests and suggestions are not answered in this chat: do it there.',
      ]);
    expect((await say('help', 'petra@example.org', false))[0]).not.toContain('requests');
    expect((await say('help', 'petra@example.org'))[0]).toContain('“requests”');
    expect((await say('requests', 'nobody@example.org'))[0]).toContain('Nobody here has the address');
    expect(await say('We need more requests')).toEqual([]);
  });
});
