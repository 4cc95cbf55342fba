import { randomBytes } from 'node:crypto';
import { createServer, type IncomingHttpHeaders, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import type { RoutineStep } from '@idrel/contract/routines';
import { Webhook as Verifier } from 'standardwebhooks';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { type CallJob, callWebhook } from '../src/exchange/index.ts';
import { makeWebhook, removeWebhook } from '../src/exchange/webhooks.ts';
import { loadWho, type Who } from '../src/people/index.ts';
import { keyFor } from '../src/platform/secrets.ts';
import { workOnRun } from '../src/routines/index.ts';
import { getRun, runRoutine } from '../src/routines/runs.ts';
import { addRoutine, previewRoutine } from '../src/routines/service.ts';
import { freshDatabase, furnish, personWith, refused, testConfig } from './place.ts';

// A step that calls a webhook, with a program that listens.
const config = { ...testConfig(keyFor(randomBytes(32), 'credentials')), address: 'https://idrel.example' };
let place: Awaited<ReturnType<typeof freshDatabase>>;
let made: Awaited<ReturnType<typeof furnish>>;
let admin: Who;
let server: Server;
let status = 204;
let got: { text: string; headers: IncomingHttpHeaders }[] = [];
let hook: Awaited<ReturnType<typeof makeWebhook>>;

interface Told {
  readonly id: string;
  readonly type: string;
  readonly subject: string;
  readonly data: {
    routine: string;
    word: string;
    part: number;
    parts: number;
    assets: { id: string; path: string; link: string }[];
  };
}

const webhook = (who: Who, name: string) =>
  makeWebhook(place.db, config, who, {
    name,
    address: `http://127.0.0.1:${(server.address() as AddressInfo).port}/in`,
    kinds: [],
    domainId: null,
    filter: null,
    enabled: true,
  });
const step = (webhookId = hook.webhook.id): RoutineStep => ({ do: 'call', webhookId, word: 'expired' });
const make = (steps: readonly RoutineStep[], who = admin, filter = 'kind:table name:quay_*') =>
  place.db.transaction((tx) =>
    addRoutine(tx, who, {
      name: `Quays ${Math.random()}`,
      filter,
      steps,
      starts: null,
      guard: { most: null, times: null },
      enabled: true,
    }),
  );
async function run(routine: Awaited<ReturnType<typeof make>>, who = admin) {
  const { changes } = await previewRoutine(place.db, who, routine);
  const { id } = await place.db.transaction((tx) => runRoutine(tx, who, routine.id, changes));
  await workOnRun(place.db, id);
  return getRun(place.db, who, id);
}
const jobs = async (): Promise<CallJob[]> =>
  (
    await place.db.rows<{ payload: CallJob }>(
      "select j.payload from graphile_worker._private_jobs j join graphile_worker._private_tasks t on t.id = j.task_id where t.identifier = 'call' order by j.id",
    )
  ).map(({ payload }) => payload);
const quays = (many: number, domainId: string, from = 0) =>
  place.db.run(
    `insert into asset (source_id, domain_id, kind, name, key, depth)
     select $1, $2, 'table', 'quay_' || i, 'quay_' || lpad(i::text, 6, '0'), 0 from generate_series($3::int + 1, $3::int + $4::int) i`,
    [made.sourceId, domainId, from, many],
  );

beforeAll(async () => {
  place = await freshDatabase();
  made = await furnish(place.db);
  admin = (await loadWho(place.db, made.personId)) as Who;
  server = createServer((request, response) => {
    let text = '';
    request.on('data', (chunk: Buffer) => {
      text += chunk.toString();
    });
    request.on('end', () => {
      got.push({ text, headers: request.headers });
      response.writeHead(status).end();
    });
  });
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  hook = await webhook(admin, 'Clean-up');
});
afterAll(async () => {
  server?.close();
  await place?.drop();
});
beforeEach(async () => {
  [got, status] = [[], 204];
  for (const table of ['routine', 'asset']) await place.db.run(`delete from ${table}`);
  await place.db.run('delete from graphile_worker._private_jobs');
});

describe('a step that calls a webhook', () => {
  it('tells a program, signed, of all that the run goes through, in parts, each the same however often it is sent', async () => {
    await quays(1101, made.domainId);
    const routine = await make([step()]);
    const done = await run(routine);
    expect(done).toMatchObject({
      state: 'done',
      calls: 3,
      steps: [{ told: 'Call “Clean-up”: expired', state: 'done' }],
    });
    const told = await jobs();
    expect(told.map(({ part, parts, assetIds }) => [part, parts, assetIds.length])).toEqual([
      [1, 3, 500],
      [2, 3, 500],
      [3, 3, 101],
    ]);
    expect(got).toEqual([]);
    for (const job of [...told, told[0] as CallJob]) await callWebhook(place.db, config, job, false);
    const events = got.map(({ text }) => JSON.parse(text) as Told);
    expect(events.map(({ data }) => data.assets.length)).toEqual([500, 500, 101, 500]);
    expect(events[3]?.id).toBe(events[0]?.id);
    expect(new Set(events.map(({ id }) => id)).size).toBe(3);
    const [first] = events;
    expect(first).toMatchObject({
      type: 'idrel.routine.called',
      subject: `routine/${routine.id}`,
      data: { routine: routine.name, word: 'expired', part: 1, parts: 3 },
    });
    expect(first?.data.assets[0]).toMatchObject({
      path: 'quay_000001',
      link: `https://idrel.example/assets/${first?.data.assets[0]?.id}`,
    });
    const headers = got[0]?.headers as Record<string, string>;
    expect(headers['webhook-id']).toBe(first?.id);
    expect(() => new Verifier(hook.secret).verify(got[0]?.text ?? '', headers)).not.toThrow();
    expect(() => new Verifier(hook.secret).verify(`${got[0]?.text} `, headers)).toThrow();
  });

  it('tells only what may be seen by then, and nothing once whoever it acts for administers nothing', async () => {
    const elsewhere =
      (await place.db.one<{ id: string }>("insert into domain (name) values ('Crewing') returning id"))?.id ?? '';
    const other = await personWith(place.db, 'Odd', 'administrator', made.domainId);
    const theirs = await webhook(other, 'Theirs');
    await quays(2, made.domainId);
    await run(await make([step(theirs.webhook.id)], other), other);
    await place.db.run("update asset set domain_id = $1 where name = 'quay_2'", [elsewhere]);
    const [job] = await jobs();
    await callWebhook(place.db, config, job as CallJob, false);
    expect((JSON.parse(got[0]?.text ?? '') as Told).data.assets.map(({ path }) => path)).toEqual(['quay_000001']);
    await place.db.run('delete from role_grant where person_id = $1', [other.id]);
    await expect(callWebhook(place.db, config, job as CallJob, false)).rejects.toThrow('administers nothing any more');
    expect(got).toHaveLength(1);
  });

  it('is tried again, and says in the run what was not taken when it is tried no more', async () => {
    await quays(1, made.domainId);
    const { id } = await run(await make([step()]));
    const [job] = (await jobs()) as [CallJob];
    status = 500;
    await expect(callWebhook(place.db, config, job, false)).rejects.toThrow(
      '“Clean-up” did not take what step 1 told it.',
    );
    expect((await getRun(place.db, admin, id)).problem).toBeNull();
    await expect(callWebhook(place.db, config, job, true)).rejects.toThrow('500');
    expect((await getRun(place.db, admin, id)).problem).toContain('“Clean-up” did not take what step 1 told it.');
    await place.db.run('update webhook set enabled = false where id = $1', [hook.webhook.id]);
    await expect(callWebhook(place.db, config, job, false)).rejects.toThrow('It is turned off.');
    await place.db.run('update webhook set enabled = true where id = $1', [hook.webhook.id]);
    // Of a run that is gone nothing is told.
    await place.db.run('delete from routine');
    status = 204;
    got = [];
    await callWebhook(place.db, config, job, false);
    expect(got).toEqual([]);
  });

  it('is only for who keeps the webhook; a run whose webhook is gone fails with words', async () => {
    const editor = await personWith(place.db, 'Edda', 'editor', made.domainId);
    expect(await refused(make([step()], editor))).toMatchObject({ status: 422, code: 'invalid' });
    const other = await personWith(place.db, 'Ulf', 'administrator', made.domainId);
    expect(await refused(make([step()], other))).toMatchObject({ status: 422 });
    expect(await refused(make([step('00000000-0000-4000-8000-000000000000')]))).toMatchObject({ status: 422 });
    await quays(1, made.domainId);
    const passing = await webhook(admin, 'Passing');
    const routine = await make([{ do: 'wait', days: 1 }, step(passing.webhook.id)]);
    const { changes } = await previewRoutine(place.db, admin, routine);
    const { id } = await place.db.transaction((tx) => runRoutine(tx, admin, routine.id, changes));
    await workOnRun(place.db, id);
    await place.db.transaction((tx) => removeWebhook(tx, admin, passing.webhook.id));
    await place.db.run("update routine_run set state = 'running' where id = $1", [id]);
    await workOnRun(place.db, id);
    const failed = await getRun(place.db, admin, id);
    expect([failed.state, failed.problem]).toEqual([
      'failed',
      expect.stringContaining('is not there, or is not yours'),
    ]);
    expect(failed.steps[1]?.told).toContain('a webhook that is not there any more');
  });
});
