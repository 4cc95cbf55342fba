/** What values of a column are, whatever its source calls their type. */
export type ValueType =
  | 'integer'
  | 'decimal'
  | 'double'
  | 'boolean'
  | 'date'
  | 'time'
  | 'moment'
  | 'moment in a zone'
  | 'duration'
  | 'binary'
  | 'list'
  | 'object'
  | 'uuid'
  | 'text'
  | 'any';

/** By the words that types begin with in the dialects and file formats that are read; the longest that fits counts. */
const WORDS: Readonly<Record<string, ValueType>> = {
  tinyint: 'integer',
  smallint: 'integer',
  mediumint: 'integer',
  int: 'integer',
  integer: 'integer',
  bigint: 'integer',
  hugeint: 'integer',
  utinyint: 'integer',
  usmallint: 'integer',
  uinteger: 'integer',
  ubigint: 'integer',
  int2: 'integer',
  int4: 'integer',
  int8: 'integer',
  int16: 'integer',
  int32: 'integer',
  int64: 'integer',
  serial: 'integer',
  smallserial: 'integer',
  bigserial: 'integer',
  long: 'integer',
  year: 'integer',
  oid: 'integer',
  numeric: 'decimal',
  decimal: 'decimal',
  dec: 'decimal',
  number: 'decimal',
  real: 'double',
  float: 'double',
  float4: 'double',
  float8: 'double',
  double: 'double',
  bool: 'boolean',
  boolean: 'boolean',
  date: 'date',
  time: 'time',
  timetz: 'time',
  datetime: 'moment',
  timestamp: 'moment',
  timestamptz: 'moment in a zone',
  'timestamp with time zone': 'moment in a zone',
  interval: 'duration',
  bytea: 'binary',
  blob: 'binary',
  tinyblob: 'binary',
  mediumblob: 'binary',
  longblob: 'binary',
  binary: 'binary',
  varbinary: 'binary',
  bytes: 'binary',
  fixed: 'binary',
  json: 'object',
  jsonb: 'object',
  object: 'object',
  record: 'object',
  struct: 'object',
  map: 'object',
  hstore: 'object',
  array: 'list',
  list: 'list',
  uuid: 'uuid',
  text: 'text',
  tinytext: 'text',
  mediumtext: 'text',
  longtext: 'text',
  string: 'text',
  utf8: 'text',
  clob: 'text',
  char: 'text',
  character: 'text',
  varchar: 'text',
  nvarchar: 'text',
  nchar: 'text',
  bpchar: 'text',
  citext: 'text',
  name: 'text',
  enum: 'text',
  inet: 'text',
  cidr: 'text',
  macaddr: 'text',
  xml: 'text',
};

/**
 * What values of a type are, as far as that can be told from what its source calls it: `any` of what is not known here.
 * `timestamp(3) with time zone` is a moment in a zone, `integer[]` and `INTEGER[]` are lists.
 */
export function valueTypeOf(type: string | null): ValueType {
  const said = (type ?? '').toLowerCase().trim();
  if (/\[\s*\d*\s*\]$/.test(said)) return 'list';
  const words = said.replace(/\(.*?\)/g, ' ').match(/^[a-z][a-z0-9_]*(?:\s+[a-z]+)*/)?.[0];
  const all = words?.split(/\s+/) ?? [];
  for (let many = all.length; many > 0; many -= 1) {
    const known = all.slice(0, many).join(' ');
    if (Object.hasOwn(WORDS, known)) return WORDS[known] as ValueType;
  }
  return 'any';
}

/** How many letters a type holds at most, where it says so: `character varying(40)`. */
export function mostLetters(type: string | null): number | undefined {
  const match = /^\s*(?:n?varchar2?|n?char|bpchar|character(?:\s+varying)?)\s*\(\s*(\d{1,9})\s*\)/i.exec(type ?? '');
  return match ? Number(match[1]) : undefined;
}
