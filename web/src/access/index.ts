export { useExplainQuery } from './api.ts';
