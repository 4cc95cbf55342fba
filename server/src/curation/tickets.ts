import type { Ticket, TicketBody, TicketTold, ticketEndpoints } from '@idrel/contract/curation';
import type { AnswerOf } from '@idrel/contract/http';
import { onOneLine, shortened } from '@idrel/core/text';
import { FROM, getAsset, PATH } from '../catalog/index.ts';
import { type Entry, type Principal, record, recordEach, service } from '../journal/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import { onlyWith } from '../platform/bearer.ts';
import type { Config } from '../platform/config.ts';
import type { Database, Db } from '../platform/database.ts';
import { conflict, notFound } from '../platform/problems.ts';

/** So many tickets a step of a run opens. */
const MOST_OF_A_RUN = 50;
/** So long the tracker is waited for, in milliseconds; so often it is tried; so much of what it says is told. */
const [PATIENCE, TRIES, LETTERS] = [10_000, 12, 300];

/** The work of the job that opens a ticket. */
export interface TicketJob {
  readonly ticketId: string;
}

const SELECT = `
  select
    t.id, t.title, t.state, t.key, t.url, p.name as by, r.name as routine, t.opened_at as "openedAt", t.closed_at as "closedAt", t.problem
  from ticket t
  left join person p on p.id = t.opened_by
  left join routine r on r.id = t.routine_id`;

async function read(db: Db, id: string): Promise<Ticket> {
  const ticket = await db.one<Ticket>(`${SELECT} where t.id = $1`, [id]);
  if (!ticket) throw notFound('The ticket');
  return ticket;
}

/** Tickets of an asset, to whoever may see it. */
export async function listTickets(
  db: Db,
  { tracker }: Pick<Config, 'tracker'>,
  who: Who,
  assetId: string,
): Promise<AnswerOf<typeof ticketEndpoints.list>> {
  await getAsset(db, who, assetId);
  const items = await db.rows<Ticket>(
    `${SELECT} where t.asset_id = $1 order by t.state = 'closed', t.opened_at desc, t.id limit 200`,
    [assetId],
  );
  return { items, tracker: tracker !== null };
}

function mustHaveTracker({ tracker }: Pick<Config, 'tracker'>): void {
  if (!tracker)
    throw conflict(
      'no-tracker',
      'There is no tracker in which a ticket could be opened.',
      'Let an operator set IDREL_TRACKER_URL.',
    );
}

/** A job for each ticket: what cannot be given to the tracker now is tried again, over some hours. */
const give = (tx: Db, id: string) =>
  tx.run(
    `
      select graphile_worker.add_job(
        'ticket', json_build_object('ticketId', $1::text), job_key => 'ticket ' || $1::text, max_attempts => ${TRIES}
      )`,
    [id],
  );

/** Opens a ticket about an asset: it stands here at once, and the tracker is given it by a job. */
export async function openTicket(
  tx: Db,
  config: Pick<Config, 'tracker'>,
  who: Who,
  assetId: string,
  { title, text }: TicketBody,
): Promise<Ticket> {
  mustHaveTracker(config);
  const asset = await getAsset(tx, who, assetId);
  const row = (await tx.one<{ id: string }>(
    'insert into ticket (asset_id, title, text, opened_by) values ($1, $2, $3, $4) returning id',
    [assetId, title, text, who.id],
  )) as { id: string };
  await record(
    tx,
    who,
    'ticket opened',
    { kind: asset.kind, id: asset.id, name: asset.path, domainId: asset.domainId },
    null,
    { ticket: title },
  );
  await give(tx, row.id);
  return read(tx, row.id);
}

/** What a routine opens tickets for, and for whom. */
interface Opening {
  readonly principal: Principal;
  readonly who: Who;
  readonly routineId: string;
  readonly title: string;
  readonly text: string;
}

/**
 * Opens a ticket about each of some assets that a routine goes through and whoever it acts for may see; not where one that it opened is open still, so that what runs each
 * day asks once.
 * @returns how many were opened, and how many were left out, since a run opens only so many
 */
export async function openTickets(
  tx: Db,
  { principal, who, routineId, title, text }: Opening,
  assetIds: readonly string[],
): Promise<{ opened: number; left: number }> {
  const due = await tx.rows<{ id: string; kind: Entry['subject']['kind']; path: string; domainId: string }>(
    `
      select a.id, a.kind, ${PATH} as path, a.domain_id as "domainId"
      from ${FROM}
      where a.id = any($1::uuid[]) and ${isSeen('a', '$2')}
        and not exists (select from ticket t where t.asset_id = a.id and t.routine_id = $3 and t.state <> 'closed')
      order by s.name, path`,
    [assetIds, who.domainsAs('reader'), routineId],
  );
  const some = due.slice(0, MOST_OF_A_RUN);
  const rows = await tx.rows<{ id: string }>(
    `
      insert into ticket (asset_id, title, text, opened_by, routine_id)
      select x.id, x.title, $3, $4, $5
      from unnest($1::uuid[], $2::text[]) as x(id, title)
      returning id`,
    [some.map(({ id }) => id), some.map(({ path }) => titleOf(title, path)), text, who.id, routineId],
  );
  await recordEach(
    tx,
    principal,
    some.map(
      ({ id, kind, path, domainId }): Entry => ({
        action: 'ticket opened',
        subject: { kind, id, name: path, domainId },
        before: null,
        after: { ticket: titleOf(title, path) },
      }),
    ),
  );
  for (const { id } of rows) await give(tx, id);
  return { opened: some.length, left: due.length - some.length };
}

const titleOf = (title: string, path: string): string => shortened(`${title}: ${path}`, 200);

/** Gives the tracker a ticket again that it did not take. */
export async function openAgain(tx: Db, config: Pick<Config, 'tracker'>, who: Who, id: string): Promise<Ticket> {
  mustHaveTracker(config);
  const row = await tx.one<{ asset: string; state: Ticket['state'] }>(
    'select asset_id as asset, state from ticket where id = $1 for update',
    [id],
  );
  if (!row) throw notFound('The ticket');
  await getAsset(tx, who, row.asset);
  if (row.state !== 'not opened')
    throw conflict('begun-already', 'The tracker has the ticket, or is being given it.', 'Look at how it stands.');
  await tx.run("update ticket set state = 'being opened', problem = null where id = $1", [id]);
  await give(tx, id);
  return read(tx, id);
}

/** What the tracker answers to a ticket that it is given. @throws where it does not take it */
async function given(
  tracker: NonNullable<Config['tracker']>,
  ticket: object,
): Promise<{ key: string; url: string | null }> {
  const response = await fetch(tracker.url, {
    method: 'POST',
    redirect: 'error',
    signal: AbortSignal.timeout(PATIENCE),
    headers: { 'content-type': 'application/json', authorization: `Bearer ${tracker.secret}` },
    body: JSON.stringify(ticket),
  });
  const text = (await response.text()).slice(0, 65_536);
  if (!response.ok) throw new Error(`It answers ${response.status}. ${shortened(onOneLine(text), LETTERS)}`);
  let said: { key?: unknown; url?: unknown };
  try {
    said = JSON.parse(text) as typeof said;
  } catch {
    throw new Error('What it answers is no JSON.');
  }
  const { key, url } = said ?? {};
  if (typeof key !== 'string' || key.trim() === '' || key.length > 100)
    throw new Error('It does not say under which key it has it.');
  // What is not an address of the web is not made into a link.
  return { key, url: typeof url === 'string' && /^https?:\/\//i.test(url) && url.length <= 2000 ? url : null };
}

/**
 * The work of the job: gives the tracker a ticket. It is told the ticket's own id: whoever is given the same twice knows it.
 * @param last whether it is the last try: then it is told that it was not taken
 * @throws where it is to be tried again
 */
export async function giveTicket(db: Database, config: Config, { ticketId }: TicketJob, last: boolean): Promise<void> {
  const { tracker, address } = config;
  const ticket = await db.one<{
    state: string;
    title: string;
    text: string;
    asset: string;
    by: string | null;
    email: string | null;
  }>(
    `
      select t.state, t.title, t.text, t.asset_id as asset, p.name as by, p.email
      from ticket t
      join asset a on a.id = t.asset_id
      left join person p on p.id = t.opened_by
      where t.id = $1`,
    [ticketId],
  );
  if (ticket?.state !== 'being opened') return;
  try {
    if (!tracker) throw new Error('None is set up.');
    const { key, url } = await given(tracker, {
      id: ticketId,
      title: ticket.title,
      text: ticket.text,
      link: `${address ?? ''}/assets/${ticket.asset}`,
      by: ticket.email ?? ticket.by,
    });
    const taken = await db.run(
      `
        update ticket t
        set state = 'open', key = $2, url = $3, problem = null
        where t.id = $1 and t.state = 'being opened' and not exists (select from ticket o where o.key = $2 and o.id <> t.id)`,
      [ticketId, key, url],
    );
    if (taken === 0) throw new Error(`It says that it has it as ${key}, which is another ticket.`);
  } catch (error) {
    const problem = shortened(`The tracker did not take it. ${(error as Error).message}`, LETTERS);
    await db.run(
      `update ticket set problem = $2${last ? ", state = 'not opened'" : ''} where id = $1 and state = 'being opened'`,
      [ticketId, problem],
    );
    throw error;
  }
}

/** Takes what the tracker tells of a ticket. The asset's journal tells when one is closed, or opened again. @throws 404 for one that is none of ours */
export async function ticketTold(tx: Db, { key, state, title }: TicketTold): Promise<void> {
  const row = await tx.one<{
    id: string;
    state: string;
    title: string;
    asset: string;
    kind: string;
    path: string;
    domainId: string;
  }>(
    `
      select t.id, t.state, t.title, a.id as asset, a.kind, ${PATH} as path, a.domain_id as "domainId"
      from ticket t
      join asset a on a.id = t.asset_id
      join source s on s.id = a.source_id
      where t.key = $1
      for update of t`,
    [key],
  );
  if (!row) throw notFound('The ticket');
  await tx.run(
    `
      update ticket
      set state = $2, title = coalesce($3, title), closed_at = case when $2 = 'closed' then coalesce(closed_at, now()) end
      where id = $1`,
    [row.id, state, title],
  );
  if (state === row.state) return;
  await record(
    tx,
    service('tracker'),
    state === 'closed' ? 'ticket closed' : 'ticket opened again',
    { kind: row.kind as Parameters<typeof record>[3]['kind'], id: row.asset, name: row.path, domainId: row.domainId },
    null,
    { ticket: `${key}: ${title ?? row.title}` },
  );
}

/** Lets nobody past but the tracker that the operator named. */
export const trackerOnly = ({ config: { tracker } }: { readonly config: Pick<Config, 'tracker'> }) =>
  onlyWith(
    tracker?.secret,
    'unknown-tracker',
    'The secret is not that of the tracker that this server speaks with.',
    'Send IDREL_TRACKER_SECRET as a bearer token.',
  );
