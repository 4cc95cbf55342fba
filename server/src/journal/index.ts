export { type JournalSubject, record } from './record.ts';
export { journalRoutes } from './routes.ts';
