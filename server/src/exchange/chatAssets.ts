import type { AssetAnswer } from '@idrel/contract/catalog';
import { assetAt, getAsset } from '../catalog/index.ts';
import type { Who } from '../people/index.ts';
import type { Db } from '../platform/database.ts';
import { ApiProblem } from '../platform/problems.ts';

/** The asset at an address of this server, where whoever asks may see it. */
export async function assetBehind(db: Db, who: Who, pathname: string): Promise<AssetAnswer | undefined> {
  try {
    const id = /^\/assets\/([0-9a-f-]{36})$/.exec(pathname)?.[1] ?? (await assetAt(db, who, pathname)).id;
    return await getAsset(db, who, id);
  } catch (error) {
    if (error instanceof ApiProblem) return undefined;
    throw error;
  }
}
