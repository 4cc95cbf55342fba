import type { Detector } from '../types.ts';

const AGE_NAMES = [
  'age',
  'ages',
  'alter',
  'alder',
  'edad',
  'eta',
  'idade',
  'leeftijd',
  'ika',
  'wiek',
  'age years',
  'years old',
  'passenger age',
];
/** What has an age and is no person, and what else is called so. */
const NOT_PERSONS = [
  'days',
  'hours',
  'minutes',
  'seconds',
  'vessel',
  'account',
  'file',
  'max',
  'cache',
  'building',
  'limit',
  'month',
  'months',
  'tree',
  'stand',
  'plant',
  'house',
  'car',
  'hull',
  'fleet',
  'debt',
];

export const age: Detector = {
  id: 'person.age',
  version: '1',
  classKey: 'age',
  strength: 0.5,
  types: ['integer', 'text'],
  minShare: 0.97,
  minShareNamed: 0.95,
  needsName: true,
  namesFor: AGE_NAMES,
  namesAgainst: [...NOT_PERSONS, 'group'],
  test: (value) => /^\d{1,3}$/.test(value) && Number(value) <= 120,
  accepts: ['0', '34', '101'],
  rejects: ['121', '-3', '34.5', 'old'],
};

/** Ages in years with a fraction, as they are reckoned from two dates. */
export const ageExact: Detector = {
  ...age,
  id: 'person.age-exact',
  strength: 0.45,
  types: ['decimal', 'integer', 'text'],
  test: (value) => /^\d{1,3}([.,]\d+)?$/.test(value) && Number(value.replace(',', '.')) <= 115,
  contrary: { reason: 'are below one: shares rather than years', test: (value) => /^0?[.,]\d+$/.test(value) },
  accepts: ['34.5', '0.75', '58.7652292950034', '61'],
  rejects: ['121.5', '-3.2', 'old'],
};

const BAND =
  /^(ages? )?\d{1,3}\s?(-|–|to|bis)\s?\d{1,3}( (years?|yrs|y|jahre|ar)( old)?)?$|^([<>≤≥]=?|under|over|unter|uber|below|above)\s?\d{1,3}$|^\d{1,3}\s?(\+|-|and (over|older|above)|or (over|older|more)|plus)$|^[[(]\d{1,3},\s?\d{1,3}[\])]$/i;

/** Ages in bands: `25-34`, `65+`, `under 18`. */
export const ageBand: Detector = {
  ...age,
  id: 'person.age-band',
  strength: 0.6,
  types: ['text'],
  minShare: 0.85,
  minShareNamed: 0.8,
  fewValues: 4,
  namesFor: [
    ...AGE_NAMES,
    'age group',
    'age band',
    'age range',
    'age class',
    'age bracket',
    'altersgruppe',
    'altersklasse',
    'aldersgruppe',
    'tranche age',
  ],
  namesAgainst: NOT_PERSONS,
  test: (value) => BAND.test(value),
  accepts: ['25-34', '65+', '<18', 'under 18', '75 and over', '[20, 30)', '40-49 years'],
  rejects: ['34', '2026-05', 'A-B', '1-2-3'],
};
