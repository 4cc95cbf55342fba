import { namedIn, parseOne } from '../sql/index.ts';

/** Names of relations that a statement mentions, schema aside, whether they are tables or its own WITH; empty when it cannot be parsed. */
export function namedRelations(sql: string): string[] {
  try {
    return [...new Set(namedIn(parseOne(sql)).relations.map(({ name }) => name))];
  } catch {
    return []; // said when the statement is rewritten
  }
}
