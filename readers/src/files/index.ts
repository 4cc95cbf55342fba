export { convertToLines, isConverted } from './convert.ts';
export { DISK_FULL, isDiskFull } from './disk.ts';
export {
  describeFile,
  describeParquetParts,
  drawnFrom,
  type FileColumn,
  isNested,
  openDuck,
  rowsOfFile,
  sampleFile,
  withinTime,
} from './duck.ts';
export { type FileFormat, formatOf, isRead, type Walked, type WalkedFile, type WalkedPart, walk } from './walk.ts';
