export * from './discussions.ts';
export * from './guides.ts';
