import { parseOne } from '../sql/index.ts';
import type { TableDecision } from './types.ts';

/** Types that columns have where rows of other sources are laid out for a statement, as PostgreSQL calls them. */
export type LaidType =
  | 'bigint'
  | 'numeric'
  | 'double precision'
  | 'boolean'
  | 'date'
  | 'timestamp without time zone'
  | 'timestamp with time zone'
  | 'text';

/** The type in which values of a column are laid out. @param written its type, as SQLite, MariaDB or the reader of files calls it */
export function laidType(written: string): LaidType {
  const type = written.toLowerCase();
  if (type.endsWith(']') || /^(struct|map|list|union)\b/.test(type)) return 'text';
  if (/^(u?hugeint|ubigint|bigint.*unsigned)/.test(type)) return 'numeric';
  if (/^(u?tinyint|u?smallint|mediumint|u?integer|bigint|int[248]?)\b/.test(type)) return 'bigint';
  if (/^(decimal|numeric|number)\b/.test(type)) return 'numeric';
  if (/^(real|float[48]?|double)\b/.test(type)) return 'double precision';
  if (/^bool(ean)?\b/.test(type)) return 'boolean';
  if (/^date$/.test(type)) return 'date';
  if (/^timestamp(tz| with time zone)/.test(type)) return 'timestamp with time zone';
  if (/^(datetime|timestamp)\b/.test(type)) return 'timestamp without time zone';
  return 'text';
}

const NUMBER = /^[+-]?(\d+(\.\d*)?|\.\d+)(e[+-]?\d{1,3})?$/i;
const DAY = /^(\d{4})-(\d\d)-(\d\d)$/;
const MOMENT = /^(\d{4}-\d\d-\d\d)[ T]([01]\d|2[0-3]):[0-5]\d(:[0-5]\d(\.\d{1,9})?)?(Z|[+-](0\d|1[0-4])(:?[0-5]\d)?)?$/;
const [LEAST, MOST] = [-(2n ** 63n), 2n ** 63n - 1n];

function isDay(text: string): boolean {
  const [, year, month, day] = DAY.exec(text) ?? [];
  if (year === undefined || Number(year) < 1) return false;
  const at = new Date(0);
  at.setUTCFullYear(Number(year), Number(month) - 1, Number(day));
  return at.getUTCMonth() === Number(month) - 1 && at.getUTCDate() === Number(day);
}

/** Whether a value can be laid out in a column of a type: what fits is taken by PostgreSQL without an error. */
export function fitsLaid(type: LaidType, value: string): boolean {
  switch (type) {
    case 'text':
      return !value.includes('\0');
    case 'bigint':
      return (
        /^[+-]?\d{1,40}$/.test(value) &&
        BigInt(value.replace('+', '')) >= LEAST &&
        BigInt(value.replace('+', '')) <= MOST
      );
    case 'numeric':
      return value.length <= 1000 && NUMBER.test(value);
    case 'double precision': {
      if (/^(nan|[+-]?inf(inity)?)$/i.test(value)) return true;
      const [digits = ''] = value.split(/e/i);
      const number = Number(value);
      return (
        value.length <= 400 &&
        NUMBER.test(value) &&
        Number.isFinite(number) &&
        (Math.abs(number) >= 1e-300 || !/[1-9]/.test(digits))
      );
    }
    case 'boolean':
      return /^(true|false|t|f|0|1)$/i.test(value);
    case 'date':
      return isDay(value);
    default:
      return isDay(MOMENT.exec(value)?.[1] ?? '');
  }
}

interface LaidColumn {
  readonly name: string;
  readonly type: LaidType;
  /** Whether its reader reads each value as it is, so that something may be said of what does not fit. */
  readonly plain: boolean;
}

/** A table of another source as it is laid out for a statement. */
export interface LaidTable {
  readonly tableId: string;
  /** Where it lies while the statement runs: a temporary table. */
  readonly name: string;
  /** As statements name it. */
  readonly path: string;
  /** As its source knows it. */
  readonly key: string;
  readonly columns: readonly LaidColumn[];
  /** Of these the ones that the statement may come to: values of the others are not asked for. */
  readonly wanted: readonly string[];
  /** Rows that are laid out: those in which each of these columns has one of the values. */
  readonly only: readonly { readonly column: string; readonly values: readonly string[] }[];
}

/**
 * Names that a statement may come to mean columns by; null where it can mean all that there are, as by a star or a table's own name.
 * @param columns names of all columns of the tables that it names
 * @throws whatever the parser does
 */
export function namesMeant(sql: string, columns: ReadonlySet<string>): ReadonlySet<string> | null {
  const names = new Set<string>();
  const ranges = new Set<string>();
  const alone = new Set<string>();
  const tails = new Set<string>();
  let all = false;
  const walk = (value: unknown): void => {
    if (Array.isArray(value)) for (const entry of value) walk(entry);
    if (value === null || typeof value !== 'object' || Array.isArray(value)) return;
    for (const [key, inner] of Object.entries(value)) {
      if (key === 'A_Star' || (key === 'isNatural' && inner === true) || key === 'colnames') all = true;
      if ((key === 'sval' || key === 'relname' || key === 'aliasname') && typeof inner === 'string') {
        names.add(inner);
        if (key !== 'sval') ranges.add(inner);
      }
      const fields =
        key === 'ColumnRef' ? (inner as { fields?: readonly { String?: { sval?: string } }[] }).fields : undefined;
      if (fields?.length === 1) alone.add(fields[0]?.String?.sval ?? '');
      // What stands behind a table and is none of its columns can be a function of all of them.
      if (fields && fields.length > 1) tails.add(fields.at(-1)?.String?.sval ?? '');
      walk(inner);
    }
  };
  walk(parseOne(sql));
  return all || [...alone].some((name) => ranges.has(name)) || [...tails].some((name) => !columns.has(name))
    ? null
    : names;
}

/** In this schema statements name tables of sources that have none. */
export const LAID_SCHEMA = 'public';

/**
 * What of a table is laid out for a reader, and by what it is decided then: rows that they may not see are not laid out, columns that are refused neither,
 * unless they are counted.
 * @param at its place among the tables of the statement, from 1: its temporary table is called by that
 * @param meant names that the statement may come to mean columns by, null for all
 */
export function laidOut(
  decision: TableDecision,
  { path, key }: Pick<LaidTable, 'path' | 'key'>,
  at: number,
  meant: ReadonlySet<string> | null,
): { readonly table: LaidTable; readonly decision: TableDecision } {
  const name = `idrel_laid_${at}`;
  const { untold = [] } = decision;
  const there = new Set([...decision.columns.map((column) => column.name), ...untold]);
  const counted = new Set(decision.rowLimits.flatMap(({ column, least }) => (least === undefined ? [] : [column])));
  const columns = decision.columns.map((column) => ({ ...column, type: laidType(column.type) }));
  const laid: LaidColumn[] = [
    ...columns
      .filter((column) => column.access !== 'refused' || counted.has(column.name))
      .map(({ name: called, type, access }) => ({
        name: called,
        type,
        plain: access === 'plain' && counted.size === 0,
      })),
    ...untold
      .filter((called) => counted.has(called))
      .map((called) => ({ name: called, type: 'text' as const, plain: false })),
  ];
  return {
    table: {
      tableId: decision.tableId,
      name,
      path,
      key,
      columns: laid,
      wanted: laid.flatMap((column) =>
        meant === null || meant.has(column.name) || counted.has(column.name) ? [column.name] : [],
      ),
      only: decision.rowLimits.flatMap(({ column, values, through, least }) =>
        // A table of rights can be asked only where it lies beside what it is about.
        least === undefined ? [{ column, values: through || !there.has(column) ? [] : values }] : [],
      ),
    },
    decision: {
      ...decision,
      columns,
      schema: LAID_SCHEMA,
      name: path,
      lies: { schema: 'pg_temp', name },
      rowLimits: decision.rowLimits.filter(({ least }) => least !== undefined),
    },
  };
}
