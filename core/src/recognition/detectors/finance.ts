import { isValidBIC, isValidIBAN } from 'ibantools';

import validator from 'validator';
import { byStandard } from '../standard.ts';
import type { Detector } from '../types.ts';

export const paymentCard: Detector = {
  id: 'card.number',
  checkDigits: true,
  version: '2',
  classKey: 'payment-card',
  strength: 0.94,
  types: ['text', 'integer'],
  minShare: 0.6,
  minShareNamed: 0.3,
  namesFor: [
    'card',
    'card number',
    'cardnumber',
    'pan',
    'credit card',
    'creditcard',
    'payment card',
    'cc',
    'cc number',
    'kort',
    'kortnummer',
    'karte',
    'kartennummer',
    'tarjeta',
    'carte',
    'carta',
    'cartao',
    'karta',
    'kreditkort',
  ],
  namesAgainst: ['barcode', 'ticket', 'sku', 'serial', 'phone', 'imei', 'timestamp', 'iccid', 'sim'],
  test: (value) => /^[\d -]{12,23}$/.test(value) && validator.isCreditCard(value.replace(/[ -]/g, '')),
  accepts: ['4111 1111 1111 1111', '5500005555555559', '3782-822463-10005'],
  rejects: ['4111 1111 1111 1112', '1234567890123456', '4111'],
};

export const iban: Detector = {
  id: 'account.iban',
  checkDigits: true,
  version: '2',
  classKey: 'iban',
  strength: 0.985,
  types: ['text'],
  minShare: 0.5,
  minShareNamed: 0.25,
  namesFor: [
    'iban',
    'account',
    'bank account',
    'konto',
    'kontonummer',
    'cuenta',
    'compte',
    'conto',
    'conta',
    'rachunek',
    'rekening',
    'tili',
    'tilinumero',
  ],
  namesAgainst: [],
  test: (value) =>
    value.length >= 15 &&
    value.length <= 42 &&
    /^[A-Z]{2}\d{2}/i.test(value) &&
    isValidIBAN(value.replace(/[\s-]/g, '').toUpperCase()),
  accepts: ['NO93 8601 1117 947', 'GB29NWBK60161331926819', 'DE89370400440532013000'],
  rejects: ['GB29NWBK60161331926818', 'TF29 2026 0514 0630', 'NO93'],
};

/** ISO 9362: bank, country, place, branch. Words of eight capitals have the form too, so that the country must be one with letters that name it. */
export const bic: Detector = {
  id: 'bank.bic',
  version: '1',
  classKey: 'bic',
  strength: 0.82,
  types: ['text'],
  minShare: 0.85,
  minShareNamed: 0.5,
  namesFor: ['bic', 'swift', 'swift code', 'bic code', 'bank identifier', 'bank code'],
  namesAgainst: ['name', 'city', 'port', 'word', 'status', 'vessel'],
  test: (value) => /^[A-Z]{6}[A-Z0-9]{2}([A-Z0-9]{3})?$/.test(value) && isValidBIC(value) && validator.isBIC(value),
  accepts: ['DNBANOKKXXX', 'DEUTDEFF', 'NWBKGB2L'],
  rejects: ['DNBAXXKK', 'DEUT', 'dnbanokk'],
};

/** The member states' numbers begin with their country; most carry check digits, which the library verifies. */
export const vatNumber: Detector = {
  id: 'firm.vat',
  version: '1',
  classKey: 'vat-number',
  strength: 0.9,
  checkDigits: true,
  types: ['text'],
  minShare: 0.6,
  minShareNamed: 0.3,
  namesFor: [
    'vat',
    'vat id',
    'vat number',
    'vat no',
    'ust id',
    'ustid',
    'tva',
    'iva',
    'partita iva',
    'btw',
    'moms',
    'momsnummer',
    'alv',
    'nip',
  ],
  namesAgainst: ['amount', 'rate', 'percent', 'price', 'iban', 'passport'],
  test: isVatNumber,
  accepts: ['DE136695976', 'NL4495445B01', 'FR40303265045', 'ATU13585627'],
  rejects: ['DE136695977', 'NO93', 'XX123456789'],
};

const VAT: Readonly<Record<string, (value: string) => boolean>> = {
  AT: byStandard('AT', 'uid'),
  BE: byStandard('BE', 'vat'),
  BG: byStandard('BG', 'vat'),
  CY: byStandard('CY', 'vat'),
  CZ: byStandard('CZ', 'dic'),
  DE: byStandard('DE', 'vat'),
  DK: byStandard('DK', 'cvr'),
  EE: byStandard('EE', 'kmkr'),
  ES: byStandard('ES', 'nif'),
  FI: byStandard('FI', 'alv'),
  FR: byStandard('FR', 'tva'),
  GB: byStandard('GB', 'vat'),
  EL: byStandard('GR', 'vat'),
  HR: byStandard('HR', 'oib'),
  HU: byStandard('HU', 'anum'),
  IE: byStandard('IE', 'vat'),
  IT: byStandard('IT', 'iva'),
  LT: byStandard('LT', 'pvm'),
  LU: byStandard('LU', 'tva'),
  LV: byStandard('LV', 'pvn'),
  MT: byStandard('MT', 'vat'),
  NL: byStandard('NL', 'btw'),
  PL: byStandard('PL', 'nip'),
  PT: byStandard('PT', 'nif'),
  RO: byStandard('RO', 'cui'),
  SE: byStandard('SE', 'vat'),
  SI: byStandard('SI', 'ddv'),
  SK: byStandard('SK', 'dph'),
};
function isVatNumber(value: string): boolean {
  const written = value.replace(/[\s.-]/g, '').toUpperCase();
  if (!/^[A-Z]{2}[A-Z0-9]{7,13}$/.test(written) || !/\d{5}/.test(written)) return false;
  return VAT[written.slice(0, 2)]?.(written.slice(2)) ?? false;
}

/** ISO/IEC 7064, modulo 97-10: letters count from 10; the whole leaves 1. */
const mod97 = (value: string): number => {
  let rest = 0;
  for (const character of value) rest = Number(`${rest}${Number.parseInt(character, 36)}`) % 97;
  return rest;
};

export const lei: Detector = {
  id: 'firm.lei',
  version: '1',
  classKey: 'lei',
  strength: 0.98,
  checkDigits: true,
  types: ['text'],
  minShare: 0.6,
  minShareNamed: 0.3,
  namesFor: ['lei', 'legal entity identifier'],
  namesAgainst: [],
  // ISO 17442: 18 characters and two check digits.
  test: (value) => /^[A-Z0-9]{18}\d{2}$/.test(value) && /\d/.test(value.slice(0, 18)) && mod97(value) === 1,
  accepts: ['5493001KJTIIGC8Y1R12', '529900T8BM49AURSDO55'],
  rejects: ['5493001KJTIIGC8Y1R13', '5493001KJTII'],
};

export const isin: Detector = {
  id: 'security.isin',
  version: '1',
  classKey: 'isin',
  strength: 0.96,
  checkDigits: true,
  types: ['text'],
  minShare: 0.6,
  minShareNamed: 0.3,
  namesFor: ['isin', 'security', 'instrument'],
  namesAgainst: [],
  test: (value) => validator.isISIN(value) && validator.isISO31661Alpha2(value.slice(0, 2)),
  accepts: ['US0378331005', 'DE0007164600'],
  rejects: ['US0378331006', 'US03783'],
};

/** Digits that pass by chance once in ten: the name must say that they are one. */
export const bankRouting: Detector = {
  id: 'bank.routing',
  version: '1',
  classKey: 'bank-routing',
  country: 'US',
  strength: 0.6,
  checkDigits: true,
  needsName: true,
  types: ['text', 'integer'],
  minShare: 0.8,
  minShareNamed: 0.6,
  namesFor: ['routing', 'routing number', 'aba', 'aba number', 'rtn', 'transit number'],
  namesAgainst: ['route'],
  test: (value) => /^\d{8,9}$/.test(value) && validator.isAbaRouting(value.padStart(9, '0')),
  accepts: ['021000021', '011401533'],
  rejects: ['021000022', '12345'],
};

const isNorwegian = byStandard('NO', 'kontonr');
const isMexican = byStandard('MX', 'clabe');
const isNewZealand = byStandard('NZ', 'bank');

/** Accounts as a country writes them within its borders, where they carry a check digit: Norway (11 digits), Belgium and others use IBANs. */
export const nationalAccount: Detector = {
  id: 'account.national',
  version: '1',
  classKey: 'bank-account',
  strength: 0.85,
  checkDigits: true,
  types: ['text', 'integer'],
  minShare: 0.7,
  minShareNamed: 0.4,
  needsName: true,
  namesFor: [
    'account',
    'account number',
    'account no',
    'bank account',
    'konto',
    'kontonummer',
    'kontonr',
    'cuenta',
    'clabe',
    'sort code',
    'giro',
    'bankgiro',
  ],
  namesAgainst: ['type', 'status', 'id', 'name', 'owner', 'user', 'balance'],
  test: (value) => {
    const digits = value.replace(/[\s.-]/g, '');
    if (/^\d{11}$/.test(digits)) return isNorwegian(digits);
    if (/^\d{18}$/.test(digits)) return isMexican(digits);
    return /^\d{15,16}$/.test(digits) && /^\d{2}-?\d{4}-?\d{7}-?\d{2,3}$/.test(value) && isNewZealand(digits);
  },
  accepts: ['8601 11 17947', '002010077777777771'],
  rejects: ['8601 11 17948', '12345', '002010077777777772'],
};

/** An account by its digits alone: accounts of customers look the same, so a person looks. */
export const accountDigits: Detector = {
  id: 'account.digits',
  version: '1',
  classKey: 'bank-account',
  strength: 0.1,
  types: ['text', 'integer'],
  minShare: 0.95,
  minShareNamed: 0.8,
  needsName: true,
  namesFor: [
    'account number',
    'account no',
    'account nr',
    'acct no',
    'acct num',
    'acct',
    'bank account',
    'kontonummer',
    'kontonr',
    'rekeningnummer',
    'numero de cuenta',
    'conto corrente',
  ],
  namesAgainst: [...nationalAccount.namesAgainst, 'customer', 'gl', 'ledger', 'cost', 'parent'],
  test: (value) => /^\d{3,6}[ -]?\d{4,12}$/.test(value) && value.replace(/\D/g, '').length >= 8,
  accepts: ['1368351976', '12345678', '0532-01300012'],
  rejects: ['1234', 'ACME', '12.50'],
};

/** Base58 with its checksum for Bitcoin, hexadecimal for Ethereum. */
export const wallet: Detector = {
  id: 'wallet.address',
  version: '1',
  classKey: 'wallet-address',
  strength: 0.95,
  types: ['text'],
  minShare: 0.6,
  minShareNamed: 0.3,
  namesFor: ['wallet', 'bitcoin', 'btc', 'ethereum', 'eth', 'crypto'],
  namesAgainst: ['hash', 'digest', 'checksum', 'commit'],
  test: (value) =>
    (/^(bc1|[13])[a-zA-HJ-NP-Z0-9]{25,62}$/.test(value) && validator.isBtcAddress(value)) ||
    validator.isEthereumAddress(value),
  accepts: ['1A1zP1eP5QGefi2DMPTfTL5SLmv7DivfNa', '0x52908400098527886E0F7030069857D2E4169EE7'],
  rejects: ['1A1zP1', '0x5290840009852788', 'a3f5c2d1'],
};
