import type { Subscription, SubscriptionBody, SubscriptionHow } from '@idrel/contract/exchange';
import { pathOf, readFilter } from '../catalog/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import type { Config } from '../platform/config.ts';
import type { Database, Db } from '../platform/database.ts';
import { modelIn } from '../platform/models.ts';
import { conflict, invalid, mustBeCurrent, notFound } from '../platform/problems.ts';
import { lastPlace, placeEvents } from './events.ts';
import { SUBSCRIPTION } from './models.ts';

/** So many one person has at most: each is looked at with whatever changes. */
const MOST = 200;

/** $1: the person; $2: the domains in which they may read. */
const SELECT = `
  select
    s.id, s.what, coalesce(s.asset_id, s.domain_id, s.term_id) as "subjectId", s.filter, s.below, s.pace, s.mail, s.chat, s.version,
    case s.what
      when 'asset' then (
        select ${pathOf('a', 'x')} from asset a join source x on x.id = a.source_id where a.id = s.asset_id and ${isSeen('a', '$2')}
      )
      when 'domain' then (select d.name from domain d where d.id = s.domain_id)
      when 'term' then (select t.name from term t where t.id = s.term_id and t.removed_at is null)
      else s.filter
    end as name,
    (select count(*)::int from news n where n.subscription_id = s.id and n.at > now() - interval '30 days') as came
  from subscription s
  where s.person_id = $1`;
const bound = (who: Who) => [who.id, who.domainsAs('reader')];

/** What somebody has themselves told of. It is theirs alone to see: the journal has nothing of it. */
export async function listSubscriptions(
  db: Db,
  config: Pick<Config, 'mail' | 'chat' | 'address'>,
  who: Who,
): Promise<{ items: Subscription[]; canMail: boolean; canChat: boolean }> {
  const items = await db.rows<Subscription>(
    `${SELECT} order by array_position(array['search', 'domain', 'asset', 'term'], s.what), s.filter, s.id`,
    bound(who),
  );
  const row = await db.one<{ email: string | null }>('select email from person where id = $1', [who.id]);
  const reached = Boolean(config.address && row?.email);
  return { items, canMail: reached && Boolean(config.mail), canChat: reached && Boolean(config.chat) };
}

async function readOne(db: Db, who: Who, id: string): Promise<Subscription> {
  const found = await db.one<Subscription>(`${SELECT} and s.id = $3`, [...bound(who), id]);
  if (!found) throw notFound('The subscription');
  return found;
}

const WORDS = { asset: 'asset', domain: 'domain', term: 'term' } as const;

/** Whether there is such a thing, and they may see it. @throws 404 */
async function mustSee(db: Db, who: Who, what: keyof typeof WORDS, id: string): Promise<void> {
  const found = await db.one(
    what === 'asset'
      ? `select from asset a where a.id = $1 and ${isSeen('a', '$2')}`
      : what === 'domain'
        ? 'select from domain where id = $1 and id = any($2::uuid[])'
        : 'select from term where id = $1 and removed_at is null and $2::uuid[] is not null',
    [id, who.domainsAs('reader')],
  );
  if (!found) throw notFound(`The ${WORDS[what]}`);
}

/** @throws 404; 409 where they have one of the same; 422 where it says not what, or the search cannot be read */
export async function subscribe(db: Database, who: Who, body: SubscriptionBody): Promise<Subscription> {
  const { what, subjectId, filter, below, pace, mail, chat } = body;
  if (what === 'search') {
    if (filter === null)
      throw invalid('It is not said which search.', 'Give its filter.', [{ field: 'filter', message: 'is missing' }]);
    readFilter(filter);
  } else {
    if (subjectId === null)
      throw invalid(`It is not said which ${what}.`, 'Give its id.', [{ field: 'subjectId', message: 'is missing' }]);
    await mustSee(db, who, what, subjectId);
  }
  const values = {
    personId: who.id,
    what,
    assetId: what === 'asset' ? subjectId : null,
    domainId: what === 'domain' ? subjectId : null,
    termId: what === 'term' ? subjectId : null,
    filter: what === 'search' ? filter : null,
    below,
    pace,
    mail,
    chat,
  };
  // It begins with what changes from now on: what has changed has its place by then.
  await placeEvents(db);
  return db.transaction(async (tx) => {
    // Held, so that no two are made at once beyond what may be.
    await tx.run('select from person where id = $1 for update', [who.id]);
    const held = await tx.one<{ n: number; same: boolean }>(
      `
        select
          count(*)::int as n,
          coalesce(bool_or(what = $2 and coalesce(asset_id, domain_id, term_id) is not distinct from $3::uuid and filter is not distinct from $4), false) as same
        from subscription
        where person_id = $1`,
      [who.id, what, what === 'search' ? null : subjectId, values.filter],
    );
    if (held?.same)
      throw conflict('name-taken', 'You are told of it already.', 'Change how, under News → Subscriptions.');
    if ((held?.n ?? 0) >= MOST)
      throw invalid(
        `You have ${MOST} subscriptions already.`,
        'End some, or take a search or a domain in their place.',
      );
    const row = await modelIn(tx, SUBSCRIPTION).create({ ...values, since: await lastPlace(tx) } as never, tx.here);
    return readOne(tx, who, row.get().id);
  });
}

/** @throws 404, 412 */
export async function changeSubscription(
  tx: Db,
  who: Who,
  id: string,
  version: number,
  how: SubscriptionHow,
): Promise<Subscription> {
  const row = await modelIn(tx, SUBSCRIPTION).findByPk(id, { ...tx.here, lock: true });
  const before = await readOne(tx, who, id);
  if (!row) throw notFound('The subscription');
  mustBeCurrent(version, before);
  await row.update(how as never, tx.here);
  // What waits for another morning follows.
  if (how.pace === 'at once')
    await tx.run(
      `
        update news
        set
          due_at = least(due_at, now()), mail_at = least(mail_at, now() + interval '1 minute'),
          chat_at = least(chat_at, now())
        where subscription_id = $1 and due_at > now()`,
      [id],
    );
  if (!how.chat) await tx.run('update news set chat_at = null where subscription_id = $1 and chatted_at is null', [id]);
  if (!how.mail) await tx.run('update news set mail_at = null where subscription_id = $1 and mailed_at is null', [id]);
  return readOne(tx, who, id);
}

export async function endSubscription(tx: Db, who: Who, id: string): Promise<void> {
  const ended = await tx.run('delete from subscription where id = $2 and person_id = $1', [who.id, id]);
  if (ended === 0) throw notFound('The subscription');
}
