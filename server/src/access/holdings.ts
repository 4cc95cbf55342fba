import { recordMany } from '../journal/index.ts';
import { type Held, listedBy } from '../people/index.ts';

/** Those whom a policy `x` names, by name. */
const NAMED =
  "coalesce((select json_agg(p.name order by p.name) from policy_subject s join person p on p.id = s.person_id where s.policy_id = x.id), '[]')";
const NAMING = 'x.id in (select s.policy_id from policy_subject s where s.person_id = $1::uuid)';

export const POLICIES_HELD: readonly Held[] = [
  {
    what: 'policies that name them',
    after: 'They are taken out of them, and nobody is put in their place: what somebody may read is not passed on.',
    list: listedBy(`select x.name, '/access?edit=' || x.id as address from policy x where ${NAMING}`),
    async pass(tx, who, from) {
      await tx.run(
        `create temp table passed on commit drop as select x.id, x.name, ${NAMED} as before from policy x where ${NAMING}`,
        [from],
      );
      await tx.run('delete from policy_subject where person_id = $1', [from]);
      await tx.run('update policy set version = version + 1 where id in (select id from passed)');
      await recordMany(
        tx,
        who,
        'left',
        'people',
        `select 'policy' as kind, x.id, x.name, null::uuid as domain_id, x.before, ${NAMED} as after from passed x`,
        [],
      );
      await tx.run('drop table passed');
    },
  },
  {
    what: 'rights that they gave on',
    after: 'They are ended: what was given on goes with whoever gave it.',
    list: listedBy("select x.name, '/access?edit=' || x.id as address from policy x where x.given_by = $1::uuid"),
    async pass(tx, who, from) {
      await tx.run(
        `create temp table passed on commit drop as select x.id, x.name, ${NAMED} as before from policy x where x.given_by = $1`,
        [from],
      );
      await tx.run('delete from policy where given_by = $1', [from]);
      await recordMany(
        tx,
        who,
        'left',
        'people',
        `select 'policy' as kind, x.id, x.name, null::uuid as domain_id, x.before, '[]'::json as after from passed x`,
        [],
      );
      await tx.run('drop table passed');
    },
  },
  {
    what: 'logins at sources',
    after: 'It is forgotten that they come in as these: at the source the logins are still there, and still read.',
    list: listedBy(
      `select m.role || ' of ' || s.name as name, '/access?show=sources&source=' || s.id || '&roles=' || s.id as address
       from native_match_party m join source s on s.id = m.source_id where m.person_id = $1::uuid`,
    ),
    async pass(tx, who, from) {
      await tx.run(
        `create temp table passed on commit drop as
         select m.source_id, s.name || ': ' || m.role as name
         from native_match_party m join source s on s.id = m.source_id where m.person_id = $1`,
        [from],
      );
      await tx.run(
        `update native_match m set version = version + 1
         from native_match_party p where p.source_id = m.source_id and p.role = m.role and p.person_id = $1`,
        [from],
      );
      await tx.run('delete from native_match_party where person_id = $1', [from]);
      await recordMany(
        tx,
        who,
        'left',
        'people',
        `select 'native right' as kind, x.source_id as id, x.name, null::uuid as domain_id, to_json((select p.name from person p where p.id = $1::uuid)) as before, null::json as after from passed x`,
        [from],
      );
      await tx.run('drop table passed');
    },
  },
];
