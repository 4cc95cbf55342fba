import type { PolicyBody, ShareAnswer, ShareBody } from '@idrel/contract/access';
import { FROM, PATH } from '../../catalog/index.ts';
import type { Who } from '../../people/index.ts';
import type { Db } from '../../platform/database.ts';
import { forbidden, notFound } from '../../platform/problems.ts';
import { mayWrite } from '../policies.ts';
import { maskedOf } from '../requests/grant.ts';

/** How many days of use are told. */
const DAYS = 30;

const SHARES = `
  select
    h.id, h.number, h.name, h.note, h.state, h.partner_id as "partnerId", q.name as partner,
    json_build_object('id', s.id, 'name', s.name) as source,
    array(select x.asset_id from share_asset x where x.share_id = h.id order by 1) as "assetIds",
    coalesce(
      (select json_agg(json_build_object('id', a.id, 'kind', a.kind, 'path', ${PATH}) order by a.key)
       from ${FROM} join share_asset x on x.asset_id = a.id where x.share_id = h.id and a.gone_at is null), '[]') as assets,
    h.columns, h.columns_but as "columnsBut", h.masked, h.rows, h.until, h.offered_at as "offeredAt", b.name as "offeredBy",
    h.answered_at as "answeredAt", w.name as "answeredBy", h.answer, h.local_name as "localName",
    h.ended_at as "endedAt", e.name as "endedBy", h.ended_because as "endedBecause", h.version,
    h.state = 'accepted' and (h.until is null or h.until > now())
      and not exists (select from policy p where p.share_id = h.id and p.effect = 'allow' and p.enabled) as "heldBack",
    (
      select json_build_object(
        'queries', coalesce(sum(n), 0), 'people', (select count(distinct g.asked_by) from gateway_query g
          where g.share_id = h.id and g.outcome = 'answered' and g.at > now() - interval '${DAYS} days'),
        'rows', coalesce(sum(rows), 0), 'last', max(last), 'days', json_agg(coalesce(n, 0) order by d.day)
      )
      from (select (now() at time zone 'UTC')::date - ago as day from generate_series(0, ${DAYS - 1}) ago) d
      left join (
        select (g.at at time zone 'UTC')::date as day, count(*)::int as n, sum(g.rows)::bigint as rows, max(g.at) as last
        from gateway_query g
        where g.share_id = h.id and g.outcome = 'answered' and g.at > now() - interval '${DAYS + 1} days'
        group by 1
      ) u on u.day = d.day
    ) as use
  from share h
  join partner q on q.id = h.partner_id
  join source s on s.id = h.source_id
  left join person b on b.id = h.offered_by
  left join person w on w.id = h.answered_by
  left join person e on e.id = h.ended_by`;

/** A share that is over by its day has ended, whoever has not said so yet. */
const asOfNow = (share: ShareAnswer): ShareAnswer =>
  share.state === 'accepted' && share.until !== null && new Date(share.until).getTime() <= Date.now()
    ? { ...share, state: 'ended', endedAt: share.until }
    : share;

/** Shares of which somebody administers the policies of every domain: what is over last, else the newest first. */
export async function listShares(db: Db, who: Who): Promise<ShareAnswer[]> {
  const rows = await db.rows<ShareAnswer>(
    `
      ${SHARES}
      where not exists (
          select from share_asset x join asset a on a.id = x.asset_id
          where x.share_id = h.id and a.domain_id <> all($1::uuid[]))
        and s.domain_id = any($2::uuid[])
      order by h.state in ('declined', 'ended'), h.number desc`,
    [who.domainsAs('policy administrator'), who.domainsAs('reader')],
  );
  return rows.map(asOfNow);
}

/** A share as it stands, whoever looks. @throws 404 */
export async function shareOf(db: Db, id: string): Promise<ShareAnswer> {
  const row = await db.one<ShareAnswer>(`${SHARES} where h.id = $1`, [id]);
  if (!row) throw notFound('The share');
  return asOfNow(row);
}

/** A share, for who may say what is shared. @throws 404 */
export async function readShare(db: Db, who: Who, id: string): Promise<ShareAnswer> {
  const share = await shareOf(db, id);
  if (!(await mayGive(db, who, share))) throw notFound('The share');
  return share;
}

/** Whether somebody administers the policies of all that is shared. */
async function mayGive(
  db: Db,
  who: Who,
  { assetIds, source }: Pick<ShareAnswer, 'assetIds' | 'source'>,
): Promise<boolean> {
  if (assetIds.length > 0) return mayWrite(db, who, { assetIds });
  const row = await db.one<{ domainId: string }>('select domain_id as "domainId" from source where id = $1', [
    source.id,
  ]);
  return row !== undefined && who.is('policy administrator', row.domainId);
}

/** @throws 403 */
export async function mustGive(db: Db, who: Who, assetIds: readonly string[]): Promise<void> {
  if (!(await mayWrite(db, who, { assetIds: [...assetIds] })))
    throw forbidden('policy administrator in every domain that the share reaches');
}

/** The policies that a share becomes: one that allows, and where values are masked or rows limited those that protect. */
export function policiesOfShare(
  { number, partner }: { readonly number: number; readonly partner: string },
  { assetIds, columns, columnsBut, masked, rows, until }: Omit<ShareBody, 'partnerId' | 'name' | 'note'>,
  groupId: string,
  enabled: boolean,
): PolicyBody[] {
  const name = `Share ${number} with ${partner}`.slice(0, 140);
  const common: Omit<PolicyBody, 'effect'> = {
    name,
    everyone: false,
    groupIds: [groupId],
    personIds: [],
    exceptGroupIds: [],
    assetIds,
    classKeys: [],
    filter: null,
    carried: false,
    columns: null,
    columnsBut: false,
    mask: null,
    rows: null,
    until,
    hours: null,
    purposes: [],
    opens: 'read',
    passesOn: false,
    enabled,
  };
  return [
    { ...common, effect: 'allow', columns, columnsBut },
    ...maskedOf(common, masked),
    ...(rows
      ? [
          {
            ...common,
            name: `${name}, rows`,
            effect: 'protect' as const,
            rows: { ...rows, attribute: null, through: null },
          },
        ]
      : []),
  ];
}

/** The group of a partner's people. @throws 404 */
export async function groupOf(db: Db, partnerId: string): Promise<{ readonly id: string; readonly name: string }> {
  const group = await db.one<{ id: string; name: string }>('select id, name from person_group where partner_id = $1', [
    partnerId,
  ]);
  if (!group) throw notFound('The partner');
  return group;
}
