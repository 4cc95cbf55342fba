import type { Keyed, Mask } from './maskKinds.ts';
import type { ColumnDecision, DecidedLimit } from './types.ts';

export const quoteIdentifier = (name: string): string => `"${name.replaceAll('"', '""')}"`;
/** A text constant that holds in every setting of standard_conforming_strings. */
export const quoteText = (text: string): string =>
  text.includes('\\')
    ? ` E'${text.replaceAll('\\', '\\\\').replaceAll("'", "''")}'`
    : `'${text.replaceAll("'", "''")}'`;

/** The settings of the source's session that hold the keys of digests: the keys stand in no statement, so that neither readers nor logs see them. */
export const DIGEST_SETTINGS: Readonly<Record<Keyed, string>> = {
  installation: 'idrel.digest_key',
  organisation: 'idrel.organisation_key',
};

/** So many characters stay hidden at least where a part is shown; shorter values are hidden whole. */
const HIDDEN_IN_PART = 3;

type Kind = 'text' | 'number' | 'day' | 'other wide' | 'few';

/** What a type can hold, as far as hiding it goes, by the name it has in the catalog. Types that are not known here count as having few values. */
function kindOfType(written: string): Kind {
  const type = written.toLowerCase();
  const length = Number(/\((\d+)/.exec(type)?.[1] ?? Number.POSITIVE_INFINITY);
  if (/^(date|datetime|timestamp)\b/.test(type) && !type.endsWith('[]')) return 'day';
  if (/^(character varying|varchar)\b/.test(type)) return length <= 2 ? 'few' : 'text';
  if (/^(character|char|bpchar)\b/.test(type)) return length <= 2 || !type.includes('(') ? 'few' : 'text';
  if (/^((tiny|medium|long)?text|citext|name)$/.test(type)) return 'text';
  if (
    /^(smallint|mediumint|integer|bigint|hugeint|int[248]?|numeric|decimal|real|float|double|money)\b/.test(type) &&
    !type.endsWith('[]')
  )
    return 'number';
  if (/^(uuid|inet|cidr|macaddr8?|bytea|jsonb?|xml)$/.test(type)) return 'other wide';
  return 'few';
}

/** From so many rows for each different value on, a digest is told by counting. */
const ROWS_PER_VALUE = 10;
const FEW_VALUES = 50;

/** Whether a column has so few different values, each in so many rows, that counting digests tells which is which. */
export const hasFewValues = (
  profile: { readonly rows: number; readonly nulls: number; readonly distinct: number } | null,
): boolean =>
  profile !== null &&
  profile.distinct > 0 &&
  profile.distinct <= FEW_VALUES &&
  profile.rows - profile.nulls >= profile.distinct * ROWS_PER_VALUE;

/** The mask that is applied, and why it is another one than was chosen. */
export interface Applied {
  readonly mask: Mask;
  readonly instead: string | null;
}

/** What a mask can hide, and what it says of a type that it cannot hide; what does not stand here hides anything. */
const HIDES: Readonly<Record<string, { readonly kinds: readonly Kind[]; readonly why: (type: string) => string }>> = {
  partial: {
    kinds: ['text', 'number'],
    why: (type) => `of a ${type} a few characters would tell too much`,
  },
  digest: {
    kinds: ['text', 'number', 'day', 'other wide'],
    why: (type) => `a ${type} has so few values that equal digests tell them`,
  },
  substitute: {
    kinds: ['text', 'number'],
    why: (type) => `a ${type} has no substitute of the same shape`,
  },
  noise: { kinds: ['number'], why: (type) => `a ${type} is no number` },
  'general year': { kinds: ['day'], why: (type) => `a ${type} has no year` },
  'general month': { kinds: ['day'], why: (type) => `a ${type} has no month` },
  'general age': { kinds: ['day', 'number'], why: (type) => `a ${type} tells no age` },
  'general district': { kinds: ['text', 'number'], why: (type) => `a ${type} is no postcode` },
  'general host': { kinds: ['text'], why: (type) => `a ${type} is no e-mail address` },
  'general rounded': { kinds: ['number'], why: (type) => `a ${type} is no number` },
};
/** Masks that keep equal values equal: where there are few of them, counting tells which is which. */
const KEEPS_EQUAL: ReadonlySet<Mask['kind']> = new Set(['partial', 'digest', 'substitute', 'noise']);

/** A mask that cannot hide what a column holds gives way to the one that can: blank. */
export function appliedMask(mask: Mask, column: { readonly type: string; readonly fewValues: boolean }): Applied {
  const blank = (instead: string): Applied => ({ mask: { kind: 'blank' }, instead });
  const hides = HIDES[mask.kind === 'general' ? `general ${mask.to}` : mask.kind];
  if (hides && !hides.kinds.includes(kindOfType(column.type))) return blank(hides.why(column.type));
  if (KEEPS_EQUAL.has(mask.kind) && column.fewValues)
    return blank('the column has so few different values that counting tells them');
  return { mask, instead: null };
}

/** The type that a column comes with under a mask. */
export const typeUnder = (mask: Mask | null, type: string): string => {
  if (mask === null) return type;
  return mask.kind === 'noise' || (mask.kind === 'general' && mask.to === 'rounded') ? 'numeric' : 'text';
};

/** Characters that a substitute leaves as they are: they make the shape. */
const SHAPE = " -_/.,:;@()+#&'";
/** A substitute has at most so many characters: of what is longer, the first ones. */
const SUBSTITUTE_MOST = 256;
/** Bytes of a digest; each gives one character of a substitute. */
const DIGEST_BYTES = 32;
/** Ages from here on are told as one. */
const OLDEST = 90;
/** Characters of a postcode that stay hidden at least. */
const DISTRICT_HIDES = 2;
/** Of numbers with a fraction noise is so fine. */
const FRACTION = '0.01';
/** Values that a part of a digest of 32 bits can have. */
const RANGE = 2n ** 32n;

const isWhole = (type: string): boolean => /^((tiny|small|medium|big|huge)?int(eger)?|int[248])\b/i.test(type);

/** SQL that gives the key of digests. */
export type KeySql = (keyed: Keyed) => string;
const keyOfSession: KeySql = (keyed) => `current_setting('${DIGEST_SETTINGS[keyed]}')`;

const digestSql = (text: string, key: string): string => `sha256(convert_to(${key} || ${text}, 'UTF8'))`;

/**
 * The SQL expression that stands in a column's place.
 * @param table the name by which the column is written, so that it is taken from nowhere else
 * @param key where keys of digests are found: as the gateway sets them in its session, when nothing is said
 */
export function maskedExpression(
  column: Pick<ColumnDecision, 'id' | 'name' | 'type' | 'mask'>,
  table: string,
  key: KeySql = keyOfSession,
): string {
  const name = `${table}.${quoteIdentifier(column.name)}`;
  const text = `CAST(${name} AS text)`;
  const { mask } = column;
  switch (mask?.kind) {
    case undefined:
      return name;
    case 'blank':
      return 'CAST(NULL AS text)';
    case 'fixed':
      return `CAST(${quoteText(mask.text)} AS text)`;
    case 'digest':
      return `"left"(encode(${digestSql(text, key(mask.keyed))}, 'hex'), 16)`;
    case 'partial': {
      const start = mask.first > 0 ? `"left"(${text}, ${mask.first}) || ` : '';
      const end = mask.last > 0 ? ` || "right"(${text}, ${mask.last})` : '';
      return `CASE WHEN ${name} IS NULL THEN NULL WHEN length(${text}) < ${mask.first + mask.last + HIDDEN_IN_PART} THEN '•••' ELSE ${start}'•••'${end} END`;
    }
    case 'substitute':
      return substituteSql(name, text, key(mask.keyed));
    case 'general':
      return generalSql(mask, column.type, name, text);
    case 'noise':
      return noiseSql(mask, column, name, text, key('installation'));
  }
}

function substituteSql(name: string, text: string, key: string): string {
  const blocks = `SELECT n, ${digestSql(`'substitute:' || CAST(n AS text) || ':' || ${text}`, key)} AS d FROM generate_series(0, (least(length(${text}), ${SUBSTITUTE_MOST}) - 1) / ${DIGEST_BYTES}) AS blocks(n) OFFSET 0`;
  const characters = `SELECT i, substr(${text}, i, 1) AS c, get_byte(d, (i - 1) % ${DIGEST_BYTES}) AS b FROM (${blocks}) AS digests CROSS JOIN LATERAL generate_series(n * ${DIGEST_BYTES} + 1, least((n + 1) * ${DIGEST_BYTES}, length(${text}), ${SUBSTITUTE_MOST})) AS places(i)`;
  const other = `CASE WHEN ascii(c) BETWEEN 48 AND 57 THEN chr(48 + b % 10) WHEN ascii(c) BETWEEN 65 AND 90 THEN chr(65 + b % 26) WHEN strpos(${quoteText(SHAPE)}, c) > 0 THEN c ELSE chr(97 + b % 26) END`;
  return `CASE WHEN ${name} IS NULL THEN NULL WHEN ${text} = '' THEN '' ELSE (SELECT string_agg(${other}, '' ORDER BY i) FROM (${characters}) AS characters) END`;
}

/** The day up to which ages are counted, whatever time zone a session chooses. */
const TODAY = `CAST(now() AT TIME ZONE 'UTC' AS date)`;

/** A number as SQL computes with it exactly; null for what is none, such as infinity. */
const finite = (text: string, name: string, then: (value: string) => string) =>
  `CASE WHEN ${text} IN ('NaN', 'Infinity', '-Infinity') THEN NULL ELSE ${then(`CAST(${name} AS numeric)`)} END`;

function generalSql(mask: Mask & { kind: 'general' }, type: string, name: string, text: string): string {
  const step = mask.step ?? 1;
  switch (mask.to) {
    case 'year':
      return `to_char(${name}, 'YYYY')`;
    case 'month':
      return `to_char(${name}, 'YYYY-MM')`;
    case 'host':
      return `"substring"(${text}, '@([^@]+)$')`;
    case 'district': {
      const short = `replace(${text}, ' ', '')`;
      return `CASE WHEN ${name} IS NULL THEN NULL WHEN length(${short}) < ${step + DISTRICT_HIDES} THEN '…' ELSE "left"(${short}, ${step}) || '…' END`;
    }
    case 'rounded':
      return finite(text, name, (value) => {
        const by = decimalText(step);
        return `div(${value} * 2 + sign(${value}) * ${by}, ${by} * 2) * ${by}`;
      });
    case 'age': {
      const years =
        kindOfType(type) === 'day'
          ? `CASE WHEN isfinite(${name}) AND extract(year FROM ${name}) BETWEEN 1 AND 9999 THEN CAST(extract(year FROM age(CAST(${TODAY} AS timestamp), CAST(CAST(${name} AS date) AS timestamp))) AS numeric) ELSE NULL END`
          : finite(text, name, (value) => value);
      // Least and greatest pass over what is missing.
      const low = `CASE WHEN years IS NULL THEN NULL ELSE CAST(div(least(greatest(floor(years), 0), ${OLDEST}), ${step}) * ${step} AS integer) END`;
      return `(SELECT CASE WHEN low + ${step} > ${OLDEST} THEN CAST(low AS text) || '+' ELSE CAST(low AS text) || '–' || CAST(low + ${step - 1} AS text) END FROM (SELECT ${low} AS low FROM (SELECT ${years} AS years) AS age) AS band)`;
    }
  }
}

function noiseSql(
  mask: Mask & { kind: 'noise' },
  { id, type }: Pick<ColumnDecision, 'id' | 'type'>,
  name: string,
  text: string,
  key: string,
): string {
  const grain = isWhole(type) ? '1' : FRACTION;
  return finite(text, name, (value) => {
    const spread =
      mask.of === 'percent' ? `abs(${value}) * ${decimalText(mask.spread)} * 0.01` : decimalText(mask.spread);
    const drawn = `CAST(CAST(CAST('x' || "left"(encode(${digestSql(`${quoteText(`noise:${id}:`)} || ${text}`, key)}, 'hex'), 8) AS bit(32)) AS bigint) AS numeric) * 2 - ${RANGE}`;
    return `(SELECT ${value} + div(2 * drawn * (${spread}) + sign(drawn) * ${RANGE} * ${grain}, ${2n * RANGE} * ${grain}) * ${grain} FROM (SELECT ${drawn} AS drawn) AS draw)`;
  });
}

/** The digest of a text under the key of digests, in hexadecimal. */
export type Digest = (text: string, keyed: Keyed) => string;

/**
 * What stands in a value's place where it is not the source that hides it: the same as {@link maskedExpression} gives, of the value as text.
 * @param today the day up to which ages are counted, as `YYYY-MM-DD`
 */
export function maskedValue(
  column: Pick<ColumnDecision, 'id' | 'type' | 'mask'>,
  value: string | null,
  digest: Digest,
  today: string,
): string | null {
  const { mask } = column;
  if (mask?.kind === 'fixed') return mask.text;
  if (value === null || mask === null) return value;
  switch (mask.kind) {
    case 'blank':
      return null;
    case 'digest':
      return digest(value, mask.keyed).slice(0, 16);
    case 'partial': {
      const characters = [...value];
      if (characters.length < mask.first + mask.last + HIDDEN_IN_PART) return '•••';
      return `${characters.slice(0, mask.first).join('')}•••${mask.last > 0 ? characters.slice(-mask.last).join('') : ''}`;
    }
    case 'substitute':
      return substitute(value, (block) => digest(`substitute:${block}:${value}`, mask.keyed));
    case 'general':
      return general(mask, column.type, value, today);
    case 'noise':
      return noise(mask, column, value, digest);
  }
}

function substitute(value: string, digest: (block: number) => string): string {
  const digests = new Map<number, string>();
  const byteAt = (index: number) => {
    const block = Math.floor(index / DIGEST_BYTES);
    const hex = digests.get(block) ?? digest(block);
    digests.set(block, hex);
    return Number.parseInt(hex.slice((index % DIGEST_BYTES) * 2, (index % DIGEST_BYTES) * 2 + 2), 16);
  };
  const from = (start: string, many: number, index: number) =>
    String.fromCharCode(start.charCodeAt(0) + (byteAt(index) % many));
  return [...value]
    .slice(0, SUBSTITUTE_MOST)
    .map((character, index) => {
      if (/[0-9]/.test(character)) return from('0', 10, index);
      if (/[A-Z]/.test(character)) return from('A', 26, index);
      return SHAPE.includes(character) ? character : from('a', 26, index);
    })
    .join('');
}

function general(mask: Mask & { kind: 'general' }, type: string, value: string, today: string): string | null {
  // What is no day at all, as some sources let stand in a column of days, has no year.
  const day = /^(\d{4,})-(\d\d)-(\d\d)(?!\d)/.exec(value);
  const step = mask.step ?? 1;
  switch (mask.to) {
    case 'year':
      return day?.[1] ?? null;
    case 'month':
      return day ? `${day[1]}-${day[2]}` : null;
    case 'host':
      return /@([^@]+)$/.exec(value)?.[1] ?? null;
    case 'district': {
      const characters = [...value.replaceAll(' ', '')];
      return characters.length < step + DISTRICT_HIDES ? '…' : `${characters.slice(0, step).join('')}…`;
    }
    case 'rounded':
      return roundedTo(value, step);
    case 'age': {
      const years = kindOfType(type) === 'day' ? day && yearsBetween(day, today) : numberIn(value);
      if (years === null) return null;
      const low = Math.floor(Math.min(Math.max(Math.floor(years), 0), OLDEST) / step) * step;
      return low + step > OLDEST ? `${low}+` : `${low}–${low + step - 1}`;
    }
  }
}

function yearsBetween([, year = '', month = '', day = '']: RegExpExecArray, today: string): number {
  const [y = '', m = '', d = ''] = today.split('-');
  return Number(y) - Number(year) - (`${m}-${d}` < `${month}-${day}` ? 1 : 0);
}

const numberIn = (value: string): number | null => (/^-?\d+(\.\d+)?$/.test(value) ? Number(value) : null);

/** A number that is computed with exactly: so many times ten to the power of minus `scale`. */
interface Decimal {
  readonly units: bigint;
  readonly scale: number;
}
function decimalIn(value: string): Decimal | null {
  const [, minus = '', whole = '', fraction = ''] = /^(-?)(\d+)(?:\.(\d+))?$/.exec(value) ?? [];
  return whole === '' ? null : { units: BigInt(`${minus}${whole}${fraction}`), scale: fraction.length };
}
const decimalText = (value: number): string => value.toFixed(10).replace(/\.?0+$/, '');
const unitsAt = ({ units, scale }: Decimal, at: number): bigint => units * 10n ** BigInt(at - scale);
function written(units: bigint, scale: number): string {
  const digits = `${units < 0n ? -units : units}`.padStart(scale + 1, '0');
  return `${units < 0n ? '-' : ''}${digits.slice(0, digits.length - scale)}${scale > 0 ? `.${digits.slice(-scale)}` : ''}`;
}
/** A quotient, rounded to a whole number; halves away from zero. */
const quotient = (a: bigint, b: bigint): bigint => (a * 2n + (a < 0n ? -b : b)) / (b * 2n);

function roundedTo(value: string, step: number): string | null {
  const [number, by] = [decimalIn(value), decimalIn(decimalText(step))];
  if (!number || !by) return null;
  const scale = Math.max(number.scale, by.scale);
  return written(quotient(unitsAt(number, scale), unitsAt(by, scale)) * by.units, by.scale);
}

function noise(
  mask: Mask & { kind: 'noise' },
  { id, type }: Pick<ColumnDecision, 'id' | 'type'>,
  value: string,
  digest: Digest,
): string | null {
  const [number, said] = [decimalIn(value), decimalIn(decimalText(mask.spread))];
  if (!number || !said) return null;
  const grain = isWhole(type) ? 0 : 2;
  const drawn = BigInt(`0x${digest(`noise:${id}:${value}`, 'installation').slice(0, 8)}`) * 2n - RANGE;
  const spread =
    mask.of === 'percent'
      ? { units: (number.units < 0n ? -number.units : number.units) * said.units, scale: number.scale + said.scale + 2 }
      : said;
  const off = quotient(drawn * spread.units * 10n ** BigInt(grain), RANGE * 10n ** BigInt(spread.scale));
  const scale = Math.max(number.scale, grain);
  return written(unitsAt(number, scale) + unitsAt({ units: off, scale: grain }, scale), scale);
}

/** The name of a table of rights where it is asked. */
const RIGHTS = 'idrel_right';

/** The condition that keeps only permitted rows; compared as text, so that no cast of a value can fail. */
export function rowCondition(limit: DecidedLimit, table: string): string {
  const value = `CAST(${table}.${quoteIdentifier(limit.column)} AS text)`;
  const values = limit.values.map(quoteText).join(', ');
  // Where nothing counts what is told together, nothing is told.
  if (values === '') return 'FALSE';
  if (limit.through === null) return `${value} IN (${values})`;
  const { schema, name, column, reader } = limit.through;
  const right = (of: string) => `CAST(${RIGHTS}.${quoteIdentifier(of)} AS text)`;
  return `EXISTS (SELECT 1 FROM ${quoteIdentifier(schema)}.${quoteIdentifier(name)} AS ${RIGHTS} WHERE ${right(column)} = ${value} AND ${right(reader)} IN (${values}))`;
}
