import { allLocales, Faker } from '@faker-js/faker';
import { BLANK, HONEST, NATIONAL_NAMES } from './names.mjs';
import { makeSystems } from './systems.mjs';
import { MAKERS, NAMED_ONLY, NATIONAL_COUNTRIES, nationalId, OTHERS } from './values.mjs';
import { makeWorld } from './world.mjs';
import { WORLD_NAMES } from './worldNames.mjs';

const phoneOf = (prefix, length, starts) => (f) =>
  `+${prefix}${f.helpers.arrayElement(starts)}${f.string.numeric({ length: length - 1, allowLeadingZeros: true })}`;
/** Locales of the two parts; the part for testing has others beside, and names that come from no generator. */
const LOCALES = {
  train: {
    en: phoneOf('1', 10, ['2']),
    de: phoneOf('49', 10, ['1']),
    nb_NO: phoneOf('47', 8, ['4', '9']),
    es: phoneOf('34', 9, ['6']),
    fr: phoneOf('33', 9, ['6']),
    pl: phoneOf('48', 9, ['5']),
  },
  test: {
    en_GB: phoneOf('44', 10, ['7']),
    sv: phoneOf('46', 9, ['7']),
    nl: phoneOf('31', 9, ['6']),
    it: phoneOf('39', 10, ['3']),
    da: phoneOf('45', 8, ['2']),
    fi: phoneOf('358', 9, ['4']),
    pt_BR: phoneOf('55', 11, ['1']),
    cs_CZ: phoneOf('420', 9, ['6']),
  },
};
const SEEDS = { train: 4711, test: 90_210 };
const PLACEHOLDERS = ['', 'n/a', 'unknown', '-', 'none', 'TBD', '?', '0'];

/** @typedef {{ id: string, part: string, locale: string, shape: string, name: string, blank: string, type: string, values: (string | null)[], truth: string[], allowed: string[] }} CorpusColumn */

/**
 * The corpus of one part: columns with values, an honest or a misleading name, a name that says nothing, and what they hold. The same for the same part, always.
 * `truth`: classes that must be found; `allowed`: those that may be.
 * @param {'train' | 'test' | 'world' | 'systems'} part
 * @returns {CorpusColumn[]}
 */
export function makeCorpus(part) {
  if (part === 'world') return makeWorld(typeOf);
  if (part === 'systems') return makeSystems(typeOf);
  const columns = [];
  for (const [index, [locale, phone]] of Object.entries(LOCALES[part]).entries()) {
    const f = new Faker({ locale: [allLocales[locale], allLocales.en, allLocales.base] });
    f.seed(SEEDS[part] + index);
    const about = { phone };
    // Every third column of names is from a list of the world's most common ones that no generator of this corpus knows.
    const withNames = (n) => (n % 3 === 0 ? { ...about, names: WORLD_NAMES[part] } : about);
    let n = 0;
    const add = (
      key,
      maker,
      name,
      {
        shape = 'plain',
        truth = [key],
        allowed = [],
        rows = f.number.int({ min: 60, max: 220 }),
        blankToo = true,
        same = [],
      } = {},
    ) => {
      n += 1;
      const values = Array.from({ length: rows }, () => maker());
      columns.push({
        id: `${part}/${locale}/${key}/${n}`,
        part,
        locale,
        shape,
        name,
        blank: blankToo ? f.helpers.arrayElement(BLANK) : null,
        type: typeOf(values),
        values,
        truth,
        allowed,
        same,
      });
    };
    const dirty = (maker, share) => () =>
      f.datatype.boolean({ probability: share }) ? (f.helpers.arrayElement([...PLACEHOLDERS, null]) ?? null) : maker();
    const honest = (key) => f.helpers.arrayElement(HONEST[key][part]);
    const all = Object.entries(MAKERS);
    for (const [place, [key, make]] of all.entries()) {
      const maker = () => make(f, part, withNames(n));
      const allowed = ALLOWED[key] ?? [];
      add(key, maker(), honest(key), { allowed });
      // Beside the plain column one that is harder: dirty, small, mixed with another class, or under a name that misleads.
      const shape = ['dirty', 'small', 'misleading', 'mixed', 'dirty'][(place + index) % 5];
      if (shape === 'dirty')
        add(key, dirty(maker(), f.number.float({ min: 0.05, max: 0.22 })), honest(key), { shape, allowed });
      else if (shape === 'small')
        add(key, maker(), honest(key), { shape, rows: f.number.int({ min: 18, max: 30 }), allowed });
      else if (shape === 'misleading') add(key, maker(), f.helpers.arrayElement(BLANK), { shape, allowed });
      else {
        const [one, [otherKey, otherMake]] = [maker(), all[(place + 7) % all.length]];
        const other = otherMake(f, part, about);
        add(key, () => (f.datatype.boolean({ probability: 0.85 }) ? one() : other()), honest(key), {
          shape,
          allowed: [...allowed, otherKey, ...(ALLOWED[otherKey] ?? [])],
        });
      }
    }
    for (const [key, make] of Object.entries(NAMED_ONLY))
      add(key, make(f, part, about), honest(key), { blankToo: false, allowed: ALLOWED[key] ?? [] });
    for (const country of NATIONAL_COUNTRIES.filter((_, place) => part === 'test' || place % 2 === index % 2)) {
      const names = NATIONAL_NAMES[part];
      add(
        `national-id-${country}`,
        (
          (make) => () =>
            make(f)
        )(nationalId(country)),
        f.helpers.arrayElement([...(names[country] ?? []), ...names.any]),
        { allowed: SAME[country] ?? [], same: SAME[country] ?? [] },
      );
    }
    for (const [name, make] of Object.entries(OTHERS)) {
      const maker = make(f);
      add(name, f.datatype.boolean({ probability: 0.3 }) ? dirty(maker, 0.1) : maker, name, {
        truth: [],
        shape: 'near miss',
        allowed: OTHERS_ALLOWED[name] ?? [],
      });
    }
  }
  return columns;
}

/** Countries whose numbers follow the same rules: a column of one is one of the other as well. */
const SAME = { ee: ['national-id-lt'], lt: ['national-id-ee'] };

/** What may be found beside the class: a text with a diagnosis may hold other personal data, a country may be told from a nationality by its name alone. */
const ALLOWED = {
  'personal-text': ['health-text'],
  'health-text': ['personal-text'],
  'connection-secret': ['url'],
  'password-hash': ['access-key'],
  password: ['access-key'],
  'social-handle': ['user-name'],
  'bank-account': ['national-id-no'],
};
/** Of which class what no detector need find is all the same. */
const OTHERS_ALLOWED = {
  company: ['organisation'],
  job_title: ['occupation'],
  city: ['city'],
  currency: ['currency', 'airport-code'],
  airport: ['airport-code', 'currency'],
};

/** The type that a database would give the column. */
function typeOf(values) {
  const filled = values.filter((value) => value !== null && value !== '');
  if (filled.every((value) => /^-?(0|[1-9]\d{0,17})$/.test(value))) return 'integer';
  if (filled.every((value) => /^-?\d+\.\d+$/.test(value))) return 'decimal';
  if (filled.every((value) => /^\d{4}-\d{2}-\d{2}$/.test(value))) return 'date';
  return 'text';
}
