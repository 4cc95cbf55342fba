import type { listEndpoints, RightsAnswer } from '@idrel/contract/access';
import type { QueryOf } from '@idrel/contract/http';
import { FROM, PATH } from '../catalog/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';

/** So many assets of a right are named. */
const NAMED = 3;

/** In the place of a person or a group: all. */
const EVERYONE = "'00000000-0000-0000-0000-000000000000'::uuid";

/**
 * Rights that policies in force give: each of whom a policy that allows is for is one. With when one of those whom it is for last asked for some of it.
 * Of policies that lie in the domains of which who asks administers the policies; one that names no asset is for who administers all of them.
 */
const rightsSql = (domains: string, everywhere: string): string => `
  with policy_in as materialized (
    select p.*
    from policy p
    where p.enabled and p.effect = 'allow' and (p.until is null or p.until > now())
      and case
        when exists (select from policy_object o where o.policy_id = p.id and o.asset_id is not null)
        then not exists (
          select from policy_object o join asset a on a.id = o.asset_id
          where o.policy_id = p.id and a.domain_id <> all(${domains}::uuid[]))
        else ${everywhere}::boolean end
  ),
  x as materialized (
    select p.id as policy_id, s.person_id, s.group_id
    from policy_in p
    join policy_subject s on s.policy_id = p.id and not s.excepted
    union all
    select p.id, null, null from policy_in p where p.everyone
  ),
  -- What was asked for lies in what policies name: from there one goes up.
  asked as materialized (
    select b.person_id, f.asset_id, max(b.moved_at) as at
    from asked_by b
    join asked_for f on f.statement_id = b.statement_id
    where b.person_id is not null
    group by 1, 2
  ),
  up as (
    with recursive climbing as (
      select distinct asset_id as of, asset_id as id from asked
      union
      select c.of, a.parent_id from climbing c join asset a on a.id = c.id where a.parent_id is not null
    )
    select * from climbing
  ),
  used as materialized (
    select m.policy_id, asked.person_id, max(asked.at) as at
    from (
      select up.of, o.policy_id from up join policy_object o on o.asset_id = up.id
      union
      select up.of, m.policy_id from up join policy_match m on m.asset_id = up.id
      union
      select up.of, o.policy_id from up join carried k on k.asset_id = up.id join policy_object o on o.class_key = k.class_key
    ) m
    join policy_in p on p.id = m.policy_id
    join asked on asked.asset_id = m.of
    group by 1, 2
  ),
  -- By whom a right is for: a person, a group by its members, everyone by anybody.
  last as (
    select policy_id, person_id as subject, at from used
    union all
    select u.policy_id, g.group_id, max(u.at) from used u join group_member g on g.person_id = u.person_id group by 1, 2
    union all
    select policy_id, ${EVERYONE}, max(at) from used group by 1
  ),
  told as materialized (
    select x.policy_id, x.person_id, x.group_id, p.name as policy, p.request_id, p.share_id, p.until, p.opens, y.name as given_by,
           coalesce(q.name, g.name, 'everyone') as name,
           l.at as last_used
    from x
    join policy_in p on p.id = x.policy_id
    left join person q on q.id = x.person_id
    left join person_group g on g.id = x.group_id
    left join person y on y.id = p.given_by
    left join last l on l.policy_id = x.policy_id and l.subject = coalesce(x.person_id, x.group_id, ${EVERYONE})
  )`;

/** Rights with their end and their last use. @throws 403 */
export async function listRights(
  db: Db,
  who: Who,
  { unusedFor, endingWithin, offset, limit }: QueryOf<typeof listEndpoints.rights>,
): Promise<RightsAnswer> {
  const bind: unknown[] = [who.domainsAs('policy administrator'), who.isEverywhere('policy administrator')];
  const add = (value: unknown) => `$${bind.push(value)}`;
  const conditions = [
    ...(unusedFor
      ? [
          // To see a page is no use of what it tells of: it is not counted.
          `t.opens <> 'see' and coalesce(t.last_used < now() - ${add(unusedFor)}::int * interval '1 day', true)`,
        ]
      : []),
    ...(endingWithin ? [`t.until < now() + ${add(endingWithin)}::int * interval '1 day'`] : []),
  ];
  const where = conditions.length > 0 ? `where ${conditions.join(' and ')}` : '';
  const readable = add(who.domainsAs('reader'));
  const rows = await db.rows<RightsAnswer['items'][number] & { total: number }>(
    `
      ${rightsSql('$1', '$2')},
      page as (
        select t.*, count(*) over ()::int as total
        from told t
        ${where}
        order by ${endingWithin ? 't.until, ' : unusedFor ? 't.last_used nulls first, ' : ''}t.name, t.policy, t.policy_id
        offset ${add(offset)} limit ${add(limit)}
      )
      select
        t.policy_id as "policyId", t.policy, t.request_id as "requestId", t.share_id as "shareId", t.opens, t.given_by as "givenBy", t.until, t.last_used as "lastUsed", t.total,
        json_build_object(
          'kind', case when t.person_id is not null then 'person' when t.group_id is not null then 'group' else 'everyone' end,
          'id', coalesce(t.person_id, t.group_id), 'name', t.name) as subject,
        (select count(*)::int from policy_object o where o.policy_id = t.policy_id and o.asset_id is not null) as "assetCount",
        coalesce(
          (select json_agg(json_build_object('id', n.id, 'kind', n.kind, 'path', n.path))
           from (
             select a.id, a.kind, ${PATH} as path
             from ${FROM} join policy_object o on o.asset_id = a.id
             where o.policy_id = t.policy_id and ${isSeen('a', readable)}
             order by a.key limit ${NAMED}) n), '[]') as assets
      from page t
      order by ${endingWithin ? 't.until, ' : unusedFor ? 't.last_used nulls first, ' : ''}t.name, t.policy, t.policy_id`,
    bind,
  );
  return { items: rows.map(({ total: _, ...row }) => row), total: rows[0]?.total ?? 0 };
}
