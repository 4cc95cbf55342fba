export { MENTIONED, type Mentioned, mentionText, targetOf } from './mentions.ts';
export {
  blocksOf,
  compareWords,
  compareWritten,
  type Difference,
  mergedText,
  mergeWritten,
  type Part,
} from './merge.ts';
export {
  labelled,
  type Mention,
  readWritten,
  type Written,
  WrittenTooDeep,
} from './read.ts';
