import { type Described, saidOf } from './described.ts';
import { mostLetters, type ValueType, valueTypeOf } from './valueTypes.ts';

/** Types and formats of the standard for what values are. A moment without a zone is one all the same, a UUID a text. */
const FIELDS: Readonly<Record<ValueType, { readonly type: string; readonly format?: string }>> = {
  integer: { type: 'integer' },
  decimal: { type: 'number' },
  double: { type: 'number' },
  boolean: { type: 'boolean' },
  date: { type: 'date' },
  time: { type: 'time' },
  moment: { type: 'datetime', format: 'any' },
  'moment in a zone': { type: 'datetime', format: 'any' },
  // The standard's durations are ISO 8601; databases write theirs otherwise.
  duration: { type: 'string' },
  binary: { type: 'string', format: 'binary' },
  list: { type: 'array' },
  object: { type: 'object' },
  uuid: { type: 'string', format: 'uuid' },
  text: { type: 'string' },
  any: { type: 'any' },
};

/**
 * The columns of a table or file as a Table Schema (JSON, version 1 of the standard: specs.frictionlessdata.io/table-schema). What the standard has no word for
 * stands under names of its own, as it allows: `sourceType`, `sensitivity`, `classes`, `terms`.
 */
export function toTableSchema(asset: Described): object {
  const primaryKey = asset.columns.filter((column) => column.primaryKey).map(({ name }) => name);
  return {
    title: asset.path,
    description: saidOf(asset),
    homepage: asset.page,
    fields: asset.columns.map(({ name, type, nullable, unique, description, level, classes, terms }) => {
      const maxLength = mostLetters(type);
      const constraints = {
        ...(nullable === false ? { required: true } : {}),
        ...(unique ? { unique: true } : {}),
        ...(maxLength === undefined ? {} : { maxLength }),
      };
      return {
        name,
        ...FIELDS[valueTypeOf(type)],
        ...(description === null ? {} : { description }),
        ...(Object.keys(constraints).length > 0 ? { constraints } : {}),
        ...(type === null ? {} : { sourceType: type }),
        ...(level === null ? {} : { sensitivity: level }),
        ...(classes.length > 0 ? { classes: classes.map((one) => one.name) } : {}),
        ...(terms.length > 0 ? { terms: terms.map((one) => one.uri) } : {}),
      };
    }),
    ...(primaryKey.length > 0 ? { primaryKey } : {}),
    // Of another table it is named as the resource that it would be in a package of them.
    ...(asset.references.length > 0
      ? {
          foreignKeys: asset.references.map(({ columns, table, theirs }) => ({
            fields: columns,
            reference: { resource: table.uri === asset.uri ? '' : table.name, fields: theirs },
          })),
        }
      : {}),
    missingValues: [''],
  };
}
