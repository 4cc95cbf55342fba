import { isGermanHealthId, isNhsNumber } from '../../core/dist/recognition/detectors/health.js';
import { isImo } from '../../core/dist/recognition/detectors/vehicles.js';
import { byStandard } from '../../core/dist/recognition/standard.js';

/**
 * Values of each data class, as people and systems write them. A maker is given a generator of one locale (`@faker-js/faker`), the part of the corpus, and
 * what a locale is about; numbers with check digits are drawn until the standard's own check accepts them.
 */
const two = (n) => String(n).padStart(2, '0');
const int = (f, min, max) => f.number.int({ min, max });
const pick = (f, list) => f.helpers.arrayElement(list);
const digits = (f, count) => f.string.numeric({ length: count, allowLeadingZeros: true });
const letters = (f, count, from = 'ABCDEFGHIJKLMNOPQRSTUVWXYZ') =>
  Array.from({ length: count }, () => pick(f, [...from])).join('');
const until = (make, accepts) => {
  for (let tries = 0; tries < 20_000; tries += 1) {
    const value = make();
    if (accepts(value)) return value;
  }
  throw new Error(`Nothing is accepted that is made like ${make}`);
};
const born = (f) => f.date.birthdate({ min: 5, max: 90, mode: 'age', refDate: '2026-11-01' });
const yymmdd = (date) => `${two(date.getUTCFullYear() % 100)}${two(date.getUTCMonth() + 1)}${two(date.getUTCDate())}`;
const ddmmyy = (date) => `${two(date.getUTCDate())}${two(date.getUTCMonth() + 1)}${two(date.getUTCFullYear() % 100)}`;
const group = (value, sizes, gap) => {
  const parts = [];
  let at = 0;
  for (const size of sizes) {
    parts.push(value.slice(at, at + size));
    at += size;
  }
  return parts.join(gap);
};

/** Identifiers of persons: how each country's number is drawn before the check, and how it is written. */
const NATIONAL = {
  at: {
    draw: (f) => `${digits(f, 4)}${ddmmyy(born(f))}`,
    check: byStandard('AT', 'vnr'),
    write: (v, f) => pick(f, [v, `${v.slice(0, 4)} ${v.slice(4)}`]),
  },
  au: { draw: (f) => digits(f, 9), check: byStandard('AU', 'tfn'), write: (v) => group(v, [3, 3, 3], ' ') },
  be: {
    draw: (f) => `${yymmdd(born(f))}${digits(f, 5)}`,
    check: byStandard('BE', 'nn'),
    write: (v) => `${group(v.slice(0, 6), [2, 2, 2], '.')}-${v.slice(6, 9)}.${v.slice(9)}`,
  },
  bg: { draw: (f) => `${yymmdd(born(f))}${digits(f, 4)}`, check: byStandard('BG', 'egn'), write: (v) => v },
  br: {
    draw: (f) => digits(f, 11),
    check: byStandard('BR', 'cpf'),
    write: (v) => `${group(v.slice(0, 9), [3, 3, 3], '.')}-${v.slice(9)}`,
  },
  ca: { draw: (f) => digits(f, 9), check: byStandard('CA', 'sin'), write: (v) => group(v, [3, 3, 3], '-') },
  ch: { draw: (f) => `756${digits(f, 10)}`, check: byStandard('CH', 'ssn'), write: (v) => group(v, [3, 4, 4, 2], '.') },
  cz: {
    draw: (f) => `${yymmdd(born(f))}${digits(f, 4)}`,
    check: byStandard('CZ', 'rc'),
    write: (v) => `${v.slice(0, 6)}/${v.slice(6)}`,
  },
  de: {
    draw: (f) => digits(f, 11),
    check: byStandard('DE', 'idnr'),
    write: (v, f) => pick(f, [v, group(v, [2, 3, 3, 3], ' ')]),
  },
  dk: {
    draw: (f) => `${ddmmyy(born(f))}${digits(f, 4)}`,
    check: byStandard('DK', 'cpr'),
    write: (v) => `${v.slice(0, 6)}-${v.slice(6)}`,
  },
  ee: {
    draw: (f) => `${pick(f, '3456')}${yymmdd(born(f))}${digits(f, 4)}`,
    check: byStandard('EE', 'ik'),
    write: (v) => v,
  },
  es: { draw: (f) => `${digits(f, 8)}${letters(f, 1)}`, check: byStandard('ES', 'dni'), write: (v) => v },
  fi: {
    draw: (f) => `${ddmmyy(born(f))}${pick(f, '-A')}${digits(f, 3)}${letters(f, 1, '0123456789ABCDEFHJKLMNPRSTUVWXY')}`,
    check: byStandard('FI', 'hetu'),
    write: (v) => v,
  },
  fr: {
    draw: (f) => `${pick(f, '12')}${yymmdd(born(f)).slice(0, 4)}${two(int(f, 1, 95))}${digits(f, 8)}`,
    check: byStandard('FR', 'nir'),
    write: (v, f) => pick(f, [v, group(v, [1, 2, 2, 2, 3, 3, 2], ' ')]),
  },
  gb: {
    draw: (f) => `${letters(f, 2, 'ABCEGHJKLMNPRSTWXYZ')}${digits(f, 6)}${letters(f, 1, 'ABCD')}`,
    check: byStandard('GB', 'nino'),
    write: (v, f) => pick(f, [v, group(v, [2, 2, 2, 2, 1], ' ')]),
  },
  hr: { draw: (f) => digits(f, 11), check: byStandard('HR', 'oib'), write: (v) => v },
  ie: {
    draw: (f) => `${digits(f, 7)}${letters(f, 1, 'ABCDEFGHIJKLMNOPQRSTUVW')}`,
    check: byStandard('IE', 'pps'),
    write: (v) => v,
  },
  in: {
    draw: (f) => `${int(f, 2, 9)}${digits(f, 11)}`,
    check: byStandard('IN', 'aadhaar'),
    write: (v) => group(v, [4, 4, 4], ' '),
  },
  is: {
    draw: (f) => `${ddmmyy(born(f))}${digits(f, 3)}${pick(f, '90')}`,
    check: byStandard('IS', 'kennitala'),
    write: (v) => `${v.slice(0, 6)}-${v.slice(6)}`,
  },
  it: {
    draw: (f) =>
      `${letters(f, 6, 'BCDFGLMNPRSTVZ')}${two(int(f, 40, 99))}${letters(f, 1, 'ABCDEHLMPRST')}${two(int(f, 1, 28))}${letters(f, 1, 'ABCDEFGHI')}${digits(f, 3)}${letters(f, 1)}`,
    check: byStandard('IT', 'codicefiscale'),
    write: (v) => v,
  },
  lt: {
    draw: (f) => `${pick(f, '3456')}${yymmdd(born(f))}${digits(f, 4)}`,
    check: byStandard('LT', 'asmens'),
    write: (v) => v,
  },
  mx: {
    draw: (f) =>
      `${letters(f, 1)}${pick(f, 'AEIOU')}${letters(f, 2, 'BCDFGLMNPRST')}${yymmdd(born(f))}${pick(f, 'HM')}${pick(f, ['DF', 'JC', 'NL', 'OC', 'YN'])}${letters(f, 3, 'BCDFGLMNPRSTVZ')}${digits(f, 2)}`,
    check: byStandard('MX', 'curp'),
    write: (v) => v,
  },
  nl: { draw: (f) => digits(f, 9), check: byStandard('NL', 'bsn'), write: (v) => v },
  no: { draw: (f) => `${ddmmyy(born(f))}${digits(f, 5)}`, check: byStandard('NO', 'fodselsnummer'), write: (v) => v },
  pl: { draw: (f) => `${yymmdd(born(f))}${digits(f, 5)}`, check: byStandard('PL', 'pesel'), write: (v) => v },
  pt: { draw: (f) => `${pick(f, '12')}${digits(f, 8)}`, check: byStandard('PT', 'nif'), write: (v) => v },
  ro: {
    draw: (f) => `${pick(f, '1256')}${yymmdd(born(f))}${two(int(f, 1, 46))}${digits(f, 4)}`,
    check: byStandard('RO', 'cnp'),
    write: (v) => v,
  },
  se: { draw: (f) => `${yymmdd(born(f))}-${digits(f, 4)}`, check: byStandard('SE', 'personnummer'), write: (v) => v },
  tr: { draw: (f) => `${int(f, 1, 9)}${digits(f, 10)}`, check: byStandard('TR', 'tckimlik'), write: (v) => v },
  us: { draw: (f) => digits(f, 9), check: byStandard('US', 'ssn'), write: (v) => group(v, [3, 2, 4], '-') },
  za: {
    draw: (f) => `${yymmdd(born(f))}${digits(f, 4)}${pick(f, '01')}8${digits(f, 1)}`,
    check: byStandard('ZA', 'idnr'),
    write: (v) => v,
  },
};
export const NATIONAL_COUNTRIES = Object.keys(NATIONAL);
export const nationalId = (country) => (f) => {
  const { draw, check, write } = NATIONAL[country];
  return write(
    until(() => draw(f), check),
    f,
  );
};

const luhn = (value) => {
  const sum = [...value].reverse().reduce((total, digit, index) => {
    const product = Number(digit) * (index % 2 === 1 ? 2 : 1);
    return total + (product > 9 ? product - 9 : product);
  }, 0);
  return sum % 10 === 0;
};
const email = (f, part, name) => {
  const [given, family] = name ?? [f.person.firstName(), f.person.lastName()];
  const plain = (text) =>
    text
      .normalize('NFD')
      .replace(/[^A-Za-z]/g, '')
      .toLowerCase();
  const host =
    part === 'test'
      ? pick(f, [
          'mail.example.net',
          'harbour.example.com',
          'kontor.example.org',
          'uni.example.edu',
          'web.example.co.uk',
        ])
      : pick(f, ['example.org', 'example.com', 'post.example.net', 'tarnholm.example.com']);
  const local = pick(f, [
    `${plain(given)}.${plain(family)}`,
    `${plain(given).slice(0, 1)}${plain(family)}`,
    `${plain(given)}${int(f, 1, 99)}`,
    `${plain(family)}_${plain(given).slice(0, 2)}`,
  ]);
  return `${local.replace(/^[._]+/, '') || 'x'}@${host}`;
};

/** Forms of dates: ISO, day first with points or slashes, month first, compact. */
const dateForms = [
  (d) => d.toISOString().slice(0, 10),
  (d) => `${two(d.getUTCDate())}.${two(d.getUTCMonth() + 1)}.${d.getUTCFullYear()}`,
  (d) => `${two(d.getUTCDate())}/${two(d.getUTCMonth() + 1)}/${d.getUTCFullYear()}`,
];
export const inForm = (f) => {
  const form = pick(f, dateForms);
  return (date) => form(date);
};

const HEALTH = {
  train: [
    'Type 2 diabetes, insulin twice daily',
    'History of asthma, carries inhaler',
    'Allergic to penicillin and peanuts',
    'Fracture of the left wrist in 2019',
    'Under treatment for hypertension',
    'Reported migraine after the night watch',
    'Epilepsy, seizure free for four years',
    'Recovering from knee surgery',
    'Krankheit seit März, Diagnose unklar',
    'Sykemeldt i to uker, diagnose hodepine',
  ],
  test: [
    'Diagnosed with depression in spring',
    'Pregnant, second trimester',
    'Chemotherapy finished last year',
    'Takes medication for epilepsy',
    'Hepatitis B vaccination and blood tests due',
    'Symptoms of flu for three days',
    'Prescribed beta blockers by the doctor',
    'Allergies: latex, shellfish and pollen',
    'Maladie chronique depuis dix ans',
    'Enfermedad renal, en tratamiento',
  ],
};
const INSIDE = {
  train: [
    (f) => `Please write to ${email(f, 'train')} about the refund of the trip`,
    (f) => `Customer called from ${f.phone.number({ style: 'international' })} and asked for the terminal`,
    (f) => `Paid with ${f.finance.creditCardNumber('4###########L')} at the counter, was charged twice`,
    (f) => `Refund goes to account ${f.finance.iban()} as agreed with the office`,
  ],
  test: [
    (f) => `Reply-to is ${email(f, 'test')} until the end of the season`,
    (f) => `Her number is ${f.phone.number({ style: 'international' })}, ring after six in the evening`,
    (f) => `She gave card ${f.finance.creditCardNumber('5[1-5]#############L')} over the phone last night`,
    (f) => `Transfer the deposit back to ${f.finance.iban()} before Friday please`,
  ],
};
const PLAIN_NOTE = [
  'The crossing was late again by half an hour',
  'Window seat wished, travels with a dog',
  'No answer so far, try again tomorrow',
  'Ramp was closed because of the wind',
  'Asked for the summer timetable on paper',
  'Luggage found on deck four and returned',
  'Complained about the queue at the café',
];

const secretAlphabet = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789';
const chars = (f, count, from = secretAlphabet) => letters(f, count, from);

/** Makers by class: (generator, part, locale) → a function that makes one value. What is random for the whole column is drawn first. */
export const MAKERS = {
  email: (f, part) => () => email(f, part),
  phone: (f, part, { phone }) => {
    const style = pick(f, part === 'test' ? ['international', 'spaced', 'zeros'] : ['international', 'spaced']);
    return () => {
      const whole = phone(f);
      if (style === 'international') return whole;
      return style === 'zeros'
        ? `00${whole.slice(1)}`
        : `${whole.slice(0, 3)} ${group(whole.slice(3), [2, 3, 2, 6], ' ').trim()}`;
    };
  },
  'postal-address': (f) => {
    const full = f.datatype.boolean();
    return () =>
      full ? `${f.location.streetAddress()}, ${f.location.zipCode()} ${f.location.city()}` : f.location.streetAddress();
  },
  'person-name': (f, _part, { names }) => {
    const style = pick(f, ['full', 'reverse', 'given', 'family']);
    return () => {
      const [given, family] = names
        ? [pick(f, names.given), pick(f, names.family)]
        : [f.person.firstName(), f.person.lastName()];
      return { full: `${given} ${family}`, reverse: `${family}, ${given}`, given, family }[style];
    };
  },
  'date-of-birth': (f) => {
    const form = inForm(f);
    return () => form(born(f));
  },
  gender: (f) => {
    const words = pick(f, [
      ['male', 'female', 'non-binary'],
      ['Male', 'Female'],
      ['männlich', 'weiblich', 'divers'],
      ['mann', 'kvinne'],
      ['homme', 'femme'],
      ['hombre', 'mujer'],
      ['maschio', 'femmina'],
      ['man', 'vrouw'],
    ]);
    return () => pick(f, words);
  },
  'marital-status': (f) => {
    const words = pick(f, [
      ['single', 'married', 'divorced', 'widowed'],
      ['Single', 'Married', 'Separated', 'Civil partnership'],
      ['ledig', 'verheiratet', 'geschieden', 'verwitwet'],
      ['gift', 'ugift', 'skilt', 'samboer'],
      ['soltero', 'casado', 'divorciado', 'viuda'],
      ['célibataire', 'marié', 'divorcée', 'veuf'],
    ]);
    return () => pick(f, words);
  },
  nationality: (f) => () =>
    pick(f, [
      'Norwegian',
      'British',
      'German',
      'Polish',
      'Filipino',
      'Danish',
      'Swedish',
      'Irish',
      'Dutch',
      'Spanish',
      'Indian',
      'Latvian',
      'Ukrainian',
      'American',
      'Romanian',
      'Portuguese',
    ]),
  religion: (f) => () =>
    pick(f, [
      'Catholic',
      'Protestant',
      'Muslim',
      'Jewish',
      'Hindu',
      'Buddhist',
      'Atheist',
      'Lutheran',
      'Orthodox',
      'No religion',
    ]),
  'payment-card': (f) => {
    const gap = pick(f, ['', ' ', '-']);
    return () => {
      const number = f.finance
        .creditCardNumber(pick(f, ['4###########L', '4##############L', '5[1-5]#############L']))
        .replace(/\D/g, '');
      return gap && number.length === 16 ? group(number, [4, 4, 4, 4], gap) : number;
    };
  },
  iban: (f) => {
    const gaps = f.datatype.boolean();
    return () => f.finance.iban({ formatted: gaps });
  },
  bic: (f) => () =>
    `${letters(f, 4)}${pick(f, ['NO', 'DE', 'GB', 'SE', 'DK', 'FR', 'NL', 'ES', 'IT', 'PL', 'FI', 'CH'])}${letters(f, 1, 'KMLFB2')}${letters(f, 1, 'KMLFB2')}${pick(f, ['', 'XXX'])}`,
  'vat-number': (f) => {
    const forms = [
      [() => `DE${digits(f, 9)}`, byStandard('DE', 'vat')],
      [() => `FR${digits(f, 11)}`, byStandard('FR', 'tva')],
      [() => `IT${digits(f, 11)}`, byStandard('IT', 'iva')],
      [() => `PL${digits(f, 10)}`, byStandard('PL', 'nip')],
    ];
    return () => {
      const [draw, check] = pick(f, forms);
      return until(draw, (value) => check(value.slice(2)));
    };
  },
  isin: (f) => () => {
    const head = `${pick(f, ['US', 'DE', 'NO', 'GB', 'SE'])}${digits(f, 9)}`;
    return until(
      () => `${head}${digits(f, 1)}`,
      (value) => luhn([...value].map((character) => Number.parseInt(character, 36)).join('')),
    );
  },
  lei: (f) => () => {
    const head = `${digits(f, 4)}00${chars(f, 12, 'ABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789')}`;
    const numeric = [...`${head}00`].map((character) => Number.parseInt(character, 36)).join('');
    return `${head}${two(98 - Number(BigInt(numeric) % 97n))}`;
  },
  'wallet-address': (f) => () => `0x${f.string.hexadecimal({ length: 40, casing: 'lower', prefix: '' })}`,
  'health-id': (f) => {
    const german = f.datatype.boolean();
    return () =>
      german
        ? until(() => `${letters(f, 1)}${digits(f, 9)}`, isGermanHealthId)
        : group(
            until(() => `${int(f, 4, 7)}${digits(f, 9)}`, isNhsNumber),
            [3, 3, 4],
            ' ',
          );
  },
  diagnosis: (f) => () => `${letters(f, 1, 'ABCDEFGHIJKLMNRSTZ')}${digits(f, 2)}.${digits(f, int(f, 1, 2))}`,
  medicine: (f) => () =>
    `${letters(f, 1, 'ABCDGHJLMNPRSV')}0${int(f, 1, 9)}${letters(f, 1, 'ABCDEFX')}${letters(f, 1, 'ABCDEX')}${two(int(f, 1, 60))}`,
  'blood-group': (f) => {
    const words = pick(f, [
      ['+', '-'],
      [' Rh+', ' Rh-'],
      [' pos', ' neg'],
    ]);
    return () => `${pick(f, ['A', 'B', 'AB', '0'])}${pick(f, words)}`;
  },
  'health-text': (f, part) => () => pick(f, HEALTH[part]),
  'password-hash': (f) => () => `$2b$12$${chars(f, 53, `${secretAlphabet}./`)}`,
  'access-key': (f) => {
    const form = pick(f, [
      () => `AKIA${chars(f, 16, 'ABCDEFGHIJKLMNOPQRSTUVWXYZ234567')}`,
      () => `ghp_${chars(f, 36)}`,
      () => `sk_live_${chars(f, 24)}`,
    ]);
    return () => form();
  },
  'access-token': (f) => () =>
    `${Buffer.from('{"alg":"HS256","typ":"JWT"}').toString('base64url')}.${Buffer.from(JSON.stringify({ sub: digits(f, 8) })).toString('base64url')}.${chars(f, 43)}`,
  'private-key': (f) => () =>
    `-----BEGIN ${pick(f, ['RSA ', '', 'OPENSSH '])}PRIVATE KEY-----\n${chars(f, 64)}\n-----END PRIVATE KEY-----`,
  'connection-secret': (f) => () =>
    pick(f, [
      `postgres://app:${chars(f, 12)}@db${int(f, 1, 9)}.example.org:5432/main`,
      `mysql://root:${chars(f, 9)}@10.0.0.${int(f, 1, 250)}/shop`,
      `Server=sql.example.com;User Id=sa;Password=${chars(f, 10)};`,
    ]),
  'ip-address': (f) => {
    const six = f.datatype.boolean({ probability: 0.3 });
    return () => (six ? f.internet.ipv6() : f.internet.ipv4());
  },
  'mac-address': (f) => () => f.internet.mac(),
  imei: (f) => () => until(() => `35${digits(f, 13)}`, luhn),
  'sim-number': (f) => () => until(() => `8947${digits(f, 15)}`, luhn),
  'user-agent': (f) => () => f.internet.userAgent(),
  'host-name': (f, part) => () =>
    `${pick(f, ['db', 'web', 'till', 'gate', 'node', 'mail'])}${two(int(f, 1, 40))}.${pick(f, part === 'test' ? ['kessgar.example.net', 'ops.example.edu'] : ['tarnholm.example.org', 'int.example.com'])}`,
  url: (f) => () => `${f.internet.url({ appendSlash: true })}${f.lorem.slug(2)}`,
  coordinates: (f) => {
    const form = pick(f, [(a, b) => `${a}, ${b}`, (a, b) => `POINT(${b} ${a})`]);
    return () => form(f.location.latitude({ precision: 5 }), f.location.longitude({ precision: 5 }));
  },
  postcode: (f) => {
    const form = pick(f, [
      () => `${letters(f, 2, 'BCDEGHKLMNPRSW')}${int(f, 1, 29)} ${int(f, 1, 9)}${letters(f, 2, 'ABDEFGHJLN')}`,
      () =>
        `${letters(f, 1, 'ABCEGHJKLMNPRSTVXY')}${int(f, 0, 9)}${letters(f, 1, 'ABCEGHJKLMN')} ${int(f, 0, 9)}${letters(f, 1, 'ABCEGHJKLMN')}${int(f, 0, 9)}`,
      () => `${int(f, 1, 9)}${digits(f, 3)} ${letters(f, 2, 'ABCDEFGHKLMNPRTVWXZ')}`,
      () => `${digits(f, 2)}-${digits(f, 3)}`,
    ]);
    return () => form();
  },
  country: (f) => () => f.location.country(),
  'vehicle-plate': (f) => {
    const form = pick(f, [
      () =>
        `${letters(f, 2, 'ABCDEFGHJKLMNOPRSTUVWXY')}${two(int(f, 1, 75))} ${letters(f, 3, 'ABCDEFGHJKLMNOPRSTUVWXYZ')}`,
      () => `${letters(f, 2, 'ABCDEFHJKLNPRSTUVXYZ')} ${int(f, 10000, 99999)}`,
      () => `${letters(f, 2, 'ABCDEFGHJKLMNPQRSTVWXYZ')}-${digits(f, 3)}-${letters(f, 2, 'ABCDEFGHJKLMNPQRSTVWXYZ')}`,
      () => `${digits(f, 4)} ${letters(f, 3, 'BCDFGHJKLMNPRSTVWXYZ')}`,
    ]);
    return () => form();
  },
  vin: (f) => () =>
    `${pick(f, ['WVW', 'WDB', 'YV1', 'VF1', 'ZFA', 'TMB', 'SAL'])}${chars(f, 6, 'ABCDEFGHJKLMNPRSTUVWXYZ0123456789')}${pick(f, 'ABCDEFGHJKLMNPRST123456789')}${chars(f, 3, 'ABCDEFGHJKLMNPRSTUVWXYZ0123456789')}${digits(f, 4)}`,
  'imo-number': (f) => {
    const prefix = f.datatype.boolean();
    return () => `${prefix ? 'IMO ' : ''}${until(() => `${int(f, 7, 9)}${digits(f, 6)}`, isImo)}`;
  },
  'container-number': (f) => {
    const code = (head) => {
      const worth = [...'0123456789A?BCDEFGHIJK?LMNOPQRSTU?VWXYZ'];
      const sum = [...head].reduce((total, character, index) => total + worth.indexOf(character) * 2 ** index, 0);
      return `${head}${(sum % 11) % 10}`;
    };
    return () => code(`${letters(f, 3)}U${digits(f, 6)}`);
  },
  'social-handle': (f) => () =>
    `@${f.person
      .firstName()
      .normalize('NFD')
      .replace(/[^A-Za-z]/g, '')
      .toLowerCase()}${pick(f, ['_', '.', ''])}${int(f, 1, 99)}`,
  'personal-text': (f, part) => {
    let n = 0;
    return () => {
      n += 1;
      return n === 1 || f.datatype.boolean({ probability: 0.15 }) ? pick(f, INSIDE[part])(f) : pick(f, PLAIN_NOTE);
    };
  },
};

/** What only its column's name tells: these are in the corpus with names alone. */
export const NAMED_ONLY = {
  passport: (f) => {
    const form = pick(f, ['C########', '#########', '@@#######', '##@@#####']);
    return () => form.replace(/#/g, () => digits(f, 1)).replace(/@/g, () => letters(f, 1));
  },

  'user-name': (f) => () =>
    `${f.person
      .firstName()
      .normalize('NFD')
      .replace(/[^A-Za-z]/g, '')
      .toLowerCase()}${pick(f, ['.', '_', ''])}${int(f, 1, 99)}`,
  password: (f) => () => f.internet.password({ length: 10 }),
  age: (f) => () => String(int(f, 0, 95)),
  language: (f) => () => pick(f, ['en', 'de', 'nb', 'fr', 'es', 'pl', 'sv', 'nl']),
  mmsi: (f) => () => `${pick(f, ['257', '235', '219', '265', '211'])}${digits(f, 6)}`,
  'bank-account': (f) => () =>
    group(
      until(() => digits(f, 11), byStandard('NO', 'kontonr')),
      [4, 2, 5],
      ' ',
    ),
  'driving-licence': (f) => () => `${digits(f, 2)} ${digits(f, 2)} ${digits(f, 6)}`,
  ethnicity: (f) => () =>
    pick(f, ['White British', 'Black African', 'Asian', 'Mixed', 'White Irish', 'Chinese', 'Prefer not to say']),
};

/** What looks like personal data, or like nothing: no class must be found. The name is the honest one. */
export const OTHERS = {
  order_no: (f) => {
    const start = int(f, 100_000, 900_000);
    let n = 0;
    return () => {
      n += int(f, 1, 4);
      return String(start + n);
    };
  },
  barcode: (f) => () => digits(f, 13),
  ean: (f) => () => {
    const head = `40${digits(f, 10)}`;
    const sum = [...head].reduce((total, digit, index) => total + Number(digit) * (index % 2 ? 3 : 1), 0);
    return `${head}${(10 - (sum % 10)) % 10}`;
  },
  ticket_barcode: (f) => () =>
    until(
      () => `4${digits(f, 15)}`,
      (value) => !luhn(value),
    ),
  customer_id: (f) => () => digits(f, 9),
  account_ref: (f) => () => digits(f, 10),
  meter_no: (f) => () => digits(f, 11),
  batch: (f) => () => digits(f, 8),
  uuid: (f) => () => f.string.uuid(),
  commit: (f) => () => f.string.hexadecimal({ length: 40, casing: 'lower', prefix: '' }),
  checksum: (f) => () => f.string.hexadecimal({ length: 32, casing: 'lower', prefix: '' }),
  version: (f) => () => f.system.semver(),
  amount: (f) => () => f.finance.amount(),
  price: (f) => () => `€ ${f.finance.amount({ max: 300 })}`,
  created_at: (f) => () => f.date.recent({ days: 600, refDate: '2026-11-01' }).toISOString(),
  departure: (f) => () => f.date.soon({ days: 300, refDate: '2026-01-01' }).toISOString().slice(0, 10),
  valid_until: (f) => () => f.date.future({ years: 6, refDate: '2026-01-01' }).toISOString().slice(0, 10),
  time: (f) => () => `${two(int(f, 0, 23))}:${two(int(f, 0, 59))}`,
  product: (f) => () => f.commerce.productName(),
  category: (f) => () => f.commerce.department(),
  company: (f) => () => f.company.name(),
  job_title: (f) => () => f.person.jobTitle(),
  city: (f) => () => f.location.city(),
  colour: (f) => () => f.color.human(),
  month: (f) => () => f.date.month(),
  weekday: (f) => () => f.date.weekday(),
  status: (f) => () => pick(f, ['confirmed', 'cancelled', 'paid', 'open', 'on hold']),
  cabin: (f) => () => pick(f, ['single', 'double', 'twin', 'suite']),
  fare_type: (f) => () => pick(f, ['adult', 'child', 'senior', 'student', 'infant']),
  file_name: (f) => () => f.system.fileName(),
  mime_type: (f) => () => f.system.mimeType(),
  path: (f) => () => f.system.filePath(),
  currency: (f) => () => f.finance.currencyCode(),
  weight_kg: (f) => () => (int(f, 1, 40_000) / 10).toFixed(1),
  share: (f) => () => f.number.float({ min: 0, max: 1, fractionDigits: 4 }).toFixed(4),
  temperature: (f) => () => f.number.float({ min: -20, max: 35, fractionDigits: 1 }).toFixed(1),
  tide_height: (f) => () => f.number.float({ min: -2, max: 4, fractionDigits: 3 }).toFixed(3),
  booking_ref: (f) => () => `TF-${int(f, 2020, 2026)}-${digits(f, 5)}`,
  sailing_code: (f) => () => `TF${two(int(f, 10, 89))} ${letters(f, 4)} ${digits(f, 4)} ${digits(f, 4)}`,
  seat: (f) => () => `${int(f, 1, 40)}${letters(f, 1, 'ABCDEF')}`,
  deck: (f) => () => `Deck ${int(f, 1, 9)}`,
  flag: (f) => () => pick(f, ['true', 'false']),
  score: (f) => () => String(int(f, 1, 5)),
  quantity: (f) => () => String(int(f, 1, 500)),
  sku: (f) => () => `${letters(f, 3)}-${digits(f, 4)}-${letters(f, 1)}`,
  part_no: (f) => () => `${letters(f, 2)}${digits(f, 6)}`,
  isbn: (f) => () => f.commerce.isbn(13),
  hex_colour: (f) => () => f.color.rgb({ casing: 'lower' }),
  remark: (f) => () => pick(f, PLAIN_NOTE),
  abstract: (f) => () => f.lorem.sentences(2),
  sentence: (f) => () =>
    `The ${f.vehicle.type()} left at ${two(int(f, 0, 23))}:${two(int(f, 0, 59))} with ${int(f, 10, 300)} on board`,
  vessel: (f) => () =>
    pick(f, [
      'MF Tarnholm',
      'MF Kessgar',
      'Wave Dancer',
      'North Star',
      'Lodden Queen',
      'Brae Explorer',
      'Marrick Pride',
    ]),
  species: (f) => () => f.animal.fish(),
  dish: (f) => () => f.food.dish(),
  genre: (f) => () => f.music.genre(),
  song: (f) => () => f.music.songName(),
  airport: (f) => () => f.airline.airport().iataCode,
  flight: (f) => () => `${letters(f, 2)}${int(f, 100, 9999)}`,
  aircraft: (f) => () => f.airline.airplane().name,
  element: (f) => () => f.science.chemicalElement().name,
  unit: (f) => () => f.science.unit().symbol,
  engine: (f) => () => f.vehicle.model(),
  duration: (f) => () => `PT${int(f, 1, 9)}H${int(f, 0, 59)}M`,
  epoch: (f) => () => String(1_700_000_000 + int(f, 0, 90_000_000)),
  json: (f) => () => JSON.stringify({ a: int(f, 1, 9), b: f.lorem.word() }),
  percent: (f) => () => `${int(f, 0, 100)} %`,
  dimensions: (f) => () => `${int(f, 10, 300)}x${int(f, 10, 300)}`,
  invoice: (f) => () => `INV${int(f, 2020, 2026)}${digits(f, 6)}`,
  phone_model: (f) => () =>
    `${pick(f, ['Alto', 'Brisk', 'Nova'])} ${int(f, 5, 15)} ${pick(f, ['Pro', 'Mini', ''])}`.trim(),
  error_code: (f) => () => `E${digits(f, 4)}`,
  sql: (f) => () => `select ${f.database.column()} from t${int(f, 1, 30)}`,
  gate: (f) => () => `${letters(f, 1, 'ABCD')}${int(f, 1, 30)}`,
  adjective: (f) => () => f.word.adjective(),
  noun: (f) => () => f.word.noun(),
};
