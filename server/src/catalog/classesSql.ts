/**
 * The classes that an asset carries itself, found and not dismissed or confirmed by people (also when no detector finds it any more), and those that came to it by lineage. How it comes to be
 * carried is settled once, in the table `carried`.
 * @param asset SQL of the asset's id
 */
export const classesOf = (asset: string): string =>
  `select distinct own.class_key from carried own where own.asset_id = ${asset} and own.via <> 'inside'`;

/** Which classes came to which assets along lineage, and with them to what holds these: rows of `asset_id` and `class_key`. */
export const ARRIVED = `(
  select k.asset_id, k.class_key from carried k where k.via = 'lineage'
  union all
  select i.asset_id, i.class_key
  from carried i
  join carried k on k.asset_id = i.from_id and k.class_key = i.class_key and k.via = 'lineage'
  where i.via = 'inside'
) arrived`;

/** The same for `asset a`, with those of the columns that it has now. */
export const CLASSES_HERE = 'select here.class_key from carried here where here.asset_id = a.id and a.gone_at is null';
