export { placeInFile, placeOf, readPlace, sqlName } from './addresses.ts';
export {
  CHECK_ITEMS,
  type Checked,
  type CheckFacts,
  type CheckItem,
  type Checklist,
  check,
  NO_CHECKLIST,
} from './checklist.ts';
export { type Completing, completingAt } from './complete.ts';
export { asksFor, both, hasWords, toggled, valuesOf, where } from './compose.ts';
export { compareLevel, isLineage, isUntold, isYes, levelNumber, passes, priorityGrade, rangeOf } from './evaluate.ts';
export {
  type AssetFacts,
  LINK_KINDS,
  type LinkKind,
  NO_FACTS,
  NOTICE_KINDS,
  type NoticeKind,
  PRIORITIES,
  type Priority,
  SORTS,
  type Sort,
  STANDINGS,
  type Standing,
  searchWords,
  wantedWords,
} from './facts.ts';
export {
  ASIDE,
  type Comparison,
  FILTER_KEYS,
  type Filter,
  FilterError,
  type FilterKey,
  LACKS,
  LINEAGES,
  ORDERED,
  parseFilter,
  showsAside,
  showsGone,
  someLeaf,
  writeFilter,
  writeValue,
} from './filter.ts';
export { asOf, DATED, meaningOf, meantTogether, type ShortKey } from './meanings.ts';
export { NOTICE_LONGEST, type NoticeCell, noticeIn, noticeInCell, REMARK_LONGEST } from './noticeCells.ts';
export { type PastedTexts, type Placed, placePasted } from './pasted.ts';
export { type Called, fits, isOfPaths, likePattern } from './pattern.ts';
export { type Piece, piecesOf, writePiece, writePieces } from './pieces.ts';
export {
  type CellChange,
  compareSheet,
  meant,
  readSheetRows,
  SHEET_FIELD_NAMES,
  SHEET_FIELDS,
  SHEET_FORMATS,
  type SheetAsset,
  type SheetField,
  type SheetFormat,
  type SheetNames,
  type SheetRead,
  sameSet,
  sheetRows,
} from './sheet.ts';
export { sizeOf } from './size.ts';
export {
  CLUES,
  type Clue,
  type ClueKind,
  refusalOf,
  SUGGESTED,
  type Suggested,
  type Suggestion,
  suggestionsFrom,
} from './suggest.ts';
export {
  type CameTag,
  type CarryingStep,
  type GivenTag,
  spread,
  type TagPlace,
  TRAVEL_KINDS,
  type TravelKind,
  type TravellingTag,
  travelledTags,
} from './travel.ts';
export { isWhen, stretchOf } from './when.ts';
