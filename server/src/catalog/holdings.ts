import type { Thing } from '@idrel/contract/things';
import { recordMany } from '../journal/index.ts';
import { type Held, listedBy } from '../people/index.ts';

/**
 * What a person keeps for themselves under names of their own, and shares with everybody: that goes to somebody else when they leave.
 * @param table with `person_id`, `name`, `shared`, `removed_at` and `version`
 * @param address SQL of where one of them, `s`, is found
 */
export const sharedUnderNames = (
  thing: Thing,
  { what, table, address }: { readonly what: string; readonly table: string; readonly address: string },
): readonly Held[] => [
  {
    what,
    after: 'They go to whom you choose; with nobody, they are removed.',
    list: listedBy(
      `select s.name, ${address} as address from ${table} s where s.person_id = $1 and s.shared and s.removed_at is null`,
    ),
    async pass(tx, who, from, to) {
      await recordMany(
        tx,
        who,
        to === null ? 'removed' : 'passed on',
        'kept by',
        `
          select
            '${thing}' as kind, s.id, s.name, null::uuid as domain_id,
            to_json((select name from person where id = $1::uuid)) as before,
            to_json((select name from person where id = $2::uuid)) as after
          from ${table} s
          where s.person_id = $1::uuid and s.shared and s.removed_at is null`,
        [from, to],
      );
      // Nobody has two of one name.
      await tx.run(
        `
          update ${table} s
          set
            name = case
              when exists (
                select from ${table} o where o.person_id = $2::uuid and lower(o.name) = lower(s.name) and o.removed_at is null
              ) then s.name || ' (' || (select name from person where id = $1::uuid) || ')'
              else s.name
            end,
            person_id = coalesce($2::uuid, s.person_id),
            removed_at = case when $2::uuid is null then now() end,
            version = version + 1
          where s.person_id = $1::uuid and s.shared and s.removed_at is null`,
        [from, to],
      );
    },
  },
];

export const SEARCHES_HELD = sharedUnderNames('saved search', {
  what: 'searches shared with everybody',
  table: 'saved_search',
  address: "'/catalog/searches'",
});
