export { type Changed, changesOf, gathered, inWords, spoken } from './told.ts';
