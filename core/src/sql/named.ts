import type { Node } from '@pgsql/types';

/** A relation as a statement names it. */
export interface NamedRelation {
  readonly schema: string | undefined;
  readonly name: string;
  /** Whether the statement writes into it. */
  readonly written: boolean;
}

/** What a statement names. */
export interface Named {
  readonly relations: readonly NamedRelation[];
  /** Names of its own WITH queries, which hide relations that are called the same. */
  readonly own: ReadonlySet<string>;
  /** Names that it gives itself: to what it shows, and to its own queries. */
  readonly gives: ReadonlySet<string>;
  /** Schemas in which functions and types lie that it names with one. */
  readonly schemas: ReadonlySet<string>;
}

/** What a statement names anywhere in it. */
export function namedIn(tree: Node): Named {
  const relations: NamedRelation[] = [];
  const own = new Set<string>();
  const gives = new Set<string>();
  const schemas = new Set<string>();
  const give = (name: string | undefined) => {
    if (name) gives.add(name);
  };
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
          give(ctename);
        }
        // Targets of other statements are columns of what is written.
        if (key === 'SelectStmt')
          for (const target of (inner as { targetList?: { ResTarget?: { name?: string } }[] }).targetList ?? [])
            give(target.ResTarget?.name);
        if (key === 'RangeSubselect') give((inner as { alias?: { aliasname?: string } }).alias?.aliasname);
        if (key === 'funcname' || key === 'names') {
          const parts = (inner as { String?: { sval?: string } }[]).map((part) => part.String?.sval ?? '');
          if (parts.length > 1 && parts[0]) schemas.add(parts[0]);
        }
        look(inner);
      }
  };
  look(tree);
  return { relations, own, gives, schemas };
}
