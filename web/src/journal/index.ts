export { useJournalQuery } from './api.ts';
export { History } from './History.tsx';
