export { useAssetQuery, useAssetsQuery, useChildrenQuery, useEditAssetMutation } from './api.ts';
export { opens } from './opens.ts';
