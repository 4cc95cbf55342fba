export { beginDue, beginHeard } from './begin.ts';
export { ROUTINE_CLASS_USE } from './classUse.ts';
export { ROUTINES_HELD } from './holdings.ts';
export { ROUTINE } from './models.ts';
export { routineRoutes } from './routes.ts';
export { mailOfRoutine, type RoutineMail } from './tell.ts';
export { waitingRoutines } from './waiting.ts';
export { tendRuns, workOnRun } from './work.ts';
