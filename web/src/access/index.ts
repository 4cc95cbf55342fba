export { useExplainQuery } from './api.ts';
export { HowRead } from './HowRead.tsx';
