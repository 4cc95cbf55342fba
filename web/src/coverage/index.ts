export { useCoverageQuery } from './api.ts';
export { Figures } from './Figures.tsx';
