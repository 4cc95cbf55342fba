export { worklistRoutes } from './routes.ts';
export { scanNews, worklist } from './service.ts';
