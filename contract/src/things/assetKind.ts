import { ASSET_KINDS, type AssetKind } from '@idrel/core/things';
import { oneOf } from '../http/shape.ts';

/** The kind of an asset, as answers tell it. It stands apart: the registry itself is read in the browser, without schemas. */
export const assetKind = oneOf(Object.keys(ASSET_KINDS) as AssetKind[]);
