export {
  type ChangedConcept,
  COMPARED,
  type ComparedField,
  compareVocabulary,
  differing,
  isBelow,
  isOfMeaning,
  statusAllowed,
  type Taking,
  type VocabularyChange,
} from './compare.ts';
export { CONFLICT_KINDS, type Conflict, type ConflictKind, conflictsIn, sameNames } from './conflicts.ts';
export { readRows, rowsOf } from './rows.ts';
export { PREFIXES, readStatements, type Statement, statementsOf } from './skos.ts';
export * from './vocabulary.ts';
