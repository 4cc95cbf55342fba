import type { AssetAnswer } from '@idrel/contract/catalog';
import type { TagTravel } from '@idrel/contract/curation';
import type { TravelPreview } from '@idrel/contract/recognition';
import { getAsset } from '../catalog/index.ts';
import { say } from '../journal/index.ts';
import type { Who } from '../people/index.ts';
import type { Database, Db } from '../platform/database.ts';
import { notFound } from '../platform/problems.ts';
import { changesAlong, settleArrivals } from '../recognition/index.ts';
import { mustGiveTag, tagRules } from './tagRules.ts';

/** To what a tag would come, and from what it would go, if it went on otherwise, or were for other kinds of asset. */
export async function previewTagTravel(
  db: Database,
  who: Who,
  id: string,
  { travels, kinds }: TagTravel,
): Promise<TravelPreview> {
  await tagRules(db, id);
  const now = 'select asset_id, value, from_id, distance from tag_came where tag_id = $1';
  return changesAlong(db, who, now, id, (tx) =>
    tx.run('update tag set travels = $2, kinds = $3 where id = $1', [id, travels, kinds]),
  );
}

/**
 * Refuses a tag that comes to an asset along lineage, or lets it in again: what is refused goes no further from there, either.
 * @throws 403 for who may not edit the asset, or not give the tag; 404 where the tag neither comes nor was refused
 */
export async function refuseTag(
  tx: Db,
  who: Who,
  assetId: string,
  tagId: string,
  refused: boolean,
): Promise<AssetAnswer> {
  const rules = await tagRules(tx, tagId);
  const told = (is: boolean) => ({ 'tags that are refused': is ? [rules.name] : [] });
  await say(tx, who, {
    action: refused ? 'tag refused' : 'tag let in',
    async held() {
      await tx.run('select from asset where id = $1 for update', [assetId]);
      const asset = await getAsset(tx, who, assetId);
      const coming = asset.arrivedTags.find((tag) => tag.id === tagId);
      if (!coming && refused) throw notFound('The tag that comes along lineage');
      return { asset, was: coming?.refused ?? false };
    },
    may({ asset }) {
      who.must('editor', asset.domainId);
      mustGiveTag(rules, undefined, who);
    },
    async write({ was }) {
      await tx.run(
        refused
          ? 'insert into tag_refusal (asset_id, tag_id, refused_by) values ($1, $2, $3) on conflict do nothing'
          : 'delete from tag_refusal where asset_id = $1 and tag_id = $2 and $3::uuid is not null',
        [assetId, tagId, who.id],
      );
      return [told(was), told(refused)];
    },
    about: ({ asset: { kind, path, domainId } }) => ({ kind, id: assetId, name: path, domainId }),
  });
  await settleArrivals(tx);
  return getAsset(tx, who, assetId);
}
