export { useFieldOriginsQuery, useImpactQuery } from './api.ts';
