import type { RequestAnswer, requestEndpoints, WHICH_REQUESTS } from '@idrel/contract/access';
import type { QueryOf } from '@idrel/contract/http';
import type { Who } from '../../people/index.ts';
import type { Db } from '../../platform/database.ts';
import { notFound } from '../../platform/problems.ts';
import {
  answerersOf,
  assetsSql,
  couldAnswer,
  type MayAnswer,
  mayAnswer,
  standingBind,
  standingFor,
  type ToldAsset,
} from './standing.ts';

/** A request as it stands in its rows, with what decides who may answer it. */
interface Row extends Omit<RequestAnswer, 'assets' | 'hidden' | 'answerers' | 'mayAnswer' | 'whyNot'> {
  readonly of: number;
  readonly assets: readonly ToldAsset[];
}

/** A request as somebody sees it, and by what right they would answer it. */
export interface SeenRequest extends RequestAnswer {
  readonly domainIds: readonly string[];
  readonly right: MayAnswer;
}

/** Whether what was granted by a request `r` is in force. */
const IN_FORCE = `exists (
  select from policy p
  where p.request_id = r.id and p.effect = 'allow' and p.enabled and (p.until is null or p.until > now()))`;

/** When whoever made the request `r` last asked for something of it. */
const LAST_USED =
  'last_asked(array[r.person_id], array(select x.asset_id from access_request_asset x where x.request_id = r.id))';

/** $1 is who asks, $2 the domains that they may read. */
const SELECT = `
  select
    r.id, r.number, case when r.state = 'granted' and not ${IN_FORCE} then 'ended' else r.state end as state,
    json_build_object('id', q.id, 'name', q.name, 'job', q.job) as person, r.person_id = $1 as mine,
    r.purpose, r.note, r.columns, r.until, r.asked_at as "askedAt",
    (select count(*)::int from access_request_asset x where x.request_id = r.id) as of,
    ${assetsSql('a.id in (select x.asset_id from access_request_asset x where x.request_id = r.id)')} as assets,
    r.answered_at as "answeredAt", w.name as "answeredBy", i.name as "answeredFor", r.answer, r.granted,
    case when r.state = 'granted' then ${LAST_USED} end as "lastUsed", r.version
  from access_request r
  join person q on q.id = r.person_id
  left join person w on w.id = r.answered_by
  left join person i on i.id = r.answered_for`;

const COULD_ANSWER = couldAnswer(
  'r.person_id',
  'a.id in (select x.asset_id from access_request_asset x where x.request_id = r.id)',
);

/** Rows as somebody sees them: with who answers, and whether they may. */
async function seen(db: Db, who: Who, rows: readonly Row[]): Promise<SeenRequest[]> {
  const standing = await standingFor(db, who);
  const parties = await answerersOf(
    db,
    rows.flatMap(({ assets }) => assets.flatMap(({ party }) => party ?? [])),
  );
  return rows.map(({ of, assets, ...row }) => {
    const hidden = of - assets.length;
    const right = mayAnswer(who, standing, { personId: row.person.id, assets, hidden });
    const answering = new Set(assets.map(({ party }) => party));
    const granted = row.state === 'granted' ? (row.granted?.assetIds ?? []) : [];
    return {
      ...row,
      assets: assets.map(({ id, kind, path, source }) => ({ id, kind, path, source, granted: granted.includes(id) })),
      hidden,
      answerers: [...parties.values()].filter(({ id }) => answering.has(id) && id !== row.person.id),
      mayAnswer: right.may,
      whyNot: row.mine || right.may ? null : right.whyNot,
      domainIds: [...new Set(assets.map(({ domainId }) => domainId))],
      right,
    };
  });
}

export const answerOf = ({ domainIds: _domains, right: _right, ...request }: SeenRequest): RequestAnswer => request;

/** A request that is one's own, or that one could answer. @throws 404 */
export async function readRequest(db: Db, who: Who, id: string): Promise<SeenRequest> {
  const rows = await db.rows<Row>(`${SELECT} where r.id = $5 and (r.person_id = $1 or ${COULD_ANSWER})`, [
    ...(await standingBind(db, who)),
    id,
  ]);
  const [found] = await seen(db, who, rows);
  if (!found) throw notFound('The request');
  return found;
}

const WHICH: Readonly<Record<(typeof WHICH_REQUESTS)[number], string>> = {
  // All are given the same parameters, and each must be named.
  own: 'r.person_id = $1 and num_nonnulls($2::uuid[], $3::uuid[], $4::uuid[]) = 3',
  waiting: `r.state = 'waiting' and ${COULD_ANSWER}`,
  answered: `r.state <> 'waiting' and ${COULD_ANSWER}`,
  granted: `r.state = 'granted' and ${IN_FORCE} and ${COULD_ANSWER}`,
};

/** Requests, the newest first; what waits, the oldest first. */
export async function listRequests(
  db: Db,
  who: Who,
  query: QueryOf<typeof requestEndpoints.requests>,
): Promise<{ items: RequestAnswer[]; total: number }> {
  const { which, asset, unusedFor, endingWithin, below, limit } = query;
  const bind = await standingBind(db, who);
  const add = (value: unknown) => `$${bind.push(value)}`;
  const conditions = [WHICH[which]];
  if (asset)
    conditions.push(
      `exists (select from access_request_asset x where x.request_id = r.id and x.asset_id = ${add(asset)}::uuid)`,
    );
  if (unusedFor || endingWithin) conditions.push(`r.state = 'granted' and ${IN_FORCE}`);
  if (unusedFor) {
    const days = `now() - ${add(unusedFor)}::int * interval '1 day'`;
    conditions.push(`r.answered_at < ${days} and coalesce(${LAST_USED} < ${days}, true)`);
  }
  if (endingWithin)
    conditions.push(`exists (
      select from policy p
      where p.request_id = r.id and p.effect = 'allow' and p.until < now() + ${add(endingWithin)}::int * interval '1 day')`);
  const where = conditions.join(' and ');
  const total = await db.one<{ n: number }>(`select count(*)::int as n from access_request r where ${where}`, bind);
  const page = below ? ` and r.number ${which === 'waiting' ? '>' : '<'} ${add(below)}` : '';
  const rows = await db.rows<Row>(
    `${SELECT} where ${where}${page} order by r.number ${which === 'waiting' ? 'asc' : 'desc'} limit ${add(limit)}`,
    bind,
  );
  return { items: (await seen(db, who, rows)).map(answerOf), total: total?.n ?? 0 };
}

/** Answered requests like one that somebody may answer: for the same assets or their neighbours, and of the same person. @throws 404 */
export async function precedentsOf(db: Db, who: Who, id: string): Promise<RequestAnswer[]> {
  await readRequest(db, who, id);
  const rows = await db.rows<Row>(
    `
      with mine as (
        select x.asset_id, a.parent_id from access_request_asset x join asset a on a.id = x.asset_id where x.request_id = $5
      ),
      near as (
        select x.request_id, min(case when x.asset_id = m.asset_id then 0 else 1 end) as distance
        from mine m
        join asset a on a.id = m.asset_id or a.parent_id = m.parent_id
        join access_request_asset x on x.asset_id = a.id
        group by 1
      )
      ${SELECT}
      left join near n on n.request_id = r.id
      where r.id <> $5 and r.state in ('granted', 'refused', 'ended') and ${COULD_ANSWER}
        and (n.distance is not null or r.person_id = (select person_id from access_request where id = $5))
      order by coalesce(n.distance, 2), r.answered_at desc
      limit 10`,
    [...(await standingBind(db, who)), id],
  );
  return (await seen(db, who, rows)).map(answerOf);
}

/** What of requests waits for somebody: to be answered; answers to what they asked; and what was granted them and ends soon. */
export interface WaitingRequest {
  readonly why: 'answer' | 'answered' | 'ending';
  readonly request: RequestAnswer;
}

/** A request that nobody has answered for so long waits for policy administrators as well. */
const LONG = "interval '7 days'";
const SOON = "interval '7 days'";

/** @returns the first of them, and how many there are */
export async function waitingRequests(
  db: Db,
  who: Who,
  limit: number,
): Promise<{ items: WaitingRequest[]; total: number }> {
  const bind = await standingBind(db, who);
  const found = await db.rows<{ id: string; why: WaitingRequest['why']; total: number }>(
    `
      with waits as (
        select r.id, 'answer' as why, 0 as nth, r.asked_at as at
        from access_request r
        where r.state = 'waiting' and ${COULD_ANSWER}
          and (
            exists (
              select from access_request_asset x
              where x.request_id = r.id and answers_for(x.asset_id) = any($3::uuid[]) and answers_for(x.asset_id) <> r.person_id)
            or r.asked_at < now() - ${LONG}
            or exists (
              select from access_request_asset x
              join asset a on a.id = x.asset_id
              where x.request_id = r.id and a.domain_id = any($4::uuid[])
                and (answers_for(a.id) is null or answers_for(a.id) = r.person_id)))
        union all
        select r.id, 'ending', 1, p.until
        from access_request r
        join policy p on p.request_id = r.id and p.effect = 'allow' and p.enabled and p.until between now() and now() + ${SOON}
        where r.person_id = $1 and r.state = 'granted' and not r.end_seen
        union all
        select r.id, 'answered', 2, r.answered_at
        from access_request r
        where r.person_id = $1 and r.state in ('granted', 'refused', 'ended') and not r.answer_seen
          and r.answered_at > now() - interval '30 days'
      )
      select id, why, count(*) over ()::int as total from waits order by nth, at limit ${limit}`,
    bind,
  );
  if (found.length === 0) return { items: [], total: 0 };
  const rows = await db.rows<Row>(`${SELECT} where r.id = any($3::uuid[])`, [
    who.id,
    who.domainsAs('reader'),
    found.map(({ id }) => id),
  ]);
  const byId = new Map((await seen(db, who, rows)).map((request) => [request.id, answerOf(request)]));
  return {
    items: found.flatMap(({ id, why }) => {
      const request = byId.get(id);
      return request ? [{ why, request }] : [];
    }),
    total: found[0]?.total ?? 0,
  };
}
