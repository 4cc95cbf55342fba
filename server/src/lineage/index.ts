export { brokenThings, seeBroken, settleBroken } from './broken.ts';
export { takeEdgeLines } from './edgeLines.ts';
export { impactList } from './impact.ts';
export { proposedImpact } from './proposed.ts';
export { lineageRoutes } from './routes.ts';
export { VIEWS_HELD } from './views.ts';
export { stepsOf, walk } from './walk.ts';
