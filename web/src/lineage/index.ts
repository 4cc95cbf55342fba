export { useFieldOriginsQuery, useImpactQuery, useTakeDrawnAwayMutation } from './api.ts';
