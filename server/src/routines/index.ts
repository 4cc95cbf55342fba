export { ROUTINE_CLASS_USE } from './classUse.ts';
export { ROUTINES_HELD } from './holdings.ts';
export { ROUTINE } from './models.ts';
export { routineRoutes } from './routes.ts';
