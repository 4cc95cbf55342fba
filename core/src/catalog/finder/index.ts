export {
  type Ask,
  type Branch,
  COUNTED,
  type Counted,
  Finder,
  type Measured,
  type MeasuredBy,
  type PageAsk,
  type PageFound,
  type ReadAs,
  type Waiting,
} from './finder.ts';
export type { Reasons } from './ranking.ts';
export type { FinderAsset, FinderNames, Held } from './store.ts';
