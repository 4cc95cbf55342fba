export { DATA_CLASSES, dataClass, levelFromClasses, levelName } from './classes.ts';
export { CERTAIN, RULES, WORTH_SETTLING } from './confidence.ts';
export { DETECTORS } from './detectors/index.ts';
export { maskExample } from './mask.ts';
export { recognise } from './recognise.ts';
export {
  type ColumnSample,
  type DataClass,
  type Detector,
  type Finding,
  LEVELS,
  type Level,
  type LevelName,
  type Setting,
  type ValueType,
} from './types.ts';
