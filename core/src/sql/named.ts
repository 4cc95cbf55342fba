import type { Node } from '@pgsql/types';

/** A relation as a statement names it. */
export interface NamedRelation {
  readonly schema: string | undefined;
  readonly name: string;
  /** Whether the statement writes into it. */
  readonly written: boolean;
}

/** Relations that a statement names anywhere in it, and the names of its own WITH queries, which hide relations that are called the same. */
export function namedIn(tree: Node): { relations: NamedRelation[]; own: ReadonlySet<string> } {
  const relations: NamedRelation[] = [];
  const own = new Set<string>();
  const look = (value: unknown): void => {
    if (Array.isArray(value)) for (const entry of value) look(entry);
    else if (value && typeof value === 'object')
      for (const [key, inner] of Object.entries(value)) {
        if (key === 'RangeVar' || key === 'relation') {
          const { relname, schemaname } = (inner ?? {}) as { relname?: string; schemaname?: string };
          if (relname) relations.push({ schema: schemaname, name: relname, written: key === 'relation' });
        }
        if (key === 'CommonTableExpr') {
          const { ctename } = (inner ?? {}) as { ctename?: string };
          if (ctename) own.add(ctename);
        }
        look(inner);
      }
  };
  look(tree);
  return { relations, own };
}
