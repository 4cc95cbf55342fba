export { useCoverageQuery } from './api.ts';
export { FiguresOfOne } from './Figures.tsx';
