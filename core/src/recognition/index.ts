export { DATA_CLASSES, dataClass, levelFromClasses, levelName } from './classes.ts';
export { CERTAIN, RULES, WORTH_SETTLING } from './confidence.ts';
export { DETECTORS } from './detectors/index.ts';
export { findInText, type TextEvidence, type TextKind, type TextPlace } from './freeText.ts';
export { maskExample } from './mask.ts';
export { recogniseTable } from './neighbours.ts';
export { type Proposal, proposePatterns } from './propose.ts';
export { recognise } from './recognise.ts';
export {
  CHECKSUMS,
  type Checksum,
  compileName,
  compileSpec,
  compileTest,
  type DetectorSpec,
  failingExamples,
  MOST_ENTRIES,
  type OwnDetector,
  SpecProblem,
  type ValueRule,
} from './spec.ts';
export {
  type ColumnSample,
  type ConfidenceTerm,
  type DataClass,
  type Detector,
  type Finding,
  LEVELS,
  type Level,
  type LevelName,
  type NameVerdict,
  type Setting,
  THEMES,
  type Theme,
  type ValueType,
} from './types.ts';
