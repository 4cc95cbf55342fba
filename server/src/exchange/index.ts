export { exchangeRoutes } from './routes.ts';
