export { applyRun } from './apply.ts';
export { startDuePlans } from './plans.ts';
export { scanRoutes } from './routes.ts';
export { afterRun, executeRun, sweep } from './run.ts';
export { wordsVector } from './words.ts';
