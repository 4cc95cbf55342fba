export { useImpactQuery } from './api.ts';
