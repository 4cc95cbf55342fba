export { describeFile, drawnFrom, type FileColumn, openDuck, sampleFile } from './duck.ts';
export { type FileFormat, formatOf, type Walked, type WalkedFile, walk } from './walk.ts';
