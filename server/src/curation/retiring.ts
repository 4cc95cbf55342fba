import type { AssetKind } from '@idrel/contract/things';
import { pathOf } from '../catalog/index.ts';
import { record, service } from '../journal/index.ts';
import { loadWho } from '../people/index.ts';
import type { Config } from '../platform/config.ts';
import type { Database, Db } from '../platform/database.ts';
import { sendMail } from '../platform/mail.ts';

/** What is marked by mistake is put back before anybody is told. */
const TOLD_AFTER = "interval '1 minute'";
/** So many assets are told one by one in a mail. */
const MOST_IN_MAIL = 20;
/** Steps of lineage, and assets, that are followed to who answers for what is made from it. */
const [MOST_STEPS, MOST_MADE] = [20, 2000];

/** Has those who use these assets told that they are to be retired, if they still are by then. */
export const tellUsersLater = (tx: Db, assetIds: readonly string[]): Promise<unknown> =>
  tx.run(
    `
      select graphile_worker.add_job(
        'retiring', json_build_object('assetIds', $1::uuid[]), run_at => now() + ${TOLD_AFTER}, max_attempts => 8
      )`,
    [assetIds],
  );

interface Told {
  readonly personId: string;
  readonly name: string;
  readonly email: string;
  readonly assetId: string;
  readonly kind: AssetKind;
  readonly path: string;
  readonly source: string;
  readonly domainId: string;
  readonly by: string | null;
  readonly day: string | null;
  readonly onDay: string | null;
  readonly replacementId: string | null;
  readonly replacement: string | null;
  readonly replacementDomain: string | null;
  readonly asked: number | null;
  /** What they answer for that is made from it. */
  readonly made: readonly { readonly path: string; readonly domainId: string }[];
}

/** Who uses what is being retired and was not told this of it yet: who asked for it through the gateway within a year, and who answers for what is made from it. */
const USERS = `
  with recursive due as (
    select a.id, a.domain_id, r.on_day, r.replacement_id, r.person_id
    from asset a
    left join retirement r on r.asset_id = a.id
    where a.id = any($1::uuid[]) and a.standing = 'retiring' and a.gone_at is null
  ),
  down as (
    select due.id as root, f.to_id as id, 1 as steps
    from due
    join lineage_feed f on f.from_id = due.id
    union
    select down.root, f.to_id, down.steps + 1
    from down
    join lineage_feed f on f.from_id = down.id
    where down.steps < ${MOST_STEPS}
  ),
  made as (select distinct root, id from down limit ${MOST_MADE}),
  askers as (
    select due.id as asset_id, b.person_id, sum(b.calls) as calls
    from due
    join asked_for f on f.asset_id = due.id
    join asked_by b on b.statement_id = f.statement_id
    where b.person_id is not null and b.moved_at > now() - interval '1 year'
    group by 1, 2
  ),
  answering as (
    select
      made.root as asset_id, coalesce(g.person_id, ap.person_id) as person_id,
      json_agg(distinct jsonb_build_object('path', ${pathOf('m', 's')}, 'domainId', m.domain_id)) as made
    from made
    join asset m on m.id = made.id and m.gone_at is null
    join source s on s.id = m.source_id
    join asset_person ap on ap.asset_id = m.id and ap.role in ('owner', 'steward')
    left join group_member g on g.group_id = ap.person_id
    where made.id <> made.root
    group by 1, 2
  )
  select
    p.id as "personId", p.name, p.email, a.id as "assetId", a.kind, ${pathOf('a', 's')} as path, s.name as source,
    a.domain_id as "domainId", by.name as by, to_char(due.on_day, 'FMDD FMMonth YYYY') as day,
    due.on_day::text as "onDay", due.replacement_id as "replacementId",
    (select ${pathOf('i', 'si')} from asset i join source si on si.id = i.source_id where i.id = due.replacement_id) as replacement,
    (select i.domain_id from asset i where i.id = due.replacement_id) as "replacementDomain",
    askers.calls as asked, coalesce(answering.made, '[]') as made
  from due
  join asset a on a.id = due.id
  join source s on s.id = a.source_id
  join (select asset_id, person_id from askers union select asset_id, person_id from answering) u on u.asset_id = due.id
  join person p on p.id = u.person_id and p.left_at is null and p.email is not null and p.id is distinct from due.person_id
  left join person by on by.id = due.person_id
  left join askers on askers.asset_id = due.id and askers.person_id = p.id
  left join answering on answering.asset_id = due.id and answering.person_id = p.id
  where not exists (
    select from retirement_told t
    where t.asset_id = due.id and t.person_id = p.id
      and (t.on_day, t.replacement_id) is not distinct from (due.on_day, due.replacement_id)
  )
  order by p.name, path`;

/** The work of the job: one mail to each who uses some of these and may see them; who was told is written down, and that it was in the history of what they were told of. */
export async function tellUsers(db: Database, config: Config, assetIds: readonly string[]): Promise<number> {
  if (!config.mail || !config.address) return 0;
  const users = new Map<string, Told[]>();
  for (const row of await db.rows<Told>(USERS, [assetIds]))
    users.set(row.personId, [...(users.get(row.personId) ?? []), row]);
  let told = 0;
  for (const [personId, all] of users) {
    const who = await loadWho(db, personId);
    const seen = new Set(who?.domainsAs('reader'));
    const rows = all
      .filter(({ domainId }) => seen.has(domainId))
      .map((row) => ({
        ...row,
        made: row.made.filter(({ domainId }) => seen.has(domainId)),
        replacement: row.replacementDomain && seen.has(row.replacementDomain) ? row.replacement : null,
      }))
      .filter(({ asked, made }) => asked !== null || made.length > 0);
    if (rows.length === 0) continue;
    // Written first and sent last: who cannot be reached is tried again, and nobody is told twice of what was sent.
    await db.transaction(async (tx) => {
      await tx.run(
        `
          insert into retirement_told (asset_id, person_id, on_day, replacement_id)
          select t.asset, $1, t.day, t.instead
          from unnest($2::uuid[], $3::date[], $4::uuid[]) as t(asset, day, instead)
          on conflict (asset_id, person_id)
          do update set on_day = excluded.on_day, replacement_id = excluded.replacement_id, at = now()`,
        [personId, rows.map((row) => row.assetId), rows.map((row) => row.onDay), rows.map((row) => row.replacementId)],
      );
      for (const { assetId, kind, path, domainId, name } of rows)
        await record(tx, service('retiring'), 'user told', { kind, id: assetId, name: path, domainId }, null, {
          person: name,
        });
      await sendMail(config, letterOf(config.address ?? '', rows));
    });
    told += 1;
  }
  return told;
}

/** What is written to somebody of what they use. */
function letterOf(address: string, rows: readonly Told[]): { to: string; subject: string; text: string } {
  const [first] = rows;
  const about = (row: Told): string => {
    const goes = [row.day ? `goes on ${row.day}` : '', row.replacement ? `instead: ${row.replacement}` : ''].filter(
      Boolean,
    );
    const why = [
      row.asked === null ? '' : `You asked for it${row.asked > 1 ? ` ${row.asked} times` : ''}.`,
      row.made.length > 0
        ? `You answer for what is made from it: ${row.made
            .slice(0, 5)
            .map(({ path }) => path)
            .join(', ')}${row.made.length > 5 ? ` and ${row.made.length - 5} more` : ''}.`
        : '',
    ].filter(Boolean);
    return [
      `${row.path} in ${row.source}${goes.length > 0 ? `: ${goes.join('; ')}` : ''}`,
      ...(why.length > 0 ? [why.join(' ')] : []),
      `${address}/assets/${row.assetId}`,
    ].join('\n');
  };
  const more = rows.length - MOST_IN_MAIL;
  return {
    to: first?.email ?? '',
    subject:
      rows.length === 1 ? `${first?.path} is to be retired` : `${rows.length} tables that you use are to be retired`,
    text: `Hello ${first?.name},\n\n${first?.by ?? 'Somebody'} has marked as retiring what you use:\n\n${rows.slice(0, MOST_IN_MAIL).map(about).join('\n\n')}${more > 0 ? `\n\nand ${more} more: ${address}/catalog?filter=standing%3Aretiring` : ''}\n`,
  };
}
