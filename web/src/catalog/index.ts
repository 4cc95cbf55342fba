export {
  askForAsset,
  useAssetQuery,
  useAssetsQuery,
  useChildrenQuery,
  useDescribeAssetsMutation,
  useEditAssetMutation,
  useKnowAssetMutation,
} from './api.ts';
export { FilterField } from './FilterField.tsx';
export { forgetLately, latelyOf } from './lately.ts';
export { opens } from './opens.ts';
export { useSearchesQuery } from './searchesApi.ts';
