export { lineageRoutes } from './routes.ts';
export { walk } from './walk.ts';
