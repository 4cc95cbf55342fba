export { bringBack, change, create, type Kept, remove, type Saying, say } from './change.ts';
export { type Principal, service } from './principal.ts';
export { forgetEvents, type JournalSubject, record, recordMany, type Told } from './record.ts';
export { journalRoutes } from './routes.ts';
