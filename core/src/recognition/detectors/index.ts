import type { Detector } from '../types.ts';
import { age, ageBand, ageExact } from './age.ts';
import { email, phone, phoneDigits, postalAddress, socialHandle, streetAndNumber, userName } from './contact.ts';
import {
  drivingLicence,
  ethnicity,
  gender,
  genderCode,
  language,
  machineReadable,
  maritalStatus,
  nationality,
  passport,
  religion,
} from './demographic.ts';
import {
  accountDigits,
  bankRouting,
  bic,
  iban,
  isin,
  lei,
  nationalAccount,
  paymentCard,
  vatNumber,
  wallet,
} from './finance.ts';
import { personalText } from './freeText.ts';
import { bloodGroup, diagnosis, diagnosisPlain, germanHealthId, healthText, medicine, nhsNumber } from './health.ts';
import { dateOfBirth, personName, personNameNamed, personNames, yearOfBirth } from './identity.ts';
import {
  coordinates,
  country,
  countryCode,
  countryCodeSmall,
  latitudeOrLongitude,
  postcode,
  postcodeDigits,
} from './location.ts';
import { nationalIds, socialSecurityDigits } from './national.ts';
import { hostName, iccid, imei, ipAddress, macAddress, macPlain, url, userAgent } from './network.ts';
import {
  airportCode,
  airportCodeNamed,
  city,
  cityNamed,
  degrees,
  degreesEast,
  timeZone,
  timeZoneOffset,
} from './places.ts';
import { region, regionCode, regionCodeSmall, regionNamed, worldRegion } from './regions.ts';
import {
  apiKey,
  connectionString,
  jsonWebToken,
  password,
  passwordDigest,
  passwordHash,
  privateKey,
  secretString,
} from './secrets.ts';
import { containerNumber, imoNumber, mmsi, vehiclePlate, vin } from './vehicles.ts';
import { currency, occupation, occupationNamed, organisation } from './work.ts';

/** All detectors that ship with Idrel. */
export const DETECTORS: readonly Detector[] = [
  ...[email, phone, phoneDigits, postalAddress, streetAndNumber, socialHandle, userName],
  ...[
    personName,
    personNameNamed,
    personNames,
    dateOfBirth,
    yearOfBirth,
    ...nationalIds,
    socialSecurityDigits,
    passport,
    machineReadable,
    drivingLicence,
  ],
  ...[gender, genderCode, maritalStatus, nationality, language, age, ageExact, ageBand, religion, ethnicity],
  ...[paymentCard, iban, nationalAccount, accountDigits, bic, bankRouting, vatNumber, lei, isin, wallet],
  ...[nhsNumber, germanHealthId, diagnosis, diagnosisPlain, medicine, bloodGroup, healthText],
  ...[passwordHash, passwordDigest, password, apiKey, secretString, jsonWebToken, privateKey, connectionString],
  ...[ipAddress, macAddress, macPlain, imei, iccid, userAgent, hostName, url],
  ...[
    city,
    cityNamed,
    region,
    regionCode,
    regionCodeSmall,
    regionNamed,
    worldRegion,
    airportCode,
    airportCodeNamed,
    timeZone,
    timeZoneOffset,
    organisation,
    occupation,
    occupationNamed,
    currency,
  ],
  ...[
    coordinates,
    latitudeOrLongitude,
    degrees,
    degreesEast,
    postcode,
    postcodeDigits,
    country,
    countryCode,
    countryCodeSmall,
  ],
  ...[vehiclePlate, vin, imoNumber, mmsi, containerNumber],
  personalText,
];
