export { useAssetQuery, useAssetsQuery, useChildrenQuery, useEditAssetMutation } from './api.ts';
export { FilterField } from './FilterField.tsx';
export { opens } from './opens.ts';
