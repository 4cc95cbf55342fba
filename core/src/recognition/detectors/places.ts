import { nameWords } from '../../text/index.ts';
import places from '../data/places.json' with { type: 'json' };
import type { Detector } from '../types.ts';
import { plainPlace } from './regions.ts';

const CITIES = new Set(places.cities.split('|'));
/** `Oslo`, `Portland, OR`, `Frankfurt am Main`, `Cologne (DE)`: a known city, alone or with what it lies in. */
function isCity(value: string): boolean {
  if (value.length > 60 || !/^\p{L}/u.test(value) || /\d/.test(value)) return false;
  const name = plainPlace(value);
  if (CITIES.has(name)) return true;
  const [first = '', ...rest] = name.split(/\s*[,(/]\s*/);
  return rest.length > 0 && rest.length <= 2 && CITIES.has(first.trim());
}

const CITY_NAMES = [
  'city',
  'cities',
  'town',
  'municipality',
  'locality',
  'place of birth',
  'birthplace',
  'birth place',
  'stadt',
  'ort',
  'wohnort',
  'by',
  'poststed',
  'ville',
  'commune',
  'ciudad',
  'localidad',
  'municipio',
  'citta',
  'comune',
  'cidade',
  'stad',
  'plaats',
  'woonplaats',
  'ort',
  'kaupunki',
  'miasto',
  'mesto',
  'obec',
  'varos',
  'sehir',
  'город',
  'місто',
  'πολη',
  '城市',
  '市',
  '도시',
  'עיר',
  'المدينة',
  'شهر',
  'capital',
];

export const city: Detector = {
  id: 'place.city',
  version: '1',
  classKey: 'city',
  strength: 0.82,
  types: ['text'],
  minShare: 0.75,
  minShareNamed: 0.2,
  namesFor: CITY_NAMES,
  namesAgainst: [
    'id',
    'code',
    'state',
    'region',
    'county',
    'province',
    'country',
    'person',
    'surname',
    'family',
    'team',
    'club',
    'university',
    'airport',
    'event',
    'vessel',
    'street',
    'hotel',
    'venue',
    'population',
    'first',
    'last',
    'given',
  ],
  test: isCity,
  accepts: ['Oslo', 'São Paulo', 'Portland, OR', 'Frankfurt am Main', 'St Petersburg'],
  rejects: ['Deck 4', 'blue', '12', 'Ida Holm'],
};

/** Places that are too small for any list: letters alone, under a name that says what they are. */
export const cityNamed: Detector = {
  ...city,
  id: 'place.city-named',
  strength: 0.42,
  needsName: true,
  minShare: 0.9,
  minShareNamed: 0.85,
  namesFor: CITY_NAMES.filter((name) => !['by', 'ort', 'capital', 'stad', '市'].includes(name)),
  test: (value) =>
    value.length >= 2 &&
    value.length <= 60 &&
    /^[\p{Lu}\p{Lo}'][\p{L}\p{M}.'’ ()/,-]+$/u.test(value) &&
    !/[.!?]\s/.test(value),
  accepts: ['Ulvey', 'Kessgar-on-Sea', 'Stranda (Møre)'],
  rejects: ['12', 'ida@example.org', 'deck 4'],
};

const CODES_OF = (text: string) => new Set(text.split(' '));

/** Airports with the most passengers, as IATA writes them (three letters); regional ones are not in the list. */
const AIRPORTS = CODES_OF(
  'ATL LAX ORD DFW DEN JFK SFO SEA LAS MCO EWR CLT PHX IAH MIA BOS MSP FLL DTW PHL LGA BWI SLC SAN IAD DCA MDW TPA PDX HNL STL DAL HOU AUS BNA OAK MSY RDU SJC SMF SNA MCI CLE PIT IND CMH SAT RSW CVG PBI JAX ' +
    'BDL BUF OMA ABQ BUR MKE ANC ONT RIC MEM SDF TUS OKC GRR CHS BOI LGB ORF TUL ELP DSM ROC SYR ALB GSO GEG ICT LIT DAY PVD MHT PWM XNA SAV MYR LEX TYS CAK COS DAB BHM ABE AVL FAT PSP BTV CID MSN GSP ' +
    'YYZ YVR YUL YYC YEG YOW YHZ YWG MEX CUN GDL MTY TIJ SJD PVR PTY BOG MDE CLO CTG UIO GYE LIM CUZ SCL EZE AEP COR GRU CGH GIG SDU BSB CNF SSA REC POA CWB FOR FLN MAO BEL MVD ASU VVI LPB CCS HAV SJU SDQ PUJ MBJ KIN NAS ' +
    'LHR LGW STN LTN LCY MAN EDI GLA BHX BRS NCL LPL EMA BFS ABZ INV CWL SOU DUB ORK SNN CDG ORY NCE LYS MRS TLS BOD NTE BVA FRA MUC BER TXL SXF DUS HAM CGN STR HAJ NUE LEJ AMS RTM EIN BRU CRL LUX ZRH GVA BSL VIE SZG INN ' +
    'MAD BCN PMI AGP ALC VLC SVQ BIO TFS TFN LPA ACE FUE IBZ MAH LIS OPO FAO FNC PDL FCO CIA MXP LIN BGY VCE TSF BLQ NAP CTA PMO PSA FLR TRN VRN BRI CAG OLB ATH SKG HER RHO CFU JTR JMK CHQ LCA PFO MLA ' +
    'CPH AAL BLL OSL BGO TRD SVG TOS BOO ARN GOT MMX HEL OUL TMP KEF TLL RIX VNO WAW KRK GDN WRO KTW POZ PRG BRQ BUD OTP CLJ SOF VAR BOJ BEG ZAG SPU DBV LJU SJJ SKP TGD TIA KIV KBP IEV ODS LWO MSQ ' +
    'SVO DME VKO LED KZN SVX OVB AER KRR UFA ROV KJA IKT VVO IST SAW ESB AYT ADB DLM BJV ADA TBS EVN GYD TLV AMM BEY CAI HRG SSH LXR ALG TUN RAK CMN AGA FEZ TNG DXB AUH SHJ DOH BAH KWI MCT RUH JED DMM MED BGW IKA THR MHD ' +
    'ADD NBO MBA EBB DAR JRO ZNZ KGL LOS ABV ACC ABJ DKR JNB CPT DUR HRE LUN WDH GBE MRU RUN TNR SEZ DEL BOM BLR MAA HYD CCU COK AMD PNQ GOI TRV LKO JAI CMB MLE KTM DAC KHI LHE ISB KBL TAS ALA NQZ ' +
    'BKK DMK HKT CNX USM KBV SIN KUL PEN BKI KCH LGK CGK DPS SUB UPG KNO MNL CEB SGN HAN DAD CXR PNH REP RGN VTE BWN HKG MFM TPE KHH RMQ PEK PKX PVG SHA CAN SZX CTU KMG XIY CKG HGH WUH NKG XMN TAO DLC SYX CSX URC TSN CGO HRB SHE ' +
    'ICN GMP CJU PUS NRT HND KIX ITM NGO CTS FUK OKA KOJ SDJ HIJ ULN SYD MEL BNE PER ADL CNS OOL CBR HBA DRW AKL CHC WLG ZQN NAN PPT NOU APW POM GUM SPN HNL OGG KOA LIH ITO',
);
const AIRPORT_NAMES = [
  'airport',
  'airports',
  'airport code',
  'iata',
  'iata code',
  'origin',
  'orig',
  'destination',
  'dest',
  'departure airport',
  'arrival airport',
  'from airport',
  'to airport',
  'flughafen',
  'flyplass',
  'aeropuerto',
  'aeroport',
  'aeroporto',
];

export const airportCode: Detector = {
  id: 'place.airport',
  version: '1',
  classKey: 'airport-code',
  strength: 0.8,
  types: ['text'],
  minShare: 0.8,
  minShareNamed: 0.35,
  namesFor: AIRPORT_NAMES,
  namesAgainst: ['currency', 'ticker', 'symbol', 'country', 'language', 'unit'],
  test: (value) => AIRPORTS.has(value),
  accepts: ['OSL', 'LHR', 'JFK'],
  rejects: ['osl', 'XXX', 'EUR', 'Oslo'],
};

/** Three letters (IATA) or four (ICAO), also of the smallest airfield: only the column's name tells. */
export const airportCodeNamed: Detector = {
  ...airportCode,
  id: 'place.airport-named',
  strength: 0.5,
  needsName: true,
  minShare: 0.95,
  minShareNamed: 0.85,
  namesFor: ['iata', 'iata code', 'icao', 'icao code', 'airport code', 'airport', 'gps code'],
  namesAgainst: [...airportCode.namesAgainst, 'airline', 'carrier', 'aircraft', 'name', 'city'],
  test: (value) => /^[A-Z]{3}$|^[A-Z][A-Z0-9]{3}$/.test(value),
  accepts: ['ABY', 'ENGM', 'K1G4'],
  rejects: ['Oslo', 'a', '1234'],
};

const ZONES = new Set(
  [
    ...Intl.supportedValuesOf('timeZone'),
    'UTC',
    'GMT',
    'Etc/UTC',
    'Asia/Calcutta',
    'US/Eastern',
    'US/Central',
    'US/Mountain',
    'US/Pacific',
  ].map((zone) => zone.toLowerCase()),
);
const AREAS =
  /^(Africa|America|Antarctica|Arctic|Asia|Atlantic|Australia|Europe|Indian|Pacific|Etc|US|Canada)\/[A-Z][\w+-]*(\/[A-Z][\w-]*)?$/;

export const timeZone: Detector = {
  id: 'place.zone',
  version: '1',
  classKey: 'time-zone',
  strength: 0.97,
  types: ['text'],
  minShare: 0.7,
  minShareNamed: 0.5,
  fewValues: 2,
  namesFor: [
    'timezone',
    'time zone',
    'tz',
    'zone',
    'tzid',
    'olson',
    'zeitzone',
    'tidssone',
    'fuseau',
    'zona horaria',
    'timezones',
  ],
  namesAgainst: ['path', 'folder'],
  test: (value) =>
    (value.includes('/') ? AREAS.test(value) : /^(utc|gmt)$/i.test(value)) &&
    (ZONES.has(value.toLowerCase()) || AREAS.test(value)),
  accepts: ['Europe/Oslo', 'America/Argentina/Ushuaia', 'UTC', 'US/Pacific'],
  rejects: ['Europe', 'Oslo', 'a/b', 'Europe/'],
};

/** The distance to UTC, or a short name that is not unique: only the column's name tells it from any other text. */
export const timeZoneOffset: Detector = {
  ...timeZone,
  id: 'place.zone-offset',
  strength: 0.6,
  needsName: true,
  minShare: 0.9,
  minShareNamed: 0.7,
  test: (value) =>
    /^(UTC|GMT)?\s?[+−-]\d{1,2}(:?\d{2})?$|^(UTC|GMT|Z|[A-Z]{2,4}[SD]?T)$/.test(value) ||
    timeZone.test(value, { today: new Date(0), countries: [] }) === true,
  accepts: ['+01:00', 'UTC+2', 'CEST'],
  rejects: ['12:30', 'Oslo', '5'],
};

/** A latitude or a longitude with few decimals or none, where the column is called exactly so. */
const DEGREES = /^(lat|latitude|lon|lng|long|longitude|latitud|longitud|breitengrad|langengrad|breddegrad|lengdegrad)$/;
/** The one word of a name, beside numbers; nothing where it has more. */
const onlyWord = (name: string): string => {
  const words = nameWords(name).filter((word) => !/^\d+$/.test(word));
  return words.length === 1 ? (words[0] ?? '') : '';
};
export const degrees: Detector = {
  id: 'place.degrees',
  version: '1',
  classKey: 'coordinates',
  strength: 0.5,
  needsName: true,
  types: ['decimal', 'integer', 'text'],
  minShare: 0.97,
  minShareNamed: 0.95,
  namesFor: [],
  namesAgainst: [],
  readName: (name) => DEGREES.test(onlyWord(name)),
  test: (value) => /^[+-]?\d{1,3}(\.\d+)?$/.test(value) && Math.abs(Number(value)) <= 180,
  accepts: ['59', '-10.7', '179.5'],
  rejects: ['181', 'N', '59°'],
};

/** Longitudes counted eastward, all the way round. */
const LONGITUDES = /^(lon|lng|long|longitude|longitud|langengrad|lengdegrad)$/;
export const degreesEast: Detector = {
  ...degrees,
  id: 'place.degrees-east',
  strength: 0.45,
  readName: (name) => LONGITUDES.test(onlyWord(name)),
  test: (value) => /^\d{1,3}(\.\d+)?$/.test(value) && Number(value) <= 360,
  accepts: ['181.62', '324', '51.9'],
  rejects: ['361', '-10', 'E'],
};
