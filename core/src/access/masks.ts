import type { ColumnDecision, Mask, RowLimit } from './types.ts';

export const quoteIdentifier = (name: string): string => `"${name.replaceAll('"', '""')}"`;
/** A text constant that holds in every setting of standard_conforming_strings. */
export const quoteText = (text: string): string =>
  text.includes('\\')
    ? ` E'${text.replaceAll('\\', '\\\\').replaceAll("'", "''")}'`
    : `'${text.replaceAll("'", "''")}'`;

/** The setting of the source's session that holds the key of digests: the key stands in no statement, so that neither readers nor logs see it. */
export const DIGEST_SETTING = 'idrel.digest_key';

/** Shorter values are hidden whole: of three characters one tells too much. */
const SHORTEST_IN_PART = 4;

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

/** A mask that cannot hide what a column holds gives way to the one that can: blank. */
export function appliedMask(mask: Mask, column: { readonly type: string; readonly fewValues: boolean }): Applied {
  const kind = kindOfType(column.type);
  const blank = (instead: string): Applied => ({ mask: 'blank', instead });
  if (mask === 'year' && kind !== 'day') return blank(`a ${column.type} has no year`);
  if (mask === 'partial' && kind !== 'text' && kind !== 'number')
    return blank(`of a ${column.type} the first character would tell too much`);
  if (mask === 'hash' && kind === 'few')
    return blank(`a ${column.type} has so few values that equal digests tell them`);
  if ((mask === 'hash' || mask === 'partial') && column.fewValues)
    return blank('the column has so few different values that counting tells them');
  return { mask, instead: null };
}

/**
 * The SQL expression that stands in a column's place.
 * @param table the name by which the column is written, so that it is taken from nowhere else
 */
export function maskedExpression(column: Pick<ColumnDecision, 'name' | 'mask'>, table: string): string {
  const name = `${table}.${quoteIdentifier(column.name)}`;
  const text = `CAST(${name} AS text)`;
  switch (column.mask) {
    case null:
      return name;
    case 'blank':
      return 'CAST(NULL AS text)';
    case 'hash':
      return `"left"(encode(sha256(convert_to(current_setting('${DIGEST_SETTING}') || ${text}, 'UTF8')), 'hex'), 16)`;
    case 'year':
      return `to_char(${name}, 'YYYY')`;
    case 'partial':
      return `CASE WHEN ${name} IS NULL THEN NULL WHEN length(${text}) < ${SHORTEST_IN_PART} THEN '•••' ELSE "left"(${text}, 1) || '•••' END`;
  }
}

/**
 * What stands in a value's place where it is not the source that hides it: the same as {@link maskedExpression} gives, of the value as text.
 * @param digest the digest of a text under the key of digests, in hexadecimal
 */
export function maskedValue(mask: Mask | null, value: string | null, digest: (text: string) => string): string | null {
  if (value === null || mask === null) return value;
  switch (mask) {
    case 'blank':
      return null;
    case 'hash':
      return digest(value).slice(0, 16);
    case 'year':
      // What is no day at all, as some sources let stand in a column of days, has no year.
      return /^(\d{4,})-\d\d-\d\d(?!\d)/.exec(value)?.[1] ?? null;
    case 'partial': {
      const characters = [...value];
      return characters.length < SHORTEST_IN_PART ? '•••' : `${characters[0]}•••`;
    }
  }
}

/** The condition that keeps only permitted rows; compared as text, so that no cast of a value can fail. */
export const rowCondition = (limit: RowLimit, table: string): string =>
  limit.values.length === 0
    ? 'FALSE'
    : `CAST(${table}.${quoteIdentifier(limit.column)} AS text) IN (${limit.values.map(quoteText).join(', ')})`;
