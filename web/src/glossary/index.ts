export { useTermsQuery } from './api.ts';
export { TermsOrTags } from './TermsOrTags.tsx';
