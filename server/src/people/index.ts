export { peopleRoutes } from './routes.ts';
export { sessions } from './sessions.ts';
export { loadWho, Who } from './who.ts';
