export { beginDiscussion, waitingFor } from './discussions.ts';
export { writingRoutes } from './routes.ts';
