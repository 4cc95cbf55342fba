export { type BesideColumn, besideColumns } from './beside.ts';
export { proposed } from './callableRule.ts';
export { type CallableFacts, Callables, decisionOn, type FunctionFact, KNOWN_EXTENSIONS } from './callables.ts';
export { decideTable, HANDS_MOST, isFor, isForAnyPurpose, isNamedBy, organisationOf, passableOf } from './decide.ts';
export * from './enforce/index.ts';
export { Engine, Reader } from './engine.ts';
export { holdsAt, isOver, isWithin, isZone } from './hours.ts';
export { type Checked, checkPolicies, type Idle, type MaskClash } from './idle.ts';
export { fitsLaid, LAID_SCHEMA, type LaidTable, type LaidType, laidOut, laidType, namesMeant } from './laidOut.ts';
export { MADE_UP, type MadeUpTable, meaningLater, readableOf } from './later.ts';
export {
  GENERAL,
  type General,
  isSameMask,
  type Keyed,
  MASK_KINDS,
  type Mask,
  type MaskKind,
  maskInWords,
  masksTogether,
  ORGANISATION,
  PART_MOST,
  STEPS,
  type Stepped,
} from './maskKinds.ts';
export {
  appliedMask,
  DIGEST_SETTINGS,
  type Digest,
  hasFewValues,
  maskedValue,
  quoteIdentifier,
  quoteText,
  typeUnder,
} from './masks.ts';
export { namedRelations } from './names.ts';
export * from './native/index.ts';
export { type Pair, pairRows } from './pairs.ts';
export * from './policyFile/index.ts';
export { isOfColumns, readPolicyFilter } from './policyFilter.ts';
export { type ReachChange, type RowReachChange, reachOf, rowReachOf } from './reachOf.ts';
export { RefusedStatement } from './refused.ts';
export { type Rewritten, rewriteSelect, type TableLookup } from './rewrite.ts';
export { rewriteCatalog } from './shownCatalog.ts';
export type { ShownCatalog, ShownTable } from './shownRows.ts';
export {
  asShown,
  BY_EMAIL,
  type ColumnAccess,
  type ColumnDecision,
  type DecidedLimit,
  type Hours,
  type HowFar,
  type Opens,
  type Origin,
  type Person,
  type Policy,
  type ReadableColumn,
  type ReadableTable,
  type Reason,
  type RowLimit,
  type TableDecision,
  type Through,
  type ToldAccess,
  toldAccess,
} from './types.ts';
export { decidedLimitInWords, hoursInWords, limitInWords } from './words.ts';
