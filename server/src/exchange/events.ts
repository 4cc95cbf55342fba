import type { CloudEvent, eventEndpoints } from '@idrel/contract/exchange';
import type { AnswerOf, QueryOf } from '@idrel/contract/http';
import { isAssetKind } from '@idrel/contract/things';
import { Binder, FROM, readFilter, whereVisible } from '../catalog/index.ts';
import { SEEN_IN_JOURNAL, seenBy } from '../journal/index.ts';
import type { Who } from '../people/index.ts';
import type { Database, Db } from '../platform/database.ts';
import { ApiProblem } from '../platform/problems.ts';

/** So many events get their place at once; among so many it is looked at once for those that somebody may see. */
const [AT_ONCE, LOOKED_AT] = [10_000, 10_000];
/** So many places are looked at first for each event that is asked for. */
const NEAR = 2;

/**
 * Gives events their place: those that can be seen by now, by their numbers. What was handed out is never followed by something at an earlier place. Those of one thing
 * come in the order in which it was changed: whoever changes it waits for who did before, so where the later one can be seen the earlier one can, with a smaller number.
 * @returns how many got one; 0 also while another does it
 */
export async function placeEvents(db: Database): Promise<number> {
  if (!(await db.one('select from event where seq is null limit 1'))) return 0;
  return db.transaction(async (tx) => {
    const head = await tx.one<{ last: string }>('select last::text from event_head for update skip locked');
    if (!head) return 0;
    const placed = await tx.run(
      `
        with ready as (
          select id, row_number() over (order by id) as nth
          from (
            select id
            from event
            where seq is null
            order by id
            limit ${AT_ONCE}
          ) oldest
        )
        update event e
        set seq = $1::bigint + r.nth
        from ready r
        where r.id = e.id`,
      [head.last],
    );
    if (placed > 0) await tx.run('update event_head set last = last + $1', [placed]);
    return placed;
  });
}

/** The last place that was given. */
export const lastPlace = async (db: Db): Promise<number> =>
  (await db.one<{ last: number }>('select last::float8 as last from event_head'))?.last ?? 0;

/** Which events are asked for. */
export interface Ask extends Omit<QueryOf<typeof eventEndpoints.list>, 'limit' | 'kind'> {
  /** Only of things of these kinds; empty: of all. */
  readonly kinds?: readonly string[];
}

/** A word of an event's type: small letters and strokes. */
const word = (text: string): string =>
  text
    .toLowerCase()
    .replaceAll(/[^a-z0-9]+/g, '-')
    .replaceAll(/^-|-$/g, '');
/** What happened, without what it happened with: `many at once: …` is many at once. */
const typeOf = (kind: string, action: string): string =>
  `idrel.${word(kind)}.${word(action.split(/[:“]/)[0] ?? '') || 'changed'}`;

interface Row {
  readonly seq: number;
  readonly id: string;
  readonly at: Date;
  readonly person: string | null;
  readonly byKey: string | null;
  readonly action: string;
  readonly kind: string;
  readonly subjectId: string;
  readonly name: string;
  readonly domain: string | null;
  readonly before: CloudEvent['data']['before'];
  readonly after: CloudEvent['data']['after'];
}

const cloudEvent = (source: string, row: Row): CloudEvent => ({
  specversion: '1.0',
  id: row.id,
  source,
  type: typeOf(row.kind, row.action),
  subject: `${row.kind}/${row.subjectId}`,
  time: row.at.toISOString(),
  datacontenttype: 'application/json',
  sequence: String(row.seq).padStart(16, '0'),
  data: {
    action: row.action,
    kind: row.kind,
    id: row.subjectId,
    name: row.name,
    domain: row.domain,
    by: row.person,
    byKey: row.byKey,
    before: row.before,
    after: row.after,
  },
});

/** Ids of those assets that a search finds now, of some. */
export async function foundOf(db: Db, who: Who, filter: string, ids: readonly string[]): Promise<ReadonlySet<string>> {
  const binder = new Binder();
  const these = binder.add(ids);
  // Columns, and what is gone, count where their events are asked for by a search for all else.
  const where = whereVisible(readFilter(`(${filter}) kind:any gone:yes,no`), who, binder);
  const rows = await db.rows<{ id: string }>(
    `select a.id from ${FROM} where a.id = any(${these}::uuid[]) and ${where}`,
    binder.values,
  );
  return new Set(rows.map(({ id }) => id));
}

/** The place before the first event that is kept, and that of the last. */
export async function eventsKept(db: Db): Promise<{ begun: number; last: number }> {
  const ends = await db.one<{ last: number; oldest: number | null }>(
    'select last::float8 as last, (select min(seq)::float8 from event) as oldest from event_head',
  );
  const last = ends?.last ?? 0;
  return { begun: (ends?.oldest ?? last + 1) - 1, last };
}

/**
 * From where events are read, and where they end.
 * @throws 410 where what would come next is kept no more
 */
export async function begins(db: Db, after: number): Promise<{ from: number; last: number }> {
  const { begun, last } = await eventsKept(db);
  if (after > 0 && after < begun)
    throw new ApiProblem('events-forgotten', `Events are kept from place ${begun + 1} on.`, {
      mend: `Go on with after=${begun}, and read what changed before in the journal.`,
    });
  return { from: Math.max(after, begun), last };
}

/** Events within a stretch of places, of which somebody may see them. @param range `from` is not of it, `to` is; of these places alone, where some are named */
async function eventsWithin(
  db: Db,
  who: Who,
  source: string,
  { kinds = [], domain, subject, filter }: Omit<Ask, 'after'>,
  { from, to, places, limit }: { from: number; to: number; places?: readonly number[]; limit: number },
) {
  const { anywhere, inEachDomain, everywhere } = seenBy(who);
  const rows = await db.rows<Row>(
    `
      select
        e.seq::float8 as seq, j.id::text, j.at, coalesce(p.name, j.principal) as person, j.by_key as "byKey", j.action,
        j.subject_kind as kind, j.subject_id as "subjectId", j.subject_name as name, d.name as domain, j.before, j.after
      from event e
      join journal j on j.id = e.journal_id
      left join person p on p.id = j.person_id
      left join domain d on d.id = j.domain_id
      where e.seq > $5 and e.seq <= $6
        and (cardinality($7::text[]) = 0 or j.subject_kind = any($7))
        and ($8::text is null or j.subject_id = $8)
        and (
          $9::uuid is null
          or j.domain_id in (
            with recursive down as (
              select $9::uuid as id
              union
              select x.id
              from domain x
              join down on x.parent_id = down.id
            )
            select id from down
          )
        )
        and ($10::bigint[] is null or e.seq = any($10))
        and ${SEEN_IN_JOURNAL}
      order by e.seq
      limit $11`,
    [
      who.domainsAs('reader'),
      anywhere,
      inEachDomain,
      everywhere,
      from,
      to,
      kinds,
      subject ?? null,
      domain ?? null,
      places ?? null,
      limit,
    ],
  );
  const found =
    filter === undefined
      ? undefined
      : await foundOf(db, who, filter, [
          ...new Set(rows.filter((row) => isAssetKind(row.kind)).map((row) => row.subjectId)),
        ]);
  return {
    events: rows.filter((row) => !found || found.has(row.subjectId)).map((row) => cloudEvent(source, row)),
    /** The place of the last that was looked at, where there were as many as were asked for. */
    lookedAt: rows.length === limit ? rows.at(-1)?.seq : undefined,
  };
}

/**
 * Events behind a place that somebody may see, the oldest first; with the place to go on from.
 * @param source where this Idrel is reached
 * @throws 410 where what would come next is kept no more
 */
export async function readEvents(
  db: Db,
  who: Who,
  source: string,
  { after, ...ask }: Ask,
  limit: number,
): Promise<AnswerOf<typeof eventEndpoints.list>> {
  const { last, from } = await begins(db, after);
  const upTo = (places: number) => Math.max(from, Math.min(last, from + places));
  // Most that is asked for lies near; what is rare is looked for further on.
  const near = upTo(NEAR * limit);
  const first = await eventsWithin(db, who, source, ask, { from, to: near, limit });
  if (first.lookedAt !== undefined || first.events.length * NEAR * 2 >= limit || near === upTo(LOOKED_AT))
    return { events: first.events, next: first.lookedAt ?? near, last };
  const to = upTo(LOOKED_AT);
  const { events, lookedAt } = await eventsWithin(db, who, source, ask, {
    from: near,
    to,
    limit: limit - first.events.length,
  });
  return { events: [...first.events, ...events], next: lookedAt ?? to, last };
}

/** The events at some places, as far as somebody may see them and they are still asked for; others are not there. */
export async function eventsAt(
  db: Db,
  who: Who,
  source: string,
  ask: Omit<Ask, 'after'>,
  places: readonly number[],
): Promise<ReadonlyMap<number, CloudEvent>> {
  if (places.length === 0) return new Map();
  const [from, to] = [Math.min(...places) - 1, Math.max(...places)];
  const { events } = await eventsWithin(db, who, source, ask, { from, to, places, limit: places.length });
  return new Map(events.map((event) => [Number(event.sequence), event]));
}
