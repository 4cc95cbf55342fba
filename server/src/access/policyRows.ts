import type { PolicyBody } from '@idrel/contract/access';
import type { Db } from '../platform/database.ts';

/** For whom a policy is and what it holds for, as lists out of their rows: columns of a select on `policy p`. */
export const LISTS = {
  groups:
    'array(select s.group_id from policy_subject s where s.policy_id = p.id and s.group_id is not null and not s.excepted order by 1)',
  people:
    'array(select s.person_id from policy_subject s where s.policy_id = p.id and s.person_id is not null order by 1)',
  exceptGroups: 'array(select s.group_id from policy_subject s where s.policy_id = p.id and s.excepted order by 1)',
  assets:
    'array(select o.asset_id from policy_object o where o.policy_id = p.id and o.asset_id is not null order by 1)',
  classes:
    'array(select o.class_key from policy_object o where o.policy_id = p.id and o.class_key is not null order by 1)',
} as const;

type Lists = Pick<PolicyBody, 'groupIds' | 'personIds' | 'exceptGroupIds' | 'assetIds' | 'classKeys'>;

/**
 * Writes the rows of a policy's lists: what is not named any more goes, what is new comes, all else stays as it is.
 * @returns whether anything came or went
 */
export async function writeLists(tx: Db, policyId: string, lists: Lists): Promise<boolean> {
  const { groupIds, personIds, exceptGroupIds, assetIds, classKeys } = lists;
  const told = await tx.one<{ touched: number }>(
    `with subjects as (
       select group_id, null::uuid as person_id, false as excepted from unnest($2::uuid[]) group_id
       union select null, person_id, false from unnest($3::uuid[]) person_id
       union select group_id, null, true from unnest($4::uuid[]) group_id
     ),
     objects as (
       select asset_id, null::text as class_key from unnest($5::uuid[]) asset_id
       union select null, class_key from unnest($6::text[]) class_key
     ),
     fewer_subjects as (
       delete from policy_subject s
       where s.policy_id = $1
         and not exists (
           select from subjects n
           where n.group_id is not distinct from s.group_id
             and n.person_id is not distinct from s.person_id
             and n.excepted = s.excepted)
       returning 1
     ),
     more_subjects as (
       insert into policy_subject (policy_id, group_id, person_id, excepted)
       select $1, n.group_id, n.person_id, n.excepted from subjects n
       on conflict do nothing
       returning 1
     ),
     fewer_objects as (
       delete from policy_object o
       where o.policy_id = $1
         and not exists (
           select from objects n
           where n.asset_id is not distinct from o.asset_id and n.class_key is not distinct from o.class_key)
       returning 1
     ),
     more_objects as (
       insert into policy_object (policy_id, asset_id, class_key)
       select $1, n.asset_id, n.class_key from objects n
       on conflict do nothing
       returning 1
     )
     select (select count(*) from fewer_subjects)::int + (select count(*) from more_subjects)::int
          + (select count(*) from fewer_objects)::int + (select count(*) from more_objects)::int as touched`,
    [policyId, groupIds, personIds, exceptGroupIds, assetIds, classKeys],
  );
  return (told?.touched ?? 0) > 0;
}
