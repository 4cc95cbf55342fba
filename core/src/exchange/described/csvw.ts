import { type Described, saidOf } from './described.ts';
import { mostLetters, type ValueType, valueTypeOf } from './valueTypes.ts';

/** Built-in datatypes of the standard (Metadata Vocabulary for Tabular Data, 5.11.1). */
const DATATYPES: Readonly<Record<ValueType, string>> = {
  integer: 'integer',
  decimal: 'decimal',
  double: 'double',
  boolean: 'boolean',
  date: 'date',
  time: 'time',
  moment: 'datetime',
  'moment in a zone': 'dateTimeStamp',
  // Databases do not write durations as ISO 8601 does, and lists and objects as each likes.
  duration: 'string',
  binary: 'base64Binary',
  list: 'string',
  object: 'json',
  uuid: 'string',
  text: 'string',
  any: 'string',
};

/** What the standard calls values of a type, as its source writes it. */
export const datatypeOf = (type: string | null): string => DATATYPES[valueTypeOf(type)];

/** A name as the standard wants them, for templates of addresses (RFC 6570): what may not stand in it is written as its bytes. */
export const variableOf = (name: string): string =>
  [...name]
    .map((sign, index) =>
      /[A-Za-z0-9]/.test(sign) || (sign === '_' && index > 0)
        ? sign
        : [...new TextEncoder().encode(sign)]
            .map((byte) => `%${byte.toString(16).toUpperCase().padStart(2, '0')}`)
            .join(''),
    )
    .join('');

/**
 * What a file of the rows of a table or file means, as CSVW metadata (W3C, Metadata Vocabulary for Tabular Data): what a CSV with these columns in its first line
 * is read by. References to other tables are left out: the standard knows them only among tables of one document.
 */
export function toCsvw(asset: Described): object {
  const primaryKey = asset.columns.filter((column) => column.primaryKey).map(({ name }) => variableOf(name));
  const owners = asset.people.filter(({ role }) => role === 'owner');
  const own = asset.references.filter(({ table }) => table.uri === asset.uri);
  return {
    '@context': 'http://www.w3.org/ns/csvw',
    '@id': asset.uri,
    url: asset.format === 'csv' ? encodeURIComponent(asset.name) : `${encodeURIComponent(asset.name)}.csv`,
    'dc:title': asset.path,
    'dc:description': saidOf(asset),
    'dc:modified': { '@value': asset.changed, '@type': 'xsd:dateTime' },
    'dc:publisher': { '@id': asset.domain.uri, 'schema:name': asset.domain.name },
    ...(owners.length > 0
      ? { 'dc:rightsHolder': owners.map(({ uri, name }) => ({ '@id': uri, 'schema:name': name })) }
      : {}),
    'dcat:landingPage': { '@id': asset.page },
    tableSchema: {
      '@id': `${asset.uri}#schema`,
      columns: asset.columns.map(({ uri, name, type, nullable, description, classes, terms }) => {
        const base = datatypeOf(type);
        const maxLength = base === 'string' ? mostLetters(type) : undefined;
        const about = [...terms, ...classes];
        return {
          '@id': uri,
          name: variableOf(name),
          titles: name,
          datatype: maxLength === undefined ? base : { base, maxLength },
          ...(nullable === false ? { required: true } : {}),
          ...(description === null ? {} : { 'dc:description': description }),
          ...(about.length > 0
            ? { 'dc:subject': about.map((one) => ({ '@id': one.uri, 'skos:prefLabel': one.name })) }
            : {}),
        };
      }),
      ...(primaryKey.length > 0 ? { primaryKey } : {}),
      ...(own.length > 0
        ? {
            foreignKeys: own.map(({ columns, theirs }) => ({
              columnReference: columns.map(variableOf),
              reference: { schemaReference: `${asset.uri}#schema`, columnReference: theirs.map(variableOf) },
            })),
          }
        : {}),
    },
  };
}
