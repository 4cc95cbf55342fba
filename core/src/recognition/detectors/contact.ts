import { type CountryCode, isPossiblePhoneNumber, isValidPhoneNumber, Metadata } from 'libphonenumber-js/max';
import validator from 'validator';
import type { Detector } from '../types.ts';

const NOT_A_VALUE = ['id', 'template', 'type', 'status', 'count', 'flag', 'sent', 'verified', 'consent', 'opt'];

/** The address alone, where a name or a scheme stands before it (RFC 5322, RFC 6068). */
const addressOf = (value: string) => /^[^<>]{0,100}<([^<>]+)>$/.exec(value)?.[1] ?? value.replace(/^mailto:/i, '');

/** The name of a message, not of somebody's box: brackets about nothing but it, and before the @ what a machine made (RFC 5322, 3.6.4). */
const isMessageId = (value: string) =>
  /^<[^<>]+>$/.test(value) && /^<(?=[^@]*(\d[^@]*){4})|^<[^@]{30,}@|^<[^@]*[$%=!][^@]*@|@[^@.]+>$/.test(value);

export const email: Detector = {
  id: 'email.address',
  version: '3',
  classKey: 'email',
  strength: 0.97,
  types: ['text'],
  minShare: 0.6,
  minShareNamed: 0.3,
  namesFor: [
    'email',
    'e mail',
    'mail',
    'mailaddress',
    'epost',
    'correo',
    'courriel',
    'sahkoposti',
    'electronic mail',
    'почта',
    '邮箱',
    '電子郵件',
    'メール',
    '이메일',
    'איימיל',
    'البريد',
  ],
  namesAgainst: ['message id', 'messageid', 'msgid', 'msg id', 'in reply to', 'references', 'thread id'],
  test: (value) =>
    value.length <= 320 &&
    value.includes('@') &&
    !isMessageId(value) &&
    validator.isEmail(addressOf(value), { allow_utf8_local_part: true }),
  accepts: [
    'ida.holm@example.org',
    'Ida Holm <ida.holm@example.org>',
    'mailto:ida.holm@example.org',
    'o.feeney+crew@tarnholm.example.com',
    'a@b.io',
  ],
  rejects: [
    '<20260514.7A41@mail.example.org>',
    '<01DB$c2f0@relay.example.net>',
    'ida.holm@',
    '@example.org',
    'ida holm@example.org',
    'sailing@06:30',
    'n/a',
  ],
};

/** Digits with the separators that people put into phone numbers; nothing else is handed to the (slow) library. */
const PHONE_SHAPE = /^(\+|00)?[\d\s()./-]{6,24}(\s?(ext|x)\.?\s?\d{1,5})?$/i;
const SEPARATED = /\d[\s()./-]+\d/;

/** Four numbers with dots: an address of the network, whose digits the library may accept as well. */
const NETWORK_ADDRESS = /^\d{1,3}(\.\d{1,3}){3}$/;
/** The number of a mobile device with its hyphens. */
const DEVICE = /^\d{2}-\d{6}-\d{6}-\d$/;

/** Looks like a calendar date or a time, and therefore is no phone number although the library may accept its digits. */
/** A plain number with a fraction, or several numbers in a row: a share, a rate, a line of measures. */
const FRACTION = /^-?\d{1,9}\.\d{4,}$|\d\.\d+\s+\d+\s+\d+\s|^-|^\d{1,2}(\s\d{1,2}){3,}$|^\d{1,4}\s\d+\.\d+\s/;
const DATE_SHAPE = /^\d{4}[-/.]\d{1,2}[-/.]\d{1,2}|^\d{1,2}[-/.]\d{1,2}[-/.]\d{4}/;

const PHONE_NAMES = [
  'phone',
  'telephone',
  'tel',
  'mobile',
  // A cell alone is one of a body, a battery or a sheet as well.
  '=cell',
  'cell phone',
  'cell no',
  'cell nr',
  'cell number',
  'customer cell',
  'contact cell',
  'msisdn',
  'fax',
  'telefon',
  'tlf',
  'mobil',
  'handy',
  'telefono',
  'movil',
  'puhelin',
  'contact number',
  'contact no',
  'телефон',
  'тел',
  'τηλεφωνο',
  '电话',
  '電話',
  '手机',
  '전화번호',
  'הטלפון',
  'טלפון',
  'هاتف',
  'تلفن',
];
const NOT_PHONE_NAMES = [
  'id',
  'ref',
  'reference',
  'code',
  'barcode',
  'ticket',
  'invoice',
  'order',
  'serial',
  'sku',
  'amount',
  'price',
  'timestamp',
  'date',
  'account',
  'iban',
  'card',
  'zip',
  'postcode',
  'postal',
  'plz',
  'postnummer',
];
/** How many digits a country's numbers have, with the digit that some countries dial before them. */
const lengths = new Map<string, ReadonlySet<number>>();
function hasLength(country: string, digits: number): boolean {
  let known = lengths.get(country);
  if (!known) {
    const metadata = new Metadata();
    metadata.selectNumberingPlan(country as CountryCode);
    known = new Set((metadata.numberingPlan?.possibleLengths() ?? []).flatMap((length) => [length, length + 1]));
    lengths.set(country, known);
  }
  return known.has(digits);
}

/** The country that the last number was of: the next in the column is likely of the same. */
let lastCountry = '';

function isNational(value: string, countries: readonly string[]): boolean {
  const digits = value.replace(/\D/g, '').length;
  const isOf = (country: string) => hasLength(country, digits) && isValidPhoneNumber(value, country as CountryCode);
  if (countries.includes(lastCountry) && isOf(lastCountry)) return true;
  const found = countries.find((country) => country !== lastCountry && isOf(country));
  if (found) lastCountry = found;
  return found !== undefined;
}

export const phone: Detector = {
  id: 'phone.number',
  version: '3',
  classKey: 'phone',
  strength: 0.86,
  types: ['text', 'integer'],
  minShare: 0.6,
  minShareNamed: 0.35,
  namesFor: PHONE_NAMES,
  namesAgainst: NOT_PHONE_NAMES,
  test: (value, { countries }) => {
    if (
      !PHONE_SHAPE.test(value) ||
      DATE_SHAPE.test(value) ||
      NETWORK_ADDRESS.test(value) ||
      DEVICE.test(value) ||
      FRACTION.test(value)
    )
      return false;
    const digits = value.replace(/\D/g, '');
    if (digits.length < 7 || digits.length > 15) return false;
    // With the plus nobody writes anything else: a country that exists and a length that it has are enough. Two zeros begin much.
    if (value.startsWith('+')) return isPossiblePhoneNumber(value);
    if (value.startsWith('00')) return isValidPhoneNumber(`+${value.slice(2)}`);
    // National numbers pass with a leading zero, separators or brackets; bare digits prove too little.
    if (!value.startsWith('0') && !SEPARATED.test(value)) return false;
    return isNational(value, countries);
  },
  accepts: ['+44 20 7946 0958', '+47 22 12 34 56', '0047 22123456', '+1 (212) 555-2368', '+441955300077'],
  rejects: [
    '2026-05-14',
    '12',
    '+44 123',
    'TF 2291 0013',
    '99999999999999999',
    '45-202413-086384-1',
    '10.20',
    '0.221231',
    '22.123456',
    '212345678',
    '10.20.4.17',
    '4722123456',
  ],
};

/** Phone numbers kept as bare digits: only the name of the column tells them from any other number. */
export const phoneDigits: Detector = {
  id: 'phone.digits',
  version: '1',
  classKey: 'phone',
  strength: 0.6,
  types: ['text', 'integer'],
  minShare: 0.6,
  minShareNamed: 0.35,
  needsName: true,
  namesFor: PHONE_NAMES.filter((name) => name !== '=cell'),
  namesAgainst: NOT_PHONE_NAMES,
  test: (value, { countries }) =>
    /^[1-9]\d{6,14}$/.test(value) && (isNational(value, countries) || isValidPhoneNumber(`+${value}`)),
  accepts: ['22123456', '4722123456', '12125552368'],
  rejects: ['1234567', '022123456', '+4722123456', '22 12 34 56', '999999999999999'],
};

/** Words by which streets are called; a suffix of a compound (`-gata`), a word before or after the name. */
const STREET_WORDS =
  'street st road rd avenue ave lane ln drive dr close court ct crescent way terrace place pl square sq boulevard blvd hill gardens row quay wharf parade ' +
  'mews grove grange parkway trail loop ridge ' +
  'urbanizacion colonia glorieta rambla ronda carretera pasaje bajada cuesta ladeira largo beco alameda calcada estrada rotunda borgo contrada strada salita vico lungomare osiedle os skwer bulwar droga rondo rynek szosa wyspa ' +
  'rue avenue boulevard place chemin allee impasse quai viale piazza corso vicolo calle avenida plaza paseo camino carrer rua travessa praca ulica ul aleja plac ' +
  'strasse str weg platz gasse allee ufer ring damm gata gate gaten vei veien veg vegen vag vagen plass allé katu kuja straat laan plein gracht kade utca trida namesti';
/** The same where other languages are written: Slavic, Baltic, Turkic, Romanian, Hungarian, Greek, Vietnamese, Indonesian; Cyrillic, Hebrew, Arabic, Caucasian, Thai. */
const STREET_WORDS_OF_THE_WORLD =
  'ulice nam namesti trg cesta put vijenac bulevar bulevardul bd strada aleea intrarea calea soseaua piata iela bulvaris prospekts gatve prospektas tn mnt pst tanav ut utja ter tere foter fout korut koz setany fasor orszagut caddesi cad sokak sk sokagi mahallesi mah bulvari yolu kuc kucesi prospekti meydani kochasi odos leoforos plateia jalan jln jl gang gg duong pho calz calzada privada priv prolongacion andador callejon camino dreve porte galerie strato avenuo lon heol hoel stryd ' +
  'ул улица аллея пер переулок проспект пр-т бульвар бул площадь пл шоссе набережная наб проезд вул вулиця провулок пров площа майдан просп сокак булевар кеј οδος λεωφ λεωφορος πλατεια ' +
  'רחוב שדרות סמטת דרך שד شارع طريق جادة ممر خیابان کوچه بلوار میدان گلی روڈ سڑک ქუჩა გამზ გამზირი ქ პროსპექტი փողոց պողոտա ถนน ซอย मार्ग सडक';
const plainWord = (word: string) => word.toLowerCase().normalize('NFD').replace(/\p{M}/gu, '');
const STREET = new Set(`${STREET_WORDS} ${STREET_WORDS_OF_THE_WORLD}`.split(/\s+/).map(plainWord));
/** Chinese, Japanese, Korean and Thai addresses, which have no spaces about their words. */
const UNSPACED_ADDRESS =
  /\d\s*(号|號|番地|番|丁目)|(路|街|巷|弄|大道)\s*\d|[\p{Script=Hangul}\d](로|길)([\s,\d]|$)|(ถนน|ซอย)\s*\S/u;
const OF_EAST_ASIA = /\p{Script=Han}|\p{Script=Hangul}|\p{Script=Thai}/u;
const STREET_SUFFIX =
  /(strasse|straße|str\.?|weg|platz|gasse|allee|ufer|damm|gata|gatan|gaten|gate|vei|veien|veg|vegen|vägen|vagen|plass|katu|tie|kuja|straat|laan|plein|gracht|kade|singel|vej|gade|stræde|lia|stien|stubben|bakken|kroken|svingen|haugen|tunet|jordet|tråkket|veita|åsen|lunden|toppen|enga|moen|kleiva|berget|myra|gårdsvei|gränden|allén|gärdet|plantsoen|dijk|steeg|hof|markt|singel|pad|ulica|ulice|utca|bulwar|caddesi|sokak|sokağı|plassen|stigen|gränd|backen|polku|rinne|linja|penger|bulevardi|tér|utca|út)$/i;
const POSTCODE =
  /\b(\d{4,6}|\d{3}\s\d{2}|\d{2}-\d{3}|[A-Z]{1,2}\d[A-Z\d]?\s?\d[A-Z]{2}|\d{4}\s?[A-Z]{2}|[A-Z]\d[A-Z]\s?\d[A-Z]\d)\b/;
const HOUSE_NUMBER = /(^|[\s,])\d{1,5}\s?[a-zA-Z]?([\s,/-]|$)/;

/** Last words of streets where the number comes first, as the postal services of North America list them (USPS Publication 28, C1). */
const LAST_WORDS = new Set(
  'alley avenue bayou beach bend bluff bluffs bottom branch bridge brook brooks burg burgs bypass camp canyon cape causeway center centers circle circles cliff cliffs club common corner corners course court courts cove coves creek crest crossing crossroad curve dale dam divide drive drives estate estates expressway extension extensions fall falls ferry field fields flat flats ford fords forest forge forges fork forks fort freeway garden gardens gateway glen glens green greens grove groves harbor harbors harbour haven heights highway hill hills hollow inlet island islands isle junction junctions key keys knoll knolls lake lakes land landing lane light lights loaf lock locks lodge loop mall manor manors meadow meadows mews mill mills mission motorway mount mountain mountains neck orchard oval overpass park parks parkway parkways pass passage path pike pine pines place plain plains plaza point points port ports prairie radial ramp ranch rapid rapids rest ridge ridges river road roads route row rue run shoal shoals shore shores skyway spring springs spur spurs square squares station stravenue stream street streets summit terrace throughway trace track trafficway trail tunnel turnpike underpass union unions valley valleys via viaduct view views village villages ville vista walk walks wall way ways well wells'.split(
    ' ',
  ),
);
/** `8213 E Broad Street`, `42451 Kling Greens Apt. 4`: a number, names that begin with capitals, and one of those words. */
function isNumberedStreet(value: string): boolean {
  const match = /^\d{1,6}[A-Za-z]?(?:-\d{1,4})?\s+(.+)$/.exec(value.split(',')[0] ?? '');
  const words = (match?.[1] ?? '')
    .replace(/\s(apt|apartment|suite|unit|flat|#)\.?\s?\w*$/i, '')
    .split(/\s+/)
    .filter((word) => !/^(N|S|E|W|NE|NW|SE|SW)\.?$/.test(word));
  return (
    words.length >= 2 &&
    words.length <= 6 &&
    words.every((word) => /^(\p{Lu}|\d)/u.test(word)) &&
    LAST_WORDS.has(words.at(-1)?.toLowerCase() ?? '')
  );
}

/** First words of places where the number comes last: Spanish, Portuguese, Italian, French; `s/n` says that there is none. */
const FIRST_WORDS =
  /^(aldea|apartamento|arrabal|arroyo|avda|av|bajada|barranco|barrio|bloque|calleja|caserio|colegio|conjunto|cuesta|chalet|edificio|entrada|escalinata|explanada|extramuros|extrarradio|ferrocarril|grupo|huerta|jardines|lado|lugar|manzana|masia|mercado|monte|muelle|municipio|parcela|parque|partida|pasaje|paseo|poblado|poligono|prolongacion|puente|puerta|quinta|ramal|rambla|rampa|riera|rincon|ronda|rua|salida|sector|seccion|senda|solar|subida|terrenos|torrente|travesia|urbanizacion|vereda|marginal|rodovia|quadra|rotonda|incrocio|impasse|cite|residence|lotissement|sentier|lugar|praceta|bairro)\.?\s/;
function isNamedPlace(value: string): boolean {
  return (
    FIRST_WORDS.test(value.toLowerCase().normalize('NFD').replace(/\p{M}/gu, '')) &&
    /^\p{Lu}/u.test(value) &&
    /[\s,](\d{1,5}\s?[A-Za-z]?|s\/n)\.?(,|$)/i.test(value)
  );
}

export function isPostalAddress(value: string): boolean {
  if (OF_EAST_ASIA.test(value) && value.length <= 200 && /\d/.test(value) && UNSPACED_ADDRESS.test(value)) return true;
  if (
    value.length < 6 ||
    value.length > 200 ||
    !(/\d/.test(value) || /s\/n/i.test(value)) ||
    /[@{}<>=|]|:\/\//.test(value)
  )
    return false;
  const words = value.split(/[\s,;.]+/).filter(Boolean);
  if (words.length < 2 || words.length > 24) return false;
  const letters = value.replace(/[^\p{L}]/gu, '').length;
  if (letters < 4) return false;
  const street = words.some((word) => STREET.has(plainWord(word)) || (word.length > 5 && STREET_SUFFIX.test(word)));
  if (isNumberedStreet(value) || isNamedPlace(value)) return true;
  // `via` is Italy's street and everybody's way to somewhere: it counts only where an address begins.
  // Hebrew and Arabic number with a letter and without a gap.
  if (street && /[\u0590-\u07ff]/.test(value)) return true;
  if ((street || /^via\s\p{Lu}/iu.test(value)) && HOUSE_NUMBER.test(value)) return true;
  return (
    /,/.test(value) && POSTCODE.test(value) && HOUSE_NUMBER.test(value.replace(POSTCODE, ' ')) && words.length >= 4
  );
}

export const postalAddress: Detector = {
  id: 'address.postal',
  version: '4',
  classKey: 'postal-address',
  strength: 0.9,
  types: ['text'],
  minShare: 0.5,
  minShareNamed: 0.25,
  namesFor: [
    'address',
    'addr',
    'street',
    'adresse',
    'adress',
    'adres',
    'direccion',
    'indirizzo',
    'osoite',
    'endereco',
    'residence',
    'postal address',
    'home address',
    'address line',
    'адрес',
    'διευθυνση',
    '地址',
    '住所',
    '주소',
    'כתובת',
    'العنوان',
    'آدرس',
  ],
  namesAgainst: [...NOT_A_VALUE, 'ip', 'mac', 'email', 'url', 'route'],
  test: isPostalAddress,
  accepts: [
    '14 Harbour Street',
    'Storgata 12B, 0155 Oslo',
    '7 rue de la Paix, 75002 Paris',
    'Hauptstraße 5, 10115 Berlin',
    'Flat 3, 22 Mill Lane, Kessgar KG4 2PQ',
    'Ladeira Rúben Falcão 21',
    'Borgo Bernasconi 77',
    'ул. Почтовая, 593',
    'Mlynská cesta 510',
    'Bulevardul Tighinei 85',
    '黎北路2109號',
  ],
  rejects: ['Deck 4', 'Tarnholm to Ulvey', 'Booked on 12 May', '10.0.0.7', 'route 7 via Kessgar'],
};

/** A name and a house number, as streets are written where nothing in their names says so: the column's name must. */
export const streetAndNumber: Detector = {
  ...postalAddress,
  id: 'address.street',
  version: '1',
  strength: 0.55,
  needsName: true,
  minShare: 0.7,
  minShareNamed: 0.5,
  test: (value) =>
    value.length <= 80 &&
    (/^\p{Lu}[\p{L}\p{M}.'’ -]{2,50},?\s\d{1,5}\s?[A-Za-z]?([/-]\d{1,4})?(,.*)?$/u.test(value) ||
      /^\d{1,5}[A-Za-z]?,?\s\p{Lu}[\p{L}\p{M}.'’ -]{2,50}(,.*)?$/u.test(value)),
  accepts: ['Sychrovská 64', 'Na Třebešíně 2', '12 Les Lilas'],
  rejects: ['deck 4', 'Oslo', '1234'],
};

/** A name beginning with @, as people are addressed in public. */
export const socialHandle: Detector = {
  id: 'contact.handle',
  version: '1',
  classKey: 'social-handle',
  strength: 0.88,
  types: ['text'],
  minShare: 0.7,
  minShareNamed: 0.4,
  namesFor: ['handle', 'social', 'social media', 'mastodon', 'nick', 'nickname', 'screen name', 'account name'],
  namesAgainst: [],
  test: (value) => /^@[\p{L}\d_][\p{L}\d_.-]{1,40}(@[\w-]+(\.[\w-]+)+)?$/u.test(value),
  accepts: ['@ida_holm', '@ida@social.example.org'],
  rejects: ['ida', '@', 'a@b.io', '@ ida'],
};

/** A name under which a person signs in: only the column's name says so. */
export const userName: Detector = {
  id: 'contact.username',
  version: '1',
  classKey: 'user-name',
  strength: 0.45,
  needsName: true,
  types: ['text'],
  minShare: 0.9,
  minShareNamed: 0.7,
  namesFor: [
    'username',
    'user name',
    'login',
    'login name',
    'benutzername',
    'brukernavn',
    'anvandarnamn',
    'usuario',
    'utilisateur',
    'utente',
    'gebruikersnaam',
    'sam account',
    'uid',
  ],
  namesAgainst: ['at', 'date', 'count', 'time', 'id', 'type', 'last', 'failed'],
  test: (value) => /^[\p{L}\d][\p{L}\d_.\\+-]{1,39}$/u.test(value) && /\p{L}/u.test(value),
  accepts: ['iholm', 'ida.holm', 'TARNHOLM\\iholm'],
  rejects: ['12345', 'Ida Holm', 'ida@example.org'],
};
