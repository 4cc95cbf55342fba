import type { ReachAnswer } from '@idrel/contract/access';
import type { Db } from '../platform/database.ts';

/** So many are named. */
const SHOWN = 50;

/**
 * People who do not see a source, of which something is opened to them: without a role in its domain nothing of it is there for them, whatever policies open.
 * @param pairs each a person and a source
 * @param most so many are told of; the first by name
 */
export async function unseen(
  db: Db,
  pairs: readonly { readonly personId: string; readonly sourceId: string }[],
  most = SHOWN,
): Promise<ReachAnswer['unseen'][number][]> {
  if (pairs.length === 0) return [];
  return db.rows<ReachAnswer['unseen'][number]>(
    `
      with recursive asked as (select distinct person_id, source_id from unnest($1::uuid[], $2::uuid[]) as x(person_id, source_id)),
      up as (
        select s.id as source_id, d.id, d.parent_id
        from source s
        join domain d on d.id = s.domain_id
        where s.id = any($2::uuid[])
        union
        select up.source_id, d.id, d.parent_id
        from up
        join domain d on d.id = up.parent_id
      )
      select p.id as "personId", p.name as person, s.name as source, d.name as domain
      from asked a
      join person p on p.id = a.person_id and p.partner_id is null
      join source s on s.id = a.source_id
      join domain d on d.id = s.domain_id
      where not exists (
        select
        from role_grant g
        where g.person_id = a.person_id
          and (g.domain_id is null or g.domain_id in (select up.id from up where up.source_id = a.source_id)))
      order by p.name, s.name
      limit $3`,
    [pairs.map(({ personId }) => personId), pairs.map(({ sourceId }) => sourceId), most],
  );
}
