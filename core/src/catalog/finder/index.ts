export {
  type Ask,
  type Branch,
  COUNTED,
  type Counted,
  Finder,
  type PageAsk,
  type PageFound,
  type ReadAs,
} from './finder.ts';
export type { Reasons } from './ranking.ts';
export type { FinderAsset, FinderNames } from './store.ts';
