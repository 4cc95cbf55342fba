import validator from 'validator';
import type { Detector } from '../types.ts';

export const ipAddress: Detector = {
  id: 'network.ip',
  version: '1',
  classKey: 'ip-address',
  strength: 0.96,
  types: ['text', 'other'],
  minShare: 0.7,
  minShareNamed: 0.4,
  namesFor: ['ip', 'ip address', 'ipaddr', 'client ip', 'remote addr', 'host address', 'inet'],
  namesAgainst: ['version', 'firmware', 'release', 'build'],
  test: (value) => validator.isIP(value.replace(/\/\d{1,3}$/, '')),
  accepts: ['192.0.2.17', '2001:db8::8a2e:370:7334', '10.1.2.0/24'],
  rejects: ['192.0.2.300', '1.2.3', '::::', '12:30:00'],
};

export const macAddress: Detector = {
  id: 'network.mac',
  version: '1',
  classKey: 'mac-address',
  strength: 0.97,
  types: ['text', 'other'],
  minShare: 0.7,
  minShareNamed: 0.4,
  namesFor: ['mac', 'mac address', 'hardware address', 'hwaddr', 'bssid'],
  namesAgainst: [],
  test: (value) => /[:.-]/.test(value) && validator.isMACAddress(value),
  accepts: ['00:1B:44:11:3A:B7', '00-1b-44-11-3a-b7', '001b.4411.3ab7'],
  rejects: ['00:1B:44:11:3A', '00:1B:44:11:3A:ZZ', '001B44113AB7'],
};

export const url: Detector = {
  id: 'network.url',
  version: '1',
  classKey: 'url',
  strength: 0.97,
  types: ['text'],
  minShare: 0.6,
  minShareNamed: 0.4,
  namesFor: ['url', 'uri', 'link', 'href', 'website', 'web', 'homepage', 'site', 'endpoint'],
  namesAgainst: [],
  test: (value) => value.includes('://') && validator.isURL(value, { require_protocol: true, require_tld: false, protocols: ['http', 'https', 'ftp', 'ftps', 'sftp', 'ws', 'wss'] }),
  accepts: ['https://example.org/fares?x=1', 'http://localhost:4780/'],
  rejects: ['example', 'ida@example.org', '//', 'C:\\files'],
};

const PAIR = /^\(?\s*(-?\d{1,3}(?:\.\d+)?)\s*[,; ]\s*(-?\d{1,3}(?:\.\d+)?)\s*\)?$/;
const POINT = /^(?:SRID=\d+;)?POINT\s*\(\s*(-?\d{1,3}(?:\.\d+)?)\s+(-?\d{1,3}(?:\.\d+)?)\s*\)$/i;
const SEXAGESIMAL = /^\d{1,3}\s?°\s?\d{1,2}([.,]\d+)?\s?['′](\s?\d{1,2}([.,]\d+)?\s?["″])?\s?[NSEWØV]?(\s*,?\s*\d{1,3}\s?°.*)?$/;

/** Latitude and longitude in one value; a lone number is a coordinate only under a name that says so (see {@link latitudeOrLongitude}). */
export const coordinates: Detector = {
  id: 'place.pair',
  version: '1',
  classKey: 'coordinates',
  strength: 0.9,
  types: ['text', 'other'],
  minShare: 0.7,
  minShareNamed: 0.4,
  namesFor: ['coordinates', 'coords', 'latlon', 'lat lon', 'latlng', 'geo', 'geom', 'geopoint', 'position', 'location', 'gps', 'point'],
  namesAgainst: ['range', 'size', 'dimension', 'score'],
  test: (value) => {
    if (SEXAGESIMAL.test(value)) return true;
    const pair = PAIR.exec(value) ?? POINT.exec(value);
    if (!pair) return false;
    const [a, b] = [Number(pair[1]), Number(pair[2])];
    const precise = [pair[1], pair[2]].every((part) => /\.\d{3,}/.test(part ?? ''));
    return precise && ((Math.abs(a) <= 90 && Math.abs(b) <= 180) || (Math.abs(a) <= 180 && Math.abs(b) <= 90));
  },
  accepts: ['59.9127, 10.7461', 'POINT(10.7461 59.9127)', '59° 54′ 45″ N'],
  rejects: ['1,2', '259.9127, 10.7461', '12.50', 'NO'],
};

export const latitudeOrLongitude: Detector = {
  id: 'place.single',
  version: '1',
  classKey: 'coordinates',
  strength: 0.25,
  types: ['decimal', 'text'],
  minShare: 0.95,
  minShareNamed: 0.9,
  namesFor: ['lat', 'latitude', 'lon', 'lng', 'long', 'longitude', 'breitengrad', 'laengengrad', 'latitud', 'longitud', 'breddegrad', 'lengdegrad'],
  namesAgainst: ['price', 'amount', 'rate', 'score', 'weight', 'level', 'height'],
  needsName: true,
  test: (value) => /^-?\d{1,3}\.\d{2,}$/.test(value) && Math.abs(Number(value)) <= 180,
  accepts: ['59.9127', '-10.7461'],
  rejects: ['259.91', '59', '1.5'],
};

/** Registration marks as the countries issue them today: United Kingdom, Ireland, Norway, Sweden, Finland, Denmark, Germany, France, Italy, Spain, Netherlands, Poland. */
const PLATES = [
  /^[A-Z]{2}\d{2}\s?[A-Z]{3}$/,
  /^\d{2,3}-?[A-Z]{1,2}-?\d{1,6}$/,
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
  minShare: 0.75,
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
  namesAgainst: ['ref', 'reference', 'code', 'sku', 'booking', 'ticket', 'invoice', 'flight', 'sailing', 'postcode', 'zip', 'container', 'seat', 'product', 'order'],
  test: (value) => value.length >= 5 && value.length <= 11 && PLATES.some((plate) => plate.test(value)),
  accepts: ['AB12 CDE', 'EK 12345', 'B-MW 1234', 'AA-123-BB', '1234 BCD'],
  rejects: ['12345', 'HELLO', 'TF-2026-00017', 'ab12'],
};
