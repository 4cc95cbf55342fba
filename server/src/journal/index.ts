export { journalRoutes } from './routes.ts';
export { record, type JournalSubject } from './record.ts';
