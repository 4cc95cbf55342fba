export { type Drifted, drifted, type Made } from './drift.ts';
export {
  type EnforcingPlan,
  enforcingPlan,
  KEYS_SCHEMA,
  keyName,
  MADE_BY,
  type MadeBefore,
  NOTHING_MADE,
  needsKeys,
  numberOfReaders,
  type Placed,
  type PlacedReaders,
  roleOfReaders,
  shownInWords,
  type TableMeans,
  tableKey,
  undoing,
  type Without,
} from './plan.ts';
export { type Difference, predictedRow, rowIsSeen, type TrueRow } from './predict.ts';
export { heldByDatabase, type KnownLogin, type OpenTable, type Readers, readersOfSource } from './readers.ts';
