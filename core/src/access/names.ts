import type { Node } from '@pgsql/types';
import { parseOne } from '../sql/index.ts';

/** Names of relations that a statement mentions, schema aside, whether they are tables or its own WITH; empty when it cannot be parsed. */
export function namedRelations(sql: string): string[] {
  const names = new Set<string>();
  const look = (value: unknown): void => {
    if (Array.isArray(value)) for (const entry of value) look(entry);
    else if (value && typeof value === 'object')
      for (const [key, inner] of Object.entries(value)) {
        const name =
          key === 'RangeVar' || key === 'relation' ? (inner as { relname?: string } | null)?.relname : undefined;
        if (name) names.add(name);
        look(inner);
      }
  };
  try {
    const tree: Node = parseOne(sql);
    look(tree);
  } catch {
    return []; // said when the statement is rewritten
  }
  return [...names];
}
