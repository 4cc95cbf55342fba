import validator from 'validator';
import type { Detector } from '../types.ts';

/** Registration marks as the countries issue them today: United Kingdom, Ireland, Norway, Sweden, Finland, Denmark, Germany, France, Italy, Spain, Netherlands, Poland. */
const PLATES = [
  /^[A-Z]{2}\d{2}\s?[A-Z]{3}$/,
  /^\d{2,3}-?(C|CE|CN|CW|D|DL|G|KE|KK|KY|L|LD|LH|LK|LM|LS|MH|MN|MO|OY|RN|SO|T|W|WH|WX|WW)-?\d{1,6}$/,
  /^[A-Z]{2}\s?\d{5}$/,
  /^[A-Z]{3}\s?\d{2}[A-Z0-9]$/,
  /^[A-Z]{2,3}-\d{1,3}$/,
  /^[A-ZÄÖÜ]{1,3}[- ][A-Z]{1,2}[ -]?\d{1,4}[EH]?$/,
  /^[A-Z]{2}-\d{3}-[A-Z]{2}$/,
  /^[A-Z]{2}\s?\d{3}\s?[A-Z]{2}$/,
  /^\d{4}\s?[BCDFGHJ-NPR-TV-Z]{3}$/,
  /^(?:[A-Z]{2}-\d{2}-\d{2}|\d{2}-\d{2}-[A-Z]{2}|\d{2}-[A-Z]{2}-\d{2}|\d{2}-[A-Z]{3}-\d|\d-[A-Z]{3}-\d{2}|[A-Z]{2}-\d{3}-[A-Z]|[A-Z]-\d{3}-[A-Z]{2})$/,
  /^[A-Z]{2,3}\s\d{4,5}$|^[A-Z]{2,3}\s\d{3}[A-Z]{1,2}$/,
];

export const vehiclePlate: Detector = {
  id: 'vehicle.plate',
  version: '1',
  classKey: 'vehicle-plate',
  strength: 0.5,
  types: ['text'],
  minShare: 0.72,
  minShareNamed: 0.4,
  namesFor: [
    'plate',
    'licence plate',
    'license plate',
    'registration',
    'registration mark',
    'reg',
    'reg no',
    'vrm',
    'number plate',
    'kennzeichen',
    'regnr',
    'matricula',
    'targa',
    'kenteken',
    'immatriculation',
    'vehicle registration',
  ],
  namesAgainst: [
    'ref',
    'reference',
    'code',
    'sku',
    'booking',
    'ticket',
    'invoice',
    'flight',
    'sailing',
    'postcode',
    'zip',
    'container',
    'seat',
    'product',
    'order',
  ],
  test: (value) => value.length >= 5 && value.length <= 11 && PLATES.some((plate) => plate.test(value)),
  accepts: ['AB12 CDE', 'EK 12345', 'B-MW 1234', 'AA-123-BB', '1234 BCD'],
  rejects: ['12345', 'HELLO', 'TF-2026-00017', 'ab12'],
};

const VIN_VALUES: Readonly<Record<string, number>> = Object.fromEntries(
  [...'ABCDEFGH']
    .map((letter, index) => [letter, index + 1] as const)
    .concat(
      [...'JKLMN'].map((letter, index) => [letter, index + 1] as const),
      [
        ['P', 7],
        ['R', 9],
      ],
      [...'STUVWXYZ'].map((letter, index) => [letter, index + 2] as const),
    ),
);
const VIN_WEIGHTS = [8, 7, 6, 5, 4, 3, 2, 10, 0, 9, 8, 7, 6, 5, 4, 3, 2];

/** The check character of North America and China (49 CFR 565.15): modulo 11, X for ten. */
const hasVinCheck = (value: string): boolean => {
  const sum = [...value].reduce(
    (total, character, index) => total + (VIN_WEIGHTS[index] ?? 0) * (VIN_VALUES[character] ?? Number(character)),
    0,
  );
  return value[8] === (sum % 11 === 10 ? 'X' : String(sum % 11));
};

/** Vehicle identification number (ISO 3779). Europe gives it no check character: there, form and a first letter of a region that exists must do. */
export const vin: Detector = {
  id: 'vehicle.vin',
  version: '1',
  classKey: 'vin',
  strength: 0.92,
  types: ['text'],
  minShare: 0.7,
  minShareNamed: 0.5,
  namesFor: [
    'vin',
    'chassis',
    'chassis number',
    'vehicle identification',
    'fahrgestellnummer',
    'understellsnummer',
    'frame number',
    'bastidor',
    'telaio',
  ],
  namesAgainst: ['hash', 'token', 'session', 'key'],
  test: (value) =>
    /^[A-HJ-NPR-Z0-9]{9}[A-HJ-NPR-TV-Y1-9][A-HJ-NPR-Z0-9]{3}[0-9]{4}$/.test(value) &&
    /[A-Z]/.test(value) &&
    (hasVinCheck(value) || /^[J-NPR-TV-Z6-9][A-HJ-NPR-Z0-9]{2}/.test(value)),
  accepts: ['1M8GDM9AXKP042788', 'WVWZZZ1JZXW000001'],
  rejects: ['1M8GDM9A0KP042788', '1M8GDM9AX', 'IM8GDM9AXKP042788'],
};

/** Seven digits: each of the first six times its place from the end, the sum ends with the last (IMO resolution A.1117). */
export const isImo = (value: string): boolean => {
  const digits = /^(?:IMO\s?)?(\d{7})$/i.exec(value)?.[1];
  if (!digits) return false;
  return (
    [...digits.slice(0, 6)].reduce((sum, digit, index) => sum + Number(digit) * (7 - index), 0) % 10 ===
    Number(digits[6])
  );
};

export const imoNumber: Detector = {
  id: 'vessel.imo',
  version: '1',
  classKey: 'imo-number',
  strength: 0.86,
  checkDigits: true,
  types: ['text', 'integer'],
  minShare: 0.75,
  minShareNamed: 0.5,
  namesFor: ['imo', 'imo number', 'imo no', 'vessel', 'ship', 'hull'],
  namesAgainst: ['order', 'invoice', 'phone', 'amount', 'count'],
  test: (value) => isImo(value) && /^(IMO\s?)?[5-9]/i.test(value),
  accepts: ['IMO 9074729', '9074729'],
  rejects: ['9074728', '907472', '1000000'],
};

/** Nine digits that begin with the three of a country (ITU-R M.585); nothing checks them. */
export const mmsi: Detector = {
  id: 'vessel.mmsi',
  version: '1',
  classKey: 'mmsi',
  strength: 0.5,
  needsName: true,
  types: ['text', 'integer'],
  minShare: 0.9,
  minShareNamed: 0.6,
  namesFor: ['mmsi', 'maritime identity', 'ais'],
  namesAgainst: ['count'],
  test: (value) => /^[2-7]\d{8}$/.test(value),
  accepts: ['257123450', '235087654'],
  rejects: ['157123450', '25712345'],
};

export const containerNumber: Detector = {
  id: 'freight.container',
  version: '1',
  classKey: 'container-number',
  strength: 0.97,
  checkDigits: true,
  types: ['text'],
  minShare: 0.6,
  minShareNamed: 0.3,
  namesFor: ['container', 'container number', 'container no', 'unit number'],
  namesAgainst: [],
  test: (value) => validator.isISO6346(value.replace(/[\s-]/g, '')),
  accepts: ['CSQU3054383', 'MSKU 907032-3'],
  rejects: ['CSQU3054384', 'CSQU305'],
};
