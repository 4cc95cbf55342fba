import validator from 'validator';
import { fold } from '../../text/index.ts';
import type { Detector } from '../types.ts';
import { NATIONALITIES } from './demographic.ts';

const PAIR = /^\(?\s*(-?\d{1,3}(?:\.\d+)?)\s*[,; ]\s*(-?\d{1,3}(?:\.\d+)?)\s*\)?$/;
const POINT = /^(?:SRID=\d+;)?POINT\s*\(\s*(-?\d{1,3}(?:\.\d+)?)\s+(-?\d{1,3}(?:\.\d+)?)\s*\)$/i;
const SEXAGESIMAL =
  /^\d{1,3}\s?°\s?\d{1,2}([.,]\d+)?\s?['′](\s?\d{1,2}([.,]\d+)?\s?["″])?\s?[NSEWØV]?(\s*,?\s*\d{1,3}\s?°.*)?$/;

/** Latitude and longitude in one value; a lone number is a coordinate only under a name that says so (see {@link latitudeOrLongitude}). */
export const coordinates: Detector = {
  id: 'place.pair',
  version: '1',
  classKey: 'coordinates',
  strength: 0.9,
  types: ['text', 'other'],
  minShare: 0.7,
  minShareNamed: 0.4,
  namesFor: [
    'coordinates',
    'coords',
    'latlon',
    'lat lon',
    'latlng',
    'geo',
    'geom',
    'geopoint',
    'position',
    'location',
    'gps',
    'point',
  ],
  namesAgainst: ['range', 'size', 'dimension', 'score'],
  // Two numbers with a gap alone are any two numbers that stand in a row.
  together: (values) =>
    values.every((value) => /^-?\d+\.\d+\s-?\d+\.\d+$/.test(value))
      ? { reason: 'two numbers with a gap between are any two numbers', logOdds: -4 }
      : undefined,
  test: (value) => {
    if (SEXAGESIMAL.test(value)) return true;
    const pair = PAIR.exec(value) ?? POINT.exec(value);
    if (!pair) return false;
    const [a, b] = [Number(pair[1]), Number(pair[2])];
    const precise = [pair[1], pair[2]].every((part) => /\.\d{3,}/.test(part ?? ''));
    return precise && ((Math.abs(a) <= 90 && Math.abs(b) <= 180) || (Math.abs(a) <= 180 && Math.abs(b) <= 90));
  },
  accepts: ['59.9127, 10.7461', 'POINT(10.7461 59.9127)', '59° 54′ 45″ N'],
  rejects: ['1,2', '259.9127, 10.7461', '12.50', 'NO'],
};

/** How far something is moved, and how far it is off. */
const DISTANCES = [
  'delta',
  'diff',
  'difference',
  'offset',
  'shift',
  'error',
  'err',
  'change',
  'span',
  'stddev',
  'sd',
  'variance',
  'accuracy',
  'step',
];

export const latitudeOrLongitude: Detector = {
  id: 'place.single',
  version: '1',
  classKey: 'coordinates',
  strength: 0.25,
  types: ['decimal', 'text'],
  minShare: 0.95,
  minShareNamed: 0.9,
  namesFor: [
    'lat',
    'latitude',
    'lon',
    'lng',
    'long',
    'longitude',
    'breitengrad',
    'laengengrad',
    'latitud',
    'longitud',
    'breddegrad',
    'lengdegrad',
  ],
  namesAgainst: ['price', 'amount', 'rate', 'score', 'weight', 'level', 'height', ...DISTANCES],
  needsName: true,
  test: (value) => /^-?\d{1,3}\.\d{2,}$/.test(value) && Math.abs(Number(value)) <= 180,
  accepts: ['59.9127', '-10.7461'],
  rejects: ['259.91', '59', '1.5'],
};

/** Forms that are postcodes and hardly anything else: Great Britain, Canada, Netherlands, Ireland, Poland, Portugal, Sweden with the gap, Brazil, Japan, United States with four more digits. */
const TELLING = [
  /^(GIR ?0AA|[A-PR-UWYZ]([0-9]{1,2}|[A-HK-Y][0-9]([0-9]|[ABEHMNPRV-Y])?|[0-9][A-HJKPSTUW]) ?[0-9][ABD-HJLNP-UW-Z]{2})$/i,
  /^[ABCEGHJ-NPRSTVXY]\d[ABCEGHJ-NPRSTV-Z] ?\d[ABCEGHJ-NPRSTV-Z]\d$/i,
  /^[1-9]\d{3} [A-Z]{2}$/,
  /^[AC-FHKNPRTV-Y](\d{2}|6W) ?[0-9AC-FHKNPRTV-Y]{4}$/,
  /^\d{2}-\d{3}$/,
  /^\d{4}-\d{3}$/,
  /^\d{3} \d{2}$/,
  /^\d{5}-\d{3}$/,
  /^\d{3}-\d{4}$/,
  /^\d{5}-\d{4}$/,
];
const POSTCODE_NAMES = [
  'postcode',
  'post code',
  'postal code',
  'zip',
  'zip code',
  'zipcode',
  'plz',
  'postleitzahl',
  'postnummer',
  'postal',
  'zips',
  'zip 5',
  'post code',
  'postnr',
  'code postal',
  'codigo postal',
  'cap',
  'cep',
  'kod pocztowy',
  'postinumero',
  'eircode',
  'psc',
  'pin code',
  'pincode',
  'postcode nl',
  'iranyitoszam',
  'posta kodu',
  'индекс',
  'індекс',
  '邮编',
  '郵便番号',
  '우편번호',
];
const POSTCODE_AGAINST = [
  'product',
  'booking',
  'reference',
  'order',
  'plate',
  'registration',
  'phone',
  'amount',
  'status',
  'error',
  'currency',
  'country',
  'area code',
  'dial',
];

export const postcode: Detector = {
  id: 'place.postcode',
  version: '1',
  classKey: 'postcode',
  strength: 0.86,
  types: ['text'],
  minShare: 0.75,
  minShareNamed: 0.5,
  namesFor: POSTCODE_NAMES,
  namesAgainst: POSTCODE_AGAINST,
  test: (value) => value.length <= 10 && TELLING.some((form) => form.test(value)),
  accepts: ['SW1A 1AA', 'K1A 0B1', '1012 AB', '00-950', '90210-1234', '114 55'],
  rejects: ['12345', 'ABC', 'A1', '12-34'],
};

/** Digits with the letters of a country before them, a gap or an addition; ten digits as Iran writes them; Ghana's addresses by grid. */
const LOOSE = /^([A-Z]{1,2}[- ]?)?\d{4,7}$|^\d{2,3}[ -]\d{2,3}$|^\d{5}-\d{3,5}$|^[A-Z]{2}-\d{3,4}-\d{4}$/;

/** Bare digits: only the column's name tells them from any other number. */
export const postcodeDigits: Detector = {
  id: 'place.postcode-digits',
  version: '2',
  classKey: 'postcode',
  strength: 0.5,
  needsName: true,
  types: ['text', 'integer'],
  minShare: 0.9,
  minShareNamed: 0.7,
  namesFor: POSTCODE_NAMES,
  namesAgainst: POSTCODE_AGAINST,
  test: (value) => value.length <= 12 && (LOOSE.test(value) || TELLING.some((form) => form.test(value))),
  accepts: ['0155', '10115', '75002', 'D-10115', 'LV-1010', '562 009', '041 90', '9280231'],
  rejects: ['1', '12345678', 'ABC-1', '12.50'],
};

const LANGUAGES =
  'en de fr es it pt nl sv nb nn da fi pl cs is sk sl hr sr sr-Latn bs mk bg ru uk be el tr hu ro et lv lt ga cy mt ca eu gl sq hy ka az kk uz fa ar he ur hi bn ta te ne th vi id ms fil sw af zu ja ko zh zh-Hant'.split(
    ' ',
  );
/** Names of countries in the languages of most catalogs, folded; as the Unicode CLDR has them. */
const COUNTRIES = new Set<string>();
/** ISO 3166-1, both letters and three letters. */
const COUNTRY_CODES = new Set<string>();
const ALPHA3 =
  'AFG ALA ALB DZA ASM AND AGO AIA ATG ARG ARM ABW AUS AUT AZE BHS BHR BGD BRB BLR BEL BLZ BEN BMU BTN BOL BES BIH BWA BRA BRN BGR BFA BDI CPV KHM CMR CAN CYM CAF TCD CHL CHN COL COM COG COD COK CRI CIV HRV CUB CUW CYP CZE DNK DJI DMA DOM ECU EGY SLV GNQ ERI EST SWZ ETH FLK FRO FJI FIN FRA GUF PYF GAB GMB GEO DEU GHA GIB GRC GRL GRD GLP GUM GTM GGY GIN GNB GUY HTI HND HKG HUN ISL IND IDN IRN IRQ IRL IMN ISR ITA JAM JPN JEY JOR KAZ KEN KIR PRK KOR KWT KGZ LAO LVA LBN LSO LBR LBY LIE LTU LUX MAC MDG MWI MYS MDV MLI MLT MHL MTQ MRT MUS MYT MEX FSM MDA MCO MNG MNE MSR MAR MOZ MMR NAM NRU NPL NLD NCL NZL NIC NER NGA NIU MKD NOR OMN PAK PLW PSE PAN PNG PRY PER PHL POL PRT PRI QAT REU ROU RUS RWA LCA VCT WSM SMR STP SAU SEN SRB SYC SLE SGP SVK SVN SLB SOM ZAF ATA ATF BVT CCK CXR ESH HMD IOT SGS UMI VGB VIR VAT TKL PCN WLF SPM MAF BLM NFK SHN SSD ESP LKA SDN SUR SJM SWE CHE SYR TWN TJK TZA THA TLS TGO TON TTO TUN TUR TKM TCA UGA UKR ARE GBR USA URY UZB VUT VEN VNM YEM ZMB ZWE'.split(
    ' ',
  );
const plainCountry = (name: string) =>
  fold(name)
    .replace(/\(.*\)|\bthe\b|[.’']/g, '')
    .replace(/&/g, 'and')
    .replace(/\s+/g, ' ')
    .trim();
for (let first = 65; first <= 90; first += 1)
  for (let second = 65; second <= 90; second += 1) {
    const code = String.fromCharCode(first, second);
    if (validator.isISO31661Alpha2(code)) COUNTRY_CODES.add(code);
  }
for (const language of LANGUAGES) {
  const names = new Intl.DisplayNames(language, { type: 'region' });
  for (const code of COUNTRY_CODES) {
    const name = names.of(code);
    if (name && name !== code) COUNTRIES.add(plainCountry(name));
  }
}
for (const code of ALPHA3) COUNTRY_CODES.add(code);
for (const name of [
  'usa',
  'uk',
  'great britain',
  'england',
  'scotland',
  'wales',
  'united states of america',
  'russia',
  'south korea',
  'czech republic',
  'holland',
  'macedonia',
  'burma',
  'ivory coast',
  'hong kong',
  'macau',
  'swaziland',
  'cape verde',
  'turkey',
])
  COUNTRIES.add(name);
/** What states call themselves beside their name. */
const STATEHOOD =
  /\b(islamic|democratic|people'?s?|peoples|federal|federative|federated|plurinational|bolivarian|oriental|co-?operative|arab|socialist|hashemite|independent|united|sovereign|republic|republics|kingdom|state|states|commonwealth|federation|confederation|principality|principalities|grand|duchy|sultanate|emirate|emirates|union|dominion|co-?principality|jamahiriya|eastern|and northern ireland|of|und|de|la|republica|republique|republik|bundesrepublik|konigreich|royaume|reino|estado|estados|repubblica|regno)\b/g;
/** `Republic of Malta`, `French Republic`, `Kingdom of the Netherlands`: what is left without the words for a state is a country, or the people of one. */
function isOfficialName(plain: string): boolean {
  if (!plain.includes(' ')) return false;
  const left = plain.replace(STATEHOOD, ' ').replace(/\s+/g, ' ').trim();
  return left !== plain && left.length >= 3 && (COUNTRIES.has(left) || NATIONALITIES.has(left) || ADJECTIVES.has(left));
}
const ADJECTIVES = new Set([
  'hellenic',
  'argentine',
  'lao',
  'kyrgyz',
  'swiss',
  'italian',
  'french',
  'portuguese',
  'czech',
  'slovak',
  'dominican',
  'syrian',
  'congo',
  'gabonese',
  'togolese',
  'central african',
  'russian',
  'lebanese',
  'tunisian',
  'uruguay',
]);
function isCountryName(value: string): boolean {
  if (value.length < 2 || value.length >= 80 || /\d/.test(value) || (value.length < 3 && /[A-Za-z]/.test(value)))
    return false;
  const plain = plainCountry(value);
  return (
    COUNTRIES.has(plain) ||
    isOfficialName(plain) ||
    (value.includes(',') && COUNTRIES.has(plainCountry(value.replace(/,.*$/, ''))))
  );
}

export const country: Detector = {
  id: 'place.country',
  version: '3',
  classKey: 'country',
  strength: 0.9,
  types: ['text'],
  minShare: 0.72,
  minShareNamed: 0.5,
  fewValues: 4,
  namesFor: [
    'country',
    'ctry',
    'cntry',
    'nation',
    'land',
    'pays',
    'pais',
    'paese',
    'kraj',
    'maa',
    'ulke',
    'tara',
    'zeme',
    'orszag',
    'страна',
    'країна',
    'χωρα',
    '国家',
    '國家',
    '국가',
    'מדינה',
    'الدولة',
    'کشور',
    'country of birth',
    'country of residence',
    'flag',
    'flag state',
  ],
  namesAgainst: ['name of person', 'city'],
  test: isCountryName,
  accepts: [
    'Republic of Malta',
    'Swiss Confederation',
    'Kingdom of the Netherlands',
    'Norway',
    'Deutschland',
    'Estados Unidos',
    'United Kingdom',
    'Норвегия',
    '中国',
    'Magyarország',
  ],
  rejects: ['Oslo', 'NO', 'Atlantis'],
};

/** Two or three letters: with the column's name, or where nearly every value of many different ones is a code. */
export const countryCode: Detector = {
  id: 'place.country-code',
  version: '2',
  classKey: 'country',
  strength: 0.55,
  types: ['text'],
  minShare: 0.97,
  minShareNamed: 0.8,
  fewValues: 5,
  namesFor: [
    'country',
    'countries',
    'country code',
    'countrycode',
    'ctry',
    'cntry',
    'cc',
    'cca 2',
    'cca 3',
    'iso 2',
    'iso 3',
    'iso a 2',
    'iso a 3',
    'iso country',
    'alpha 2',
    'alpha 3',
    'alpha 2 code',
    'alpha 3 code',
    'borders',
    'iso2',
    'iso3',
    'nation',
    'nationality',
    'land',
    'pays',
    'pais',
    'flag',
    'flag state',
  ],
  namesAgainst: [
    'state',
    'language',
    'lang',
    'locale',
    'unit',
    'status',
    'type',
    'code type',
    'grade',
    'seat',
    'currency',
    'deck',
  ],
  test: (value) => COUNTRY_CODES.has(value),
  accepts: ['NO', 'DE', 'GBR', 'USA'],
  rejects: ['XX', 'no', 'EUR', 'ABC'],
};

/** Two or three small letters: only the column's name tells them from languages and abbreviations. */
export const countryCodeSmall: Detector = {
  ...countryCode,
  id: 'place.country-code-small',
  version: '1',
  needsName: true,
  test: (value) => /^[a-z]{2,3}$/.test(value) && COUNTRY_CODES.has(value.toUpperCase()),
  accepts: ['no', 'de', 'gbr'],
  rejects: ['xx', 'NO', 'eur'],
};
