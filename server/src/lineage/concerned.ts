import type { AssetAnswer } from '@idrel/contract/catalog';
import type { ProposedImpact } from '@idrel/contract/lineage';
import { classesOf, kindsSql, pathOf } from '../catalog/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { knownClasses } from '../recognition/index.ts';

/** Whom to tell is told of so many, the most concerned first. */
const PEOPLE_MOST = 500;

export interface Answering {
  id: string;
  name: string;
  group: boolean;
  role: 'owner' | 'steward' | 'custodian';
  assetId: string;
}
/** Who answers for assets: owners, of what has none of its own those of the nearest that it lies in, else of the nearest domain; stewards and custodians. */
export const answeringFor = (db: Db, who: Who, ids: readonly string[]): Promise<Answering[]> =>
  db.rows<Answering>(
    `
      with recursive root as (select id, parent_id, domain_id from asset where id = any($1::uuid[])),
      direct as (
        select root.id as root, x.person_id
        from root
        join asset_person x on x.asset_id = root.id and x.role = 'owner'
      ),
      rest as (select * from root where not exists (select from direct where direct.root = root.id)),
      -- Many lie in the same: what holds them is asked once.
      up as (
        select a.id as held, a.id, a.parent_id, a.domain_id, a.opened_id, 0 as steps
        from asset a
        where a.id in (select parent_id from rest)
        union all
        select up.held, p.id, p.parent_id, p.domain_id, p.opened_id, up.steps + 1
        from up
        join asset p on p.id = up.parent_id
      ),
      by_holder as (
        select distinct on (up.held) up.held, x.person_id
        from up
        join asset_person x on x.asset_id = up.id and x.role = 'owner'
        where ${isSeen('up', '$2')}
        order by up.held, up.steps
      ),
      above as (
        select d.id as domain, d.parent_id, d.owner_id
        from domain d
        where d.id in (select domain_id from rest)
        union all
        select above.domain, d.parent_id, d.owner_id
        from above
        join domain d on d.id = above.parent_id
        where above.owner_id is null
      ),
      answering as (
        select root, person_id, 'owner' as role from direct
        union all
        select rest.id, coalesce(h.person_id, above.owner_id), 'owner'
        from rest
        left join by_holder h on h.held = rest.parent_id
        left join above on above.domain = rest.domain_id and above.owner_id is not null
        where coalesce(h.person_id, above.owner_id) is not null
        union all
        select root.id, x.person_id, x.role
        from root
        join asset_person x on x.asset_id = root.id and x.role in ('steward', 'custodian')
      )
      select p.id, p.name, p.is_group as "group", g.role, g.root as "assetId"
      from answering g
      join party p on p.id = g.person_id and p.left_at is null
      order by p.name, g.role`,
    [ids, who.domainsAs('reader')],
  );

/** Who asked for some of these, where the person may see who asks; each statement counts once. */
export const askersOf = (
  db: Db,
  who: Who,
  ids: readonly string[],
): Promise<{ id: string; name: string; asked: number }[]> =>
  db.rows(
    `
      with statements as (
        select distinct f.statement_id
        from asked_for f
        join asset a on a.id = f.asset_id
        where f.asset_id = any($1::uuid[]) and f.how <> '{written}' and ${isSeen('a', '$2')}
      )
      select p.id, p.name, sum(b.calls) as asked
      from statements
      join asked_by b using (statement_id)
      join person p on p.id = b.person_id and p.left_at is null
      group by p.id
      order by sum(b.calls) desc, p.name
      limit ${PEOPLE_MOST}`,
    [ids, who.domainsAs('editor')],
  );

/** Policies in force that name what changes, hold by a class that it carries, or limit rows by it. */
export async function policiesOn(
  db: Db,
  who: Who,
  asset: Pick<AssetAnswer, 'id' | 'name' | 'kind'>,
): Promise<ProposedImpact['policies']> {
  const rows = await db.rows<Omit<ProposedImpact['policies'][number], 'why'> & { why: string | null; keys: string[] }>(
    `
      with recursive up as (
        select a.id, a.parent_id
        from asset a
        where a.id = $1
        union all
        select p.id, p.parent_id
        from up
        join asset p on p.id = up.parent_id
      ),
      carries as (${classesOf('$1::uuid')})
      select p.id, p.name, p.effect, x.why, x.keys
      from policy p
      cross join lateral (
        select case
          when p.rows ->> 'column' = $3 and $4 and exists (select from policy_object o join up on up.id = o.asset_id where o.policy_id = p.id)
            then 'limits rows by it'
          when exists (select from policy_object o where o.policy_id = p.id and o.asset_id = $1) then 'names it'
          when $3 = any(p.columns) and $4 and exists (select from policy_object o join up on up.id = o.asset_id where o.policy_id = p.id)
            then 'names the column'
          when exists (select from policy_match m join up on up.id = m.asset_id where m.policy_id = p.id) then 'holds for it by its filter'
        end as why,
        array(select k.class_key from policy_object o join carries k on k.class_key = o.class_key where o.policy_id = p.id) as keys
      ) x
      where p.enabled and (x.why is not null or cardinality(x.keys) > 0)
        and not exists (
          select
          from policy_object o
          join asset a on a.id = o.asset_id
          where o.policy_id = p.id and not ${isSeen('a', '$2')}
        )
      order by array_position(array['deny', 'protect', 'allow'], p.effect), p.name`,
    [asset.id, who.domainsAs('reader'), asset.name, asset.kind === 'column'],
  );
  const classes = await knownClasses(db);
  return rows.map(({ keys, ...policy }) => ({
    ...policy,
    why:
      policy.why ??
      `holds by the class ${keys
        .map((key) => classes.get(key)?.label ?? key)
        .sort()
        .join(', ')}`,
  }));
}

/** Checks of the last run of each flow that writes some relations. */
export const checksOn = (
  db: Db,
  who: Who,
  relations: readonly string[],
): Promise<{ of: string; what: string; flow: string }[]> =>
  db.rows(
    `
      with writing as (
        select distinct a.id, ${pathOf('a', 's')} as path
        from lineage_feed x
        join flow f on f.id = x.flow_id
        join asset a on a.id = f.asset_id and a.kind in (${kindsSql('runs')}) and ${isSeen('a', '$2')}
        join source s on s.id = a.source_id
        where x.to_id = any($1::uuid[])
      )
      select c ->> 'of' as of, c ->> 'what' as what, w.path as flow
      from writing w
      cross join lateral (
        select checks
        from flow_run r
        where r.asset_id = w.id
        order by r.at desc nulls last
        limit 1
      ) r
      cross join lateral jsonb_array_elements(r.checks) c
      order by 1, 2
      limit 200`,
    [relations, who.domainsAs('reader')],
  );

/** Whom to tell, who answers for most first. */
export function peopleOf(
  answering: readonly Answering[],
  askers: readonly { readonly id: string; readonly name: string; readonly asked: number }[],
): ProposedImpact['people'] {
  type One = ProposedImpact['people'][number];
  interface Counted extends Pick<One, 'id' | 'name' | 'group'> {
    readonly roles: Set<One['roles'][number]>;
    readonly of: Set<string>;
    asked: number;
  }
  const people = new Map<string, Counted>();
  const of = (id: string, name: string, group: boolean) => {
    const known = people.get(id) ?? {
      id,
      name,
      group,
      roles: new Set<One['roles'][number]>(),
      of: new Set<string>(),
      asked: 0,
    };
    people.set(id, known);
    return known;
  };
  for (const { id, name, group, role, assetId } of answering) {
    const one = of(id, name, group);
    one.roles.add(role);
    one.of.add(assetId);
  }
  for (const { id, name, asked } of askers) {
    const one = of(id, name, false);
    one.roles.add('asks');
    one.asked = asked;
  }
  return [...people.values()]
    .map(({ of: assets, roles, ...one }) => ({ ...one, roles: [...roles], assets: assets.size }))
    .sort((a, b) => b.assets - a.assets || b.asked - a.asked || (a.name < b.name ? -1 : 1))
    .slice(0, PEOPLE_MOST);
}
