import type { Dialect } from './schema.ts';

/**
 * PostgreSQL's built-in aggregates (Table 9.62 to 9.66 of its manual, version 18): known without asking a server,
 * so that a script can be read where no database is at hand.
 */
const AGGREGATES: ReadonlySet<string> = new Set(
  `any_value array_agg avg bit_and bit_or bit_xor bool_and bool_or count every json_agg json_agg_strict json_object_agg
  json_object_agg_strict json_object_agg_unique jsonb_agg jsonb_agg_strict jsonb_object_agg jsonb_object_agg_strict max min range_agg
  range_intersect_agg string_agg sum xmlagg corr covar_pop covar_samp regr_avgx regr_avgy regr_count regr_intercept regr_r2 regr_slope
  regr_sxx regr_sxy regr_syy stddev stddev_pop stddev_samp variance var_pop var_samp mode percentile_cont percentile_disc`
    .split(/\s+/)
    .filter(Boolean),
);

/** Those that MariaDB and SQLite have beside the standard's (MariaDB's manual, aggregate functions; SQLite's, lang_aggfunc). */
const OTHERS: Readonly<Record<Exclude<Dialect, 'postgresql'>, ReadonlySet<string>>> = {
  mariadb: new Set(['group_concat', 'json_arrayagg', 'json_objectagg', 'std', 'var_pop']),
  sqlite: new Set(['group_concat', 'total', 'json_group_array', 'json_group_object', 'median']),
};

export const isBuiltInAggregate = (name: string, dialect: Dialect = 'postgresql'): boolean =>
  AGGREGATES.has(name) || (dialect !== 'postgresql' && OTHERS[dialect].has(name));

/** A function whose first argument tells which of the others is the result: `if(test, value, value)`. */
export const isChoice = (name: string, dialect: Dialect): boolean =>
  (dialect === 'mariadb' && name === 'if') || (dialect === 'sqlite' && (name === 'iif' || name === 'if'));

/** Functions whose result no longer lets the argument be read: digests of PostgreSQL and of its pgcrypto extension. */
const DIGESTS: ReadonlySet<string> = new Set([
  'md5',
  'sha224',
  'sha256',
  'sha384',
  'sha512',
  // MariaDB's.
  'sha',
  'sha1',
  'sha2',
  'digest',
  'hmac',
  'crypt',
  'hashtext',
  'hashtextextended',
]);

/** A function that hides its argument: a digest, or one whose own name says that it masks. */
export const isMasking = (name: string): boolean =>
  DIGESTS.has(name) ||
  /(^|_)(mask(ed|s)?|redact(ed)?|anonymi[sz]e[d]?|pseudonymi[sz]e[d]?|scrambled?|obfuscated?|tokeni[sz]e[d]?)(_|$)/.test(
    name,
  );

/** Functions that keep only a part of a text: with a mask text added to it the whole is a mask. */
export const keepsAPart = (name: string): boolean =>
  ['left', 'right', 'substr', 'substring', 'split_part', 'overlay', 'regexp_replace'].includes(name);

/** A constant made only of mask characters (at least two), perhaps with separators: `***`, `XXXX-`, `•••@`. */
export const isMaskText = (text: string): boolean =>
  /^[^\p{L}\p{N}]*([*•#x_.-])\1+[^\p{L}\p{N}]*$/iu.test(text) && /[*•#x]{2}/i.test(text);
