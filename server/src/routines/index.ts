export { ROUTINE } from './models.ts';
export { routineRoutes } from './routes.ts';
