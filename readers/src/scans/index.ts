export { coverOf, cutToScope, type NotCovered, pathOfKey } from './cover.ts';
export { recipeOf, sampledMark } from './marks.ts';
export {
  Cancelled,
  type Pulse,
  profileColumn,
  type ReadLimits,
  type RunReading,
  readSource,
  recogniseColumn,
} from './readSource.ts';
export { type TriedColumn, type TriedTable, tryDraft } from './tryDraft.ts';
export { fromLines, toLines, WireProblem } from './wire.ts';
