export { decideTable, isFor, type ReachChange, reachOf } from './decide.ts';
export { quoteIdentifier, quoteText } from './masks.ts';
export { RefusedStatement, type Rewritten, rewriteSelect, type TableLookup } from './rewrite.ts';
export {
  type ColumnAccess,
  type ColumnDecision,
  MASKS,
  type Mask,
  type Person,
  type Policy,
  type ReadableTable,
  type Reason,
  type RowLimit,
  type TableDecision,
} from './types.ts';
