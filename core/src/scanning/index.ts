export { breaking } from './breaking.ts';
export * from './compose.ts';
export * from './described.ts';
export {
  type FileSet,
  type Grouped,
  groupFiles,
  mergeSchemas,
  type NamedFile,
  type SchemaVariant,
  spread,
} from './fileSets.ts';
export * from './profile.ts';
export { type LikelyRename, likelyRenames, type Shape } from './renames.ts';
export {
  type Blackout,
  describeSchedule,
  nextTimes,
  type Rhythm,
  type Schedule,
  type Weekday,
  weekdayName,
} from './schedule.ts';
export { compilePattern, describeScope, EVERYTHING, PatternError, type Scope, scopeCover } from './scope.ts';
