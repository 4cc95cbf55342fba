export { DOMAIN, GROUP, PERSON } from './models.ts';
export { peopleRoutes } from './routes.ts';
export { sessions, sessionTopic, whoOfSession } from './sessions.ts';
export { loadWho, Who } from './who.ts';
