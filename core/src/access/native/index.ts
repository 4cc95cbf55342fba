export { type Afterwards, afterClosing, loses } from './afterwards.ts';
export { bypassesOf, isAgainst } from './bypasses.ts';
export {
  backText,
  type ClosingPlan,
  type ClosingWish,
  closingPlan,
  inTransaction,
  type PlanStep,
  planText,
} from './closing.ts';
export { type Candidate, type Suggestion, suggester } from './suggest.ts';
export {
  type Bypass,
  type BypassedColumn,
  EVERYBODY,
  type LoginPeople,
  NATIVE_HOW,
  type NativeGrant,
  type NativeHow,
  type NativeRole,
  type NativeTable,
  type NativeWay,
} from './types.ts';
export { comesInto, limitedThere, loginOf, loginsNear, type NativeLogin, rolesOf, waysInto } from './ways.ts';
export { chainInWords, holderInWords, rightBySentence, rightInWords, standingInWords } from './words.ts';
