export { bringBack, change, create, type Kept, remove, type Saying, say } from './change.ts';
export { type Principal, service } from './principal.ts';
export { type Entry, forgetEvents, type JournalSubject, record, recordEach, recordMany, type Told } from './record.ts';
export { journalRoutes } from './routes.ts';
export { SEEN_IN_JOURNAL, seenBy } from './seen.ts';
