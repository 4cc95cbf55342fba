import type { NoticeAnswer, NoticeBody, NoticesAnswer } from '@idrel/contract/curation';
import type { AssetKind } from '@idrel/contract/things';
import { reachable } from '@idrel/core/lineage';
import { FROM, GRAVEST_FIRST, getAsset, PATH } from '../catalog/index.ts';
import { bringBack, change, create, type Kept, remove } from '../journal/index.ts';
import { stepsOf, walk } from '../lineage/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { invalid, notFound } from '../platform/problems.ts';
import { NOTICE, type NoticeRow } from './models.ts';

/** Today, wherever the server and the database stand. */
const TODAY = "(now() at time zone 'UTC')::date";
const HOLDS = `removed_at is null and starts <= ${TODAY} and (ends is null or ends >= ${TODAY})`;

const FIELDS = `
  n.id, n.asset_id as "assetId", n.kind, n.text, n.starts::text, n.ends::text, n.holds, p.name as maker,
  n.created_at as "createdAt", n.version`;
const OF_NOTICE = 'notice n left join person p on p.id = n.made_by';

interface Read extends NoticeAnswer {
  readonly asset: { readonly kind: AssetKind; readonly path: string; readonly domainId: string };
}

const NOTICES: Kept<NoticeRow, Read> = {
  thing: 'notice',
  model: NOTICE,
  async read(db, who, id) {
    const notice = await db.one<Read>(
      `
        select ${FIELDS}, json_build_object('kind', a.kind, 'path', ${PATH}, 'domainId', a.domain_id) as asset
        from ${FROM}
        join notice n on n.asset_id = a.id
        left join person p on p.id = n.made_by
        where n.id = $1 and n.removed_at is null and ${isSeen('a', '$2')}`,
      [id, who.domainsAs('reader')],
    );
    if (!notice) throw notFound('The notice');
    return notice;
  },
  // It is told of the asset: there it is looked for.
  told: (_db, { kind, text, starts, ends }) => ({ notice: `${kind}: ${text}`, starts, ends }),
  subject: (_db, { asset: { kind, path, domainId }, assetId }) => ({ kind, id: assetId, name: path, domainId }),
  may: (_db, who, { asset }) => who.must('editor', asset.domainId),
};
const answerOf = ({ asset: _asset, ...notice }: Read): NoticeAnswer => notice;

function check({ starts, ends }: NoticeBody): void {
  if (ends !== null && ends < starts)
    throw invalid('The notice ends before it begins.', 'Let it end on the day it begins, or later.', [
      { field: 'ends', message: 'lies before the first day' },
    ]);
}
/** Whether it holds today: said with the row, so that whoever writes it finds it so. */
const holds = ({ starts, ends }: NoticeBody): boolean => {
  const today = new Date().toISOString().slice(0, 10);
  return starts <= today && (ends === null || ends >= today);
};

export async function addNotice(tx: Db, who: Who, assetId: string, body: NoticeBody): Promise<NoticeAnswer> {
  check(body);
  await getAsset(tx, who, assetId);
  const made = await create(
    tx,
    who,
    NOTICES,
    { ...body, assetId, holds: holds(body), madeBy: who.id },
    { action: 'notice given' },
  );
  return answerOf(made);
}

export async function changeNotice(
  tx: Db,
  who: Who,
  id: string,
  version: number,
  body: NoticeBody,
): Promise<NoticeAnswer> {
  check(body);
  const { after } = await change(tx, who, NOTICES, id, {
    version,
    values: { ...body, holds: holds(body) },
    action: 'notice changed',
  });
  return answerOf(after);
}

export async function removeNotice(tx: Db, who: Who, id: string): Promise<void> {
  await remove(tx, who, NOTICES, id, {
    leaving: { removedAt: new Date(), holds: false },
    action: 'notice taken away',
  });
}

export async function bringBackNotice(tx: Db, who: Who, id: string): Promise<NoticeAnswer> {
  await bringBack(tx, who, NOTICES, id, {
    isGone: ({ removedAt }) => removedAt !== null,
    values: { removedAt: null },
    action: 'notice brought back',
  });
  await tendNotices(tx);
  return answerOf(await NOTICES.read(tx, who, id));
}

/** Notices whose first day has come, or whose last one is over. */
export const tendNotices = (db: Db): Promise<number> =>
  db.run(`update notice set holds = not holds where holds <> (${HOLDS}) and (removed_at is null or holds)`);

/** So far up what an asset is made from is looked at, and so much of it. */
const RINGS = 10;
const ENOUGH = 500;
const AROUND = 50;

/** Where an asset lies and what it is made from ($1 ids, $2 why, $3 how far), but itself ($4); of columns also their tables. */
const PLACES = `
  (
    select distinct on (y.at) y.at, y.why, y.distance
    from (
      select t.id as at, t.why, t.distance
      from unnest($1::uuid[], $2::text[], $3::int[]) as t(id, why, distance)
      union all
      select up.parent_id, t.why, t.distance
      from unnest($1::uuid[], $2::text[], $3::int[]) as t(id, why, distance)
      join asset up on up.id = t.id and up.kind = 'column'
      where t.why = 'made from'
    ) y
    where y.at <> $4
    order by y.at, y.distance
  ) x`;

/** Notices of an asset, with those of what it lies in and is made from. */
export async function listNotices(db: Db, who: Who, assetId: string): Promise<NoticesAnswer> {
  const asset = await getAsset(db, who, assetId);
  const own = await db.rows<NoticeAnswer>(
    `
      select ${FIELDS}
      from ${OF_NOTICE}
      where n.asset_id = $1 and n.removed_at is null
      order by n.holds desc, n.starts > ${TODAY} desc, ${GRAVEST_FIRST}
      limit 200`,
    [assetId],
  );
  const holders = [...asset.ancestors]
    .reverse()
    .map(({ id }, at) => ({ id, distance: at + 1, why: 'lies in' as const }));
  const upstream = reachable(
    await walk(stepsOf(db, asset.kind === 'column' ? 'column' : 'table'), [assetId], 'upstream', RINGS, ENOUGH),
    assetId,
    'upstream',
  ).map(({ id, distance }) => ({ id, distance, why: 'made from' as const }));
  const places = [...holders, ...upstream];
  const bind = [
    places.map(({ id }) => id),
    places.map(({ why }) => why),
    places.map(({ distance }) => distance),
    assetId,
    who.domainsAs('reader'),
  ];
  const around = await db.rows<NoticesAnswer['around'][number]>(
    `
      select
        json_build_object(
          'id', n.id, 'assetId', n.asset_id, 'kind', n.kind, 'text', n.text, 'starts', n.starts::text, 'ends', n.ends::text,
          'holds', n.holds, 'maker', p.name, 'createdAt', n.created_at, 'version', n.version
        ) as notice,
        x.why, json_build_object('id', a.id, 'kind', a.kind, 'path', ${PATH}) as asset, x.distance
      from ${PLACES}
      join notice n on n.asset_id = x.at and n.holds
      left join person p on p.id = n.made_by
      join ${FROM.replace('asset a', 'asset a on a.id = n.asset_id')}
      where ${isSeen('a', '$5')}
      order by x.distance, ${GRAVEST_FIRST}
      limit ${AROUND}`,
    bind,
  );
  const retiring = await db.rows<NoticesAnswer['retiring'][number]>(
    `
      select
        x.why, x.distance, json_build_object('id', a.id, 'kind', a.kind, 'path', ${PATH}) as asset, r.on_day::text as on,
        (
          select json_build_object('id', a.id, 'path', ${PATH})
          from ${FROM}
          where a.id = r.replacement_id and ${isSeen('a', '$5')}
        ) as replacement
      from ${PLACES}
      join ${FROM.replace('asset a', 'asset a on a.id = x.at')}
      left join retirement r on r.asset_id = a.id
      where a.standing = 'retiring' and a.gone_at is null and ${isSeen('a', '$5')}
      order by x.distance, a.id
      limit ${AROUND}`,
    bind,
  );
  return { own, around, retiring };
}
