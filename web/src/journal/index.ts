export { useJournalQuery } from './api.ts';
export { History, Value } from './History.tsx';
