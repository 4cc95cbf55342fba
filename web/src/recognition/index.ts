export { Arrivals } from './Arrivals.tsx';
export { useDetectorSetsQuery } from './api.ts';
export { ClassChips } from './ClassChips.tsx';
export { useClassesQuery } from './classesApi.ts';
export { useClassLabel } from './classLabels.ts';
export { FindingList, useDeciding } from './FindingList.tsx';
export { FindingPane, NOTHING_SAID, type Said } from './FindingPane.tsx';
export { useLevelReasonsQuery, useLevelsQuery } from './levelsApi.ts';
