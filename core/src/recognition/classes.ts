import type { DataClass, Level, LevelName, Theme } from './types.ts';
import { LEVELS } from './types.ts';

export { LEVELS };

const make = (key: string, label: string, theme: Theme, level: Level, meaning: string): DataClass => ({ key, label, theme, level, meaning });

/** The data classes that ship with Idrel. */
export const DATA_CLASSES: readonly DataClass[] = [
  make('email', 'E-mail address', 'contact', 3, 'An address at which one person or office receives electronic mail.'),
  make('phone', 'Phone number', 'contact', 3, 'A number at which a person can be called, with or without country code.'),
  make('postal-address', 'Postal address', 'contact', 3, 'A street with house number, or a full address in one value.'),
  make('person-name', "Person's name", 'identity', 3, 'A given name, a family name, or both.'),
  make('date-of-birth', 'Date of birth', 'identity', 3, 'The day on which a person was born.'),
  make('national-id-es', 'National identifier (Spain)', 'identity', 4, 'DNI or NIE, with its check letter.'),
  make('national-id-fi', 'National identifier (Finland)', 'identity', 4, 'Henkilötunnus, with its check character.'),
  make('national-id-gb', 'National identifier (United Kingdom)', 'identity', 4, 'National Insurance number; it has no check digit, its prefix is restricted.'),
  make('national-id-it', 'National identifier (Italy)', 'identity', 4, 'Codice fiscale, with its check character.'),
  make('national-id-no', 'National identifier (Norway)', 'identity', 4, 'Fødselsnummer or D-number, with two check digits.'),
  make('national-id-pl', 'National identifier (Poland)', 'identity', 4, 'PESEL, with its check digit.'),
  make('national-id-se', 'National identifier (Sweden)', 'identity', 4, 'Personnummer, with its check digit.'),
  make('payment-card', 'Payment card number', 'finance', 4, 'The number of a payment card, with its check digit (ISO/IEC 7812-1).'),
  make('iban', 'Bank account (IBAN)', 'finance', 4, 'International bank account number, with its check digits (ISO 13616).'),
  make('ip-address', 'IP address', 'network and device', 2, 'Address of a device on a network, version 4 or 6.'),
  make('mac-address', 'MAC address', 'network and device', 2, 'Hardware address of a network interface.'),
  make('url', 'Web address', 'network and device', 1, 'A full address of a page or service (http, https, ftp).'),
  make('coordinates', 'Coordinates', 'location', 2, 'A place by latitude and longitude, in degrees.'),
  make('vehicle-plate', 'Vehicle plate', 'vehicle and vessel', 3, 'The registration mark of a road vehicle.'),
  make('personal-text', 'Free text with personal data', 'free text', 3, 'Running text in which e-mail addresses, phone, card or account numbers stand.'),
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
