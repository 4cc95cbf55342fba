import { isSeen, partiesOf } from '../people/index.ts';
import { pathOf } from './rows.ts';

/** So far down it is looked who is concerned by what happened to something, and so many assets of each are told. */
const RINGS = 6;
const TOLD = 60;

/** SQL of whether an asset is a person's: they own it, or nobody does in a domain where they are a steward. $1 is the person, $2 those domains. */
export const IS_MINE = (asset: string): string => `
  (
    exists (
      select from asset_person p
      where p.asset_id = ${asset}.id and p.role = 'owner' and p.person_id in (${partiesOf('$1')})
    )
    or ${asset}.domain_id = any($2::uuid[])
      and not exists (select from asset_person p where p.asset_id = ${asset}.id and p.role = 'owner')
  )`;

/**
 * SQL of what lies behind some things, as far as the person may see it ($3: the domains): `reached` has all of it by `root`, and `told_behind` the first of each,
 * one's own before others', as `told`. It stands in a `with recursive`.
 * @param first SQL of `root` and `id` of what lies straight behind each
 */
export const REACHED_BEHIND = (first: string): string => `
  behind(root, id, distance) as (
    select distinct x.root, x.id, 1 from (${first}) x
    union
    select b.root, x.to_id, b.distance + 1
    from behind b
    join lineage_feed x on x.from_id = b.id
    where b.distance < ${RINGS}
  ),
  nearest as (select root, id, min(distance) as distance from behind group by 1, 2),
  reached as (
    select n.root, d.id, d.kind, ${pathOf('d', 'ds')} as path, ds.name as source, n.distance, ${IS_MINE('d')} as mine
    from nearest n
    join asset d on d.id = n.id
    join source ds on ds.id = d.source_id
    where d.gone_at is null and ${isSeen('d', '$3')} and d.id <> n.root
  ),
  told_behind as (
    select
      t.root,
      json_agg(
        json_build_object(
          'id', t.id, 'kind', t.kind, 'path', t.path, 'source', t.source, 'distance', t.distance, 'mine', t.mine
        )
        order by t.nth
      ) as told
    from (
      select r.*, row_number() over (partition by r.root order by not r.mine, r.distance, r.path) as nth
      from reached r
    ) t
    where t.nth <= ${TOLD}
    group by t.root
  )`;
