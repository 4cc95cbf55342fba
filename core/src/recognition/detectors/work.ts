import { fold } from '../../text/index.ts';
import type { Detector } from '../types.ts';

const list = (text: string) => new Set(text.split(/\s*,\s*|\s*\n\s*/).map(fold));
const words = (text: string) => new Set(text.split(/\s+/).filter(Boolean).map(fold));

/** Forms of firms as they end a name, in the languages of most registers. */
const FORMS = words(
  'inc incorporated ltd limited llc llp plc corp corporation company co gmbh ag kg kgaa ohg ug se asa as ans ab oy oyj sa sas sarl sarlu srl spa snc bv nv aps hf ehf kft zrt zoo ltda eireli sro doo dd ood ead pty pte bhd tbk kk oao ooo zao pao pjsc jsc gruppe group holding holdings partners associates bros sons enterprises industries',
);
/** Words by which institutions are called, wherever they stand in the name. */
const INSTITUTIONS = words(
  `university universitat universite universidad universidade universita universitet universitetet college polytechnic hochschule school academy institute institut instituto istituto ministry ministerium ministere ministerio
   department bureau agency authority administration commission committee council parliament government municipality bank bancorp insurance hospital clinic foundation association federation society union league club trust
   museum library church cathedral theatre orchestra laboratory laboratories centre center company corporation cooperative airlines airways railway railways press publishing publishers newspaper studios pictures records
   pharmaceuticals technologies systems solutions services consulting logistics shipping motors energy electric petroleum foods stores verein stiftung kommune kommun gemeinde`,
);
/** Words of which alone no name consists: `junior college`, `never attended school`, `local government`. */
const KINDS_OF = words(
  'no none other never attended some any junior senior high higher elementary middle primary secondary graduate post graduated vocational technical public private state local federal national regional city county central self own a an the of and or in for at dropout drop out year 2-year 4-year 2y 4y degree with without non not unknown former same different large small medium foreign domestic',
);
const NAME = /^[\p{L}\d][\p{L}\p{M}\d&.,'’()/+\- ]*$/u;

/** Whether a name has the form of a firm, or says what kind of institution it is. */
export function isOrganisation(value: string): boolean {
  if (value.length < 4 || value.length > 120 || !NAME.test(value) || !/\p{Lu}|\p{Lo}/u.test(value)) return false;
  const parts = fold(value)
    .split(/[\s,()/]+/)
    .map((part) => part.replaceAll('.', ''))
    .filter(Boolean);
  if (parts.length < 2 || parts.length > 14) return false;
  if (parts.every((part) => KINDS_OF.has(part) || INSTITUTIONS.has(part))) return false;
  return FORMS.has(parts.at(-1) ?? '') || parts.some((part) => INSTITUTIONS.has(part));
}

const ORGANISATION_NAMES = [
  'company',
  'companies',
  'organisation',
  'organization',
  'org',
  'employer',
  'firm',
  'business',
  'business name',
  'company name',
  'institution',
  'university',
  'college',
  'school',
  'agency',
  'supplier',
  'vendor',
  'manufacturer',
  'publisher',
  'distributor',
  'merchant',
  'bank',
  'airline',
  'carrier',
  'operator',
  'studio',
  'brand',
  'firma',
  'unternehmen',
  'bedrift',
  'selskap',
  'foretag',
  'empresa',
  'entreprise',
  'societe',
  'azienda',
  'bedrijf',
  'yritys',
  'spolka',
  'hospital',
  'ministry',
  'corporation',
  'affiliation',
];
const NOT_ORGANISATION = [
  'id',
  'code',
  'url',
  'website',
  'email',
  'address',
  'type',
  'status',
  'date',
  'size',
  'phone',
  'count',
  'number',
];

export const organisation: Detector = {
  id: 'work.organisation',
  version: '1',
  classKey: 'organisation',
  strength: 0.86,
  types: ['text'],
  minShare: 0.6,
  minShareNamed: 0.12,
  namesFor: ORGANISATION_NAMES,
  namesAgainst: [...NOT_ORGANISATION, 'street', 'product', 'description', 'title', 'department', 'job'],
  test: isOrganisation,
  accepts: [
    'Tarnholm Ferries Ltd',
    'University of Oslo',
    'Müller & Söhne GmbH',
    'Ministry of Fisheries',
    'Solberg ASA',
  ],
  rejects: ['Ida Holm', 'blue', 'Deck 4', 'ltd', 'Junior high school', 'Never attended school', 'Local government'],
};

/** What people do for a living, as the last word of what it is called, or the first before `of` and `for`. */
const TRADES = words(
  `accountant actor actress actuary adjuster administrator advisor adviser advocate agent aide analyst announcer apprentice architect archivist artist assembler assessor assistant associate astronomer athlete attendant attorney auctioneer
   auditor author baker banker barber barista bartender biochemist biologist blacksmith boatswain bookkeeper botanist brewer bricklayer broker builder butcher buyer captain caretaker carpenter cartographer cashier ceo cfo chairman chairperson chef
   chemist chiropractor cleaner clerk coach collector commander composer conductor constable consultant contractor controller cook coordinator copywriter coroner counselor counsellor courier craftsman curator custodian dancer dealer dentist deputy
   designer detective developer dietitian director dispatcher diver doctor draughtsman drafter driver ecologist economist editor educator electrician embalmer employee engineer entrepreneur estimator examiner executive fabricator farmer farmworker
   firefighter fisherman fitter florist forester gardener geographer geologist geophysicist glazier guard guide hairdresser handler handyman helper historian housekeeper housewife hunter hydrologist illustrator inspector installer instructor
   interpreter investigator janitor jeweler jeweller joiner journalist judge juggler laborer labourer landlord lawyer lecturer librarian lieutenant lifeguard linguist locksmith logistician machinist magistrate maid manager mason mathematician
   mechanic mediator merchant messenger meteorologist microbiologist midwife miller miner minister model musician navigator negotiator nurse nutritionist officer operator optician optometrist owner painter paralegal paramedic pastor pathologist
   patrolman performer pharmacist photographer physician physicist physiotherapist pilot planner plasterer plumber podiatrist poet police policeman politician porter postman potter president priest principal printer producer professor programmer
   prosecutor psychiatrist psychologist publisher purchaser purser radiographer radiologist realtor receptionist recruiter registrar reporter representative researcher retailer roofer sailor salesman salesperson salesperson saleswoman scientist
   sculptor seaman seamstress secretary seller sergeant servant setter shoemaker singer smith sociologist soldier solicitor specialist statistician steward stewardess stonemason student strategist superintendent supervisor surgeon surveyor tailor
   teacher technician technologist teller tester therapist toolmaker trader trainee trainer trainer translator treasurer tutor typist umpire upholsterer usher veterinarian waiter waitress watchmaker weaver welder wholesaler worker writer zoologist
   lehrer lehrerin arzt krankenschwester ingenieur kaufmann kauffrau buchhalter mechaniker tischler backer verkaufer geschaftsfuhrer sekretarin larer sykepleier ingenior selger tomrer snekker leder professeur medecin infirmier infirmiere vendeur
   comptable directeur avocat profesor profesora medico enfermera ingeniero abogado contador vendedor carpintero`,
);
const SENIORITY = /\s+(i{1,3}|iv|jr|sr|level \d|\d)\.?$/;

export function isOccupation(value: string): boolean {
  if (value.length < 3 || value.length > 60 || !/^[\p{L}\p{M}.,&()/'’ -]+$/u.test(value)) return false;
  const plain = fold(value)
    .replace(/\(.*?\)/g, ' ')
    .replace(SENIORITY, '')
    .trim();
  return plain.split(/\s*[/,&]\s*|\s+and\s+/).some((part) => {
    const parts = part.split(/[\s-]+/).filter(Boolean);
    if (parts.length === 0 || parts.length > 6) return false;
    const head = (
      parts.find((_, at) => ['of', 'for', 'in', 'to'].includes(parts[at + 1] ?? '')) ??
      parts.at(-1) ??
      ''
    ).replace(/\.$/, '');
    return TRADES.has(head) || TRADES.has(head.replace(/s$/, ''));
  });
}

export const occupation: Detector = {
  id: 'work.occupation',
  version: '1',
  classKey: 'occupation',
  strength: 0.82,
  types: ['text'],
  minShare: 0.7,
  minShareNamed: 0.35,
  fewValues: 6,
  namesFor: [
    'occupation',
    'job',
    'job title',
    'jobtitle',
    'profession',
    'position',
    'trade',
    'beruf',
    'yrke',
    'stilling',
    'emploi',
    'metier',
    'ocupacion',
    'profesion',
    'puesto',
    'professione',
    'beroep',
    'ammatti',
    'zawod',
    'employment',
    'rank',
    'rating',
    'work',
    'role',
  ],
  namesAgainst: [
    'id',
    'department',
    'status',
    'url',
    'email',
    'brand',
    'company',
    'species',
    'film',
    'movie',
    'song',
    'band',
    'surname',
    'family',
  ],
  test: isOccupation,
  accepts: [
    'Accountant',
    'Chief engineer',
    'Director of Operations',
    'Nurse (night)',
    'Software Developer II',
    'Lehrer',
  ],
  rejects: ['Oslo', 'blue', 'Ida Holm', '12', 'active'],
};

/** Kinds of work that no list of trades has, under a name that says what they are: `sales`, `management`, `farm`. */
export const occupationNamed: Detector = {
  ...occupation,
  id: 'work.occupation-named',
  strength: 0.4,
  needsName: true,
  minShare: 0.95,
  minShareNamed: 0.9,
  fewValues: 4,
  namesFor: [
    'occupation',
    'occupations',
    'job title',
    'jobtitle',
    'profession',
    'beruf',
    'yrke',
    'metier',
    'profesion',
    'professione',
    'beroep',
    'ammatti',
    'zawod',
    'occupation group',
    'job category',
  ],
  namesAgainst: [...occupation.namesAgainst, 'code', 'count', 'number', 'date'],
  test: (value) =>
    value.length >= 3 &&
    value.length <= 60 &&
    /^\p{L}[\p{L}\p{M}.,&()/'’ _-]+$/u.test(value) &&
    !/^(yes|no|true|false|none|active)$/i.test(value),
  accepts: ['management', 'Craftsmen', 'Sales and office'],
  rejects: ['12', 'yes', 'A1'],
};

const CURRENCY_CODES = new Set(Intl.supportedValuesOf('currency'));
const CURRENCY_NAMES = new Set<string>();
for (const language of ['en', 'de', 'fr', 'es', 'nb'])
  for (const code of CURRENCY_CODES) {
    const name = new Intl.DisplayNames(language, { type: 'currency' }).of(code);
    if (name && name !== code) CURRENCY_NAMES.add(fold(name));
  }
for (const name of list(
  'dollar, us dollar, euro, euros, pound, pound sterling, yen, yuan, renminbi, swiss franc, krone, krona, kroner, rupee, rouble, ruble, real, rand, peso, won, lira, zloty, forint, koruna, baht, shekel, dirham, dinar, riyal',
))
  CURRENCY_NAMES.add(name);
/** What money is counted in: the last word of a currency's name. */
const UNITS = words(
  'afghani ariary baht balboa birr bolivar boliviano cedi colon cordoba dalasi denar dinar dirham dobra dollar dong dram escudo euro florin forint franc gourde guarani guilder hryvnia kina kip koruna krona krone kroner kroon kuna kwacha kwanza kyat lari lek lempira leone leu lev lilangeni lira loti manat mark metical naira nakfa ngultrum ouguiya paanga pataca peso pound pula quetzal rand real rial riel ringgit riyal ruble rouble rufiyaa rupee rupiah shekel shilling sol som somoni sum tala tenge tugrik vatu won yen yuan zloty',
);
/** Codes that everybody trades in: a column of three letters that holds none of them is about something else. */
const TRADED = new Set(
  'USD EUR GBP JPY CHF NOK SEK DKK CAD AUD NZD CNY INR BRL MXN PLN CZK HUF TRY ZAR SGD HKD KRW RUB'.split(' '),
);

export const currency: Detector = {
  id: 'finance.currency',
  version: '1',
  classKey: 'currency',
  strength: 0.8,
  types: ['text'],
  minShare: 0.9,
  minShareNamed: 0.7,
  fewValues: 3,
  namesFor: [
    'currency',
    'currencies',
    'curr',
    'ccy',
    'currency code',
    'iso 4217',
    'wahrung',
    'waehrung',
    'valuta',
    'devise',
    'moneda',
    'monnaie',
    'moeda',
    'valuutta',
    'waluta',
    'mena',
    'penznem',
  ],
  namesAgainst: ['rate', 'amount', 'pair', 'crypto', 'country', 'airport'],
  test: (value) =>
    CURRENCY_CODES.has(value) ||
    (value.length >= 3 &&
      value.length < 50 &&
      (CURRENCY_NAMES.has(fold(value)) ||
        (!/\d/.test(value) && UNITS.has(fold(value).split(' ').at(-1)?.replace(/s$/, '') ?? '')))),
  together: (values) =>
    values.some((value) => TRADED.has(value)) || values.some((value) => value.length > 3)
      ? undefined
      : { reason: 'none of the currencies that are traded most is among them', logOdds: -2.5 },
  accepts: ['EUR', 'NOK', 'Swiss franc', 'pound sterling'],
  rejects: ['XYZ', 'eur', 'Oslo', '12'],
};
