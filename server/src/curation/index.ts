export { curationRoutes } from './routes.ts';
export { editAsset } from './service.ts';
