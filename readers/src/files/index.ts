export { convertToLines, isConverted } from './convert.ts';
export { describeFile, describeParquetParts, drawnFrom, type FileColumn, openDuck, sampleFile, withinTime } from './duck.ts';
export { type FileFormat, formatOf, type Walked, type WalkedFile, walk } from './walk.ts';
