export { tryByAgents } from './agentAsks.ts';
export { agentsOnly } from './agentRuns.ts';
export { applyRun } from './apply.ts';
export { breakingNews, seeBreaking } from './breaking.ts';
export { startDuePlans } from './duePlans.ts';
export { scanRoutes } from './routes.ts';
export { afterRun, executeRun, sweep } from './run.ts';
export { getRun } from './service.ts';
export { wordsVector } from './words.ts';
