import { randomBytes, randomUUID } from 'node:crypto';
import type { Webhook, WebhookBody, WebhookMessage, webhookEndpoints } from '@idrel/contract/exchange';
import type { AnswerOf } from '@idrel/contract/http';
import { factsOf } from '@idrel/contract/things';
import { readFilter } from '../catalog/index.ts';
import { change, create, type Kept, record, remove } from '../journal/index.ts';
import { type Held, loadWho, oneEach, type Who } from '../people/index.ts';
import type { Config } from '../platform/config.ts';
import type { Database, Db } from '../platform/database.ts';
import { forbidden, invalid, notFound } from '../platform/problems.ts';
import { encrypt, sealedAnew } from '../platform/secrets.ts';
import { begins, placeEvents } from './events.ts';
import { WEBHOOK, type WebhookRow } from './models.ts';
import { keysOf, send } from './signed.ts';

type Row = Omit<Webhook, 'state' | 'why' | 'enabled'> & {
  readonly enabled: boolean;
  readonly personId: string | null;
  readonly offWhy: string | null;
  readonly lastProblem: string | null;
};

const SELECT = `
  select
    w.id, w.name, w.address, w.kinds, w.domain_id as "domainId", d.name as domain, w.filter, w.enabled, w.off_why as "offWhy",
    w.person_id as "personId", p.name as person, x.unwell_since as since, x.after::float8 as after,
    greatest(0, h.last - x.after)::int as behind, x.sent::float8 as sent, x.sent_at as "sentAt", m.waiting, m.dead, m.problem as "lastProblem",
    w.version
  from webhook w
  join webhook_place x on x.webhook_id = w.id
  cross join event_head h
  left join person p on p.id = w.person_id
  left join domain d on d.id = w.domain_id
  cross join lateral (
    select
      count(*) filter (where y.next_at is not null)::int as waiting, count(*) filter (where y.next_at is null)::int as dead,
      (array_agg(y.problem order by y.last_at desc nulls last))[1] as problem
    from webhook_message y
    where y.webhook_id = w.id
  ) m`;

/** Whether somebody may still have events sent: what they may see is sent only as long as they administer something. */
export const maySend = (who: Who | undefined): who is Who => who?.isAnywhere('administrator') ?? false;

/** Why nothing is sent though it is turned on; null where it is. */
function waits(row: Row, keeper: Who | undefined): string | null {
  if (row.personId === null) return 'Who answered for it has left: save it to answer for it yourself.';
  if (!maySend(keeper))
    return `${row.person ?? 'Who saved it'} administers nothing any more: save it to answer for it.`;
  if (row.domainId !== null && row.domain === null)
    return 'The domain that it was narrowed to is gone: choose another.';
  return null;
}

/** Some addresses hold a secret in their path, which is none of a program that reads by a key. */
const addressFor = (who: Who, address: string): string => (who.key ? `${new URL(address).origin}/…` : address);

function shown(who: Who, { personId: _, offWhy, lastProblem, ...row }: Row, waiting: string | null): Webhook {
  const state = !row.enabled || waiting ? 'off' : row.since === null ? 'well' : 'unwell';
  return {
    ...row,
    address: addressFor(who, row.address),
    state,
    why: !row.enabled ? offWhy : (waiting ?? (row.since === null ? null : lastProblem)),
  };
}

async function read(db: Db, who: Who, rows: readonly Row[]): Promise<Webhook[]> {
  const keepers = new Map<string, Who | undefined>();
  for (const { personId } of rows)
    if (personId !== null && !keepers.has(personId)) keepers.set(personId, await loadWho(db, personId));
  return rows.map((row) => shown(who, row, waits(row, keepers.get(row.personId ?? ''))));
}

/** Whether somebody may see and change one that another keeps: $1 who asks, $2 whether they administer everything. */
export const MAY_USE = '(w.person_id = $1 or $2)';
export const useBind = (who: Who): unknown[] => [who.id, who.isEverywhere('administrator')];

/** Those of somebody, or for administrators of everything those of everybody. */
export const listWebhooks = async (db: Db, who: Who): Promise<Webhook[]> =>
  read(db, who, await db.rows<Row>(`${SELECT} where ${MAY_USE} order by lower(w.name)`, useBind(who)));

const WEBHOOKS: Kept<WebhookRow, Webhook> = {
  thing: 'webhook',
  model: WEBHOOK,
  async read(db, who, id) {
    const rows = await db.rows<Row>(`${SELECT} where ${MAY_USE} and w.id = $3`, [...useBind(who), id]);
    const [found] = await read(db, who, rows);
    if (!found) throw notFound('The webhook');
    return found;
  },
  // Some addresses hold a secret in their path: the journal is read by more than keep webhooks.
  told: (_db, { name, address, kinds, domain, filter, enabled }) => ({
    name,
    host: new URL(address).host,
    kinds,
    domain,
    search: filter,
    enabled,
  }),
};

/** @throws 422 where its search cannot be read, or a kind is none; 404 where its domain is none in which they may read */
function check(who: Who, body: WebhookBody): void {
  if (body.filter !== null) readFilter(body.filter);
  if (body.domainId !== null && !who.is('reader', body.domainId)) throw notFound('The domain');
  const unknown = body.kinds.find((kind) => !factsOf(kind));
  if (unknown !== undefined)
    throw invalid(`Nothing is called “${unknown}”.`, 'Name kinds as the journal does: table, term, policy …', [
      { field: 'kinds', message: 'holds what is no kind' },
    ]);
}

/** A secret as Standard Webhooks writes one: 24 to 64 bytes. */
const newSecret = () => `whsec_${randomBytes(32).toString('base64')}`;

/** @throws 403, 404, 409, 422 */
export async function makeWebhook(
  db: Database,
  { key }: Pick<Config, 'key'>,
  who: Who,
  body: WebhookBody,
): Promise<AnswerOf<typeof webhookEndpoints.make>> {
  if (!maySend(who)) throw forbidden('of an administrator');
  check(who, body);
  const secret = newSecret();
  // It begins with what changes from now on: what has changed has its place by then.
  await placeEvents(db);
  const webhook = await db.transaction((tx) =>
    create(
      tx,
      who,
      WEBHOOKS,
      { ...body, personId: who.id, secret: encrypt(key, secret), offWhy: null },
      { parts: (id) => tx.run('insert into webhook_place (webhook_id, after) select $1, last from event_head', [id]) },
    ),
  );
  return { webhook, secret };
}

/** Saves one: whoever does answers for it from then on. What was not taken is tried at once. @throws 404, 409, 412, 422 */
export async function changeWebhook(
  tx: Db,
  who: Who,
  id: string,
  version: number,
  body: WebhookBody,
): Promise<Webhook> {
  if (!maySend(who)) throw forbidden('of an administrator');
  const before = await WEBHOOKS.read(tx, who, id);
  await roundOver(tx, id);
  // What is gone may stay: nothing is sent then.
  check(who, body.domainId === before.domainId && before.domain === null ? { ...body, domainId: null } : body);
  const { after } = await change(tx, who, WEBHOOKS, id, {
    version,
    values: { ...body, personId: who.id, offWhy: null },
  });
  await tryAtOnce(tx, id);
  return after;
}

/** Waits until nobody sends for a webhook: whoever does holds its place, and writes down what was not taken afterwards. */
async function roundOver(tx: Db, id: string): Promise<void> {
  await tx.run('select from webhook_place where webhook_id = $1 for update', [id]);
}

async function tryAtOnce(tx: Db, id: string): Promise<void> {
  await tx.run('update webhook_message set next_at = now() where webhook_id = $1 and next_at > now()', [id]);
}

export const removeWebhook = async (tx: Db, who: Who, id: string): Promise<void> => {
  await WEBHOOKS.read(tx, who, id);
  await roundOver(tx, id);
  await remove(tx, who, WEBHOOKS, id);
};

/** Puts another secret in the place of one; for some hours both sign. @throws 404 */
export async function renewSecret(
  tx: Db,
  { key }: Pick<Config, 'key'>,
  who: Who,
  id: string,
  hours: number,
): Promise<{ secret: string }> {
  const { name } = await WEBHOOKS.read(tx, who, id);
  const secret = newSecret();
  await tx.run(
    `
      update webhook
      set secret_before = secret, before_ends_at = now() + $2 * interval '1 hour', secret = $3, version = version + 1
      where id = $1`,
    [id, hours, encrypt(key, secret)],
  );
  const subject = { kind: 'webhook', id, name, domainId: null } as const;
  await record(tx, who, 'secret renewed', subject, null, { 'the old one goes on, hours': hours });
  return { secret };
}

/** Sends a message that tells of no change. @throws 404 */
export async function tryWebhook(
  db: Db,
  config: Config,
  who: Who,
  id: string,
): Promise<AnswerOf<typeof webhookEndpoints.try>> {
  const { name, address } = await WEBHOOKS.read(db, who, id);
  const event = {
    specversion: '1.0',
    id: `tried-${randomUUID()}`,
    source: config.address ?? '/',
    type: 'idrel.webhook.tried',
    subject: `webhook/${id}`,
    time: new Date().toISOString(),
    datacontenttype: 'application/json',
    data: { name },
  };
  const started = performance.now();
  const { status, problem } = await send(config, address, await keysOf(db, config, id), event);
  return { taken: problem === null, status, problem, ms: Math.round(performance.now() - started) };
}

/** What an address did not take. @throws 404 */
export async function messagesOf(
  db: Db,
  who: Who,
  id: string,
  { dead, after, limit }: { dead: boolean; after: number; limit: number },
): Promise<WebhookMessage[]> {
  await WEBHOOKS.read(db, who, id);
  return db.rows<WebhookMessage>(
    `
      select
        id, seq::float8 as place, type, subject, tries, last_at as "lastAt", next_at as "nextAt", problem
      from webhook_message
      where webhook_id = $1 and (next_at is null) = $2 and seq > $3
      order by seq
      limit $4`,
    [id, dead, after, limit],
  );
}

/** Has sent again what was not taken: as if it had not been tried. @throws 404 */
export async function sendAgain(
  tx: Db,
  who: Who,
  id: string,
  messages: readonly string[] | null,
): Promise<{ messages: number }> {
  const { name } = await WEBHOOKS.read(tx, who, id);
  const sent = await tx.run(
    `
      update webhook_message
      set tries = 0, next_at = now()
      where webhook_id = $1 and case when $2::uuid[] is null then next_at is null else id = any($2::uuid[]) end`,
    [id, messages],
  );
  const subject = { kind: 'webhook', id, name, domainId: null } as const;
  if (sent > 0) await record(tx, who, 'sent again', subject, null, { messages: sent });
  return { messages: sent };
}

/** Has one begin at another place. @throws 404; 410 where what would come next is kept no more; 422 where there is no such place yet */
export async function sendFrom(tx: Db, who: Who, id: string, after: number): Promise<Webhook> {
  const { name, after: before } = await WEBHOOKS.read(tx, who, id);
  const { last } = await begins(tx, after);
  if (after > last)
    throw invalid(`There is no place ${after} yet.`, `The last one is ${last}.`, [
      { field: 'after', message: 'lies ahead' },
    ]);
  await tx.run('update webhook_place set after = $2 where webhook_id = $1', [id, after]);
  // It comes again with the rest.
  await tx.run('delete from webhook_message where webhook_id = $1 and seq > $2', [id, after]);
  const subject = { kind: 'webhook', id, name, domainId: null } as const;
  await record(tx, who, 'begun elsewhere', subject, { place: before }, { place: after });
  return WEBHOOKS.read(tx, who, id);
}

/**
 * Encrypts secrets anew that are still under a key from before. What no key opens is lost: such a webhook takes a new secret.
 * @returns how many were, and names of those that are lost
 */
export async function resealWebhooks(
  tx: Db,
  config: Pick<Config, 'key' | 'keysBefore'>,
): Promise<{ resealed: number; lost: string[] }> {
  const lost: string[] = [];
  let resealed = 0;
  for (const { id, name, secret, before } of await tx.rows<{
    id: string;
    name: string;
    secret: Buffer;
    before: Buffer | null;
  }>('select id, name, secret, secret_before as before from webhook order by name for update')) {
    const anew = sealedAnew(config, secret);
    if (anew === undefined) lost.push(name);
    else if (anew !== secret) {
      const old = before && (sealedAnew(config, before) ?? null);
      await tx.run('update webhook set secret = $2, secret_before = $3 where id = $1', [id, anew, old]);
      resealed += 1;
    }
  }
  return { resealed, lost };
}

/** So long what was not taken is kept: as long as the events that it is made of. */
export const forgetMessages = (db: Db): Promise<number> =>
  db.run('delete from webhook_message where next_at is null and seq < (select min(seq) from event)');

export const WEBHOOKS_HELD: readonly Held[] = [
  oneEach({
    what: 'webhooks',
    after:
      'Whom you choose answers for them, and what they may see is sent; with nobody, nothing is until somebody saves them.',
    thing: 'webhook',
    table: 'webhook',
    column: 'person_id',
    word: 'answered for by',
    address: "'/settings/webhooks'",
  }),
];
