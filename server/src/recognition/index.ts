export { type ClassUse, inTheWay } from './classUse.ts';
export { listLevels } from './levelRules.ts';
export { settleLevels } from './levels.ts';
export { settleAround } from './levelsAround.ts';
export { detectorsNow, knownClasses, lookingDetectors, type OwnVersion, ownDetectors } from './registry.ts';
export { recognitionRoutes } from './routes.ts';
export { decideFindings, listFindings } from './service.ts';
export { mustHaveSet, setOptions } from './sets.ts';
export { runTrial } from './trials.ts';
