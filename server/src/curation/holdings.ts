import { FROM, PATH } from '../catalog/index.ts';
import { recordMany } from '../journal/index.ts';
import { type Held, listedBy } from '../people/index.ts';

/** Those who have a role on an asset `a`, by name. */
const names = (role: string) =>
  `coalesce((select json_agg(p.name order by p.name) from asset_person ap join party p on p.id = ap.person_id where ap.asset_id = a.id and ap.role = '${role}'), '[]')`;

/** Assets that somebody has a role on. What somebody knows goes with them: nobody else can say it. */
const assets = (role: 'owner' | 'steward' | 'custodian' | 'expert', what: string): Held => ({
  what,
  after: role === 'expert' ? 'They are taken off: what somebody knows goes with them.' : 'They go to whom you choose.',
  list: listedBy(
    `select ${PATH} as name, '/assets/' || a.id as address from ${FROM} join asset_person mine on mine.asset_id = a.id where mine.person_id = $1 and mine.role = '${role}'`,
  ),
  async pass(tx, who, from, to) {
    await tx.run(
      `
        create temp table passed on commit drop as
        select a.id, a.kind, ${PATH} as name, a.domain_id, ${names(role)} as before
        from ${FROM}
        join asset_person mine on mine.asset_id = a.id
        where mine.person_id = $1 and mine.role = '${role}'`,
      [from],
    );
    await tx.run(`delete from asset_person where person_id = $1 and role = '${role}'`, [from]);
    await tx.run(
      `
        insert into asset_person (asset_id, person_id, role)
        select id, $1::uuid, '${role}'
        from passed
        where $1::uuid is not null
        on conflict
        do nothing`,
      [role === 'expert' ? null : to],
    );
    await tx.run('update asset set version = version + 1 where id in (select id from passed)');
    await recordMany(
      tx,
      who,
      'passed on',
      `${role}s`,
      `select x.kind, x.id, x.name, x.domain_id, x.before, ${names(role)} as after from passed x join asset a on a.id = x.id`,
      [],
    );
    await tx.run('drop table passed');
  },
});

export const ASSETS_HELD: readonly Held[] = [
  assets('owner', 'assets owned'),
  assets('steward', 'assets looked after as a steward'),
  assets('custodian', 'assets kept as a custodian'),
  assets('expert', 'assets known as an expert'),
];
