import { allLocales, Faker } from '@faker-js/faker';

/**
 * The part of the corpus that is about the world: what people are called, where they live and how they are reached in the locales of neither other part, in their own
 * letters; and values of the other classes in the many ways in which systems write them. Near misses come in every locale.
 */
const LOCALES = [
  ...[
    'hu',
    'ro',
    'tr',
    'hr',
    'sk',
    'el',
    'ru',
    'uk',
    'ja',
    'ko',
    'zh_CN',
    'zh_TW',
    'ar',
    'he',
    'fa',
    'vi',
    'id_ID',
    'pt_PT',
    'de_CH',
    'de_AT',
    'fr_BE',
    'fr_CA',
    'en_IN',
    'en_ZA',
    'en_AU',
    'es_MX',
  ],
  ...[
    'lv',
    'sr_RS_latin',
    'nl_BE',
    'en_CA',
    'en_NG',
    'af_ZA',
    'mk',
    'hy',
    'en_GH',
    'en_IE',
    'fr_CH',
    'ro_MD',
    'uz_UZ_latin',
    'bn_BD',
    'ta_IN',
  ],
];

/** By class: a name of the column and a maker of values, for every locale. */
const LOCAL = [
  ['person-name', 'full_name', (f) => `${f.person.firstName()} ${f.person.lastName()}`],
  ['person-name', 'given_name', (f) => f.person.firstName()],
  ['person-name', 'customer', (f) => `${f.person.lastName()} ${f.person.firstName()}`.toUpperCase()],
  ['postal-address', 'street', (f) => f.location.streetAddress()],
  ['postal-address', 'address', (f) => `${f.location.streetAddress()}, ${f.location.zipCode()} ${f.location.city()}`],
  ['phone', 'phone', (f) => f.phone.number({ style: 'human' })],
  ['phone', 'mobile', (f) => f.phone.number({ style: 'international' })],
  ['country', 'country', (f) => f.location.country()],
  [null, 'city', (f) => f.location.city()],
  [null, 'company', (f) => f.company.name()],
  [null, 'product', (f) => f.commerce.productName()],
  [null, 'job_title', (f) => f.person.jobTitle()],
  [null, 'word', (f) => f.lorem.word()],
];

const two = (number) => String(number).padStart(2, '0');
const MONTHS = [
  'January',
  'February',
  'March',
  'April',
  'May',
  'June',
  'July',
  'August',
  'September',
  'October',
  'November',
  'December',
];
const born = (f, write) => {
  const day = f.date.birthdate({ min: 18, max: 80, mode: 'age' });
  return write(day.getFullYear(), day.getMonth(), day.getDate());
};
const group = (f) => [
  f.number.int({ min: 100, max: 665 }),
  f.number.int({ min: 10, max: 99 }),
  f.number.int({ min: 1000, max: 9999 }),
];

/** Values as systems write them: class, name, maker, and whether nothing but the name could tell. */
const FORMS = [
  ['email', 'E_MAIL', (f) => f.internet.email().toUpperCase()],
  ['email', 'contact', (f) => `${f.person.fullName()} <${f.internet.email()}>`],
  ['email', 'mailto', (f) => `mailto:${f.internet.email()}`],
  ['phone', 'phone', (f) => `(${f.number.int({ min: 2, max: 9 })}12) 555-${f.string.numeric(4)}`],
  ['phone', 'phone', (f) => `212-555-${f.string.numeric(4)} x${f.string.numeric(3)}`],
  ['phone', 'tel', (f) => `0047 22 ${f.string.numeric(2)} ${f.string.numeric(2)} ${f.string.numeric(2)}`],
  ['phone', 'phone', (f) => `+1.212.555.${f.string.numeric(4)}`],
  ['date-of-birth', 'dob', (f) => born(f, (y, m, d) => `${MONTHS[m].slice(0, 3)} ${d}, ${y}`), true],
  ['date-of-birth', 'birth_date', (f) => born(f, (y, m, d) => `${d} ${MONTHS[m]} ${y}`), true],
  ['date-of-birth', 'dob', (f) => born(f, (y, m, d) => `${y}/${two(m + 1)}/${two(d)}`), true],
  ['date-of-birth', 'geburtsdatum', (f) => born(f, (y, m, d) => `${two(d)}.${two(m + 1)}.${two(y % 100)}`), true],
  ['date-of-birth', 'DateOfBirth', (f) => born(f, (y, m, d) => `${m + 1}/${d}/${y}`), true],
  ['date-of-birth', 'dob', (f) => born(f, (y, m, d) => `${two(d)}-${MONTHS[m].slice(0, 3).toUpperCase()}-${y}`), true],
  ['date-of-birth', 'birth_year', (f) => born(f, (y) => String(y)), true],
  ['payment-card', 'pan', (f) => f.finance.creditCardNumber('6011-####-####-###L')],
  ['iban', 'iban', (f) => f.finance.iban().toLowerCase()],
  ['ip-address', 'ip', (f) => `${f.internet.ipv4()}/24`],
  ['ip-address', 'remote', (f) => `${f.internet.ipv4()}:${f.internet.port()}`],
  ['ip-address', 'x_forwarded_for', (f) => `${f.internet.ipv4()}, ${f.internet.ipv4()}`],
  ['mac-address', 'mac', (f) => f.internet.mac('-').toUpperCase()],
  ['mac-address', 'hwaddr', (f) => f.string.hexadecimal({ length: 12, prefix: '', casing: 'upper' }), true],
  ['url', 'site', (f) => `www.${f.internet.domainName()}/${f.lorem.slug()}`],
  ['national-id-us', 'ssn', (f) => group(f).join(''), true],
  ['national-id-us', 'tax_id', (f) => group(f).join('-')],
  ['gender', 'sex', (f) => f.helpers.arrayElement(['m', 'w', 'd']), true],
  ['gender', '性别', (f) => f.helpers.arrayElement(['男', '女'])],
  ['gender', 'пол', (f) => f.helpers.arrayElement(['мужской', 'женский'])],
  [
    'person-name',
    'emp',
    (f) => `${f.person.firstName()} ${f.string.alpha({ length: 1, casing: 'upper' })}. ${f.person.lastName()}`,
  ],
  ['person-name', 'mgr', (f) => `${f.person.firstName()[0]}. ${f.person.lastName()}`],
  ['person-name', 'name', (f) => `${f.person.firstName()} ${f.person.lastName()}`.toLowerCase()],
  ['country', 'country', (f) => f.location.countryCode().toLowerCase(), true],
  ['country', 'ctry', (f) => f.location.countryCode('alpha-3')],
  ['postcode', 'zip_code', (f) => `${f.string.numeric(5)}-${f.string.numeric(4)}`],
  ['password-hash', 'pwd', (f) => f.string.hexadecimal({ length: 64, prefix: '', casing: 'lower' }), true],
  ['bank-account', 'account_no', (f) => f.finance.accountNumber(10), true],
  [null, 'sku', (f) => f.string.alphanumeric({ length: 10, casing: 'upper' })],
  [null, 'isbn', (f) => f.commerce.isbn()],
  [null, 'order_no', (f) => f.string.numeric(16)],
  [null, 'order_no', (f) => f.string.numeric(9)],
  [null, 'created_at', (f) => f.date.past({ years: 3 }).toISOString()],
  [null, 'amount', (f) => f.finance.amount()],
  [null, 'version', (f) => f.system.semver()],
  [null, 'uuid', (f) => f.string.uuid()],
  [null, 'color', (f) => f.color.rgb()],
  [null, 'file', (f) => f.system.fileName()],
  [null, 'ts', (f) => String(f.date.past().getTime())],
  [null, 'commit', (f) => f.git.commitSha()],
  [null, 'movie', (f) => f.book.title()],
  [null, 'vehicle', (f) => f.vehicle.vehicle()],
  [null, 'band', (f) => f.music.artist()],
  [null, 'dish', (f) => f.food.dish()],
  [null, 'state', (f) => f.location.state()],
  [null, 'airport', (f) => f.airline.airport().name],
  [null, 'flight', (f) => f.airline.flightNumber()],
  [null, 'imei', (f) => `${f.string.numeric(2)}-${f.string.numeric(6)}-${f.string.numeric(6)}-x`],
];

const ROWS = 150;
/** Of which class what no detector need find is all the same. */
const ALLOWED = { city: ['city', 'region'], company: ['organisation'], job_title: ['occupation'], state: ['region'] };

/** Columns of this part; the same always. */
export function makeWorld(typeOf) {
  const columns = [];
  const add = (locale, f, [key, name, make, named], at) => {
    const values = Array.from({ length: ROWS }, () => make(f));
    columns.push({
      id: `world/${locale}/${key ?? name}/${at}`,
      part: 'world',
      locale,
      shape: key ? 'plain' : 'near miss',
      name,
      blank: named ? null : `c${at}`,
      type: typeOf(values),
      values,
      truth: key ? [key] : [],
      allowed: ALLOWED[name] ?? [],
    });
  };
  for (const locale of LOCALES) {
    const f = new Faker({ locale: [allLocales[locale], allLocales.en, allLocales.base] });
    f.seed(7);
    for (const [at, entry] of LOCAL.entries()) add(locale, f, entry, at);
  }
  const f = new Faker({ locale: [allLocales.en, allLocales.base] });
  f.seed(11);
  for (const [at, entry] of FORMS.entries()) add('en', f, entry, at);
  return columns;
}
