import type { SharedAnswer, SharedTable } from '@idrel/contract/access';
import type { PartnerPerson } from '@idrel/contract/people';
import { decideTable, LAID_SCHEMA, laidType, maskInWords } from '@idrel/core/access';
import { kindsAskedSql, kindsSql } from '../../catalog/index.ts';
import { peopleOf, readerTopic, type Who } from '../../people/index.ts';
import type { Db } from '../../platform/database.ts';
import { forbidden, notFound } from '../../platform/problems.ts';
import type { Signals } from '../../platform/signals.ts';
import { factsFor, liesIn } from '../facts.ts';
import { drafted, isDeciding } from '../reach.ts';
import { groupOf, policiesOfShare, shareOf } from './read.ts';
import { shareTopic } from './service.ts';

const SHARED = `
  select h.id, h.number, h.name, h.note,
         case when h.state = 'accepted' and h.until <= now() then 'ended' else h.state end as state,
         h.local_name as "localName", h.offered_at as "offeredAt", h.until, w.name as "answeredBy", h.answered_at as "answeredAt",
         case when h.state = 'accepted' and h.until <= now() then h.until else h.ended_at end as "endedAt",
         (select count(*)::int from asset t where t.gone_at is null
            and t.kind in (${kindsSql('holdsRows')})
            and (${liesIn('array(select x.asset_id from share_asset x where x.share_id = h.id)')})) as tables,
         h.version
  from share h
  left join person w on w.id = h.answered_by
  where h.partner_id = $1`;

const partnerOf = (who: Who) => {
  if (!who.partner) throw forbidden('one of the people of a partner organisation');
  return who.partner;
};

/** What is shared with the organisation of who asks, and its people. @throws 403 */
export async function sharedWith(db: Db, who: Who): Promise<{ shares: SharedAnswer[]; people: PartnerPerson[] }> {
  const { id, leads } = partnerOf(who);
  const people = await peopleOf(db, id);
  return {
    shares: await db.rows<SharedAnswer>(`${SHARED} order by h.number desc`, [id]),
    people: people.map((person) => (leads || person.id === who.id ? person : { ...person, email: '' })),
  };
}

/** @throws 403, 404 */
export async function sharedOf(db: Db, who: Who, id: string): Promise<SharedAnswer> {
  const row = await db.one<SharedAnswer>(`${SHARED} and h.id = $2`, [partnerOf(who).id, id]);
  if (!row) throw notFound('The share');
  return row;
}

/** The tables of a share as its readers get them; of an offer as they would. @throws 403, 404 */
export async function sharedTables(db: Db, who: Who, id: string): Promise<SharedTable[]> {
  const partner = partnerOf(who);
  const share = await shareOf(db, id);
  if (share.partnerId !== partner.id || !['offered', 'accepted'].includes(share.state)) throw notFound('The share');
  const facts = await factsFor(
    db,
    { personId: who.id, purpose: null, share: { id, assetIds: share.assetIds } },
    `t.source_id = $1 and (${liesIn('$2')})`,
    [share.source.id, share.assetIds],
    'asked',
  );
  if (!facts) throw notFound('The person');
  const policies = [...facts.policies];
  if (share.state === 'offered') {
    const group = await groupOf(db, partner.id);
    for (const body of policiesOfShare(share, share, group.id, true).filter(isDeciding))
      policies.push({ ...(await drafted(db, null, body, [])), id: body.name, share: id });
  }
  const meanings = new Map(
    (
      await db.rows<{ id: string; kind: string; meaning: string }>(
        `
          select id, kind, coalesce(nullif(description, ''), native_comment, '') as meaning
          from asset
          where id = any($1::uuid[]) or (parent_id = any($1::uuid[]) and kind = 'column')`,
        [facts.tables.map((table) => table.id)],
      )
    ).map((row) => [row.id, row]),
  );
  return facts.tables.flatMap((table): SharedTable[] => {
    const decision = decideTable(policies, facts.person, table);
    const columns = decision.columns.filter(({ access }) => access !== 'refused');
    if (columns.length === 0) return [];
    return [
      {
        schema: table.here ? LAID_SCHEMA : table.schema,
        name: table.here ? table.path : table.name,
        kind: meanings.get(table.id)?.kind ?? 'table',
        meaning: meanings.get(table.id)?.meaning ?? '',
        limited: decision.rowLimits.length > 0,
        columns: columns.map(({ id: column, name, type, mask }) => ({
          name,
          type: table.here ? laidType(type) : type,
          meaning: meanings.get(column)?.meaning ?? '',
          masked: mask && maskInWords(mask),
        })),
      },
    ];
  });
}

/** A share by which somebody reads now. */
export interface OpenShare {
  readonly id: string;
  /** As its readers know it: the name of a database. */
  readonly localName: string;
  readonly source: { readonly id: string; readonly version: number };
  readonly assetIds: readonly string[];
  readonly until: string | null;
}

const OPEN = `
  select h.id, h.local_name as "localName", json_build_object('id', s.id, 'version', s.version) as source, h.until,
         array(select x.asset_id from share_asset x where x.share_id = h.id) as "assetIds"
  from share h
  join source s on s.id = h.source_id
  where h.partner_id = $1 and h.state = 'accepted' and (h.until is null or h.until > now()) and s.kind in (${kindsAskedSql(undefined)})`;

/** @throws 404 when nobody of theirs reads by it now */
export async function openShare(db: Db, who: Who, id: string): Promise<OpenShare> {
  const share = await db.one<OpenShare>(`${OPEN} and h.id = $2`, [who.partner?.id ?? null, id]);
  if (!share) throw notFound('The share, or it has ended:');
  return share;
}

/** The share that a partner reads under a name; undefined where there is none. */
export const shareCalled = (db: Db, who: Who, name: string): Promise<OpenShare | undefined> =>
  db.one<OpenShare>(`${OPEN} and (lower(h.local_name) = lower($2) or h.id::text = $2)`, [
    who.partner?.id ?? null,
    name,
  ]);

/**
 * Calls back once somebody reads by a share no more: it has ended, or was changed, its day has come, or they do not come in any more.
 * @returns the way to stop
 */
export function untilOver(
  signals: Signals,
  { id, until }: Pick<OpenShare, 'id' | 'until'>,
  personId: string,
  over: () => void,
): () => void {
  const topics = [shareTopic(id), readerTopic(personId)].map((topic) => signals.listen(topic, over));
  const left = until === null ? null : new Date(until).getTime() - Date.now();
  // Longer waits than this are none for a timer; nothing that reads lasts so long.
  const timer = left === null || left > 2 ** 31 - 1 ? undefined : setTimeout(over, Math.max(0, left));
  timer?.unref();
  return () => {
    clearTimeout(timer);
    for (const stop of topics) stop();
  };
}
