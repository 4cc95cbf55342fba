import validator from 'validator';
import type { Detector } from '../types.ts';

export const ipAddress: Detector = {
  id: 'network.ip',
  version: '2',
  classKey: 'ip-address',
  strength: 0.96,
  types: ['text', 'other'],
  minShare: 0.7,
  minShareNamed: 0.4,
  namesFor: ['ip', 'ip address', 'ipaddr', 'client ip', 'remote addr', 'host address', 'inet'],
  namesAgainst: ['version', 'firmware', 'release', 'build'],
  // With the length of a network, a port, or as a list of them as proxies write it.
  test: (value) =>
    value.length <= 200 &&
    value
      .split(/,\s?/)
      .every((part) =>
        validator.isIP(part.replace(/\/\d{1,3}$/, '').replace(/^(\d{1,3}(?:\.\d{1,3}){3}):\d{1,5}$/, '$1')),
      ),
  accepts: ['192.0.2.17', '192.0.2.17:443', '192.0.2.17, 198.51.100.4', '2001:db8::8a2e:370:7334', '10.1.2.0/24'],
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

/** Twelve hexadecimal digits: only the column's name tells them from any other key. */
export const macPlain: Detector = {
  ...macAddress,
  id: 'network.mac-plain',
  strength: 0.6,
  needsName: true,
  minShare: 0.95,
  minShareNamed: 0.8,
  test: (value) => /^[0-9A-F]{12}$/i.test(value),
  accepts: ['001B44113AB7'],
  rejects: ['001B44113AB', '00:1B:44:11:3A:B7', '001B44113ABZ'],
};

export const url: Detector = {
  id: 'network.url',
  version: '2',
  classKey: 'url',
  strength: 0.97,
  types: ['text'],
  minShare: 0.6,
  minShareNamed: 0.4,
  namesFor: ['url', 'uri', 'link', 'href', 'website', 'web', 'homepage', 'site', 'endpoint'],
  namesAgainst: [],
  test: (value) =>
    /^www\.[a-z0-9-]+(\.[a-z0-9-]+)+(\/\S*)?$/i.test(value) ||
    (value.includes('://') &&
      validator.isURL(value, {
        require_protocol: true,
        require_tld: false,
        protocols: ['http', 'https', 'ftp', 'ftps', 'sftp', 'ws', 'wss'],
      })),
  accepts: ['https://example.org/fares?x=1', 'www.example.org/fares', 'http://localhost:4780/'],
  rejects: ['example', 'ida@example.org', '//', 'C:\\files'],
};

/** Luhn over fifteen digits (3GPP TS 23.003, annex B); the name tells it from a payment card of fifteen digits. */
export const imei: Detector = {
  id: 'device.imei',
  version: '1',
  classKey: 'imei',
  strength: 0.85,
  checkDigits: true,
  types: ['text', 'integer'],
  minShare: 0.7,
  minShareNamed: 0.4,
  namesFor: ['imei', 'device', 'handset', 'device id', 'equipment'],
  namesAgainst: ['card', 'pan', 'account', 'barcode', 'order', 'invoice', 'phone', 'iccid', 'sim'],
  // Reporting bodies begin with 01, 35, 86 and a few others: what begins otherwise is another number.
  test: (value) =>
    /^(01|10|30|33|35|44|45|49|5[0-4]|86|91|98|99)/.test(value) &&
    (validator.isIMEI(value) || validator.isIMEI(value, { allow_hyphens: true })),
  accepts: ['490154203237518', '35-209900-176148-1'],
  rejects: ['490154203237519', '4901542'],
};

/** The number of a SIM card: 89, country, issuer, account, Luhn (ITU-T E.118). */
export const iccid: Detector = {
  id: 'device.iccid',
  version: '1',
  classKey: 'sim-number',
  strength: 0.95,
  checkDigits: true,
  types: ['text', 'integer'],
  minShare: 0.7,
  minShareNamed: 0.4,
  namesFor: ['iccid', 'sim', 'sim card', 'sim number'],
  namesAgainst: ['barcode'],
  test: (value) => /^89\d{16,18}$/.test(value) && validator.isLuhnNumber(value),
  accepts: ['8944110068256270054', '8947080037100108512'],
  rejects: ['8944110068256270055', '1244110068256270054'],
};

/** A product with its version, and behind it a comment or another product (RFC 9110, 10.1.5). */
const AGENT = /^[A-Za-z][\w.+!-]{1,40}\/v?\d[\w.-]*\s+(\([^)]{3,}\)|[A-Za-z][\w.-]*\/[\w.-]*\d)/;

export const userAgent: Detector = {
  id: 'device.agent',
  version: '2',
  classKey: 'user-agent',
  strength: 0.97,
  types: ['text'],
  minShare: 0.5,
  minShareNamed: 0.3,
  fewValues: 4,
  namesFor: ['user agent', 'useragent', 'http user agent', 'agent', 'ua', 'browser', 'client', 'crawler', 'bot'],
  namesAgainst: [],
  // RFC 9110, 10.1.5: products with versions, comments in brackets.
  test: (value) =>
    AGENT.test(value) ||
    /^(Mozilla\/\d\.\d \([^)]{4,}\)|(Opera|Dalvik|curl|okhttp|python-requests|PostmanRuntime|Wget|Go-http-client|Java|axios|CFNetwork)\/\d)/.test(
      value,
    ),
  accepts: [
    'Googlebot/2.1 (+http://www.example.com/bot.html)',
    'Nokia6100/1.0 (04.01) Profile/MIDP-1.0',
    'Mozilla/5.0 (X11; Linux x86_64) Gecko/20100101 Firefox/140.0',
    'curl/8.5.0',
  ],
  rejects: ['Mozilla', 'Windows 11', 'agent 7'],
};

export const hostName: Detector = {
  id: 'network.host',
  version: '2',
  classKey: 'host-name',
  strength: 0.85,
  types: ['text'],
  minShare: 0.7,
  minShareNamed: 0.5,
  namesFor: ['host', 'hostname', 'host name', 'domain', 'domain name', 'fqdn', 'server', 'dns', 'machine', 'node'],
  namesAgainst: ['file', 'filename', 'path', 'email', 'package', 'version', 'object'],
  // RFC 1123: labels of letters, digits and hyphens; the last one of letters, and none by which files are called.
  test: (value) =>
    value === value.toLowerCase() &&
    /^(?:[a-z0-9](?:[a-z0-9-]{0,61}[a-z0-9])?\.)+[a-z]{2,24}$/.test(value) &&
    !FILE_ENDING.test(value) &&
    TOP_LEVEL.has(value.slice(value.lastIndexOf('.') + 1)),
  accepts: ['db01.tarnholm.example.org', 'tills.example.com'],
  rejects: ['photo.jpg', 'sales.invoice', 'org.example.till.reader', 'localhost', '1.2.3.4', 'A. Holm'],
};
/** The last labels that hosts have: countries, those that most names are registered under, and those that networks keep for themselves. Names of tables end otherwise. */
const TOP_LEVEL = new Set(
  `com org net edu gov mil int info biz name pro aero coop museum jobs mobi travel tel cat asia post io dev app ai cloud online site xyz tech store shop blog page web live news agency digital systems network solutions services software host hosting
   local lan internal intranet corp home private localdomain localhost test example invalid arpa onion uk eu su`
    .split(/\s+/)
    .concat(
      Array.from({ length: 676 }, (_, index) =>
        String.fromCharCode(97 + Math.floor(index / 26), 97 + (index % 26)),
      ).filter((code) => validator.isISO31661Alpha2(code.toUpperCase())),
    ),
);
const FILE_ENDING =
  /\.(jpe?g|png|gif|svg|pdf|docx?|xlsx?|csv|tsv|json|xml|txt|md|zip|gz|tar|mp[34]|sql|py|js|ts|html?|css|log|parquet|ya?ml|exe|dll|bin|dat|bak|tmp)$/;
