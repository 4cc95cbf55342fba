export { useFieldOriginsQuery, useImpactQuery, useTakeDrawnAwayMutation } from './api.ts';
export { Understood } from './Understood.tsx';
