export { useSourceQuery, useSourcesQuery } from './api.ts';
