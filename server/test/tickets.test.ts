import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import type { TicketTold } from '@idrel/contract/curation';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { giveTicket, openTickets, trackerOnly } from '../src/curation/index.ts';
import { listTickets, openAgain, openTicket, ticketTold } from '../src/curation/tickets.ts';
import type { Who } from '../src/people/index.ts';
import type { Config } from '../src/platform/config.ts';
import type { ApiProblem } from '../src/platform/problems.ts';
import { freshDatabase, furnish, personWith, refused, testConfig } from './place.ts';

// Tickets about assets: given to a tracker by a job, which may fail, and told of by it.
let place: Awaited<ReturnType<typeof freshDatabase>>;
let made: Awaited<ReturnType<typeof furnish>>;
let [reader, stranger] = [] as unknown as [Who, Who];
let server: Server;
let config: Config;
let assetId = '';
const got: { key: string | undefined; body: Record<string, string> }[] = [];
let answer: { status: number; text: string } = { status: 200, text: '' };
const secret = 'a-secret-of-the-tracker-123';

beforeAll(async () => {
  place = await freshDatabase();
  made = await furnish(place.db);
  const elsewhere = await place.db.one<{ id: string }>("insert into domain (name) values ('Crewing') returning id");
  reader = await personWith(place.db, 'Ada', 'reader', made.domainId);
  stranger = await personWith(place.db, 'Bo', 'reader', elsewhere?.id ?? '');
  await place.db.run("update person set email = 'ada@example.org' where id = $1", [reader.id]);
  const asset = await place.db.one<{ id: string }>(
    "insert into asset (source_id, domain_id, kind, name, key, depth) values ($1, $2, 'table', 'fares', 'fares', 0) returning id",
    [made.sourceId, made.domainId],
  );
  assetId = asset?.id ?? '';
  server = createServer(async (request, response) => {
    let text = '';
    for await (const piece of request) text += String(piece);
    got.push({ key: request.headers.authorization, body: JSON.parse(text) as Record<string, string> });
    response.statusCode = answer.status;
    response.end(answer.text);
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const url = `http://127.0.0.1:${(server.address() as AddressInfo).port}/in`;
  config = { ...testConfig(), address: 'https://idrel.example.org', tracker: { url, secret } };
});
afterAll(async () => {
  server.closeAllConnections();
  server.close();
  await place.drop();
});
beforeEach(async () => {
  got.length = 0;
  answer = { status: 201, text: '{"key":"T-1","url":"https://tracker.example.org/T-1"}' };
  await place.db.run('delete from ticket');
  await place.db.run('delete from journal');
});

const open = (title = 'Counted twice', who = reader) =>
  place.db.transaction((tx) => openTicket(tx, config, who, assetId, { title, text: 'Since Monday.' }));
const give = (ticketId: string, last = false) => giveTicket(place.db, config, { ticketId }, last);
const tickets = async () => (await listTickets(place.db, config, reader, assetId)).items;
const tell = (told: TicketTold) => place.db.transaction((tx) => ticketTold(tx, told));
const journal = () =>
  place.db.rows<{ action: string; principal: string | null; after: object }>(
    'select action, principal, after from journal order by id',
  );

describe('a ticket', () => {
  it('stands here at once, is given to the tracker with what it is about, and stands under its key then', async () => {
    const { id, state } = await open();
    expect(state).toBe('being opened');
    const jobs = await place.db.rows("select key from graphile_worker.jobs where task_identifier = 'ticket'");
    expect(jobs).toContainEqual({ key: `ticket ${id}` });
    await give(id);
    expect(got).toEqual([
      {
        key: `Bearer ${secret}`,
        body: {
          id,
          title: 'Counted twice',
          text: 'Since Monday.',
          link: `https://idrel.example.org/assets/${assetId}`,
          by: 'ada@example.org',
        },
      },
    ]);
    expect(await tickets()).toMatchObject([
      { state: 'open', key: 'T-1', url: 'https://tracker.example.org/T-1', by: 'Ada', problem: null },
    ]);
    // Given once: a job that is done again finds nothing to do.
    await give(id);
    expect(got).toHaveLength(1);
  });

  it('that the tracker does not take says why, is tried again, and in the end can be given again by hand', async () => {
    const { id } = await open();
    answer = { status: 500, text: '<h1>Broken</h1>' };
    await expect(give(id)).rejects.toThrow('It answers 500');
    expect(await tickets()).toMatchObject([
      { state: 'being opened', problem: expect.stringContaining('It answers 500') },
    ]);
    const again = () => place.db.transaction((tx) => openAgain(tx, config, reader, id));
    expect((await refused(again()))?.code).toBe('begun-already');
    await expect(give(id, true)).rejects.toThrow();
    expect(await tickets()).toMatchObject([{ state: 'not opened' }]);
    answer = { status: 200, text: '{"key":"T-2","url":"javascript:alert(1)"}' };
    expect((await again()).state).toBe('being opened');
    await give(id);
    // What is no address of the web is not made into a link.
    expect(await tickets()).toMatchObject([{ state: 'open', key: 'T-2', url: null, problem: null }]);
  });

  it('that the tracker takes for another one is not opened', async () => {
    await give((await open()).id);
    const { id } = await open('Something else');
    await expect(give(id)).rejects.toThrow('It says that it has it as T-1, which is another ticket.');
    expect((await tickets()).map(({ key }) => key)).toEqual([null, 'T-1']);
  });

  it.each(['', 'no json', '{}', '{"key":7}', '[]', 'null'])(
    'is not taken by an answer that says nothing: %j',
    async (text) => {
      const { id } = await open();
      answer = { status: 200, text };
      await expect(give(id)).rejects.toThrow();
      expect(await tickets()).toMatchObject([{ state: 'being opened', key: null }]);
    },
  );

  it('is for whoever may see the asset, and for nobody where there is no tracker', async () => {
    expect((await refused(open('x', stranger)))?.code).toBe('not-found');
    expect((await refused(listTickets(place.db, config, stranger, assetId)))?.code).toBe('not-found');
    const none = { tracker: null };
    const without = place.db.transaction((tx) => openTicket(tx, none, reader, assetId, { title: 'x', text: '' }));
    expect((await refused(without))?.code).toBe('no-tracker');
    expect(await listTickets(place.db, none, reader, assetId)).toEqual({ items: [], tracker: false });
  });

  it('is closed by the tracker and opened again, which the history of the asset tells, once each', async () => {
    const { id } = await open();
    await give(id);
    await tell({ key: 'T-1', state: 'closed', title: 'Counted thrice' });
    await tell({ key: 'T-1', state: 'closed', title: null });
    expect(await tickets()).toMatchObject([{ state: 'closed', title: 'Counted thrice', closedAt: expect.anything() }]);
    await tell({ key: 'T-1', state: 'open', title: null });
    expect(await tickets()).toMatchObject([{ state: 'open', closedAt: null }]);
    expect(await journal()).toMatchObject([
      { action: 'ticket opened', after: { ticket: 'Counted twice' } },
      { action: 'ticket closed', principal: 'tracker', after: { ticket: 'T-1: Counted thrice' } },
      { action: 'ticket opened again', principal: 'tracker' },
    ]);
    expect((await refused(tell({ key: 'T-9', state: 'closed', title: null })))?.code).toBe('not-found');
  });
});

describe('a routine', () => {
  it('opens a ticket about each asset that it may see, and none while that is open', async () => {
    const other = await place.db.one<{ id: string }>(
      "insert into asset (source_id, domain_id, kind, name, key, depth) select source_id, (select id from domain where name = 'Crewing'), 'table', 'crew', 'crew', 0 from asset limit 1 returning id",
    );
    const routine = await place.db.one<{ id: string }>(
      "insert into routine (name, filter, steps, made_by) values ('No owner', 'owner:none', '[]', $1) returning id",
      [reader.id],
    );
    const routineId = routine?.id ?? '';
    const principal = { kind: 'person' as const, id: reader.id, name: reader.name };
    const opening = { principal, who: reader, routineId, title: 'Nobody owns', text: 'Find one.' };
    const run = () => place.db.transaction((tx) => openTickets(tx, opening, [assetId, other?.id ?? '']));
    expect(await run()).toEqual({ opened: 1, left: 0 });
    expect(await run()).toEqual({ opened: 0, left: 0 });
    const [first, ...more] = await place.db.rows<{ id: string; title: string }>('select id, title from ticket');
    expect(more).toEqual([]);
    expect(first?.title).toMatch(/^Nobody owns: .*fares$/);
    expect(await tickets()).toMatchObject([{ by: 'Ada', routine: 'No owner', state: 'being opened' }]);
    await give(first?.id ?? '');
    await run();
    expect(await tickets()).toHaveLength(1);
    await tell({ key: 'T-1', state: 'closed', title: null });
    answer = { status: 200, text: '{"key":"T-7"}' };
    await run();
    expect((await tickets()).map(({ state }) => state)).toEqual(['being opened', 'closed']);
  });
});

describe('who tells of tickets', () => {
  const asked = (authorization: string | undefined, tracker: Config['tracker'] = config.tracker) => {
    let code: string | undefined = 'let past';
    trackerOnly({ config: { tracker } })({ get: () => authorization } as never, {} as never, (error?: unknown) => {
      if (error) code = (error as ApiProblem).code;
    });
    return code;
  };
  it('is the tracker alone, by its secret', () => {
    expect(asked(`Bearer ${secret}`)).toBe('let past');
    for (const header of [undefined, '', 'Bearer', `Bearer ${secret}x`, `Basic ${secret}`])
      expect(asked(header)).toBe('unknown-tracker');
    expect(asked(`Bearer ${secret}`, null)).toBe('unknown-tracker');
  });
});
