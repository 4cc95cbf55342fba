import { fold } from '../../text/index.ts';
import places from '../data/places.json' with { type: 'json' };
import type { Detector } from '../types.ts';

const REGIONS = new Set([
  ...places.regions.split('|'),
  // As they are called in English, or in their own language, where the list has the other.
  ...'bavaria|bayern|saxony|lower saxony|niedersachsen|saxony-anhalt|thuringia|hesse|north rhine-westphalia|rhineland-palatinate|baden-wurttemberg|mecklenburg-western pomerania|tuscany|lombardy|sicily|sardinia|piedmont|apulia|catalonia|andalusia|castile and leon|castilla y leon|basque country|galicia|brittany|normandy|burgundy|corsica|provence|england|scotland|wales|northern ireland|flanders|wallonia|vestland|viken|innlandet|trondelag|agder|rogaland|nordland|oslo|skane|dalarna|jutland|zealand|bohemia|moravia|silesia|mazovia|transylvania|crete|quebec|district of columbia|washington dc|washington, d.c.|hokkaido|kerala|punjab'.split(
    '|',
  ),
]);

// What some country calls a part of itself, and everybody else a direction.
for (const word of 'north south east west central northern southern eastern western northeast northwest southeast southwest center centre capital other islands upper lower'.split(
  ' ',
))
  REGIONS.delete(word);

/** A place's name as the lists have it. */
export const plainPlace = (value: string) =>
  fold(value)
    .replace(/[’`]/g, "'")
    .replace(/\bst\b\.?/g, 'saint')
    .replace(/\s+/g, ' ')
    .trim();

const STATE_NAMES = [
  'state',
  'states',
  'province',
  'region',
  'county',
  'department',
  'prefecture',
  'canton',
  'bundesland',
  'kanton',
  'fylke',
  'lan',
  'landskap',
  'maakunta',
  'departement',
  'estado',
  'provincia',
  'regione',
  'comunidad autonoma',
  'wojewodztwo',
  'kraj',
  'megye',
  'oblast',
  'область',
  'область',
  'регион',
  '省',
  '都道府県',
  'subdivision',
  'admin',
  'state name',
  'state province',
  'territory',
  'us state',
  'home state',
  'birth state',
];
const NOT_REGION = [
  'id',
  'status',
  'machine',
  'order',
  'application',
  'connection',
  'transition',
  'session',
  'sales',
  'person',
  'wine',
];

export const region: Detector = {
  id: 'place.region',
  version: '1',
  classKey: 'region',
  strength: 0.84,
  types: ['text'],
  minShare: 0.8,
  minShareNamed: 0.4,
  fewValues: 6,
  namesFor: STATE_NAMES,
  namesAgainst: [...NOT_REGION, 'city', 'town', 'country'],
  test: (value) =>
    value.length >= 3 &&
    value.length <= 60 &&
    /^\p{L}/u.test(value) &&
    REGIONS.has(plainPlace(value.replace(/\s+(county|province|region|prefecture|oblast|state)$/i, ''))),
  accepts: ['Bavaria', 'North Carolina', 'Bayern', 'Ontario', 'Vestland'],
  rejects: ['blue', 'NC', 'Deck 4'],
};

/** The states of the United States as their postal service writes them, Canada's provinces, Australia's states, Brazil's, India's, Italy's provinces not among them. */
const STATE_CODES = new Set(
  (
    'AL AK AZ AR CA CO CT DE FL GA HI ID IL IN IA KS KY LA ME MD MA MI MN MS MO MT NE NV NH NJ NM NY NC ND OH OK OR PA RI SC SD TN TX UT VT VA WA WV WI WY DC PR GU VI AS MP AE AP AA ' +
    'AB BC MB NB NL NS NT NU ON PE QC SK YT NSW VIC QLD TAS ACT AC AP AM BA CE ES GO MG MS PB PE PI RJ RN RO RR RS SP SE TO BW BY BE BB HB HH HE MV NI NW RP SL SN ST SH TH'
  ).split(' '),
);
/** Codes of ISO 3166-2: the country, a hyphen, up to three letters or digits. */
const ISO_REGION = /^[A-Z]{2}-[A-Z0-9]{1,3}$/;

export const regionCode: Detector = {
  id: 'place.region-code',
  version: '1',
  classKey: 'region',
  strength: 0.55,
  needsName: true,
  types: ['text'],
  minShare: 0.95,
  minShareNamed: 0.85,
  fewValues: 4,
  namesFor: STATE_NAMES,
  namesAgainst: [...NOT_REGION, 'country', 'city'],
  test: (value) => STATE_CODES.has(value) || ISO_REGION.test(value),
  accepts: ['CA', 'NSW', 'US-CA', 'GB-SCT'],
  rejects: ['XX', 'new', 'open'],
};

/** The same where a system knows no capitals. */
export const regionCodeSmall: Detector = {
  ...regionCode,
  id: 'place.region-code-small',
  test: (value) => /^[a-z]{2,3}$/.test(value) && STATE_CODES.has(value.toUpperCase()),
  accepts: ['ca', 'nsw'],
  rejects: ['CA', 'xx', 'open'],
};

/** Parts of the world and of a country by the directions of the compass: other than anything else under a name that says so. */
const PARTS_OF_THE_WORLD = new Set(
  `africa|america|americas|asia|europe|oceania|antarctica|north america|south america|latin america|central america|caribbean|latin america and the caribbean|latin america & caribbean|sub-saharan africa|northern africa|north africa|western africa|west africa
|eastern africa|east africa|middle africa|central africa|southern africa|middle east|near east|far east|middle east and north africa|middle east & north africa|western asia|central asia|eastern asia|east asia|south asia|southern asia|south-eastern asia
|southeast asia|south-east asia|east asia and pacific|east asia & pacific|europe and central asia|europe & central asia|northern europe|western europe|eastern europe|southern europe|central europe|australia and new zealand|melanesia|micronesia|polynesia
|australasia|pacific|asia pacific|asia-pacific|scandinavia|balkans|nordic countries|emea|apac|latam|northern america|north|south|east|west|northeast|northwest|southeast|southwest|north-east|north-west|south-east|south-west|north east|north west|south east
|south west|midwest|mid-west|midlands|central|centre|center|north central|south central|northern|southern|eastern|western|central west|mid-atlantic|great plains|mountain|coastal|coastal south|coastal east|inland|islands|nord|sud|ost|oest|ouest|est|norte|sur|este|oeste`
    .split('|')
    .map((word) => word.trim()),
);
export const worldRegion: Detector = {
  ...region,
  id: 'place.world-region',
  version: '1',
  strength: 0.55,
  needsName: true,
  minShareNamed: 0.7,
  fewValues: 3,
  namesFor: [
    'region',
    'regions',
    'continent',
    'continents',
    'subregion',
    'sub region',
    'world region',
    'area',
    'verdensdel',
    'kontinent',
    'landesteil',
    'landsdel',
  ],
  namesAgainst: [...NOT_REGION, 'brain', 'body', 'memory', 'gene', 'code', 'image', 'square', 'size'],
  test: (value) =>
    PARTS_OF_THE_WORLD.has(plainPlace(value.replaceAll('.', ' ').replace(/s$/, ''))) ||
    PARTS_OF_THE_WORLD.has(plainPlace(value.replaceAll('.', ' '))),
  accepts: ['South Asia', 'northeast', 'Europe & Central Asia', 'Oceania'],
  rejects: ['blue', 'Bavaria', 'hippocampus'],
};

/** Counties, provinces and the like that stand in no list: capitals, under a name that can mean nothing else. */
export const regionNamed: Detector = {
  ...region,
  id: 'place.region-named',
  version: '1',
  strength: 0.42,
  needsName: true,
  minShare: 0.9,
  minShareNamed: 0.85,
  namesFor: [
    'county',
    'counties',
    'county name',
    'province',
    'provinces',
    'prefecture',
    'canton',
    'bundesland',
    'fylke',
    'provincia',
    'provincie',
    'wojewodztwo',
    'oblast',
    'voivodeship',
    'region name',
    'state name',
    'province name',
  ],
  test: (value) =>
    value.length >= 3 &&
    value.length <= 60 &&
    /^[\p{Lu}\p{Lo}'][\p{L}\p{M}.'’ ()/-]+$/u.test(value) &&
    !/[.!?]\s/.test(value.replace(/^St\.\s/, '')),
  accepts: ['San Joaquin', 'ADAMS', "Prince George's", 'St. Clair'],
  rejects: ['12', 'blue', 'CA'],
};
