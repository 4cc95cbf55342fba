export { TermChooser, TermsChooser } from './TermChooser.tsx';
export { TermsOf } from './TermsOf.tsx';
export { TermsOrTags } from './TermsOrTags.tsx';
