export { proposed } from './callableRule.ts';
export { type CallableFacts, Callables, decisionOn, type FunctionFact, KNOWN_EXTENSIONS } from './callables.ts';
export { decideTable, isFor, type ReachChange, reachOf } from './decide.ts';
export { appliedMask, DIGEST_SETTING, hasFewValues, maskedValue, quoteIdentifier, quoteText } from './masks.ts';
export { namedRelations } from './names.ts';
export { RefusedStatement } from './refused.ts';
export { type Rewritten, rewriteSelect, type TableLookup } from './rewrite.ts';
export { rewriteCatalog } from './shownCatalog.ts';
export type { ShownCatalog, ShownTable } from './shownRows.ts';
export {
  type ColumnAccess,
  type ColumnDecision,
  MASKS,
  type Mask,
  type Origin,
  type Person,
  type Policy,
  type ReadableColumn,
  type ReadableTable,
  type Reason,
  type RowLimit,
  type TableDecision,
} from './types.ts';
