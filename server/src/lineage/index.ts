export { lineageRoutes } from './routes.ts';
export { stepsOf, walk } from './walk.ts';
