export { worklistRoutes } from './routes.ts';
export { scanNews } from './service.ts';
