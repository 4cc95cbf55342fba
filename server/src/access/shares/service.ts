import type { GrantEffect, ShareAnswer, ShareBody } from '@idrel/contract/access';
import { KINDS, type SourceKind } from '@idrel/contract/sources';
import { maskInWords } from '@idrel/core/access';
import { isKindThat } from '@idrel/core/things';
import { FROM, PATH } from '../../catalog/index.ts';
import { change, create, type Kept } from '../../journal/index.ts';
import { isSeen, type Who } from '../../people/index.ts';
import type { Db } from '../../platform/database.ts';
import { conflict, forbidden, invalid, notFound } from '../../platform/problems.ts';
import { TELL } from '../../platform/signals.ts';
import { liesIn } from '../facts.ts';
import { endGrants, grantPolicies, switchOn } from '../policies.ts';
import { effectFor } from '../requests/grant.ts';
import { tellOfShare } from './mails.ts';
import { SHARE, type ShareRow } from './models.ts';
import { groupOf, mustGive, policiesOfShare, readShare, shareOf } from './read.ts';

/** The news that a share has ended: whatever reads by it is ended. */
export const shareTopic = (id: string): string => `share:${id}`;

/** Which columns, in words. */
const columnsIn = ({ columns, columnsBut }: Pick<ShareBody, 'columns' | 'columnsBut'>): string =>
  columns === null ? 'all' : `${columnsBut ? 'all but ' : ''}${columns.join(', ')}`;

const told: Kept<ShareRow, ShareAnswer>['told'] = (
  _db,
  { name, note, partner, assets, columns, columnsBut, masked, rows, until, state, localName, answer, endedBecause },
) => ({
  name,
  partner,
  assets: assets.map(({ path }) => path),
  ...(note ? { note } : {}),
  ...(columns ? { columns: columnsIn({ columns, columnsBut }) } : {}),
  ...(masked ? { masked: `${columnsIn(masked)} as ${maskInWords(masked.mask)}` } : {}),
  ...(rows ? { rows: `${rows.column}: ${rows.values.join(', ')}` } : {}),
  until,
  state,
  ...(localName ? { 'read as': localName } : {}),
  ...(answer ? { answer } : {}),
  ...(endedBecause ? { because: endedBecause } : {}),
});

const domainsOf = async (db: Db, { id, source }: ShareAnswer) => ({
  domainIds: (
    await db.rows<{ id: string }>(
      `select distinct a.domain_id as id from share_asset x join asset a on a.id = x.asset_id where x.share_id = $1
       union select domain_id from source where id = $2`,
      [id, source.id],
    )
  ).map((row) => row.id),
});

/** How who gives keeps a share. */
const GIVEN: Kept<ShareRow, ShareAnswer> = { thing: 'share', model: SHARE, read: readShare, told, subject: domainsOf };

/** How who speaks for a partner answers one. */
const TAKEN: Kept<ShareRow, ShareAnswer> = {
  ...GIVEN,
  async read(db, who, id) {
    const share = await shareOf(db, id);
    if (share.partnerId !== who.partner?.id) throw notFound('The share');
    return share;
  },
  may(_db, who) {
    if (!who.partner?.leads) throw forbidden('to speak for your organisation');
  },
};

type Field = { field: 'assetIds' | 'columns' | 'masked' | 'rows' | 'until'; message: string };
const SAID: Readonly<Record<Field['field'], string>> = {
  assetIds: 'the assets',
  columns: 'the columns',
  masked: 'the mask',
  rows: 'the rows',
  until: 'its last day',
};

/** What can be shared: assets of one source that hold rows, or hold what does. @throws 403, 404, 422 @returns the id of the source */
async function checkShare(tx: Db, who: Who, body: ShareBody): Promise<string> {
  await groupOf(tx, body.partnerId);
  const assets = await tx.rows<{
    name: string;
    kind: Parameters<typeof isKindThat>[1];
    sourceId: string;
    of: SourceKind;
  }>(
    `
      select a.name, a.kind, a.source_id as "sourceId", s.kind as of
      from asset a join source s on s.id = a.source_id
      where a.id = any($1::uuid[]) and ${isSeen('a', '$2')} and a.gone_at is null`,
    [body.assetIds, who.domainsAs('reader')],
  );
  if (assets.length < body.assetIds.length) throw notFound('Something that is to be shared');
  await mustGive(tx, who, body.assetIds);
  const fields: Field[] = [];
  const say = (field: Field['field'], message: string) => fields.push({ field, message });
  const [first] = assets;
  if (assets.some(({ sourceId }) => sourceId !== first?.sourceId))
    say('assetIds', 'lie in several sources: a share is a database for its readers, and is of one');
  if (first && KINDS[first.of].asked === undefined)
    say('assetIds', 'lie in a source of which no statements can be asked: share tables or files');
  const odd = assets.filter(
    ({ kind }) =>
      kind !== 'column' && !isKindThat('holdsRows', kind) && !['schema', 'database', 'folder'].includes(kind),
  );
  for (const { name, kind } of odd) say('assetIds', `hold “${name}”, a ${kind}: it has no rows that could be read`);
  if (body.columnsBut && body.columns === null) say('columns', 'do not say which columns are left out');
  if (body.masked?.columnsBut && body.masked.columns === null)
    say('masked', 'does not say which columns are shown as they are');
  if (body.masked?.mask.kind === 'partial' && body.masked.mask.first + body.masked.mask.last === 0)
    say('masked', 'shows no characters: to show none, choose blank');
  if (body.until !== null && Date.parse(body.until) <= Date.now()) say('until', 'has passed already');
  const tables = await tx.rows<{ path: string; columns: string[] }>(
    `
      select (select ${PATH} from ${FROM} where a.id = t.id) as path,
             array(select c.name from asset c where c.parent_id = t.id and c.kind = 'column' and c.gone_at is null) as columns
      from asset t
      where t.gone_at is null and (${liesIn('$1')})
      order by t.key
      limit 5000`,
    [body.assetIds],
  );
  const withColumns = tables.filter(({ columns }) => columns.length > 0);
  const named = (names: readonly string[] | null | undefined, field: Field['field']) => {
    const unknown = (names ?? []).filter((name) => !withColumns.some(({ columns }) => columns.includes(name)));
    if (unknown.length > 0) say(field, `name ${unknown.map((name) => `“${name}”`).join(', ')}, which none of it has`);
  };
  named(body.columns, 'columns');
  named(body.masked?.columns, 'masked');
  const { rows } = body;
  const lacking = rows ? withColumns.filter(({ columns }) => !columns.includes(rows.column)) : [];
  if (rows && lacking.length > 0)
    say(
      'rows',
      `are limited by “${rows.column}”, which ${lacking
        .slice(0, 5)
        .map(({ path }) => path)
        .join(', ')} ${lacking.length === 1 ? 'does' : 'do'} not have: none of its rows would be read`,
    );
  if (fields.length > 0)
    throw invalid(
      `It cannot be shared so: ${fields.map(({ field, message }) => `${SAID[field]} ${message}`).join('; ')}.`,
      'Choose otherwise: what was typed is still there.',
      fields,
    );
  return first?.sourceId ?? '';
}

/** What a share would open to anybody of the partner. @throws 403, 404, 422 */
export async function shareEffect(
  db: Db,
  who: Who,
  { shareId, draft }: { readonly shareId: string | null; readonly draft: ShareBody },
): Promise<GrantEffect> {
  if (shareId !== null) await readShare(db, who, shareId);
  await checkShare(db, who, draft);
  const group = await groupOf(db, draft.partnerId);
  const anybody = {
    id: group.id,
    name: group.name,
    groups: [group.id],
    email: '',
    attributes: { organisation: [group.name] },
    purpose: null,
    outside: true,
    share: shareId ?? group.id,
  };
  const own =
    shareId === null ? [] : await db.rows<{ id: string }>('select id from policy where share_id = $1', [shareId]);
  return effectFor(db, who, anybody, own, policiesOfShare({ number: 0, partner: group.name }, draft, group.id, true));
}

const rowOf = ({ assetIds: _, until, ...row }: ShareBody) => ({
  ...row,
  until: until === null ? null : new Date(until),
});

const writeAssets = async (tx: Db, id: string, assetIds: readonly string[]): Promise<boolean> => {
  const gone = await tx.run('delete from share_asset where share_id = $1 and asset_id <> all($2::uuid[])', [
    id,
    assetIds,
  ]);
  const come = await tx.run(
    'insert into share_asset (share_id, asset_id) select $1, unnest($2::uuid[]) on conflict do nothing',
    [id, assetIds],
  );
  return gone + come > 0;
};

/** Offers assets to a partner. @throws 403, 404, 422 */
export async function offerShare(tx: Db, who: Who, body: ShareBody): Promise<ShareAnswer> {
  const sourceId = await checkShare(tx, who, body);
  const share = await create(
    tx,
    who,
    GIVEN,
    { ...rowOf(body), sourceId, offeredBy: who.id },
    { parts: (id) => writeAssets(tx, id, body.assetIds), action: 'offered' },
  );
  const group = await groupOf(tx, body.partnerId);
  await grantPolicies(tx, who, { shareId: share.id }, policiesOfShare(share, body, group.id, false));
  await tellOfShare(tx, { shareId: share.id, why: 'offered' });
  return readShare(tx, who, share.id);
}

/** @throws 409 when a share is over */
function mustStand({ state }: Pick<ShareAnswer, 'state'>, ...states: readonly ShareAnswer['state'][]): void {
  if (!states.includes(state))
    throw conflict(
      'settled-already',
      `The share is ${state}.`,
      'Look at it again; what has ended can be offered anew.',
    );
}

/** Changes what is shared, and within which limits; what reads by it now is begun anew within them. @throws 403, 404, 409, 412, 422 */
export async function changeShare(
  tx: Db,
  who: Who,
  id: string,
  version: number,
  body: ShareBody,
): Promise<ShareAnswer> {
  const { after } = await change(tx, who, GIVEN, id, {
    version,
    async values(before) {
      mustStand(before, 'offered', 'accepted');
      if (body.partnerId !== before.partnerId)
        throw invalid('A share stays that of its partner.', 'End it, and offer another one.', [
          { field: 'partnerId', message: 'is another one' },
        ]);
      const sourceId = await checkShare(tx, who, body);
      if (sourceId !== before.source.id)
        throw invalid('A share stays in its source.', 'End it, and offer another one.', [
          { field: 'assetIds', message: 'lie in another source' },
        ]);
      return rowOf(body);
    },
    parts: () => writeAssets(tx, id, body.assetIds),
  });
  const group = await groupOf(tx, body.partnerId);
  await endGrants(tx, who, { shareId: id });
  await grantPolicies(tx, who, { shareId: id }, policiesOfShare(after, body, group.id, after.state === 'accepted'));
  await tx.run(TELL, [shareTopic(id)]);
  return readShare(tx, who, id);
}

/** Ends a share, or takes an offer back: its policies go, and whatever reads by it is ended. @throws 403, 404, 409 */
export async function endShare(tx: Db, who: Who, id: string, because: string): Promise<ShareAnswer> {
  await change(tx, who, GIVEN, id, {
    version: null,
    action: 'ended',
    values(before): Partial<ShareRow> {
      mustStand(before, 'offered', 'accepted');
      return { state: 'ended', endedBy: who.id, endedAt: new Date(), endedBecause: because };
    },
    parts: async () => (await endGrants(tx, who, { shareId: id })) > 0,
  });
  await tx.run(TELL, [shareTopic(id)]);
  await tellOfShare(tx, { shareId: id, why: 'ended' });
  return readShare(tx, who, id);
}

/** Shares of a partner whose day has come have ended: their names are free. */
async function settleOver(tx: Db, who: Who, partnerId: string): Promise<void> {
  const over = await tx.rows<{ id: string }>(
    `
      update share
      set state = 'ended', ended_at = until, version = version + 1
      where partner_id = $1 and state = 'accepted' and until <= now()
      returning id`,
    [partnerId],
  );
  for (const { id } of over) await endGrants(tx, who, { shareId: id });
}

/** What a partner answers. @throws 403, 404, 409, 412, 422 */
export async function answerShare(
  tx: Db,
  who: Who,
  id: string,
  version: number,
  {
    decision,
    localName,
    text,
  }: {
    readonly decision: 'accepted' | 'declined' | 'given back';
    readonly localName: string | null;
    readonly text: string;
  },
): Promise<void> {
  const { after } = await change(tx, who, TAKEN, id, {
    version,
    action: decision,
    async values(before): Promise<Partial<ShareRow>> {
      const answered = { answeredBy: who.id, answeredAt: new Date(), answer: text };
      if (decision === 'given back') {
        mustStand(before, 'accepted');
        return { state: 'ended', endedBy: who.id, endedAt: new Date(), endedBecause: text };
      }
      mustStand(before, 'offered');
      if (decision === 'declined') return { ...answered, state: 'declined' };
      if (localName === null)
        throw invalid('It is not said under which name it is to be read.', 'Choose a name.', [
          { field: 'localName', message: 'is the name of a database for your programs' },
        ]);
      // One after the other: of two at once one would be told of nothing that it understands.
      await tx.run('select from partner where id = $1 for update', [before.partnerId]);
      await settleOver(tx, who, before.partnerId);
      const other = await tx.one(
        "select from share where partner_id = $1 and state = 'accepted' and lower(local_name) = lower($2)",
        [before.partnerId, localName],
      );
      if (other) throw conflict('name-taken', `You read another share as “${localName}”.`, 'Choose another name.');
      return { ...answered, state: 'accepted', localName };
    },
    async parts() {
      if (decision === 'accepted') await switchOn(tx, who, { shareId: id });
      else await endGrants(tx, who, { shareId: id });
      return true;
    },
  });
  if (after.state !== 'accepted') await tx.run(TELL, [shareTopic(id)]);
  await tellOfShare(tx, { shareId: id, why: decision });
}
