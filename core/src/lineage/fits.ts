/** Whether a column of one type takes values of another: all of them, some, none; null where one of the types is not known here. */
export type Fit = 'all' | 'some' | 'none' | null;

type Family = 'whole' | 'decimal' | 'float' | 'text' | 'date' | 'timestamp' | 'time' | 'boolean' | 'uuid' | 'json';
interface Read {
  readonly family: Family;
  /** Whole numbers: digits that always fit. Decimals: digits before the point. Texts: letters. */
  readonly size: number;
  /** Decimals: digits after the point. */
  readonly scale: number;
}

/** By the word that a type begins with, in the dialects that are read; sizes are those without anything in brackets. */
const WORDS: Readonly<Record<string, readonly [Family, number?]>> = {
  tinyint: ['whole', 2],
  smallint: ['whole', 4],
  int2: ['whole', 4],
  smallserial: ['whole', 4],
  mediumint: ['whole', 6],
  int: ['whole', 9],
  int4: ['whole', 9],
  integer: ['whole', 9],
  serial: ['whole', 9],
  bigint: ['whole', 18],
  int8: ['whole', 18],
  bigserial: ['whole', 18],
  long: ['whole', 18],
  hugeint: ['whole', 38],
  numeric: ['decimal', Number.POSITIVE_INFINITY],
  decimal: ['decimal', Number.POSITIVE_INFINITY],
  number: ['decimal', Number.POSITIVE_INFINITY],
  money: ['decimal', 17],
  real: ['float'],
  float: ['float'],
  float4: ['float'],
  float8: ['float'],
  double: ['float'],
  text: ['text', Number.POSITIVE_INFINITY],
  tinytext: ['text', 255],
  mediumtext: ['text', Number.POSITIVE_INFINITY],
  longtext: ['text', Number.POSITIVE_INFINITY],
  clob: ['text', Number.POSITIVE_INFINITY],
  string: ['text', Number.POSITIVE_INFINITY],
  varchar: ['text', Number.POSITIVE_INFINITY],
  nvarchar: ['text', Number.POSITIVE_INFINITY],
  'character varying': ['text', Number.POSITIVE_INFINITY],
  char: ['text', 1],
  character: ['text', 1],
  bpchar: ['text', Number.POSITIVE_INFINITY],
  citext: ['text', Number.POSITIVE_INFINITY],
  date: ['date'],
  datetime: ['timestamp'],
  timestamp: ['timestamp'],
  timestamptz: ['timestamp'],
  time: ['time'],
  timetz: ['time'],
  bool: ['boolean'],
  boolean: ['boolean'],
  uuid: ['uuid'],
  json: ['json'],
  jsonb: ['json'],
};

/** So many letters the texts of a family have at most. */
const LETTERS: Readonly<Record<Exclude<Family, 'text' | 'whole' | 'decimal'>, number>> = {
  float: 24,
  date: 10,
  timestamp: 29,
  time: 18,
  boolean: 5,
  uuid: 36,
  json: Number.POSITIVE_INFINITY,
};

function read(type: string): Read | null {
  const match = /^\s*([a-z][a-z0-9]*(?:\s+varying)?)[^(]*(?:\(\s*(\d+)\s*(?:,\s*(-?\d+)\s*)?\))?/i.exec(type);
  const known = WORDS[(match?.[1] ?? '').toLowerCase().replace(/\s+/g, ' ')];
  // Arrays are types of their own.
  if (!known || /\[\s*\d*\s*\]\s*$/.test(type)) return null;
  const [family, usual = 0] = known;
  const [first, second] = [match?.[2], match?.[3]].map((digits) => (digits === undefined ? undefined : Number(digits)));
  if (family === 'text') return { family, size: first ?? usual, scale: 0 };
  if (family === 'decimal' && first !== undefined) return { family, size: first - (second ?? 0), scale: second ?? 0 };
  return { family, size: usual, scale: family === 'decimal' ? usual : 0 };
}

function lettersOf({ family, size, scale }: Read): number {
  if (family === 'text') return size;
  // A sign, digits, and a point where there is something after it.
  if (family === 'whole') return size + 2;
  if (family === 'decimal') return size + scale + 2;
  return LETTERS[family];
}

/**
 * Whether a column of the type `stored` takes what has the type `given`.
 * @param strict the database assigns no text to what is none, as PostgreSQL does; others try each value
 */
export function fits(stored: string, given: string, strict: boolean): Fit {
  const [to, from] = [read(stored), read(given)];
  if (!to || !from) return null;
  if (to.family === 'text') return lettersOf(from) <= to.size ? 'all' : 'some';
  const pair = `${from.family} ${to.family}`;
  if (pair === 'whole whole') return from.size <= to.size ? 'all' : 'some';
  if (pair === 'whole decimal' || pair === 'decimal decimal')
    return from.size <= to.size && from.scale <= to.scale ? 'all' : 'some';
  if (from.family === to.family || pair === 'date timestamp' || pair === 'whole float') return 'all';
  if (
    ['decimal float', 'float decimal', 'float whole', 'decimal whole', 'timestamp date', 'timestamp time'].includes(
      pair,
    )
  )
    return 'some';
  return strict ? 'none' : 'some';
}
