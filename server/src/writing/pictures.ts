import { PICTURE_MOST, type PICTURE_TYPES } from '@idrel/contract/writing';
import { getAsset } from '../catalog/index.ts';
import { record } from '../journal/index.ts';
import { isSeen, type Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { newId } from '../platform/ids.ts';
import { imageFacts } from '../platform/images.ts';
import { notFound } from '../platform/problems.ts';

type PictureType = (typeof PICTURE_TYPES)[number];
interface Picture {
  readonly id: string;
  readonly type: PictureType;
  readonly width: number;
  readonly height: number;
}

/** Keeps a picture for the guide of an asset. */
export async function addPicture(tx: Db, who: Who, assetId: string, content: string): Promise<Picture> {
  const { domainId, kind, path } = await getAsset(tx, who, assetId);
  who.must('editor', domainId);
  const bytes = Buffer.from(content, 'base64');
  const facts = imageFacts(bytes, ['png', 'jpg', 'webp', 'gif'], PICTURE_MOST);
  const id = newId();
  await tx.run(
    'insert into picture (id, asset_id, type, width, height, bytes, person_id) values ($1, $2, $3, $4, $5, $6, $7)',
    [id, assetId, facts.type, facts.width, facts.height, bytes, who.id],
  );
  const subject = { kind, id: assetId, name: path, domainId };
  await record(tx, who, 'picture added', subject, null, { picture: `${facts.width} × ${facts.height}, ${facts.type}` });
  return { id, ...facts };
}

/** A picture's bytes, for who may see the asset that it belongs to. @throws 404 */
export async function pictureBytes(db: Db, who: Who, id: string): Promise<{ type: PictureType; bytes: Buffer }> {
  const found = await db.one<{ type: PictureType; bytes: Buffer }>(
    `select x.type, x.bytes from picture x join asset a on a.id = x.asset_id where x.id = $1 and ${isSeen('a', '$2')}`,
    [id, who.domainsAs('reader')],
  );
  if (!found) throw notFound('The picture');
  return found;
}
