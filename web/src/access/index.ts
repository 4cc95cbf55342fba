export { AtSource } from './AtSource.tsx';
export { useExplainQuery, usePoliciesQuery } from './api.ts';
export { HowRead } from './HowRead.tsx';
export { ReportImage } from './ReportImage.tsx';
export { Rows } from './Rows.tsx';
