export { coverageRoutes } from './routes.ts';
