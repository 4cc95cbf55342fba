import type { CloudEvent } from '@idrel/contract/exchange';
import { record, service } from '../journal/index.ts';
import { loadWho, type Who } from '../people/index.ts';
import type { Config } from '../platform/config.ts';
import type { Database, Db } from '../platform/database.ts';
import { sendMail } from '../platform/mail.ts';
import type { Posted } from '../platform/post.ts';
import { ApiProblem } from '../platform/problems.ts';
import { eventsAt, eventsKept, placeEvents, readEvents } from './events.ts';
import { keysOf, send } from './signed.ts';
import { maySend } from './webhooks.ts';

/** So many events are read at once, and sent beside each other; of what was set aside so many are tried in one round. */
const [AT_ONCE, BESIDE, AGAIN] = [500, 16, 100];
/** So many that fail one after the other, with none between them that was taken, mean that nothing is taken now. */
const UNWELL = 5;
/** So many rounds of one webhook follow each other before others are looked for; so many webhooks are told at a time. */
const [ROUNDS, HOOKS] = [50, 4];
/** After how many seconds a message is tried again, the first time, the second and so on: three days in all. */
export const RETRIES: readonly number[] = [5, 300, 1800, 7200, 18_000, 36_000, 50_400, 72_000, 86_400];
/** So long one that takes nothing is tried before it is turned off, in hours; so long a round may take before what is left of it is set aside, in milliseconds. */
const [UNWELL_HOURS, ROUND_MS] = [60, 20_000];
/** The longest that an address may ask to be left alone, in seconds. */
const LONGEST = 86_400;

interface Hook {
  readonly id: string;
  readonly name: string;
  readonly address: string;
  readonly kinds: readonly string[];
  readonly domainId: string | null;
  readonly filter: string | null;
  readonly personId: string | null;
  readonly person: string | null;
  readonly after: number;
  readonly unwell: boolean;
  readonly unwellHours: number;
}
interface Aside {
  readonly id: string;
  readonly seq: number;
  readonly subject: string;
  readonly tries: number;
}

const askOf = ({ kinds, domainId, filter }: Hook) => ({
  kinds,
  ...(domainId === null ? {} : { domain: domainId }),
  ...(filter === null ? {} : { filter }),
});
const placeOf = ({ sequence }: CloudEvent) => Number(sequence);

/** Does some work for each of many, so many at a time. */
async function beside<T>(items: readonly T[], work: (item: T) => Promise<void>): Promise<void> {
  const left = [...items].reverse();
  const worker = async () => {
    for (let item = left.pop(); item !== undefined; item = left.pop()) await work(item);
  };
  await Promise.all(Array.from({ length: Math.min(BESIDE, items.length) }, worker));
}

/** When a message that failed is tried again, in seconds; null: not by itself any more. Somewhat earlier or later, so that not all come at once. */
function waitOf(tries: number, { retryAfter }: Posted): number | null {
  const wait = RETRIES[tries - 1];
  if (wait === undefined) return null;
  return Math.max(wait * (0.9 + 0.2 * Math.random()), Math.min(retryAfter ?? 0, LONGEST));
}

/** What the address answered that it wants nothing more (410, as Standard Webhooks says). */
const GONE = 410;

/** What the job of writing about a webhook is given. */
export interface WebhookMail {
  readonly webhookId: string;
}

/** Turns a webhook off by itself, and has whoever answers for it told. */
async function turnOff(tx: Db, hook: Hook, why: string): Promise<void> {
  const off = await tx.run(
    'update webhook set enabled = false, off_why = $2, version = version + 1 where id = $1 and enabled',
    [hook.id, why],
  );
  if (off === 0) return;
  const subject = { kind: 'webhook', id: hook.id, name: hook.name, domainId: null } as const;
  await record(tx, service('webhooks'), 'turned off', subject, { enabled: true }, { enabled: false, because: why });
  await tx.run("select graphile_worker.add_job('webhook-off', $1::json, max_attempts => 8)", [
    JSON.stringify({ webhookId: hook.id } satisfies WebhookMail),
  ]);
}

/** Tries again what was set aside and is due: of each thing the oldest alone, since those of one thing go in order. @returns whether something was taken */
async function sendAside(tx: Db, config: Config, who: Who, hook: Hook, secrets: readonly string[]): Promise<boolean> {
  const due = await tx.rows<Aside>(
    `
      select id, seq::float8 as seq, subject, tries
      from (
        select distinct on (subject) id, seq, subject, tries, last_at, next_at
        from webhook_message
        where webhook_id = $1 and next_at is not null
        order by subject, seq
      ) oldest
      where next_at <= now()
      -- What was tried longest ago goes first: one that is never taken does not stand in the way of the others.
      order by last_at nulls first, seq
      limit $2`,
    // While nothing is taken, one at a time is asked whether that is over.
    [hook.id, hook.unwell ? 1 : AGAIN],
  );
  let taken = 0;
  const events = await eventsAt(
    tx,
    who,
    config.address ?? '/',
    askOf(hook),
    due.map(({ seq }) => seq),
  );
  // What they may see no more, or is kept no more, is not sent.
  const outcomes: { message: Aside; event: CloudEvent | undefined; posted?: Posted }[] = due.map((message) => ({
    message,
    event: events.get(message.seq),
  }));
  await beside(outcomes, async (outcome) => {
    if (outcome.event) outcome.posted = await send(config, hook.address, secrets, outcome.event);
  });
  for (const { message, posted } of outcomes) {
    if (!posted || posted.problem === null) {
      await tx.run('delete from webhook_message where id = $1', [message.id]);
      if (posted) taken += 1;
      continue;
    }
    const wait = waitOf(message.tries + 1, posted);
    await tx.run(
      `
        update webhook_message
        set tries = tries + 1, last_at = now(), problem = $2, next_at = now() + $3::float8 * interval '1 second'
        where id = $1`,
      [message.id, posted.problem, wait],
    );
    if (posted.status === GONE) await turnOff(tx, hook, 'The address answered that it is gone for good (410).');
    else if (wait === null && hook.unwellHours > UNWELL_HOURS)
      await turnOff(tx, hook, `Nothing was taken for days. ${posted.problem}`);
  }
  if (taken > 0) {
    await tx.run(
      'update webhook_place set sent = sent + $2, sent_at = now(), unwell_since = null where webhook_id = $1',
      [hook.id, taken],
    );
    if (hook.unwell)
      await tx.run('update webhook_message set next_at = now() where webhook_id = $1 and next_at is not null', [
        hook.id,
      ]);
  }
  return taken > 0;
}

/** Goes on where events are kept, when a webhook was off for longer than that; and says so. */
async function missEvents(tx: Db, hook: Hook, begun: number): Promise<boolean> {
  await tx.run('update webhook_place set after = $2 where webhook_id = $1', [hook.id, begun]);
  const subject = { kind: 'webhook', id: hook.id, name: hook.name, domainId: null } as const;
  await record(tx, service('webhooks'), 'missed events', subject, { place: hook.after }, { place: begun });
  return true;
}

/** Sends what comes next. What fails is set aside, and what comes later of the same thing behind it. @returns whether there may be more */
async function sendNext(tx: Db, config: Config, who: Who, hook: Hook, secrets: readonly string[]): Promise<boolean> {
  const { begun } = await eventsKept(tx);
  if (hook.after > 0 && hook.after < begun) return missEvents(tx, hook, begun);
  const { events, next } = await readEvents(
    tx,
    who,
    config.address ?? '/',
    { ...askOf(hook), after: hook.after },
    AT_ONCE,
  );
  const blocked = new Set(
    (
      await tx.rows<{ subject: string }>(
        'select distinct subject from webhook_message where webhook_id = $1 and next_at is not null and subject = any($2::text[])',
        [hook.id, events.map(({ subject }) => subject)],
      )
    ).map(({ subject }) => subject),
  );
  const aside: { event: CloudEvent; posted: Posted | null }[] = [];
  const chains = new Map<string, CloudEvent[]>();
  for (const event of events) chains.set(event.subject, [...(chains.get(event.subject) ?? []), event]);
  let [taken, failed, gone] = [0, 0, false];
  const until = Date.now() + ROUND_MS;
  const goesOn = () => failed < UNWELL && !gone && Date.now() < until;
  await beside([...chains], async ([subject, chain]) => {
    let open = !blocked.has(subject);
    for (const event of chain) {
      const posted = open && goesOn() ? await send(config, hook.address, secrets, event) : null;
      if (posted?.problem === null) {
        taken += 1;
        // One that was begun before it was seen that nothing is taken says nothing of that.
        if (failed < UNWELL) failed = 0;
        continue;
      }
      if (posted) failed += 1;
      gone ||= posted?.status === GONE;
      open = false;
      aside.push({ event, posted });
    }
  });
  if (aside.length > 0)
    await tx.run(
      `
        insert into webhook_message (webhook_id, seq, type, subject, tries, last_at, next_at, problem)
        select $1, m.seq, m.type, m.subject, m.tries, case when m.tries > 0 then now() end, now() + m.wait * interval '1 second', m.problem
        from json_to_recordset($2::json) as m(seq bigint, type text, subject text, tries integer, wait float8, problem text)
        on conflict (webhook_id, seq) do nothing`,
      [
        hook.id,
        JSON.stringify(
          aside.map(({ event, posted }) => ({
            seq: placeOf(event),
            type: event.type,
            subject: event.subject,
            tries: posted ? 1 : 0,
            wait: posted ? waitOf(1, posted) : 0,
            problem: posted?.problem ?? null,
          })),
        ),
      ],
    );
  const unwell = failed >= UNWELL;
  await tx.run(
    `
      update webhook_place
      set after = $2, sent = sent + $3, sent_at = case when $3 > 0 then now() else sent_at end,
        unwell_since = case when $4 then coalesce(unwell_since, now()) end
      where webhook_id = $1`,
    [hook.id, next, taken, unwell],
  );
  if (gone) await turnOff(tx, hook, 'The address answered that it is gone for good (410).');
  return !unwell && !gone && next > hook.after;
}

/** One round of a webhook; its row is held meanwhile, so that no other worker sends beside it. @returns whether there may be more */
const round = (db: Database, config: Config, id: string): Promise<boolean> =>
  db.transaction(async (tx) => {
    const hook = await tx.one<Hook>(
      `
        select
          w.id, w.name, w.address, w.kinds, w.domain_id as "domainId", w.filter, w.person_id as "personId", p.name as person,
          x.after::float8 as after,
          -- Where nothing is left by which to ask whether it is over, what comes next does.
          x.unwell_since is not null and exists (
            select from webhook_message m where m.webhook_id = x.webhook_id and m.next_at is not null
          ) as unwell,
          coalesce(extract(epoch from now() - x.unwell_since) / 3600, 0)::float8 as "unwellHours"
        from webhook_place x
        join webhook w on w.id = x.webhook_id
        join person p on p.id = w.person_id
        where x.webhook_id = $1 and w.enabled
        for update of x skip locked`,
      [id],
    );
    const who = hook && (await loadWho(tx, hook.personId ?? ''));
    if (!hook || !maySend(who)) return false;
    try {
      const secrets = await keysOf(tx, config, id);
      const again = await sendAside(tx, config, who, hook, secrets);
      // Behind what was just taken again the rest follows in the next round.
      if (again || hook.unwell) return again;
      return await sendNext(tx, config, who, hook, secrets);
    } catch (error) {
      // A search that can be read no more, a secret that no key opens: nobody would see why nothing is sent.
      if (!(error instanceof ApiProblem)) throw error;
      await turnOff(tx, hook, [error.message, error.more.mend].filter(Boolean).join(' '));
      return false;
    }
  });

/** Sends what is to be sent, of all webhooks. @returns how many had something to do */
export async function tendWebhooks(db: Database, config: Config): Promise<number> {
  while ((await placeEvents(db)) > 0);
  const due = await db.rows<{ id: string }>(`
    select w.id
    from webhook w
    join webhook_place x on x.webhook_id = w.id
    join person p on p.id = w.person_id and p.left_at is null
    cross join event_head h
    where w.enabled and (
      x.after < h.last
      and (
        x.unwell_since is null
        or not exists (select from webhook_message m where m.webhook_id = w.id and m.next_at is not null)
      )
      or exists (select from webhook_message m where m.webhook_id = w.id and m.next_at <= now())
    )
    order by x.after`);
  const left = due.map(({ id }) => id).reverse();
  const errors: unknown[] = [];
  const worker = async () => {
    for (let id = left.pop(); id !== undefined; id = left.pop())
      try {
        for (let nth = 0; nth < ROUNDS; nth += 1) if (!(await round(db, config, id))) break;
      } catch (error) {
        // One that fails is in nobody's way.
        errors.push(error);
      }
  };
  await Promise.all(Array.from({ length: Math.min(HOOKS, due.length) }, worker));
  if (errors.length > 0) throw errors[0];
  return due.length;
}

/** Writes to whoever answers for a webhook that it was turned off. @returns whether a mail was sent */
export async function mailOfWebhook(db: Db, config: Config, { webhookId }: WebhookMail): Promise<boolean> {
  const row = await db.one<{ hook: string; why: string | null; name: string; email: string | null }>(
    `
      select w.name as hook, w.off_why as why, p.name, p.email
      from webhook w
      join person p on p.id = w.person_id and p.left_at is null
      where w.id = $1 and not w.enabled`,
    [webhookId],
  );
  if (!row?.email || !config.mail || !config.address) return false;
  await sendMail(config, {
    to: row.email,
    subject: `The webhook “${row.hook}” was turned off`,
    text: [
      `Hello ${row.name},`,
      `the webhook “${row.hook}” was turned off. ${row.why ?? ''}`,
      `Nothing is lost: when it is turned on again, it goes on where it stopped, as long as events are kept.\n${config.address}/settings/webhooks\n`,
    ].join('\n\n'),
  });
  return true;
}
