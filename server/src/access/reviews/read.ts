import type { ReviewAnswer, ReviewItem, reviewEndpoints } from '@idrel/contract/access';
import type { QueryOf } from '@idrel/contract/http';
import type { Who } from '../../people/index.ts';
import type { Db } from '../../platform/database.ts';
import { notFound } from '../../platform/problems.ts';
import {
  answerersOf,
  assetsSql,
  couldAnswer,
  mayAnswer,
  standingBind,
  standingFor,
  type ToldAsset,
} from '../requests/standing.ts';

/** Whether somebody could decide on an item `i`. What a filter finds is everybody's who administers policies everywhere ($5). */
const COULD_DECIDE = `(
  ${couldAnswer('i.person_id', 'a.id = any(i.asset_ids)')}
  or $5::boolean and cardinality(i.asset_ids) = 0 and i.person_id is distinct from $1)`;

/** Whose turn it is: that of the one who answers for all that a right opens; where nobody does, or several do, or it is their own, that of who administers policies there. */
const IS_TURN = `case
  when cardinality(i.parties) = 1 and i.parties[1] is distinct from i.person_id
    then i.parties[1] = any($3::uuid[]) and i.person_id is distinct from $1
  else ${COULD_DECIDE}
    and not exists (select from asset a where a.id = any(i.asset_ids) and a.domain_id <> all($4::uuid[]))
  end`;

export const reviewBind = async (db: Db, who: Who): Promise<unknown[]> => [
  ...(await standingBind(db, who)),
  who.isEverywhere('policy administrator'),
];

/** Whether somebody administers the policies of all rights of the review `r`. */
const MAY_END = `not exists (
  select from access_review_item i
  where i.review_id = r.id and case
    when cardinality(i.asset_ids) = 0 then not $5::boolean
    else exists (select from asset a where a.id = any(i.asset_ids) and a.domain_id <> all($4::uuid[])) end)`;

/** Whether a right concerns somebody, as far as can be told at a glance: by whose turn it was, or by their role. */
const CONCERNS = `(
  i.parties && $3::uuid[] or $5::boolean and cardinality(i.asset_ids) = 0
  or exists (select from asset a where a.id = any(i.asset_ids) and a.domain_id = any($4::uuid[])))`;

/** @param which SQL of which reviews `r` are meant */
const reviewsSql = (which: string): string => `
  with counted as (
    select
      i.review_id, count(*) filter (where i.decision = 'kept')::int as kept,
      count(*) filter (where i.decision = 'ended')::int as ended, count(*) filter (where i.decision is null)::int as open,
      count(*) filter (where i.decision is null and r.over_at is null and ${IS_TURN})::int as waiting,
      coalesce(bool_or(${CONCERNS}), false) as mine
    from access_review_item i
    join access_review r on r.id = i.review_id
    where ${which}
    group by 1
  )
  select
    r.id, r.name, r.filter, r.ends_at as "endsAt", r.rest, p.name as "startedBy", r.started_at as "startedAt",
    r.over_at as "overAt", coalesce(c.kept, 0) as kept, coalesce(c.ended, 0) as ended, coalesce(c.open, 0) as open,
    coalesce(c.waiting, 0) as waiting, ${MAY_END} as "mayEnd", r.version
  from access_review r
  left join counted c on c.review_id = r.id
  left join person p on p.id = r.started_by
  where (r.started_by = $1 or c.mine) and ${which}`;

/** Reviews that somebody started, or that ask them. @param running only those */
export const listReviews = async (db: Db, who: Who, running = false): Promise<ReviewAnswer[]> =>
  db.rows<ReviewAnswer>(
    `${reviewsSql(running ? 'r.over_at is null' : 'true')} order by r.over_at is not null, r.over_at desc, r.ends_at limit 200`,
    await reviewBind(db, who),
  );

/** @throws 404 */
export async function readReview(db: Db, who: Who, id: string): Promise<ReviewAnswer> {
  const found = await db.one<ReviewAnswer>(reviewsSql('r.id = $6'), [...(await reviewBind(db, who)), id]);
  if (!found) throw notFound('The review');
  return found;
}

/** People whom a right `i` is for. */
export const PEOPLE_OF = `case
  when i.person_id is not null then array[i.person_id]
  when i.group_id is not null then array(select m.person_id from group_member m where m.group_id = i.group_id)
  else array(select x.id from person x where x.left_at is null and x.partner_id is null) end`;

interface Row extends Omit<ReviewItem, 'assets' | 'hidden' | 'answerers' | 'mayDecide' | 'people'> {
  readonly of: number;
  readonly ids: readonly string[];
  readonly assets: readonly ToldAsset[];
  readonly reviewId: string;
  readonly over: boolean;
  readonly admin: boolean;
}

const ITEMS = `
  select
    i.id, i.policy_id as "policyId", i.policy, i.request_id as "requestId", i.review_id as "reviewId", r.over_at is not null as over,
    json_build_object(
      'kind', case when i.person_id is not null then 'person' when i.group_id is not null then 'group' else 'everyone' end,
      'id', coalesce(i.person_id, i.group_id), 'name', coalesce(q.name, g.name, 'everyone')
    ) as subject,
    ${PEOPLE_OF} as ids, cardinality(i.asset_ids) as of, ${assetsSql('a.id = any(i.asset_ids)')} as assets,
    last_asked(${PEOPLE_OF}, i.asset_ids) as "lastUsed", p.until, i.decision, w.name as "decidedBy",
    i.decided_at as "decidedAt", $5::boolean as admin
  from access_review_item i
  join access_review r on r.id = i.review_id
  left join policy p on p.id = i.policy_id
  left join person q on q.id = i.person_id
  left join person_group g on g.id = i.group_id
  left join person w on w.id = i.decided_by`;

async function seen(db: Db, who: Who, rows: readonly Row[]): Promise<(ReviewItem & { reviewId: string })[]> {
  const standing = await standingFor(db, who);
  const parties = await answerersOf(
    db,
    rows.flatMap(({ assets }) => assets.flatMap(({ party }) => party ?? [])),
  );
  return rows.map(({ of, ids, assets, over, admin, ...row }) => {
    const hidden = of - assets.length;
    const personId = row.subject.kind === 'person' ? (row.subject.id ?? '') : '';
    const may = of === 0 ? admin && personId !== who.id : mayAnswer(who, standing, { personId, assets, hidden }).may;
    const answering = new Set(assets.map(({ party }) => party));
    return {
      ...row,
      people: ids.length,
      assets: assets.map(({ id, kind, path, source }) => ({ id, kind, path, source })),
      hidden,
      answerers: [...parties.values()].filter(({ id }) => answering.has(id) && id !== personId),
      mayDecide: may && !over && row.decision !== 'gone',
    };
  });
}

const itemOf = ({ reviewId: _review, ...item }: ReviewItem & { reviewId: string }): ReviewItem => item;

const WHICH = {
  waiting: `i.decision is null and r.over_at is null and ${IS_TURN}`,
  open: `i.decision is null and ${COULD_DECIDE}`,
  decided: `i.decision is not null and ${COULD_DECIDE}`,
  all: COULD_DECIDE,
} as const;

/** Rights of a review, as far as somebody could decide on them: by whom it is for, then by policy. @throws 404 */
export async function listItems(
  db: Db,
  who: Who,
  reviewId: string,
  { which, offset, limit }: QueryOf<typeof reviewEndpoints.reviewItems>,
): Promise<{ items: ReviewItem[]; total: number }> {
  await readReview(db, who, reviewId);
  const bind = [...(await reviewBind(db, who)), reviewId];
  const where = `i.review_id = $6 and ${WHICH[which]}`;
  const total = await db.one<{ n: number }>(
    `select count(*)::int as n from access_review_item i join access_review r on r.id = i.review_id where ${where}`,
    bind,
  );
  const rows = await db.rows<Row>(
    `${ITEMS} where ${where} order by coalesce(q.name, g.name, ''), i.policy, i.id offset $7 limit $8`,
    [...bind, offset, limit],
  );
  return { items: (await seen(db, who, rows)).map(itemOf), total: total?.n ?? 0 };
}

/** @throws 404 */
export async function readItem(db: Db, who: Who, id: string): Promise<ReviewItem & { reviewId: string }> {
  const rows = await db.rows<Row>(`${ITEMS} where i.id = $6 and ${COULD_DECIDE}`, [...(await reviewBind(db, who)), id]);
  const [found] = await seen(db, who, rows);
  if (!found) throw notFound('The right');
  return found;
}
