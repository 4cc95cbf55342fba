import type { Detector } from '../types.ts';
import { email, phone, phoneDigits, postalAddress } from './contact.ts';
import { iban, paymentCard } from './finance.ts';
import { personalText } from './freeText.ts';
import { dateOfBirth, nationalIds, personName } from './identity.ts';
import { coordinates, ipAddress, latitudeOrLongitude, macAddress, url, vehiclePlate } from './technical.ts';

/** All detectors that ship with Idrel. */
export const DETECTORS: readonly Detector[] = [
  email,
  phone,
  phoneDigits,
  postalAddress,
  personName,
  dateOfBirth,
  ...nationalIds,
  paymentCard,
  iban,
  ipAddress,
  macAddress,
  url,
  coordinates,
  latitudeOrLongitude,
  vehiclePlate,
  personalText,
];
