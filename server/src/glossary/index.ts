export { TERM } from './models.ts';
export { glossaryRoutes } from './routes.ts';
