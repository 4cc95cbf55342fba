export { TermChooser, TermsChooser } from './TermChooser.tsx';
export { TermsOrTags } from './TermsOrTags.tsx';
