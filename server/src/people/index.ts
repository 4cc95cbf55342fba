export { firstWay } from './firstWay.ts';
export { type Held, listedBy } from './holdings.ts';
export { DOMAIN, GROUP, PERSON } from './models.ts';
export { oneEach } from './passing.ts';
export { type MailTask, runMailTask } from './passwordLinks.ts';
export { peopleRoutes } from './routes.ts';
export { sessions, sessionTopic, whoOfSession } from './sessions.ts';
export { forgetSignIns } from './tries.ts';
export { loadWho, Who } from './who.ts';
