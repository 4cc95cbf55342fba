import type { LinkAnswer, LinkBody } from '@idrel/contract/catalog';
import type { AssetKind } from '@idrel/contract/things';
import { bringBack, change, create, type Kept, remove } from '../journal/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { notFound } from '../platform/problems.ts';
import { LINK, type LinkRow } from './models.ts';
import { FROM, PATH } from './rows.ts';
import { getAsset } from './service.ts';

const FIELDS = `
  l.id, l.asset_id as "assetId", l.kind, l.url, l.title, p.name as maker, l.created_at as "createdAt", l.version`;

interface Read extends LinkAnswer {
  readonly asset: { readonly kind: AssetKind; readonly path: string; readonly domainId: string };
}

const LINKS: Kept<LinkRow, Read> = {
  thing: 'link',
  model: LINK,
  async read(db, who, id) {
    const link = await db.one<Read>(
      `
        select ${FIELDS}, json_build_object('kind', a.kind, 'path', ${PATH}, 'domainId', a.domain_id) as asset
        from ${FROM}
        join asset_link l on l.asset_id = a.id
        left join person p on p.id = l.made_by
        where l.id = $1 and l.removed_at is null and ${isSeen('a', '$2')}`,
      [id, who.domainsAs('reader')],
    );
    if (!link) throw notFound('The link');
    return link;
  },
  told: (_db, { kind, title, url }) => ({ link: `${kind}: ${title}`, address: url }),
  subject: (_db, { asset: { kind, path, domainId }, assetId }) => ({ kind, id: assetId, name: path, domainId }),
  may: (_db, who, { asset }) => who.must('editor', asset.domainId),
};
const answerOf = ({ asset: _asset, ...link }: Read): LinkAnswer => link;

export async function listLinks(db: Db, who: Who, assetId: string): Promise<LinkAnswer[]> {
  await getAsset(db, who, assetId);
  return db.rows<LinkAnswer>(
    `
      select ${FIELDS}
      from asset_link l
      left join person p on p.id = l.made_by
      where l.asset_id = $1 and l.removed_at is null
      order by l.kind, lower(l.title), l.id
      limit 200`,
    [assetId],
  );
}

export async function addLink(tx: Db, who: Who, assetId: string, body: LinkBody): Promise<LinkAnswer> {
  await getAsset(tx, who, assetId);
  return answerOf(await create(tx, who, LINKS, { ...body, assetId, madeBy: who.id }, { action: 'link added' }));
}

export async function changeLink(tx: Db, who: Who, id: string, version: number, body: LinkBody): Promise<LinkAnswer> {
  const { after } = await change(tx, who, LINKS, id, { version, values: body, action: 'link changed' });
  return answerOf(after);
}

export async function removeLink(tx: Db, who: Who, id: string): Promise<void> {
  await remove(tx, who, LINKS, id, { leaving: { removedAt: new Date() }, action: 'link taken away' });
}

export async function bringBackLink(tx: Db, who: Who, id: string): Promise<LinkAnswer> {
  return answerOf(
    await bringBack(tx, who, LINKS, id, {
      isGone: ({ removedAt }) => removedAt !== null,
      values: { removedAt: null },
      action: 'link brought back',
    }),
  );
}
