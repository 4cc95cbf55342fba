import { baseColumn } from './provenance.ts';
import { type KnownRelation, type RelationName, SYSTEM_COLUMNS } from './schema.ts';
import { type ColumnId, columnId, type Influences, type Provenance } from './types.ts';

/** One field of a row that a statement made itself. */
export interface Field {
  readonly name: string;
  readonly provenance: Provenance;
}

/** One column that a name can mean. `base` is set when it is a column of a relation itself, not of a subquery. */
export interface ScopeColumn {
  readonly name: string;
  readonly provenance: Provenance;
  readonly base: readonly ColumnId[];
  /** Set when its value is a row, or rows, of a relation's type: `(value).field` then names a column of that type. */
  readonly row?: RelationName;
  /** Set when its value is a row, or rows, made by the statement itself: each field has its own sources. */
  readonly fields?: readonly Field[];
}

/** One thing in FROM with its alias. */
export interface ScopeItem {
  readonly alias: string;
  readonly schema?: string;
  readonly columns: readonly ScopeColumn[];
  /** Set when the columns are not (all) known: answers for a name that is not among them. */
  readonly other?: (name: string) => ScopeColumn;
  /** A base relation, whose system columns can be named. */
  readonly relation?: { readonly schema: string; readonly name: string };
}

/** What FROM brings: the items that can qualify a name, and the columns an unqualified name or a star sees, in order. */
export interface Namespace {
  readonly items: readonly ScopeItem[];
  readonly columns: readonly ScopeColumn[];
}

/** A derived table: its columns, and what decided its rows. */
export interface Derived {
  readonly columns: readonly (Field & { readonly row?: RelationName; readonly fields?: readonly Field[] })[];
  readonly rows: Influences;
}

/** A name of WITH; analysed when first named, so that one that nobody reads influences nothing. */
export interface CteEntry {
  readonly name: string;
  readonly read: () => Derived;
}

/** Where names are looked up: this query's FROM, then the queries around it. */
export class Scope {
  namespace: Namespace = { items: [], columns: [] };
  readonly parent: Scope | undefined;
  readonly #ctesFrom: Scope | undefined;
  readonly #ctes = new Map<string, CteEntry>();

  /**
   * @param parent the query around, whose columns can be named
   * @param ctesFrom where names of WITH are looked up next, when that is not the parent
   */
  constructor(parent?: Scope, ctesFrom: Scope | undefined = parent) {
    this.parent = parent;
    this.#ctesFrom = ctesFrom;
  }

  addCte(entry: CteEntry): void {
    this.#ctes.set(entry.name, entry);
  }

  /** The names of WITH of this query alone, in the order in which they were added. */
  ownCtes(): CteEntry[] {
    return [...this.#ctes.values()];
  }

  cte(name: string): CteEntry | undefined {
    return this.#ctes.get(name) ?? this.#ctesFrom?.cte(name);
  }

  item(alias: string, schema?: string): ScopeItem | undefined {
    for (let scope: Scope | undefined = this; scope; scope = scope.parent) {
      const found = scope.namespace.items.find(
        (item) => item.alias === alias && (schema === undefined || item.schema === schema),
      );
      if (found) return found;
    }
    return undefined;
  }

  /** The column that an unqualified name means, or undefined when no scope has it. */
  column(name: string): ScopeColumn | undefined {
    for (let scope: Scope | undefined = this; scope; scope = scope.parent) {
      const found = scope.namespace.columns.find((column) => column.name === name);
      if (found) return found;
      const open = scope.namespace.items.filter((item) => item.other);
      // A name that also is an alias means the whole row; otherwise the one relation of unknown shape must have it.
      if (open.length > 0 && !scope.namespace.items.some((item) => item.alias === name)) {
        const [first] = open;
        if (open.length === 1 && first?.other) return first.other(name);
      }
      if (SYSTEM_COLUMNS.has(name)) {
        const relations = scope.namespace.items.filter((item) => item.relation);
        const [only] = relations;
        if (relations.length === 1 && only) return columnOf(only, name);
      }
    }
    return undefined;
  }
}

/** A column of one item, by name: known, assumed (shape unknown), or a system column of a table. */
export function columnOf(item: ScopeItem, name: string): ScopeColumn | undefined {
  const known = item.columns.find((column) => column.name === name);
  if (known) return known;
  if (item.other) return item.other(name);
  if (item.relation && SYSTEM_COLUMNS.has(name)) return relationColumn(item.relation.schema, item.relation.name, name);
  return undefined;
}

/** The columns of a relation that is known, as a scope sees them. */
export function relationColumns(known: KnownRelation): ScopeColumn[] {
  return known.columns.map((name) => {
    const row = known.rowTypes?.[name];
    return { ...relationColumn(known.schema, known.name, name), ...(row ? { row } : {}) };
  });
}

/** A column of a table or view as a scope sees it. */
export function relationColumn(schema: string, relation: string, name: string): ScopeColumn {
  const id = columnId(schema, relation, name);
  return { name, provenance: baseColumn(id), base: [id] };
}
