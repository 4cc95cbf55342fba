import type { News, newsEndpoints } from '@idrel/contract/exchange';
import type { AnswerOf } from '@idrel/contract/http';
import { SEEN_IN_JOURNAL, seenBy } from '../journal/index.ts';
import { loadWho, type Who } from '../people/index.ts';
import type { Database, Db } from '../platform/database.ts';
import { ApiProblem } from '../platform/problems.ts';
import { foundOf, lastPlace, placeEvents } from './events.ts';

/** So many events are looked at once. */
const AT_ONCE = 500;
/** The hour of the morning at which what is told daily or weekly is. */
const MORNING = 7;
/** Unread ones are counted up to so many; news is kept for so many days. */
const [COUNTED, DAYS] = [100, 90];

/** SQL of when what comes now is told, by its pace; what is told at once is written of a minute later, together with what else came meanwhile. */
const DUE = (pace: string) => `
  case ${pace}
    when 'at once' then now()
    when 'daily' then date_trunc('day', now() - interval '${MORNING} hours') + interval '1 day ${MORNING} hours'
    else date_trunc('week', now() - interval '${MORNING} hours') + interval '7 days ${MORNING} hours'
  end`;

/** What an id looks like; some things are known by words. */
const UUID = '^[0-9a-f]{8}-([0-9a-f]{4}-){3}[0-9a-f]{12}$';

interface Match {
  readonly journalId: string;
  readonly subscriptionId: string;
  readonly personId: string;
}

/**
 * What subscriptions concern of the events in a stretch of places ($1 to $2), but for searches; what somebody did themselves is no news for them. Events of what hangs on
 * an asset (a discussion, a link, a notice) are events of the asset.
 */
const MATCHES = `
  with recursive batch as materialized (
    select
      e.seq, j.id as journal_id, j.person_id, j.subject_kind, j.subject_id, j.domain_id,
      case when j.subject_id ~ '${UUID}' then j.subject_id::uuid end as id
    from event e
    join journal j on j.id = e.journal_id
    where e.seq > $1 and e.seq <= $2
  ),
  up as (
    select b.journal_id, b.seq, b.person_id, a.id as asset_id, a.parent_id, 0 as depth
    from batch b
    join asset a on a.id = coalesce(
      case b.subject_kind
        when 'discussion' then (select d.asset_id from discussion d where d.id = b.id)
        when 'remark' then (select d.asset_id from remark r join discussion d on d.id = r.discussion_id where r.id = b.id)
        when 'link' then (select l.asset_id from asset_link l where l.id = b.id)
        when 'notice' then (select n.asset_id from notice n where n.id = b.id)
      end,
      b.id
    )
    union all
    select up.journal_id, up.seq, up.person_id, a.id, a.parent_id, up.depth + 1
    from up
    join asset a on a.id = up.parent_id
  ),
  around as (
    select journal_id, seq, person_id, domain_id from batch where domain_id is not null
    union
    select w.journal_id, w.seq, w.person_id, d.parent_id
    from around w
    join domain d on d.id = w.domain_id and d.parent_id is not null
  )
  select u.journal_id::text as "journalId", s.id as "subscriptionId", s.person_id as "personId"
  from up u
  join subscription s on s.asset_id = u.asset_id and (s.below or u.depth = 0) and s.since < u.seq
  where u.person_id is distinct from s.person_id
  union
  select w.journal_id::text, s.id, s.person_id
  from around w
  join subscription s on s.domain_id = w.domain_id and s.since < w.seq
  where w.person_id is distinct from s.person_id
  union
  select b.journal_id::text, s.id, s.person_id
  from batch b
  join subscription s on b.subject_kind = 'term' and s.term_id = b.id and s.since < b.seq
  where b.person_id is distinct from s.person_id`;

interface SearchRow {
  readonly id: string;
  readonly personId: string;
  readonly filter: string;
  readonly since: number;
}
interface AssetEvent {
  readonly journalId: string;
  readonly seq: number;
  readonly personId: string | null;
  readonly assetId: string;
}

/** What searches that somebody subscribed to find of it, as they may see it. */
async function foundBySearches(
  tx: Db,
  [from, to]: readonly [number, number],
  whoOf: (id: string) => Promise<Who | undefined>,
): Promise<Match[]> {
  const searches = await tx.rows<SearchRow>(
    'select id, person_id as "personId", filter, since::float8 as since from subscription where filter is not null order by person_id, id',
  );
  if (searches.length === 0) return [];
  const events = await tx.rows<AssetEvent>(
    `
      select e.seq::float8 as seq, j.id::text as "journalId", j.person_id as "personId", a.id as "assetId"
      from event e
      join journal j on j.id = e.journal_id
      join asset a on a.id = case when j.subject_id ~ '${UUID}' then j.subject_id::uuid end
      where e.seq > $1 and e.seq <= $2`,
    [from, to],
  );
  if (events.length === 0) return [];
  const ids = [...new Set(events.map(({ assetId }) => assetId))];
  const matches: Match[] = [];
  for (const { id, personId, filter, since } of searches) {
    const who = await whoOf(personId);
    if (!who) continue;
    // A search that can be read no more, since something that it names is gone, finds nothing.
    const found = await foundOf(tx, who, filter, ids).catch((error: unknown) => {
      if (error instanceof ApiProblem) return new Set<string>();
      throw error;
    });
    for (const event of events)
      if (found.has(event.assetId) && event.seq > since && event.personId !== personId)
        matches.push({ journalId: event.journalId, subscriptionId: id, personId });
  }
  return matches;
}

/** Those entries of some that somebody may see. */
async function seenOf(db: Db, who: Who, journalIds: readonly string[]): Promise<ReadonlySet<string>> {
  const { anywhere, inEachDomain, everywhere } = seenBy(who);
  const rows = await db.rows<{ id: string }>(
    `select j.id::text from journal j where j.id = any($5::bigint[]) and ${SEEN_IN_JOURNAL}`,
    [who.domainsAs('reader'), anywhere, inEachDomain, everywhere, journalIds],
  );
  return new Set(rows.map(({ id }) => id));
}

/** Tells the next events to whom they concern. @returns whether there may be more */
const tellNext = (db: Database): Promise<boolean> =>
  db.transaction(async (tx) => {
    const head = await tx.one<{ last: number }>('select last::float8 as last from news_head for update skip locked');
    if (!head) return false;
    const last = await lastPlace(tx);
    if (last <= head.last) return false;
    const anybody = await tx.one('select from subscription limit 1');
    const to = anybody ? Math.min(last, head.last + AT_ONCE) : last;
    if (anybody) {
      const people = new Map<string, Promise<Who | undefined>>();
      const whoOf = (id: string) => {
        const known = people.get(id) ?? loadWho(tx, id);
        people.set(id, known);
        return known;
      };
      const matches = [
        ...(await tx.rows<Match>(MATCHES, [head.last, to])),
        ...(await foundBySearches(tx, [head.last, to], whoOf)),
      ];
      const ofEach = new Map<string, Match[]>();
      for (const match of matches) ofEach.set(match.personId, [...(ofEach.get(match.personId) ?? []), match]);
      for (const [personId, theirs] of ofEach) {
        const who = await whoOf(personId);
        if (!who) continue;
        const seen = await seenOf(tx, who, [...new Set(theirs.map(({ journalId }) => journalId))]);
        await tx.run(
          `
            insert into news (person_id, journal_id, subscription_id, due_at, mail_at, chat_at)
            select distinct on (m.journal)
              $1::uuid, m.journal, s.id, ${DUE('s.pace')}, case when s.mail then ${DUE('s.pace')} + interval '1 minute' end,
              case when s.chat then ${DUE('s.pace')} end
            from json_to_recordset($2::json) as m(journal bigint, subscription uuid)
            join subscription s on s.id = m.subscription
            -- What comes by several is told as the one says that tells it soonest, and writes of it.
            order by m.journal, array_position(array['at once', 'daily', 'weekly'], s.pace), s.mail desc, s.chat desc, s.id
            on conflict (person_id, journal_id) do nothing`,
          [
            personId,
            JSON.stringify(
              theirs
                .filter(({ journalId }) => seen.has(journalId))
                .map(({ journalId, subscriptionId }) => ({ journal: journalId, subscription: subscriptionId })),
            ),
          ],
        );
      }
    }
    await tx.run('update news_head set last = $1', [to]);
    return to < last;
  });

/** Tells what changed to whom it concerns; nothing of it is lost or told twice, also when this is killed in the middle. */
export async function tendNews(db: Database): Promise<void> {
  while ((await placeEvents(db)) > 0);
  while (await tellNext(db));
}

/** Takes away what is old, some at a time. */
export const forgetNews = (db: Db): Promise<number> =>
  db.run(
    `delete from news n using (select id from news where at < now() - interval '${DAYS} days' limit 1000) o where n.id = o.id`,
  );

/** SQL of news of a person ($5) that is due, as they may see it: $1 to $4 as the journal is seen. */
export const NEWS = `
  select
    n.id::text, j.at, coalesce(p.name, j.principal) as person, j.by_key as "byKey", j.action, j.subject_kind as kind,
    j.subject_id as "subjectId", j.subject_name as subject, d.name as domain, j.before, j.after, n.read_at is null as unread,
    n.subscription_id as because
  from news n
  join journal j on j.id = n.journal_id
  left join person p on p.id = j.person_id
  left join domain d on d.id = j.domain_id
  where n.person_id = $5 and n.due_at <= now() and ${SEEN_IN_JOURNAL}`;

/** What $1 to $5 of {@link NEWS} are. */
export function newsOf(who: Who): unknown[] {
  const { anywhere, inEachDomain, everywhere } = seenBy(who);
  return [who.domainsAs('reader'), anywhere, inEachDomain, everywhere, who.id];
}

/** What somebody was told, the newest first, as far as they may see it now. */
export async function listNews(
  db: Db,
  who: Who,
  { before, limit }: { before?: number; limit: number },
): Promise<AnswerOf<typeof newsEndpoints.list>> {
  const items = await db.rows<News>(
    `${NEWS}
      and ($6::bigint is null or (n.due_at, n.id) < (select o.due_at, o.id from news o where o.id = $6))
    order by n.due_at desc, n.id desc
    limit $7`,
    [...newsOf(who), before ?? null, limit],
  );
  const unread = await db.one<{ n: number }>(
    `select count(*)::int as n from (${NEWS} and n.read_at is null limit ${COUNTED}) x`,
    newsOf(who),
  );
  return { items, unread: unread?.n ?? 0, next: items.length === limit ? (items.at(-1)?.id ?? null) : null };
}

/** Marks what came up to one as read. */
export async function readNews(tx: Db, who: Who, upTo: number): Promise<void> {
  await tx.run(
    `
      update news
      set read_at = now()
      where person_id = $1 and read_at is null and due_at <= now()
        and (due_at, id) <= (select o.due_at, o.id from news o where o.id = $2 and o.person_id = $1)`,
    [who.id, upTo],
  );
}
