export { passTermsOfTag, TERM_CLASS_USE } from './carriers.ts';
export { GLOSSARY_HELD } from './holdings.ts';
export { TERM } from './models.ts';
export { glossaryRoutes } from './routes.ts';
export { takeTermLines } from './termLines.ts';
export { addTerm, changeTerm, spellTerms } from './terms.ts';
