/**
 * The classes that an asset carries itself: found and not dismissed, or confirmed by people (also when no detector finds it any more). How it comes to be
 * carried is settled once, in the table `carried`.
 * @param asset SQL of the asset's id
 */
export const classesOf = (asset: string): string =>
  `select own.class_key from carried own where own.asset_id = ${asset} and own.via = 'itself'`;

/** The same for `asset a`, with those of the columns that it has now. */
export const CLASSES_HERE = 'select here.class_key from carried here where here.asset_id = a.id and a.gone_at is null';
