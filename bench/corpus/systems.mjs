import { allLocales, Faker } from '@faker-js/faker';

const two = (number) => String(number).padStart(2, '0');
const ROWS = 120;
const LOCALES = ['en_US', 'en_GB', 'de', 'sv', 'es_MX', 'it'];

const day = (f, from, to) => f.date.between({ from, to }).toISOString();
const of = (f, list) => f.helpers.arrayElement(list);
const PLACE_ENDS = ['Municipal Airport', 'Intl', 'Regional', 'Airport', 'Field'];
const AGENCIES = ['Agency', 'Authority', 'Commission', 'Department of Health', 'Office of the Auditor', 'Council'];
const VERBS = ['get', 'set', 'load', 'close', 'merge', 'read'];
const PLAIN_ASK = [
  'select * from visit where allergy is not null',
  'update patient set diagnosis = null where id = 4',
  'insert into symptom (id, name) values (1, 2)',
  'create index on therapy (id)',
];
const ASYLUMS = [
  'National Cancer Institute',
  'Centre for Diabetes Research',
  'Institute of Cancer Therapy',
  'Royal Surgery College',
  'Allergy Foundation of Tarnholm',
  'Asthma Society Office',
];
const OFFICIAL = [
  'Republic of Malta',
  'Kingdom of Norway',
  'Federal Republic of Germany',
  'French Republic',
  'Italian Republic',
  'Kingdom of the Netherlands',
  'Republic of Chile',
  'Commonwealth of Australia',
  'Swiss Confederation',
  'Republic of Kenya',
  'Kingdom of Sweden',
  'Islamic Republic of Pakistan',
  'United Mexican States',
  'Republic of Korea',
  'Hellenic Republic',
  'Republic of India',
];
const DEMONYMS = [
  'Burkinabe',
  'Monegasque',
  'Surinamese',
  'Fijian',
  'Norwegian',
  'I-Kiribati',
  'Motswana',
  'Laotian',
  'Irish',
  'Tongan',
  'Emirati',
  'Comorian',
  'Peruvian',
  'Ni-Vanuatu',
  'Samoan',
  'Danish',
  'Malagasy',
];
const TONGUES = [
  'English',
  'French',
  'Spanish',
  'Portuguese',
  'Swahili',
  'Arabic',
  'Faroese',
  'Tamil',
  'Quechua',
  'Aymara',
  'Welsh',
  'Sotho',
  'Maltese',
  'German',
  'Xhosa',
];
const CODES3 = ['eng', 'fra', 'deu', 'spa', 'nob', 'swa', 'tam', 'por', 'ita', 'isl', 'fao', 'cym'];
/** Names of people that no list holds. */
const RARE = [
  'Ulvhild',
  'Tarnwick',
  'Brogand',
  'Keszgarai',
  'Ossivund',
  'Draumveig',
  'Mallowen',
  'Vetrlidi',
  'Quorndal',
  'Hestavarg',
  'Thornvald',
  'Ysolvar',
  'Anderskvist',
  'Groveland',
  'Pellwick',
  'Marrowdale',
  'Skarvik',
  'Fenwarden',
];
const AGENTS = [
  'Tillreader/2.1 (+https://example.org/reader)',
  'Harbourbot/1.0 (compatible; like nothing else)',
  'WheelApp/4.12 Android/14',
  'TideClient/3.0 (Linux; arm64) Engine/7.2',
  'Kiosk/2.2.1 (KHTML) Shell/1.9',
];

/** What catalogs of systems hold: the class or nothing, a name, a maker of values; `named` where no value could tell without it. */
const COLUMNS = [
  [null, 'date', (f) => day(f, '1962-01-01', '2004-01-01').slice(0, 10), 'date', true],
  [null, 'Date', (f) => day(f, '1950-01-01', '2026-11-20').slice(0, 10)],
  [null, 'released', (f) => day(f, '1940-01-01', '2026-11-20').slice(0, 10)],
  [null, 'founded_on', (f) => day(f, '1920-01-01', '2020-01-01').slice(0, 10), 'date', true],
  [null, 'entry', (f) => day(f, '1970-01-01', '2026-11-23').slice(0, 10)],
  [null, 'month', (f) => `${f.number.int({ min: 1950, max: 2010 })}-${two(f.number.int({ min: 1, max: 12 }))}-01`],
  ['date-of-birth', 'dob', (f) => `${day(f, '1935-01-01', '2006-01-01').slice(0, 10)} 00:00:00`, 'other', true],
  ['date-of-birth', 'birth_date', (f) => `${day(f, '1935-01-01', '2006-01-01').slice(0, 10)}T00:00:00Z`, 'other', true],
  ['date-of-birth', 'DOB', (f) => `${day(f, '1935-01-01', '2006-01-01').slice(0, 10)} 00:00:00+00`, 'text', true],
  [
    null,
    'message_id',
    (f) => `<${f.string.hexadecimal({ length: 14, prefix: '' })}.${f.string.numeric(6)}@${f.internet.domainName()}>`,
  ],
  [null, 'in_reply_to', (f) => `<${f.string.numeric(14)}.${f.string.alphanumeric(8)}@mail.${f.internet.domainName()}>`],
  [null, 'ref', (f) => `<CAF${f.string.alphanumeric(36)}@mail.${f.internet.domainName()}>`],
  [null, 'name', (f) => `${f.person.lastName()} ${of(f, PLACE_ENDS)}`],
  [
    null,
    'facility',
    (f) =>
      `${f.person.firstName()} ${f.person.lastName()} ${of(f, ['Park', 'Memorial Bridge', 'Library', 'Street School', 'Dam'])}`,
  ],
  [null, 'function_name', (f) => `${of(f, VERBS)}${f.person.firstName()}`],
  [null, 'method', (f) => `${f.person.firstName().toLowerCase()}_${of(f, VERBS)}`],
  [null, 'symbol', (f) => `${of(f, VERBS)}${of(f, ['Price', 'Till', 'Row', 'Page'])}()`],
  [null, 'answer', (f) => of(f, ['yes', 'no'])],
  [null, 'no', (f) => of(f, ['no', 'yes', 'no'])],
  [null, 'consent', (f) => of(f, ['Y', 'N'])],
  [null, 'sex_offered', (f) => of(f, ['y', 'n'])],
  [
    null,
    'relation',
    (f) =>
      `${of(f, ['sales', 'core', 'ref', 'public', 'audit'])}.${of(f, ['invoice', 'passenger', 'fare', 'tide', 'port', 'crew', 'till', 'visit'])}${of(f, ['', 'line', 'log'])}`,
  ],
  [null, 'statement', (f) => of(f, PLAIN_ASK)],
  [null, 'institute', (f) => of(f, ASYLUMS), 'text', false, ['organisation']],
  [null, 'loading', (f) => f.number.float({ min: 0, max: 1, fractionDigits: 6 }).toFixed(6)],
  [null, 'p_value', (f) => `0.${f.string.numeric(6)}`, 'text'],
  ['coordinates', 'latitude', (f) => String(f.number.int({ min: -60, max: 70 })), undefined, true],
  ['coordinates', 'longitude', (f) => f.location.longitude().toFixed(1), undefined, true],
  ['coordinates', 'lat', (f) => f.location.latitude().toFixed(1), undefined, true],
  ['country', 'country', (f) => f.location.countryCode('alpha-2')],
  ['country', 'iso_a3', (f) => f.location.countryCode('alpha-3')],
  ['country', 'official_name', (f) => of(f, OFFICIAL)],
  ['language', 'languages', (f) => f.helpers.arrayElements(TONGUES, { min: 1, max: 4 }).join(', '), undefined, true],
  ['language', 'language', (f) => of(f, CODES3), undefined, true],
  ['language', 'spoken', (f) => f.helpers.arrayElements(CODES3, { min: 1, max: 3 }).join(';'), undefined, true],
  ['nationality', 'demonym', (f) => of(f, DEMONYMS)],
  ['user-agent', 'ua', (f) => f.internet.userAgent()],
  ['user-agent', 'agent', (f) => of(f, AGENTS)],
  ['person-name', 'last_name', (f) => of(f, RARE), undefined, true],
  ['person-name', 'surname', (f) => `${of(f, RARE)}-${of(f, RARE)}`, undefined, true],
  ['city', 'city', (f) => f.location.city(), undefined, true],
  [
    'city',
    'town',
    (f) =>
      `${of(f, ['Ulvey', 'Kessgar', 'Tarnholm', 'Lodden', 'Marrick', 'Brae'])}${of(f, ['', '-on-Sea', ' Bridge', ' Major', ' Parva'])}`,
    undefined,
    true,
  ],
  ['region', 'state', (f) => f.location.state(), undefined, true],
  ['region', 'state', (f) => of(f, ['CA', 'NY', 'TX', 'OR', 'WA', 'FL', 'IL', 'OH', 'MA', 'NC']), undefined, true],
  ['currency', 'currency', (f) => f.finance.currencyCode()],
  ['currency', 'ccy', (f) => of(f, ['EUR', 'USD', 'NOK', 'GBP'])],
  [
    'organisation',
    'employer',
    (f) => `${f.person.lastName()} ${of(f, ['Ltd', 'Inc', 'GmbH', 'AS', 'plc', 'LLC', 'AB', 'Group'])}`,
  ],
  ['organisation', 'agency', (f) => `${f.person.lastName()} ${of(f, AGENCIES)}`, undefined, true],
  ['airport-code', 'iata', (f) => f.airline.airport().iataCode],
  ['airport-code', 'origin', (f) => f.airline.airport().iataCode],
  ['time-zone', 'timezone', (f) => f.location.timeZone()],
  [
    'time-zone',
    'utc_offset_tz',
    (f) => `${of(f, ['+', '-'])}${two(f.number.int({ min: 0, max: 11 }))}:${of(f, ['00', '30'])}`,
    undefined,
    true,
  ],
  [
    'occupation',
    'occupation',
    (f) =>
      of(f, [
        'Deckhand worker',
        'Chief engineer',
        'Purser',
        'Teacher',
        'Nurse',
        'Head of sales manager',
        'Software developer',
        'Bus driver',
        'Electrician',
        'Accountant',
        'Cook',
        'Harbour pilot',
      ]),
  ],
  ['age', 'age', (f) => (f.number.int({ min: 600, max: 31_000 }) / 365.25).toFixed(of(f, [1, 2, 4])), undefined, true],
  ['age', 'Age', (f) => String(f.number.int({ min: 36, max: 190 }) / 2), undefined, true],
  ['age', 'age_group', (f) => of(f, ['0-17', '18-29', '30-44', '45-64', '65+']), undefined, true],
  ['age', 'age', (f) => of(f, ['under 18', '18 to 34', '35 to 64', '65 and over']), undefined, true],
  [null, 'tree_age', (f) => f.number.float({ min: 3, max: 110, fractionDigits: 1 }).toFixed(1)],
  [null, 'age_share', (f) => f.number.float({ min: 0.01, max: 0.99, fractionDigits: 3 }).toFixed(3)],
  [
    'coordinates',
    'longitude',
    (f) => f.number.float({ min: 0, max: 359, fractionDigits: 1 }).toFixed(1),
    undefined,
    true,
  ],
  [null, 'lat_error', (f) => f.number.float({ min: -1, max: 1, fractionDigits: 7 }).toFixed(7)],
  [null, 'delta_lon', (f) => f.number.float({ min: -2, max: 2, fractionDigits: 8 }).toFixed(8)],
  [null, 'cell', (f) => `2${f.string.numeric(8)}`, 'integer'],
  [null, 'cell', (f) => `${of(f, ['A', 'B', 'C', 'D'])}${f.number.int({ min: 1, max: 12 })}`],
  [
    null,
    'schooling',
    (f) =>
      of(f, [
        'Primary school',
        'Junior secondary school',
        'Senior secondary school',
        'Technical college',
        'University',
        'No school',
      ]),
  ],
  [null, 'club', (f) => of(f, ['POR', 'DAN', 'IDA', 'MAX', 'LEO', 'TIM', 'KAI', 'ELI', 'BEN', 'JON'])],
  [null, 'lens', (f) => of(f, ['Clara', 'No Clara'])],
  ['region', 'county', (f) => (f.location.county ? f.location.county() : of(f, RARE)), undefined, true],
  ['region', 'province', (f) => of(f, RARE), undefined, true],
  [
    'region',
    'region',
    (f) => of(f, ['Northern Europe', 'Western Africa', 'South-eastern Asia', 'Caribbean', 'Polynesia', 'Central Asia']),
    undefined,
    true,
  ],
  ['region', 'region', (f) => of(f, ['north', 'south', 'east', 'midlands', 'north-west']), undefined, true],
  ['region', 'state', (f) => of(f, ['tx', 'nm', 'az', 'ut', 'co', 'wy', 'id']), undefined, true],
  [
    'occupation',
    'occupation',
    (f) => of(f, ['catering', 'deck work', 'engine room', 'management', 'office and sales', 'retired']),
    undefined,
    true,
  ],
  ['person-name', 'authors', (f) => `${of(f, RARE)} & ${of(f, RARE)}`, undefined, true],
  [
    'person-name',
    'authors',
    (f) => of(f, [`${of(f, RARE)} et al.`, `${of(f, RARE)} and ${of(f, RARE)}`, of(f, RARE)]),
    undefined,
    true,
  ],
  ['person-name', 'judge', (f) => of(f, RARE), undefined, true],
  ['person-name', 'winner', (f) => `${of(f, ['A', 'B', 'H', 'J', 'K', 'L'])}. ${of(f, RARE)}`],
  [
    'person-name',
    'signatory',
    (f) => `${of(f, RARE).toUpperCase()},${of(f, ['A', 'B', 'H'])}.${of(f, ['J', 'K', 'L'])}.`,
  ],
  ['postcode', 'zip', (f) => f.string.numeric(5), undefined, true],
];

/** Columns of this part; the same always. */
export function makeSystems(typeOf) {
  return LOCALES.flatMap((locale, index) => {
    const f = new Faker({ locale: [allLocales[locale], allLocales.en, allLocales.base] });
    f.seed(31 + index);
    return COLUMNS.map(([key, name, make, type, named, allowed = []], at) => {
      const values = Array.from({ length: ROWS }, () => make(f));
      return {
        id: `systems/${locale}/${key ?? name}/${at}`,
        part: 'systems',
        locale,
        shape: key ? 'plain' : 'near miss',
        name,
        blank: named ? null : `c${at}`,
        type: type ?? typeOf(values),
        values,
        truth: key ? [key] : [],
        allowed,
      };
    });
  });
}
