import { recordMany } from '../journal/index.ts';
import { type Held, listedBy } from '../people/index.ts';

export const SEARCHES_HELD: readonly Held[] = [
  {
    what: 'searches shared with everybody',
    after: 'They go to whom you choose; with nobody, they are removed.',
    list: listedBy(
      "select s.name, '/catalog/searches' as address from saved_search s where s.person_id = $1 and s.shared and s.removed_at is null",
    ),
    async pass(tx, who, from, to) {
      await recordMany(
        tx,
        who,
        to === null ? 'removed' : 'passed on',
        'kept by',
        `
          select
            'saved search' as kind, s.id, s.name, null::uuid as domain_id,
            to_json((select name from person where id = $1::uuid)) as before,
            to_json((select name from person where id = $2::uuid)) as after
          from saved_search s
          where s.person_id = $1::uuid and s.shared and s.removed_at is null`,
        [from, to],
      );
      // Nobody has two searches of one name.
      await tx.run(
        `
          update saved_search s
          set
            name = case
              when exists (
                select from saved_search o where o.person_id = $2::uuid and lower(o.name) = lower(s.name) and o.removed_at is null
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
