import { fold } from '../../text/index.ts';
import names from '../data/personNames.json' with { type: 'json' };
import world from '../data/personNamesWorld.json' with { type: 'json' };
import type { ConfidenceTerm, Detector, Setting } from '../types.ts';

const GIVEN = new Set([...names.given.split(' '), ...world.given.split(' ')]);
const FAMILY = new Set([...names.family.split(' '), ...world.family.split(' ')]);
const TITLES = new Set([
  'mr',
  'mrs',
  'ms',
  'miss',
  'dr',
  'prof',
  'sir',
  'herr',
  'frau',
  'fru',
  'sr',
  'sra',
  'mme',
  'mlle',
  'dott',
  'jr',
  'ii',
  'iii',
  'phd',
  'md',
  'dds',
  'dvm',
  'iv',
  'v',
]);
const PARTICLES = new Set([
  'van',
  'von',
  'de',
  'der',
  'den',
  'da',
  'di',
  'del',
  'della',
  'la',
  'le',
  'dos',
  'du',
  'zu',
  'af',
  'av',
  'ter',
  'ten',
  'bin',
  'al',
  'el',
  'y',
  'e',
]);
const NAME_SHAPE = /^\p{L}[\p{L}\p{M}\u200c'’.,\- ]*$/u;

/** What firms are called after their founders' names. */
const FIRM = new Set(
  'inc ltd limited llc llp plc corp co company group holding holdings partners sons bros gmbh ag kg ohg se asa as ans ab oy oyj sa sas sarl sl srl spa snc bv nv aps hf kft zoo sp spzoo gruppen gruppe rfh nuf ltda eireli epp me invest investment investments handelsbolag hb kb kommanditbolag consulting services solutions technologies systems international industries enterprises associates brothers hermanos fils figli vof coop verlag handels trading logistics shipping sro spol as doo dd ood ead sarlu gie'.split(
    ' ',
  ),
);
const AND = new Set(['and', 'und', 'og', 'och', 'et', '&']);

/** Several family names in a row, or one with the form of a firm after it: `Schmidt, Weller und Hecht`, `Reilly - Klein`, `Solberg ASA`. */
const isFirm = (value: string, words: readonly string[]): boolean =>
  / [-–&+] /.test(value) ||
  FIRM.has(words.at(-1)?.replaceAll('.', '') ?? '') ||
  (words.length > 2 && words.some((word) => AND.has(word) || (value.includes(',') && (word === 'e' || word === 'y'))));
const isFirmName = (value: string): boolean =>
  isFirm(
    value,
    fold(value)
      .split(/[\s,]+/)
      .filter(Boolean),
  );

/** Chinese, Japanese and Korean names: no space between, the family first; or with one, in either order. */
const UNSPACED = /^[\p{Script=Han}\p{Script=Hiragana}\p{Script=Katakana}\p{Script=Hangul}々ー・ 　]{1,9}$/u;
function isUnspacedName(value: string): boolean {
  const parts = fold(value)
    .split(/[ 　・]+/)
    .filter(Boolean);
  const [one = '', other] = parts;
  if (parts.length > 2) return false;
  if (other !== undefined)
    return (
      (FAMILY.has(one) && (GIVEN.has(other) || other.length <= 3)) ||
      (GIVEN.has(one) && FAMILY.has(other)) ||
      (FAMILY.has(other) && one.length <= 3)
    );
  if (GIVEN.has(one) || FAMILY.has(one)) return true;
  for (let at = 1; at < Math.min(4, one.length); at += 1)
    if (FAMILY.has(one.slice(0, at)) && GIVEN.has(one.slice(at))) return true;
  return false;
}

/** An initial with its point and a family name, in either order; what begins with a direction is a place as well. */
const INITIALED =
  /^(?![NSEW]\. )(\p{Lu}\. ?){1,3}(\p{Lu}\p{L}+[ '’-]?){1,2}\p{Ll}$|^\p{Lu}[\p{L}'’-]+, ?(\p{Lu}\. ?){1,3}$/u;

/** Words by which places and institutions are called beside a name that people have as well, and how names within programs are written. */
const OF_PLACES = new Set(
  'airport airports intl international municipal regional memorial airfield aerodrome heliport field airpark afb base station terminal port harbor harbour marina pier university college school academy institute institution ministry department dept agency authority bureau office council committee commission administration association society foundation hospital clinic center centre park garden gardens street avenue road lane boulevard river creek lake island islands isle bay beach bridge mount mountain peak hill hills valley forest desert falls county parish district province state territory city town township village borough ward museum library church cathedral temple hotel inn restaurant theatre theater stadium arena court prison jail service services force army navy fire police power plant dam mine mines bank company'.split(
    ' ',
  ),
);
const IN_PROGRAMS =
  /^[\p{Ll}]{2,}\p{Lu}|\p{Ll}{4,}\p{Lu}\p{Ll}|_|\(\)|::|->|\p{L}\.\p{Ll}{3,}|^(get|set|is|has|on)\p{Lu}/u;
/** Given and family name in either order, or one name alone that stands in a list. */
export function isPersonName(value: string): boolean {
  if (UNSPACED.test(value)) return isUnspacedName(value);
  if (value.length < 3 || value.length > 60 || !NAME_SHAPE.test(value)) return false;
  const words = fold(value)
    .split(/[\s,]+/)
    .map((word) => word.replace(/[.’\u200c]/g, ''))
    .filter((word) => word !== '' && !TITLES.has(word));
  if (isFirm(value, words) || (words.length > 2 && OF_PLACES.has(words.at(-1) ?? ''))) return false;
  // An initial beside a family name; and names as systems keep them that know no capitals.
  const small = value === value.toLowerCase();
  const parts = words.filter((word) => !PARTICLES.has(word));
  if (parts.length === 0 || words.length > 6) return false;
  const pieces = parts.flatMap((word) => word.split('-'));
  const given = pieces.filter((word) => GIVEN.has(word) || GIVEN.has(word.replaceAll("'", ''))).length;
  const family = pieces.filter((word) => FAMILY.has(word) || FAMILY.has(word.replaceAll("'", ''))).length;
  // Three capitals alone are what something is called for short.
  if (parts.length === 1) return given + family > 0 && !/^\p{Lu}{1,3}$/u.test(value);
  // Of a full name one part must be known as a given name, or two as family names; initials and unknown family names may stand beside it.
  // Arabic, Hebrew, Georgian, Thai … have no capitals.
  if (INITIALED.test(value) && !OF_PLACES.has(words.at(-1) ?? '')) return true;
  const initials = parts.filter((word) => word.length === 1).length;
  if (
    initials > 0 &&
    initials < parts.length &&
    parts.length <= 3 &&
    family > 0 &&
    /^\p{Lu}\.? |[ ,]\p{Lu}\.?$/u.test(value)
  )
    return true;
  if (small && /[a-z]/.test(value))
    return parts.length <= 3 && given > 0 && family > 0 && given + family > parts.length - 1;
  const capitalised =
    value.toLowerCase() === value.toUpperCase()
      ? parts.length
      : value.split(/[\s,]+/).filter((word) => /^\p{Lu}/u.test(word)).length;
  return parts.length <= 4 && capitalised >= Math.min(2, parts.length) && (given > 0 || family > 1);
}

const isOfPlaceOrProgram = (value: string): boolean =>
  IN_PROGRAMS.test(value) ||
  fold(value)
    .split(/[\s,./()-]+/)
    .some((word) => OF_PLACES.has(word));

export const personName: Detector = {
  id: 'person.name',
  version: '6',
  classKey: 'person-name',
  strength: 0.82,
  types: ['text'],
  minShare: 0.55,
  minShareNamed: 0.2,
  namesFor: [
    'name',
    'names',
    'first name',
    'last name',
    'given name',
    'family name',
    'full name',
    'surname',
    'forename',
    'lastname',
    'firstname',
    'person',
    'passenger',
    'customer name',
    'contact name',
    'holder',
    'cardholder',
    'nachname',
    'vorname',
    'fornavn',
    'etternavn',
    'efternamn',
    'apellido',
    'nombre',
    'nom',
    'prenom',
    'cognome',
    'nome',
    'guardian',
    'author',
    'employee',
    'driver',
    'captain',
    'signed by',
    'next of kin',
    'kin',
    'имя',
    'фамилия',
    'фио',
    'ονομα',
    'επωνυμο',
    '姓名',
    '名前',
    '氏名',
    '이름',
    '성명',
    'שם',
    'الاسم',
    'نام',
  ],
  namesAgainst: [
    'id',
    'vessel',
    'ship',
    'port',
    'route',
    'product',
    'item',
    'company',
    'file name',
    'table name',
    'schema name',
    'column name',
    'attribute',
    'user',
    'username',
    'host',
    'event',
    'brand',
    'city',
    'town',
    'country',
    'region',
    'station',
    'code',
    'colour',
    'color',
    'month',
    'day',
    'category',
    'band',
    'class',
    'type',
    'status',
    'department',
    'street',
    'domain',
    'species',
    'currency',
    'language',
    'make',
    'model',
    'supplier',
    'vendor',
    'organisation',
    'organization',
  ],
  // Aura and no aura: a kind of something may be called as people are.
  together: (values) =>
    new Set(values).size <= 2 ? { reason: 'one or two names may be kinds of something', logOdds: -1 } : undefined,
  contrary: {
    reason: 'are called as firms, institutions, places or parts of programs are',
    test: (value) => isFirmName(value) || isOfPlaceOrProgram(value),
  },
  test: isPersonName,
  accepts: [
    'Sunniva Dahlmark',
    'Dahlmark, Ingrid',
    'Peter van der Berg',
    'María García',
    'Emma',
    'Dr. Anna-Lena Schmidt',
    'Анна Иванова',
    'Γιώργος Παπαδόπουλος',
    '三宅 葵',
    '丁伟宸',
    'محمد احمد',
    'W. Grant',
    'emma schmidt',
  ],
  rejects: [
    'Deck 4',
    'n/a',
    'confirmed',
    'TFX-2291',
    'Return ticket',
    'ida@example.org',
    'Schmidt, Weller und Hecht',
    'Emma Holm AS',
    'Reilly - Klein',
    'Dahlmark and Sons',
  ],
};

/** Names that stand in no list: letters with capitals, under a name that says which part of a person's name they are. */
export const personNameNamed: Detector = {
  id: 'person.name-named',
  version: '1',
  classKey: 'person-name',
  strength: 0.35,
  needsName: true,
  types: ['text'],
  minShare: 0.95,
  minShareNamed: 0.85,
  namesFor: [
    'first name',
    'last name',
    'given name',
    'given names',
    'family name',
    'surname',
    'forename',
    'middle name',
    'maiden name',
    'fname',
    'lname',
    'vorname',
    'nachname',
    'familienname',
    'fornavn',
    'etternavn',
    'efternamn',
    'fornamn',
    'prenom',
    'apellido',
    'apellidos',
    'cognome',
    'sobrenome',
    'voornaam',
    'achternaam',
    'etunimi',
    'sukunimi',
    'imie',
    'nazwisko',
    'jmeno',
    'prijmeni',
    'customer name',
    'contact name',
    'patient name',
    'employee name',
    'passenger name',
    'judge',
    'coach',
    'candidate name',
    'player name',
    'full name',
    'имя',
    'фамилия',
    'отчество',
  ],
  namesAgainst: personName.namesAgainst.filter((name) => name !== 'user'),
  contrary: personName.contrary as NonNullable<Detector['contrary']>,
  test: (value) =>
    value.length >= 2 &&
    value.length <= 60 &&
    NAME_SHAPE.test(value) &&
    /^(\p{Lu}|\p{Lo})/u.test(value) &&
    value.split(/\s+/).length <= 5,
  accepts: ['Xochiquetzal', "O'Thrawn", 'Vinterskov-Aal'],
  rejects: ['12', 'deck 4', 'ida@example.org'],
};

/** Who wrote something, as one text: `Klein & Nelson`, `Thrall et al.`, `Holm I, Berg P.` */
export const personNames: Detector = {
  ...personNameNamed,
  id: 'person.names',
  strength: 0.4,
  minShare: 0.85,
  minShareNamed: 0.75,
  namesFor: [
    'author',
    'authors',
    'editors',
    'contributors',
    'coauthors',
    'writers',
    'translators',
    'autor',
    'autoren',
    'auteurs',
    'forfattere',
    'signatories',
  ],
  namesAgainst: [...personName.namesAgainst, 'count', 'number', 'url', 'email', 'affiliation'],
  contrary: { reason: 'are called as institutions, places or parts of programs are', test: isOfPlaceOrProgram },
  test: (value) => {
    const people = value
      .replace(/,?\s+(et al|and others|u\. ?a|m\. ?fl)\.?$/i, '')
      .split(/\s*(?:;|,\s+(?=\p{Lu}\p{L})|&|\band\b|\bund\b|\bog\b|\bet\b|\by\b)\s*/u)
      .filter(Boolean);
    return (
      people.length > 0 &&
      people.length < 40 &&
      people.every(
        (name) =>
          name.length <= 60 &&
          NAME_SHAPE.test(name) &&
          /^(\p{Lu}|\p{Lo}|(de|van|von|da|di|el|la|le) )/u.test(name) &&
          name.split(/\s+/).length <= 5,
      )
    );
  },
  accepts: ['Klein & Nelson', 'Thrall et al.', 'Holm I, Berg P', 'de Vries and Okafor'],
  rejects: ['12', 'n/a', 'an essay on ferries'],
};

const ISO_DATE = /^(\d{4})[-/.](\d{1,2})[-/.](\d{1,2})(?:[T ].*)?$/;
const DAY_FIRST = /^(\d{1,2})[./-](\d{1,2})[./-](\d{4}|\d{2})(?: .*)?$/;
/** `14 May 1984`, `14-MAY-1984`, `14. maj 1984`; `May 14, 1984`. */
const DAY_WORD = /^(\d{1,2})(?:st|nd|rd|th)?\.?[\s-](?:de\s)?(\p{L}{3,12})\.?,?[\s-](?:de\s)?(\d{4})$/iu;
const WORD_DAY = /^(\p{L}{3,12})\.?\s(\d{1,2})(?:st|nd|rd|th)?,?\s(\d{4})$/iu;
/** Names of months, long and short, in the languages of most catalogs, folded; as the Unicode CLDR has them. */
const MONTHS = new Map<string, number>();
for (const language of [
  'en',
  'de',
  'fr',
  'es',
  'it',
  'pt',
  'nl',
  'sv',
  'nb',
  'da',
  'fi',
  'pl',
  'cs',
  'ru',
  'el',
  'tr',
  'hu',
  'ro',
])
  for (const month of ['long', 'short'] as const)
    for (let number = 0; number < 12; number += 1)
      for (const part of new Intl.DateTimeFormat(language, { month, day: 'numeric', timeZone: 'UTC' }).formatToParts(
        Date.UTC(2000, number, 14),
      ))
        if (part.type === 'month') MONTHS.set(fold(part.value).replace(/\.$/, ''), number + 1);
/** Years of two digits: births of this century until then, of the last one after. */
const PIVOT = 30;
const COMPACT = /^(\d{4})(\d{2})(\d{2})$/;

interface Day {
  readonly year: number;
  readonly month: number;
  readonly day: number;
}

function readNumbers(value: string): Day | undefined {
  const iso = ISO_DATE.exec(value) ?? COMPACT.exec(value);
  if (iso) return { year: Number(iso[1]), month: Number(iso[2]), day: Number(iso[3]) };
  const local = DAY_FIRST.exec(value);
  if (!local) return undefined;
  const written = Number(local[3]);
  const year = local[3]?.length === 2 ? written + (written < PIVOT ? 2000 : 1900) : written;
  const [first, second] = [Number(local[1]), Number(local[2])];
  return second > 12 && first <= 12 ? { year, month: first, day: second } : { year, month: second, day: first };
}

function readWords(value: string): Day | undefined {
  const [, before, word, year] = DAY_WORD.exec(value) ?? [];
  const [, other, after, second] = word === undefined ? (WORD_DAY.exec(value) ?? []) : [];
  const month = MONTHS.get(fold(word ?? other ?? ''));
  return month === undefined ? undefined : { year: Number(year ?? second), month, day: Number(before ?? after) };
}

/** A calendar day written as 1984-05-14, 14.05.1984, 05/14/84, 19840514, 14 May 1984 or May 14, 1984; undefined when it is none. */
export function readDay(value: string): { year: number; month: number; day: number } | undefined {
  const read = readNumbers(value) ?? readWords(value);
  if (!read) return undefined;
  const { year, month, day } = read;
  const date = new Date(Date.UTC(year, month - 1, day));
  return date.getUTCMonth() === month - 1 && date.getUTCDate() === day ? { year, month, day } : undefined;
}

const YEAR_MS = 365.25 * 86_400_000;

/** Days of birth spread over decades, lie in the past by the ages that people have, and fall on weekends as on other days. */
function spreadOfAges(values: readonly string[], { today }: Setting): ConfidenceTerm | undefined {
  if (values.length < 15) return undefined;
  const days = values
    .flatMap((value) => readDay(value) ?? [])
    .map(({ year, month, day }) => Date.UTC(year, month - 1, day));
  const ages = days.map((day) => (today.getTime() - day) / YEAR_MS).sort((a, b) => a - b);
  const at = (share: number) => ages[Math.floor(share * (ages.length - 1))] ?? 0;
  const weekend = days.filter((day) => [0, 6].includes(new Date(day).getUTCDay())).length / days.length;
  const [young, middle, old] = [at(0.1), at(0.5), at(0.9)];
  // What runs on to today is written down as it happens; and what falls on one day of the month is a count by months.
  const monthDays = new Map<number, number>();
  for (const day of days)
    monthDays.set(new Date(day).getUTCDate(), (monthDays.get(new Date(day).getUTCDate()) ?? 0) + 1);
  // As near to today as the gap between two of them is wide, a few times over: they go on.
  if (
    (ages[0] ?? 0) < Math.max(0.5, (4 * (old - young)) / days.length) ||
    Math.max(...monthDays.values()) > days.length * 0.3
  )
    return undefined;
  if (
    values.some(
      (value) => /[T ]\d{2}:\d{2}/.test(value) && !/[T ]00:00(:00(\.0+)?)?(Z|[+-]\d{2}(:?\d{2})?)?$/.test(value),
    )
  )
    return undefined;
  if (old - young < 25 || middle < 12 || middle > 75 || old > 100 || weekend < 0.12) return undefined;
  return { reason: `the days lie ${Math.round(young)} to ${Math.round(old)} years back, as births do`, logOdds: 2.2 };
}

export const dateOfBirth: Detector = {
  id: 'birth.date',
  version: '4',
  classKey: 'date-of-birth',
  strength: 0.3,
  types: ['text', 'date', 'integer', 'other'],
  minShare: 0.85,
  minShareNamed: 0.6,
  namesFor: [
    'birth',
    'dob',
    'born',
    'birthday',
    'birthdate',
    'birthdat',
    'bdate',
    'birth dt',
    'date of birth',
    'birth date',
    'fodselsdato',
    'fodt',
    'geburtsdatum',
    'geburtstag',
    'nacimiento',
    'naissance',
    'nascita',
    'syntymaaika',
    'fodelsedatum',
    'geboortedatum',
    'data urodzenia',
    'datum narozeni',
    'dogum tarihi',
    'рождения',
    'народження',
    'γεννησης',
    '出生日期',
    '生年月日',
    '생년월일',
    'לידה',
    'الميلاد',
  ],
  namesAgainst: [
    '=date',
    '=dates',
    '=day',
    '=time',
    '=month',
    '=period',
    '=timestamp',
    '=datetime',
    '=datum',
    '=fecha',
    '=data',
    '=dato',
    'release',
    'released',
    'published',
    'publication',
    'founded',
    'established',
    'opened',
    'death',
    'died',
    'event',
    'withdrawal',
    'created',
    'updated',
    'booked',
    'paid',
    'departure',
    'arrival',
    'expiry',
    'expires',
    'valid',
    'start',
    'end',
    'due',
    'issued',
    'loaded',
    'modified',
    'sent',
    'order',
    'invoice',
    'sailing',
    'hired',
    'since',
    'seen',
    'built',
    'launched',
  ],
  needsName: true,
  together: spreadOfAges,
  test: (value, { today }) => {
    const day = readDay(value);
    if (!day) return false;
    const age = today.getUTCFullYear() - day.year;
    return age >= 0 && age <= 115 && Date.UTC(day.year, day.month - 1, day.day) <= today.getTime();
  },
  accepts: [
    '1984-05-14',
    '14.05.1984',
    '05/14/1984',
    '19840514',
    '1984/05/14',
    '14.05.84',
    '14-MAY-1984',
    '14. mai 1984',
    'May 14, 1984',
  ],
  rejects: ['1784-05-14', '2984-05-14', '1984-13-40', '84', 'May'],
};

/** The year alone: only the column's name tells it from any other year. */
export const yearOfBirth: Detector = {
  classKey: 'date-of-birth',
  strength: 0.3,
  namesAgainst: dateOfBirth.namesAgainst,
  needsName: true,
  id: 'birth.year',
  version: '1',
  types: ['text', 'integer'],
  minShare: 0.95,
  minShareNamed: 0.8,
  namesFor: [
    'birth year',
    'year of birth',
    'yob',
    'born',
    'born in',
    'geburtsjahr',
    'fodselsar',
    'fodelsear',
    'annee de naissance',
    'ano de nacimiento',
    'geboortejaar',
    'rok urodzenia',
  ],
  test: (value, { today }) =>
    /^(19|20)\d{2}$/.test(value) &&
    Number(value) <= today.getUTCFullYear() &&
    Number(value) >= today.getUTCFullYear() - 115,
  accepts: ['1984', '2004'],
  rejects: ['1784', '84', '2984', '1984-05-14'],
};
