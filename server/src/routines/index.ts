export { ROUTINE_CLASS_USE } from './classUse.ts';
export { ROUTINE } from './models.ts';
export { routineRoutes } from './routes.ts';
