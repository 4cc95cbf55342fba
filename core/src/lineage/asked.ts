import { mariaStatement, type NamedRelation, namedIn, parseOne, printOf, withoutValues } from '../sql/index.ts';
import type { SchemaCatalog } from './schema.ts';
import { readScript } from './statements.ts';
import { INFLUENCE_KINDS } from './types.ts';

/** What a statement does with a column that it reads, or with a table: shows it, decides rows by it in one of these ways, or writes into it. */
export const ASKED_HOW = ['shown', ...INFLUENCE_KINDS, 'written'] as const;
export type AskedHow = (typeof ASKED_HOW)[number];

/** A table that a statement names, or a column of it that the statement reads. */
export interface AskedFor {
  readonly schema: string;
  readonly relation: string;
  /** Null: the table as such. Of that nothing is said but that it is written. */
  readonly column: string | null;
  readonly how: readonly AskedHow[];
}

/** A statement that somebody asked: what it reads, without the values in it. */
export interface Asked {
  /** By which it is known again: the same for statements that differ in values, comments and spacing alone. */
  readonly print: string;
  /** Its text; each value in it is a number with a dollar. */
  readonly text: string;
  readonly reads: readonly AskedFor[];
  /** Names that it gives to what it shows and to its own queries: what those who ask call things. */
  readonly gives: readonly string[];
  /** Whether all that it names is told by these, as far as can be said: relations, and the schemas of functions and types. */
  readonly whole: boolean;
}

/**
 * Which tables and columns a statement asks for.
 *
 * @param sql one statement; `loadParser` must have finished
 * @param catalog relations that it may name; of MariaDB, names are in small letters, and the text is told in PostgreSQL's words
 * @returns null when it cannot be read, or reads nothing that is known
 */
export function readAsked(sql: string, catalog: SchemaCatalog): Asked | null {
  const known = new Map<string, { schema: string; relation: string; column: string | null; how: Set<AskedHow> }>();
  const add = (schema: string, relation: string, column: string | null, how?: AskedHow) => {
    const key = JSON.stringify([schema, relation, column]);
    const entry = known.get(key) ?? { schema, relation, column, how: new Set<AskedHow>() };
    known.set(key, entry);
    if (how) entry.how.add(how);
  };
  const name = ({ schema, name: relation, written }: NamedRelation): boolean => {
    const found = catalog.relation(schema, relation);
    if (found) add(found.schema, found.name, null, written ? 'written' : undefined);
    return found !== undefined;
  };
  try {
    const told = catalog.dialect === 'mariadb' ? mariaStatement(sql) : sql;
    if (told === null) return null;
    const { relations, own, gives, schemas } = namedIn(parseOne(told));
    const text = withoutValues(told);
    let whole = true;
    for (const relation of relations)
      if (relation.schema !== undefined || !own.has(relation.name)) whole = name(relation) && whole;
      // Its own query, or the relation that is called the same: that is not looked into.
      else if (catalog.relation(undefined, relation.name)) whole = false;
    const here = new Set(['pg_catalog', ...[...known.values()].map(({ schema }) => schema)]);
    if ([...schemas].some((schema) => !here.has(schema))) whole = false;
    const { statements, unresolved } = readScript(sql, catalog);
    for (const { edges, influences } of statements) {
      const all = [
        ...edges.map(({ from }) => ({ from, how: 'shown' as const })),
        ...influences.map(({ from, kind }) => ({ from, how: kind })),
      ];
      // Of a relation that is not known lineage supposes where it lies.
      for (const { from, how } of all)
        if (catalog.relation(from.schema, from.relation)) add(from.schema, from.relation, from.column, how);
    }
    if (known.size === 0) return null;
    return {
      print: printOf(told),
      text,
      reads: [...known.values()].map(({ how, ...rest }) => ({ ...rest, how: ASKED_HOW.filter((one) => how.has(one)) })),
      gives: [...gives],
      whole: whole && !unresolved.some(({ lost }) => lost),
    };
  } catch {
    return null;
  }
}
