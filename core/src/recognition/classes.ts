import { kindsThat } from '../things/index.ts';
import type { DataClass, Level, LevelName, Theme } from './types.ts';
import { LEVELS } from './types.ts';

export { LEVELS };

/** Kinds that can have a level beside columns, from the smallest to the largest. */
export const LEVEL_KINDS = kindsThat('levelled');

const make = (key: string, label: string, theme: Theme, level: Level, meaning: string): DataClass => ({
  key,
  label,
  theme,
  level,
  meaning,
});

/** Identifiers of persons by country: country, and what the number is. */
const NATIONAL: Readonly<Record<string, readonly [string, string]>> = {
  at: ['Austria', 'Sozialversicherungsnummer, with its check digit.'],
  au: ['Australia', 'Tax file number, with its check digit.'],
  be: ['Belgium', 'National register number, with two check digits.'],
  bg: ['Bulgaria', 'EGN, with its check digit.'],
  br: ['Brazil', 'CPF, with two check digits.'],
  ca: ['Canada', 'Social insurance number, with its check digit.'],
  ch: ['Switzerland', 'AHV number, with its check digit.'],
  cn: ['China', 'Resident identity number, with its check character.'],
  cz: ['Czechia and Slovakia', 'Rodné číslo; divides by eleven.'],
  de: ['Germany', 'Tax identification number, with its check digit.'],
  dk: ['Denmark', 'CPR number; since 2007 without a check digit.'],
  ee: ['Estonia', 'Isikukood, with its check digit.'],
  es: ['Spain', 'DNI or NIE, with its check letter.'],
  fi: ['Finland', 'Henkilötunnus, with its check character.'],
  fr: ['France', 'NIR, with its two check digits.'],
  gb: ['United Kingdom', 'National Insurance number; it has no check digit, its prefix is restricted.'],
  gr: ['Greece', 'AMKA, with its check digit.'],
  hr: ['Croatia', 'OIB, with its check digit.'],
  ie: ['Ireland', 'PPS number, with its check letter.'],
  il: ['Israel', 'Identity number, with its check digit.'],
  in: ['India', 'Aadhaar, with its check digit.'],
  is: ['Iceland', 'Kennitala, with its check digit.'],
  it: ['Italy', 'Codice fiscale, with its check character.'],
  kr: ['South Korea', 'Resident registration number, with its check digit.'],
  lt: ['Lithuania', 'Asmens kodas, with its check digit.'],
  lv: ['Latvia', 'Personas kods, with its check digit.'],
  mx: ['Mexico', 'CURP, with its check digit.'],
  nl: ['Netherlands', 'Burgerservicenummer; passes the test of eleven.'],
  no: ['Norway', 'Fødselsnummer or D-number, with two check digits.'],
  pl: ['Poland', 'PESEL, with its check digit.'],
  pt: ['Portugal', 'NIF, with its check digit.'],
  ro: ['Romania', 'CNP, with its check digit.'],
  se: ['Sweden', 'Personnummer, with its check digit.'],
  si: ['Slovenia and its neighbours', 'EMŠO, with its check digit.'],
  tr: ['Türkiye', 'Kimlik number, with two check digits.'],
  us: ['United States', 'Social Security number; it has no check digit.'],
  za: ['South Africa', 'Identity number, with its check digit.'],
};

/** The data classes that ship with Idrel. */
export const DATA_CLASSES: readonly DataClass[] = [
  make('email', 'E-mail address', 'contact', 3, 'An address at which one person or office receives electronic mail.'),
  make(
    'phone',
    'Phone number',
    'contact',
    3,
    'A number at which a person can be called, with or without country code.',
  ),
  make('postal-address', 'Postal address', 'contact', 3, 'A street with house number, or a full address in one value.'),
  make('person-name', "Person's name", 'identity', 3, 'A given name, a family name, or both.'),
  make('date-of-birth', 'Date of birth', 'identity', 3, 'The day on which a person was born.'),
  ...Object.entries(NATIONAL).map(([code, [country, meaning]]) =>
    make(`national-id-${code}`, `National identifier (${country})`, 'identity', 4, meaning),
  ),
  make(
    'passport',
    'Passport number',
    'identity',
    4,
    'The number of a passport or travel document, or its machine-readable lines.',
  ),
  make('driving-licence', 'Driving licence number', 'identity', 4, 'The number of a licence to drive.'),
  make('gender', 'Gender', 'demographic', 3, 'Sex or gender of a person.'),
  make(
    'marital-status',
    'Marital status',
    'demographic',
    3,
    'Whether a person is married, and what else the register knows of it.',
  ),
  make('nationality', 'Nationality', 'demographic', 3, 'Of which state a person is a citizen.'),
  make('language', 'Language', 'demographic', 2, 'Which language a person speaks, or a text is in.'),
  make('occupation', 'Occupation', 'demographic', 2, 'What a person does for a living.'),
  make('age', 'Age', 'demographic', 3, 'How old a person is, in years.'),
  make('religion', 'Religion', 'demographic', 4, 'Religious belief: a special category of personal data.'),
  make('ethnicity', 'Ethnic origin', 'demographic', 4, 'Racial or ethnic origin: a special category of personal data.'),
  make(
    'payment-card',
    'Payment card number',
    'finance',
    4,
    'The number of a payment card, with its check digit (ISO/IEC 7812-1).',
  ),
  make(
    'iban',
    'Bank account (IBAN)',
    'finance',
    4,
    'International bank account number, with its check digits (ISO 13616).',
  ),
  make('bank-account', 'Bank account number', 'finance', 4, 'An account as a country writes it within its borders.'),
  make('bank-routing', 'Bank routing number', 'finance', 2, 'Which bank a payment goes to, in the United States.'),
  make('bic', 'Bank identifier (BIC)', 'finance', 2, 'Which bank a payment goes to (ISO 9362).'),
  make('vat-number', 'VAT number', 'finance', 2, "A firm's number for value added tax, with its country."),
  make('currency', 'Currency', 'finance', 1, 'A currency by its code (ISO 4217) or name.'),
  make('organisation', 'Organisation', 'finance', 1, 'A firm, an institution or an authority by its name.'),
  make(
    'lei',
    'Legal entity identifier',
    'finance',
    1,
    'A legal entity that takes part in financial transactions (ISO 17442).',
  ),
  make('isin', 'Security (ISIN)', 'finance', 1, 'A security that is traded (ISO 6166).'),
  make('wallet-address', 'Crypto wallet', 'finance', 3, 'An address of a crypto currency, with its checksum.'),
  make(
    'health-id',
    'Health insurance or patient number',
    'health',
    4,
    'The number under which a health service knows a person.',
  ),
  make('diagnosis', 'Diagnosis code', 'health', 4, 'A condition by its code (ICD-10).'),
  make('medicine', 'Medicine code', 'health', 4, 'A medicine by its code (ATC).'),
  make('blood-group', 'Blood group', 'health', 4, 'Blood group with rhesus factor.'),
  make(
    'health-text',
    'Text on health',
    'health',
    4,
    'Words on conditions, treatments or fitness of a person: a special category of personal data.',
  ),
  make('password', 'Password', 'credentials and secrets', 4, 'A password as it is typed.'),
  make(
    'password-hash',
    'Password hash',
    'credentials and secrets',
    4,
    'A password in the form in which systems keep it.',
  ),
  make('access-key', 'Access key', 'credentials and secrets', 4, 'A key by which a program signs in.'),
  make(
    'access-token',
    'Access token (JWT)',
    'credentials and secrets',
    4,
    'A signed token that opens a session (RFC 7519).',
  ),
  make('private-key', 'Private key', 'credentials and secrets', 4, 'The secret half of a pair of keys.'),
  make(
    'connection-secret',
    'Address with a password',
    'credentials and secrets',
    4,
    'An address or connection string in which a password stands.',
  ),
  make('ip-address', 'IP address', 'network and device', 2, 'Address of a device on a network, version 4 or 6.'),
  make('mac-address', 'MAC address', 'network and device', 2, 'Hardware address of a network interface.'),
  make('imei', 'Device number (IMEI)', 'network and device', 3, 'The number of a mobile device.'),
  make('sim-number', 'SIM card number', 'network and device', 3, 'The number of a SIM card (ICCID).'),
  make('user-agent', 'User agent', 'network and device', 2, 'Which program and device a request came from.'),
  make('host-name', 'Host name', 'network and device', 2, 'The name of a machine on a network.'),
  make('user-name', 'User name', 'contact', 3, 'The name under which a person signs in.'),
  make('social-handle', 'Social handle', 'contact', 3, 'A name by which a person is addressed in public.'),
  make('url', 'Web address', 'network and device', 1, 'A full address of a page or service (http, https, ftp).'),
  make('coordinates', 'Coordinates', 'location', 2, 'A place by latitude and longitude, in degrees.'),
  make('postcode', 'Postcode', 'location', 2, 'A postal district.'),
  make('city', 'City', 'location', 1, 'A town or city by its name.'),
  make(
    'region',
    'State or region',
    'location',
    1,
    'A part of a country by its name or code (ISO 3166-2 among them): state, province, county, department.',
  ),
  make('airport-code', 'Airport code', 'location', 1, 'An airport by its letters (IATA, ICAO).'),
  make('time-zone', 'Time zone', 'location', 1, 'A time zone by its name (IANA) or its distance to UTC.'),
  make('country', 'Country', 'location', 1, 'A country by its name or code (ISO 3166-1).'),
  make('vin', 'Vehicle number (VIN)', 'vehicle and vessel', 3, 'The number that a vehicle was built with (ISO 3779).'),
  make('imo-number', 'Ship number (IMO)', 'vehicle and vessel', 1, 'The number of a ship for its life.'),
  make('mmsi', 'Ship radio number (MMSI)', 'vehicle and vessel', 1, 'The number of a ship in maritime radio.'),
  make(
    'container-number',
    'Container number',
    'vehicle and vessel',
    1,
    'The number of a freight container (ISO 6346).',
  ),
  make('vehicle-plate', 'Vehicle plate', 'vehicle and vessel', 3, 'The registration mark of a road vehicle.'),
  make(
    'personal-text',
    'Free text with personal data',
    'free text',
    3,
    'Running text in which e-mail addresses, phone, card or account numbers stand.',
  ),
];

const byKey = new Map(DATA_CLASSES.map((entry) => [entry.key, entry]));

/** The class behind a key, or undefined when Idrel does not ship it. */
export const dataClass = (key: string): DataClass | undefined => byKey.get(key);

export const levelName = (level: Level): LevelName => LEVELS[level - 1] ?? 'open';

/** The level that follows from the classes a column carries: the highest of theirs; undefined without classes. */
export function levelFromClasses(keys: readonly string[]): Level | undefined {
  const levels = keys.flatMap((key) => byKey.get(key)?.level ?? []);
  return levels.length > 0 ? (Math.max(...levels) as Level) : undefined;
}
