import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { placeEvents, readEvents } from '../src/exchange/events.ts';
import { forgetEvents, record } from '../src/journal/index.ts';
import type { Who } from '../src/people/index.ts';
import { loadWho } from '../src/people/index.ts';
import { freshDatabase, furnish, personWith, refused } from './place.ts';

let place: Awaited<ReturnType<typeof freshDatabase>>;
let made: Awaited<ReturnType<typeof furnish>>;
let [below, elsewhere] = ['', ''];
let [admin, reader] = [] as unknown as [Who, Who];
const assets: string[] = [];
const one = async (sql: string, bind: unknown[] = []) => (await place.db.one<{ id: string }>(sql, bind))?.id ?? '';
const read = (who: Who, more: object = {}, limit = 200) =>
  readEvents(place.db, who, 'https://idrel.example', { after: 0, ...more }, limit);

beforeAll(async () => {
  place = await freshDatabase();
  made = await furnish(place.db);
  below = await one("insert into domain (name, parent_id) values ('Wake Card', $1) returning id", [made.domainId]);
  elsewhere = await one("insert into domain (name) values ('Crewing') returning id");
  admin = (await loadWho(place.db, made.personId)) as Who;
  reader = await personWith(place.db, 'Rune', 'reader', made.domainId);
  for (const [nth, domain] of [made.domainId, below, elsewhere].entries())
    assets.push(
      await one(
        'insert into asset (source_id, domain_id, kind, name, key, depth) values ($1, $2, $3, $4, $4, 0) returning id',
        [made.sourceId, domain, nth === 1 ? 'view' : 'table', `t${nth}`],
      ),
    );
});
afterAll(() => place?.drop());

const domainOf = (nth: number) => [made.domainId, below, elsewhere][nth] as string;
const told = (tx: Parameters<typeof record>[0], nth: number, step: number) =>
  record(
    tx,
    admin,
    'edited',
    { kind: nth === 1 ? 'view' : 'table', id: assets[nth] as string, name: `t${nth}`, domainId: domainOf(nth) },
    { description: String(step - 1) },
    { description: String(step) },
  );

describe('events', () => {
  it('come all, each once, and those of one thing in their order, whatever is under way beside', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.record({ nths: fc.subarray([0, 1, 2], { minLength: 1 }), fails: fc.boolean(), waits: fc.nat(3) }), {
          minLength: 1,
          maxLength: 12,
        }),
        async (changes) => {
          await place.db.run('delete from event');
          await place.db.run('delete from journal');
          const steps = [0, 0, 0];
          const got: { seq: number; nth: number; step: number }[] = [];
          let after = (await read(admin)).last;
          const poll = async () => {
            await placeEvents(place.db);
            for (;;) {
              const { events, next } = await read(admin, { after }, 3);
              for (const event of events)
                got.push({
                  seq: Number(event.sequence),
                  nth: assets.indexOf(event.data.id),
                  step: Number(event.data.after?.description),
                });
              if (next === after) return;
              after = next;
            }
          };
          let open = true;
          const polling = (async () => {
            while (open) {
              await poll();
              await new Promise((resolve) => setImmediate(resolve));
            }
          })();
          const done: { nth: number; step: number }[] = [];
          await Promise.all(
            changes.map(({ nths, fails, waits }) =>
              place.db
                .transaction(async (tx) => {
                  const mine: { nth: number; step: number }[] = [];
                  for (const nth of nths) {
                    // Whoever changes an asset holds it.
                    await tx.run('select id from asset where id = $1 for update', [assets[nth]]);
                    const step = (steps[nth] as number) + 1;
                    steps[nth] = step;
                    await told(tx, nth, step);
                    mine.push({ nth, step });
                    for (let wait = 0; wait < waits; wait += 1) await tx.run('select pg_sleep(0.001)');
                  }
                  if (fails) throw new Error('taken back');
                  done.push(...mine);
                })
                .catch((error: Error) => {
                  if (error.message !== 'taken back') throw error;
                }),
            ),
          );
          open = false;
          await polling;
          await poll();
          const key = ({ nth, step }: { nth: number; step: number }) => `${nth} ${step}`;
          expect(got.map(key).sort()).toEqual(done.map(key).sort());
          expect(got.map(({ seq }) => seq)).toEqual([...got.map(({ seq }) => seq)].sort((a, b) => a - b));
          for (const nth of [0, 1, 2]) {
            const mine = got.filter((event) => event.nth === nth).map(({ step }) => step);
            expect(mine).toEqual([...mine].sort((a, b) => a - b));
          }
          // Again from any point: the same.
          expect(
            (await read(admin, { after: after - got.length }, 1000)).events.map(({ sequence }) => Number(sequence)),
          ).toEqual(got.map(({ seq }) => seq));
        },
      ),
      { numRuns: 25, endOnFailure: true },
    );
  });

  it('are CloudEvents, of what somebody may see, by kind, domain, thing and search', async () => {
    await place.db.run('delete from event');
    for (const nth of [0, 1, 2]) await place.db.transaction((tx) => told(tx, nth, 7));
    await placeEvents(place.db);
    const { events } = await read(admin);
    expect(events).toHaveLength(3);
    expect(events[0]).toMatchObject({
      specversion: '1.0',
      source: 'https://idrel.example',
      type: 'idrel.table.edited',
      subject: `table/${assets[0]}`,
      datacontenttype: 'application/json',
      data: {
        name: 't0',
        domain: 'Travel',
        by: admin.name,
        byKey: null,
        before: { description: '6' },
        after: { description: '7' },
      },
    });
    const names = async (who: Who, more: object = {}) => (await read(who, more)).events.map(({ data }) => data.name);
    expect(await names(reader)).toEqual(['t0', 't1']);
    expect(await names(admin, { kinds: ['view'] })).toEqual(['t1']);
    expect(await names(admin, { domain: made.domainId })).toEqual(['t0', 't1']);
    expect(await names(admin, { subject: assets[2] })).toEqual(['t2']);
    expect(await names(admin, { filter: 'name:t1,t2' })).toEqual(['t1', 't2']);
    expect(await names(reader, { filter: 'kind:table' })).toEqual(['t0']);
    expect(await refused(read(admin, { filter: 'colour:red' }))).toMatchObject({ status: 422 });
    // What is not theirs is gone by: the place goes on.
    const stranger = await personWith(place.db, 'Sten', 'reader', null);
    await place.db.run('delete from role_grant where person_id = $1', [stranger.id]);
    const nobody = (await loadWho(place.db, stranger.id)) as Who;
    const { events: none, next, last } = await read(nobody);
    expect([none, next]).toEqual([[], last]);
  });

  it('that are kept no more are said to be, with the place to go on from', async () => {
    await place.db.run('delete from event');
    for (const step of [1, 2, 3]) await place.db.transaction((tx) => told(tx, 0, step));
    await placeEvents(place.db);
    const { events } = await read(admin);
    const first = Number(events[0]?.sequence);
    await place.db.run("update event set at = now() - interval '100 days' where seq <= $1", [first + 1]);
    await forgetEvents(place.db);
    expect(await refused(read(admin, { after: first - 1 }))).toMatchObject({ status: 410, code: 'events-forgotten' });
    expect((await read(admin, { after: first + 1 })).events).toHaveLength(1);
    // Whoever begins gets what there is.
    expect((await read(admin)).events).toHaveLength(1);
    expect((await read(admin, { after: first + 2 })).events).toEqual([]);
    // A place that was not given yet is waited for.
    expect(await read(admin, { after: first + 100 })).toMatchObject({ events: [], next: first + 100 });
  });
});
