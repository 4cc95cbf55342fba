export { describeFile, type FileColumn, openDuck, sampleFile } from './duck.ts';
export { type FileFormat, formatOf, walk, type Walked, type WalkedFile } from './walk.ts';
