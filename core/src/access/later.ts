import { type AssetFacts, asOf, type Called, NO_FACTS, passes } from '../catalog/index.ts';
import { isOfColumns, readPolicyFilter } from './policyFilter.ts';
import type { Policy, ReadableTable } from './types.ts';

/** A table that is not there yet, made up to see what policies would do with it. */
export interface MadeUpTable {
  readonly name: string;
  readonly source: string;
  readonly sourceId: string;
  readonly schema: string;
  /** Its domain and those above it, by name. */
  readonly domains: readonly string[];
  /** What it would lie in, all the way up, and the ids of that. */
  readonly above: readonly Called[];
  readonly ancestors: readonly string[];
  /** Keys of tags, and of those with a value also `key/value`. */
  readonly tags: readonly string[];
  readonly columns: readonly MadeUpColumn[];
}
export interface MadeUpColumn {
  readonly name: string;
  readonly classes: readonly string[];
  /** 1 to 4, or null. */
  readonly level: number | null;
}

/** By this a table that is made up is known. */
export const MADE_UP = 'made up';
const columnId = (name: string): string => `${MADE_UP} ${name}`;

/** As decisions need it: with its own id, and those of its columns made of their names. */
export const readableOf = ({ name, sourceId, schema, ancestors, columns }: MadeUpTable): ReadableTable => ({
  id: MADE_UP,
  sourceId,
  schema,
  name,
  ancestors: [MADE_UP, ...ancestors],
  columns: columns.map((column) => ({
    id: columnId(column.name),
    name: column.name,
    type: 'text',
    classes: column.classes,
    held: [],
    level: column.level,
    fewValues: false,
    origins: [],
  })),
});

/** What a filter could see of it on the day on which it is first seen: nobody has said anything of it but its tags. @param now milliseconds since 1970 */
function factsOf(table: MadeUpTable, column: MadeUpColumn | null, now: number): AssetFacts {
  const path = [...table.above.slice(0, 1).map((one) => one.path), table.name].join('.');
  const levels = (column ? [column] : table.columns).flatMap(({ level }) => level ?? []);
  return {
    ...NO_FACTS,
    kind: column ? 'column' : 'table',
    source: table.source,
    domains: table.domains,
    classes: [...new Set((column ? [column] : table.columns).flatMap(({ classes }) => classes))],
    tags: column ? [] : table.tags,
    level: levels.length > 0 ? Math.max(...levels) : null,
    name: column ? column.name : table.name,
    type: column ? 'text' : null,
    created: now,
    changed: now,
    read: now,
    path: column ? `${path}.${column.name}` : path,
    above: column ? [{ name: table.name, path }, ...table.above] : table.above,
  };
}

/** What of a table that is made up the filter of a policy would find: its id, or those of its columns. @throws {FilterError} */
export function foundLater(text: string, table: MadeUpTable, now: number): Set<string> {
  const filter = asOf(readPolicyFilter(text), now);
  const found = new Set<string>();
  if (!isOfColumns(filter) && passes(filter, factsOf(table, null, now))) found.add(MADE_UP);
  for (const column of table.columns) if (passes(filter, factsOf(table, column, now))) found.add(columnId(column.name));
  return found;
}

/**
 * A policy as it would mean a table that is made up, beside what it means above it.
 * @param filter what its filter says; null for none
 */
export const meaningLater = (policy: Policy, filter: string | null, table: MadeUpTable, now: number): Policy =>
  filter === null
    ? policy
    : { ...policy, matched: new Set([...(policy.matched ?? []), ...foundLater(filter, table, now)]) };
