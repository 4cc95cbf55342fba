export { type JournalSubject, record, recordMany } from './record.ts';
export { journalRoutes } from './routes.ts';
