/** A table as a reader is shown it: with the columns that they may read. */
export interface ShownTable {
  readonly id: string;
  readonly schema: string;
  readonly name: string;
  readonly kind: 'table' | 'view' | 'materialised view';
  readonly comment: string | null;
  readonly columns: readonly {
    readonly name: string;
    /** As PostgreSQL writes it; `text` where it comes masked. */
    readonly type: string;
    readonly nullable: boolean;
    readonly comment: string | null;
  }[];
}

/** All that a reader is told of a source by its own catalog. */
export interface ShownCatalog {
  readonly database: string;
  readonly user: string;
  readonly tables: readonly ShownTable[];
}

/** Numbers, lengths and alignments of types that columns have; what else there is goes over as text. */
const TYPES: ReadonlyMap<string, readonly [id: number, length: number]> = new Map(
  Object.entries({
    boolean: [16, 1],
    bytea: [17, -1],
    '"char"': [18, 1],
    name: [19, 64],
    bigint: [20, 8],
    smallint: [21, 2],
    integer: [23, 4],
    text: [25, -1],
    oid: [26, 4],
    json: [114, -1],
    xml: [142, -1],
    real: [700, 4],
    'double precision': [701, 8],
    money: [790, 8],
    inet: [869, -1],
    cidr: [650, -1],
    character: [1042, -1],
    'character varying': [1043, -1],
    date: [1082, 4],
    'time without time zone': [1083, 8],
    'timestamp without time zone': [1114, 8],
    'timestamp with time zone': [1184, 8],
    interval: [1186, 16],
    'time with time zone': [1266, 12],
    numeric: [1700, -1],
    uuid: [2950, 16],
    jsonb: [3802, -1],
    'integer[]': [1007, -1],
    'text[]': [1009, -1],
    'bigint[]': [1016, -1],
  } satisfies Record<string, [number, number]>),
);
const TEXTS: ReadonlySet<number> = new Set([18, 19, 25, 1042, 1043]);

interface TypeFacts {
  readonly id: number;
  readonly length: number;
  readonly modifier: number;
  /** Without what stands in brackets. */
  readonly name: string;
}
function typeOf(written: string): TypeFacts {
  const [, base = '', inner, behind = ''] = /^([^(]*)(?:\(([\d, ]+)\))?(.*)$/.exec(written.trim()) ?? [];
  const name = `${base.trim()}${behind}`.trim();
  const [id, length] = TYPES.get(name) ?? [25, -1];
  const [first, second = 0] = (inner ?? '').split(',').map(Number);
  const modifier =
    inner === undefined || !first
      ? -1
      : id === 1700
        ? ((first << 16) | second) + 4
        : id === 1042 || id === 1043
          ? first + 4
          : -1;
  return { id, length, modifier, name: TYPES.has(name) ? name : 'text' };
}

/** What stands for what the catalog of the source would tell: nothing of it but what the reader is shown. */
export class Shown {
  readonly #catalog: ShownCatalog;
  readonly #numbers = new Map<string, number>();

  constructor(catalog: ShownCatalog) {
    this.#catalog = catalog;
    const taken = new Set<number>();
    const give = (key: string, wanted: number) => {
      let number = wanted;
      while (taken.has(number)) number = number === 0xffff_fffe ? 0x8000_0000 : number + 1;
      taken.add(number);
      this.#numbers.set(key, number);
    };
    // Numbers are those of no object of any source, and the same as long as the table is the same.
    for (const { id } of [...catalog.tables].sort((a, b) => (a.id < b.id ? -1 : 1)))
      give(id, (Number.parseInt(id.replaceAll('-', '').slice(0, 8), 16) | 0x8000_0000) >>> 0);
    this.schemas.forEach((schema, at) => give(`schema ${schema}`, 0x7f00_0000 + at));
  }

  get schemas(): string[] {
    return [...new Set(this.#catalog.tables.map(({ schema }) => schema))].sort();
  }

  get database(): string {
    return this.#catalog.database;
  }

  get user(): string {
    return this.#catalog.user;
  }

  /** The number of a table by its name; null where none is shown under it. */
  tableNumber(name: string): number | null {
    const own = CATALOGS.get(name.replace(/^pg_catalog\./, ''));
    if (own !== undefined) return own;
    const [, schema, table] = /^(?:"?([^".]+)"?\.)?"?([^".]+)"?$/.exec(name) ?? [];
    const found = this.#catalog.tables.filter((one) => one.name === table && (!schema || one.schema === schema));
    return found.length === 1 && found[0] ? (this.#numbers.get(found[0].id) ?? null) : null;
  }

  #number(key: string): number {
    return this.#numbers.get(key) ?? 0;
  }

  /** @param only numbers of the tables that are wanted; null: all */
  rowsOf(relation: string, only: ReadonlySet<number> | null): object[] | null {
    const { tables } = this.#catalog;
    const wanted = tables.filter(({ id }) => only === null || only.has(this.#number(id)));
    const at = (schema: string) => this.#number(`schema ${schema}`);
    switch (relation) {
      case 'pg_catalog.pg_namespace':
        return [
          ...this.schemas.map((schema) => ({ oid: at(schema), nspname: schema, nspowner: 10 })),
          { oid: 11, nspname: 'pg_catalog', nspowner: 10 },
        ];
      case 'pg_catalog.pg_class':
        return tables.map((table) => ({
          oid: this.#number(table.id),
          relname: table.name,
          relnamespace: at(table.schema),
          relkind: { table: 'r', view: 'v', 'materialised view': 'm' }[table.kind],
          relnatts: table.columns.length,
          ...CLASS,
        }));
      case 'pg_catalog.pg_attribute':
        return wanted.flatMap((table) =>
          table.columns.map((column, nth) => {
            const type = typeOf(column.type);
            return {
              attrelid: this.#number(table.id),
              attname: column.name,
              attnum: nth + 1,
              atttypid: type.id,
              attlen: type.length,
              atttypmod: type.modifier,
              attnotnull: !column.nullable,
              attcollation: TEXTS.has(type.id) ? 100 : 0,
              ...ATTRIBUTE,
            };
          }),
        );
      case 'pg_catalog.pg_description':
        return wanted.flatMap((table) =>
          [{ comment: table.comment }, ...table.columns].flatMap(({ comment }, nth) =>
            comment ? [{ objoid: this.#number(table.id), classoid: 1259, objsubid: nth, description: comment }] : [],
          ),
        );
      case 'pg_catalog.pg_tables':
        return tables.flatMap(({ kind, schema, name }) =>
          kind === 'table'
            ? [
                {
                  schemaname: schema,
                  tablename: name,
                  tableowner: 'idrel',
                  hasindexes: false,
                  hasrules: false,
                  hastriggers: false,
                  rowsecurity: false,
                },
              ]
            : [],
        );
      case 'pg_catalog.pg_views':
        return tables.flatMap(({ kind, schema, name }) =>
          kind === 'view' ? [{ schemaname: schema, viewname: name, viewowner: 'idrel' }] : [],
        );
      case 'pg_catalog.pg_matviews':
        return tables.flatMap(({ kind, schema, name }) =>
          kind === 'materialised view'
            ? [{ schemaname: schema, matviewname: name, matviewowner: 'idrel', ispopulated: true }]
            : [],
        );
      case 'pg_catalog.pg_database':
        return [
          {
            oid: 1,
            datname: this.database,
            datdba: 10,
            encoding: 6,
            datcollate: 'C',
            datctype: 'C',
            datistemplate: false,
            datallowconn: true,
            datconnlimit: -1,
          },
        ];
      case 'pg_catalog.pg_roles':
      case 'pg_catalog.pg_user':
        return relation.endsWith('user')
          ? [
              {
                usename: this.user,
                usesysid: 10,
                usecreatedb: false,
                usesuper: false,
                userepl: false,
                usebypassrls: false,
              },
            ]
          : [
              {
                oid: 10,
                rolname: this.user,
                rolsuper: false,
                rolinherit: true,
                rolcreaterole: false,
                rolcreatedb: false,
                rolcanlogin: true,
                rolreplication: false,
                rolbypassrls: false,
                rolconnlimit: -1,
              },
            ];
      case 'information_schema.schemata':
        return this.schemas.map((schema) => ({
          catalog_name: this.database,
          schema_name: schema,
          schema_owner: 'idrel',
        }));
      case 'information_schema.tables':
        return tables.map(({ schema, name, kind }) => ({
          table_catalog: this.database,
          table_schema: schema,
          table_name: name,
          table_type: kind === 'table' ? 'BASE TABLE' : 'VIEW',
          is_insertable_into: 'NO',
          is_typed: 'NO',
        }));
      case 'information_schema.views':
        return tables.flatMap(({ schema, name, kind }) =>
          kind === 'table'
            ? []
            : [{ table_catalog: this.database, table_schema: schema, table_name: name, is_updatable: 'NO' }],
        );
      case 'information_schema.columns':
        return tables.flatMap(({ schema, name, columns }) =>
          columns.map((column, nth) => {
            const type = typeOf(column.type);
            return {
              table_catalog: this.database,
              table_schema: schema,
              table_name: name,
              column_name: column.name,
              ordinal_position: nth + 1,
              is_nullable: column.nullable ? 'YES' : 'NO',
              data_type: type.name,
              ...((type.id === 1042 || type.id === 1043) && type.modifier > 0
                ? { character_maximum_length: type.modifier - 4 }
                : {}),
              udt_catalog: this.database,
              udt_schema: 'pg_catalog',
              udt_name: UDT[type.name] ?? type.name,
              is_identity: 'NO',
              is_generated: 'NEVER',
              is_updatable: 'NO',
            };
          }),
        );
      default:
        return null;
    }
  }
}
/** Numbers of relations of the catalog itself, by which descriptions name what they are of: the same everywhere. */
const CATALOGS: ReadonlyMap<string, number> = new Map(
  Object.entries({
    pg_type: 1247,
    pg_attribute: 1249,
    pg_proc: 1255,
    pg_class: 1259,
    pg_database: 1262,
    pg_constraint: 2606,
    pg_namespace: 2615,
  }),
);
const CLASS = {
  relowner: 10,
  reltype: 0,
  reloftype: 0,
  relam: 2,
  relfilenode: 0,
  reltablespace: 0,
  relpages: 0,
  reltuples: -1,
  relallvisible: 0,
  reltoastrelid: 0,
  relhasindex: false,
  relisshared: false,
  relpersistence: 'p',
  relchecks: 0,
  relhasrules: false,
  relhastriggers: false,
  relhassubclass: false,
  relrowsecurity: false,
  relforcerowsecurity: false,
  relispopulated: true,
  relreplident: 'd',
  relispartition: false,
  relrewrite: 0,
};
const ATTRIBUTE = {
  attstattarget: -1,
  attndims: 0,
  attcacheoff: -1,
  attbyval: false,
  attalign: 'i',
  attstorage: 'p',
  attcompression: '',
  atthasdef: false,
  atthasmissing: false,
  attidentity: '',
  attgenerated: '',
  attisdropped: false,
  attislocal: true,
  attinhcount: 0,
};
const UDT: Readonly<Record<string, string>> = {
  boolean: 'bool',
  bigint: 'int8',
  smallint: 'int2',
  integer: 'int4',
  real: 'float4',
  'double precision': 'float8',
  character: 'bpchar',
  'character varying': 'varchar',
  'time without time zone': 'time',
  'timestamp without time zone': 'timestamp',
  'timestamp with time zone': 'timestamptz',
  'time with time zone': 'timetz',
  'integer[]': '_int4',
  'text[]': '_text',
  'bigint[]': '_int8',
};
