/** A table or view whose columns are known, in order. */
export interface KnownRelation {
  readonly schema: string;
  readonly name: string;
  readonly columns: readonly string[];
  /** Types of columns, by name, as a statement that defines the relation writes them. */
  readonly types?: Readonly<Record<string, string>>;
  /** Columns that hold a row (or rows) of another relation's type, by name. */
  readonly rowTypes?: Readonly<Record<string, RelationName>>;
}

export interface RelationName {
  readonly schema: string;
  readonly relation: string;
}

/** What is known of a function: only what lineage needs. */
export interface KnownFunction {
  readonly schema: string;
  readonly name: string;
  readonly aggregate: boolean;
  /** Output columns when the function stands in FROM and returns a row type of its own. */
  readonly columns?: readonly string[];
  /** The relation whose row type it returns (`setof core.booking`). */
  readonly returns?: RelationName;
}

/** Databases whose rules for names differ: the order of columns that USING and NATURAL give. */
export type Dialect = 'postgresql' | 'sqlite' | 'mariadb';

/** Columns that every table has without declaring them. */
export const SYSTEM_COLUMNS: ReadonlySet<string> = new Set(['ctid', 'xmin', 'xmax', 'cmin', 'cmax', 'tableoid']);

/** Where temporary tables are: looked into before everything else. */
export const TEMPORARY_SCHEMA = 'pg_temp';

/**
 * The relations and functions that statements may name, found the way PostgreSQL finds them: by schema, or along a search path.
 */
export class SchemaCatalog {
  /** Null: known around this one, and gone here. */
  readonly #relations = new Map<string, KnownRelation | null>();
  readonly #functions = new Map<string, KnownFunction[]>();
  readonly #types = new Map<string, readonly string[]>();
  readonly #given: readonly string[];
  #path: readonly string[];
  #around: SchemaCatalog | undefined;

  /** Whose rules names follow. */
  readonly dialect: Dialect;

  /** @param searchPath schemas tried in order for a name without one; the first that is not `pg_catalog` takes new relations */
  constructor(searchPath: readonly string[] = ['pg_catalog', 'public'], dialect: Dialect = 'postgresql') {
    this.dialect = dialect;
    this.#given = searchPath;
    this.#path = searchPath;
  }

  /** The same for a stretch of statements of its own: what these make, change and drop is not known outside of it. */
  within(searchPath: readonly string[] = this.#path): SchemaCatalog {
    const inner = new SchemaCatalog(searchPath, this.dialect);
    inner.#around = this;
    return inner;
  }

  get searchPath(): readonly string[] {
    return this.#path;
  }

  /** What SET search_path does; null: as it was given. `pg_catalog` is looked into first when it is not named. */
  setSearchPath(schemas: readonly string[] | null): void {
    this.#path = schemas === null ? this.#given : schemas.includes('pg_catalog') ? schemas : ['pg_catalog', ...schemas];
  }

  /** The schema in which an unknown or new relation without a schema is assumed to live. */
  get defaultSchema(): string {
    return this.searchPath.find((schema) => schema !== 'pg_catalog') ?? 'public';
  }

  static #key(schema: string, name: string): string {
    return `${schema}\u0000${name}`;
  }

  /** All relations that are known, in the order in which they came. */
  relations(): KnownRelation[] {
    const own = [...this.#relations.values()].filter((relation) => relation !== null);
    const around = (this.#around?.relations() ?? []).filter(
      ({ schema, name }) => this.#relations.get(SchemaCatalog.#key(schema, name)) === undefined,
    );
    return [...around, ...own];
  }

  addRelation(relation: KnownRelation): void {
    this.#relations.set(SchemaCatalog.#key(relation.schema, relation.name), relation);
  }

  removeRelation(schema: string | undefined, name: string): void {
    const known = this.relation(schema, name);
    if (!known) return;
    if (this.#around) this.#relations.set(SchemaCatalog.#key(known.schema, known.name), null);
    else this.#relations.delete(SchemaCatalog.#key(known.schema, known.name));
  }

  addFunction(fn: KnownFunction): void {
    const known = this.#functions.get(fn.name);
    if (known) known.push(fn);
    else this.#functions.set(fn.name, [fn]);
  }

  /** A composite type with its columns: no relation, so nothing comes from it. */
  addType(schema: string, name: string, columns: readonly string[]): void {
    this.#types.set(SchemaCatalog.#key(schema, name), columns);
  }

  type(schema: string | undefined, name: string): readonly string[] | undefined {
    const schemas = schema === undefined ? this.searchPath : [schema];
    return (
      schemas
        .map((entry) => this.#types.get(SchemaCatalog.#key(entry, name)))
        .find((columns) => columns !== undefined) ??
      (schema === undefined
        ? this.searchPath.map((entry) => this.#around?.type(entry, name)).find((columns) => columns !== undefined)
        : this.#around?.type(schema, name))
    );
  }

  relation(schema: string | undefined, name: string): KnownRelation | undefined {
    if (schema) {
      const own = this.#relations.get(SchemaCatalog.#key(schema, name));
      return own === undefined ? this.#around?.relation(schema, name) : (own ?? undefined);
    }
    for (const candidate of [TEMPORARY_SCHEMA, ...this.searchPath]) {
      const found = this.relation(candidate, name);
      if (found) return found;
    }
    return undefined;
  }

  /** All functions of that name (overloads are not told apart: argument types are not known here). */
  functions(schema: string | undefined, name: string): readonly KnownFunction[] {
    const all = this.#functions.get(name) ?? [];
    const own = schema ? all.filter((fn) => fn.schema === schema) : all;
    return this.#around ? [...this.#around.functions(schema, name), ...own] : own;
  }
}
