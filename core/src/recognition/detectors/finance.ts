import { isValidIBAN } from 'ibantools';
import validator from 'validator';
import type { Detector } from '../types.ts';

export const paymentCard: Detector = {
  id: 'card.number',
  checkDigits: true,
  version: '1',
  classKey: 'payment-card',
  strength: 0.94,
  types: ['text', 'integer'],
  minShare: 0.6,
  minShareNamed: 0.3,
  namesFor: ['card', 'card number', 'cardnumber', 'pan', 'credit card', 'creditcard', 'payment card', 'cc', 'cc number', 'kort', 'kortnummer', 'karte', 'tarjeta'],
  namesAgainst: ['barcode', 'ticket', 'sku', 'serial', 'phone', 'imei', 'timestamp'],
  test: (value) => /^[\d -]{12,23}$/.test(value) && validator.isCreditCard(value.replace(/[ -]/g, '')),
  accepts: ['4111 1111 1111 1111', '5500005555555559', '3782-822463-10005'],
  rejects: ['4111 1111 1111 1112', '1234567890123456', '4111'],
};

export const iban: Detector = {
  id: 'account.iban',
  checkDigits: true,
  version: '1',
  classKey: 'iban',
  strength: 0.985,
  types: ['text'],
  minShare: 0.5,
  minShareNamed: 0.25,
  namesFor: ['iban', 'account', 'bank account', 'konto', 'kontonummer', 'cuenta', 'compte'],
  namesAgainst: [],
  test: (value) => value.length >= 15 && value.length <= 42 && /^[A-Z]{2}\d{2}/i.test(value) && isValidIBAN(value.replace(/[\s-]/g, '').toUpperCase()),
  accepts: ['NO93 8601 1117 947', 'GB29NWBK60161331926819', 'DE89370400440532013000'],
  rejects: ['GB29NWBK60161331926818', 'TF29 2026 0514 0630', 'NO93'],
};
