export { COUNTED, type Counted } from './counts.ts';
export {
  type Ask,
  type Branch,
  type BranchesOf,
  Finder,
  type PageAsk,
  type PageFound,
  type ReadAs,
} from './finder.ts';
export type { Measured, MeasuredBy } from './measured.ts';
export type { PathsOf } from './paths.ts';
export type { Waiting } from './queue.ts';
export type { Reasons } from './ranking.ts';
export type { FinderAsset, FinderNames, Held } from './store.ts';
