export { applyRun, WORDS } from './apply.ts';
export { scanRoutes } from './routes.ts';
export { executeRun, sweep } from './run.ts';
