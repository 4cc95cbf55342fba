export { lineageRoutes } from './routes.ts';
