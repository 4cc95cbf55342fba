export { columnValues } from './columnValues.ts';
export { accessRoutes } from './routes.ts';
