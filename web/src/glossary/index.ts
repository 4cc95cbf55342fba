export { useTermsQuery } from './api.ts';
