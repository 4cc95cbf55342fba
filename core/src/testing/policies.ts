import type { Person, Policy, ReadableTable } from '../access/index.ts';

/** A policy that allows everyone nothing yet, with what is said of it. */
export const policyOf = (more: Partial<Policy>): Policy => ({
  id: 'p',
  name: 'P',
  effect: 'allow',
  everyone: true,
  groups: [],
  people: [],
  exceptGroups: [],
  assets: [],
  classes: [],
  matched: null,
  carried: false,
  columns: null,
  columnsBut: false,
  mask: null,
  rows: null,
  until: null,
  hours: null,
  purposes: [],
  share: null,
  opens: 'read',
  passesOn: false,
  giver: null,
  ...more,
});

/** Somebody of this organisation of whom nothing is known. */
export const readerOf = (more: Partial<Person> = {}): Person => ({
  id: 'p',
  groups: [],
  email: '',
  attributes: {},
  purpose: null,
  outside: false,
  share: null,
  ...more,
});

/** A table that is called by its name everywhere, with columns of these types that carry nothing. */
export const tableOf = (
  name: string,
  columns: Readonly<Record<string, string>>,
  more: Partial<ReadableTable> = {},
): ReadableTable => ({
  id: name,
  sourceId: 's',
  schema: 's',
  name,
  ancestors: [name],
  columns: Object.entries(columns).map(([column, type]) => ({
    id: `${name}.${column}`,
    name: column,
    type,
    classes: [],
    held: [],
    fewValues: false,
    origins: [],
  })),
  ...more,
});
