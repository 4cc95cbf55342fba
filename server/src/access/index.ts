export { accessRoutes } from './routes.ts';
