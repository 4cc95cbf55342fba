import { isMachinery } from './callableRule.ts';
import decided from './data/callables.json' with { type: 'json' };

/** A function, aggregate or window function as the source's own catalog describes it; types by their plain names (`int4`, `_text`), joined by commas. */
export interface FunctionFact {
  readonly schema: string;
  readonly name: string;
  readonly args: string;
  readonly result: string;
  /** Fewest and most arguments; any number beyond when it is variadic. */
  readonly required: number;
  readonly most: number;
  readonly variadic: boolean;
  /** i: immutable, s: stable, v: volatile. */
  readonly volatility: string;
  /** The extension it came with. */
  readonly extension: string | null;
}

/** An operator with the function behind it. */
export interface OperatorFact {
  readonly schema: string;
  readonly name: string;
  readonly function: Pick<FunctionFact, 'schema' | 'name' | 'args' | 'result' | 'volatility' | 'extension'>;
}

/** A type of an extension, or one for which somebody wrote a conversion of their own. */
export interface TypeFact {
  readonly schema: string;
  readonly name: string;
  /** As the catalog writes it among columns. */
  readonly written: string;
  readonly extension: string | null;
  /** A function that a conversion from this type calls, when it is neither PostgreSQL's nor a known extension's: `schema.name(args)`. */
  readonly convertedBy: string | null;
}

/** What a source has that a statement can call, read from its own catalog. */
export interface CallableFacts {
  readonly functions: readonly FunctionFact[];
  readonly operators: readonly OperatorFact[];
  readonly types: readonly TypeFact[];
  /** Names of all types of PostgreSQL's own schema, and of those of known extensions. */
  readonly typeNames: readonly { readonly schema: string; readonly name: string }[];
}

/** Extensions whose immutable and stable functions compute over their arguments alone. `tablefunc` and `dblink`, which take statements, are none of them. */
export const KNOWN_EXTENSIONS: ReadonlySet<string> = new Set([
  'citext',
  'cube',
  'earthdistance',
  'fuzzystrmatch',
  'hstore',
  'intarray',
  'isn',
  'ltree',
  'pg_trgm',
  'seg',
  'unaccent',
]);

const SYSTEM = 'pg_catalog';
const lists = (kind: Readonly<Record<string, readonly string[]>>) =>
  new Set(Object.entries(kind).flatMap(([name, all]) => all.map((args) => `${name}(${args})`)));
const ALLOWED = lists(decided.allowed);
const REFUSED = lists(decided.refused);

/** What stands in data/callables.json for a function of PostgreSQL's own schema; machinery is refused without standing there. */
export function decisionOn(fact: FunctionFact): 'allowed' | 'refused' | 'undecided' {
  const signature = `${fact.name}(${fact.args})`;
  if (ALLOWED.has(signature)) return 'allowed';
  return REFUSED.has(signature) || isMachinery(fact) ? 'refused' : 'undecided';
}

function mayRun(fact: OperatorFact['function']): boolean {
  if (fact.schema === SYSTEM && fact.extension === null) return ALLOWED.has(`${fact.name}(${fact.args})`);
  const known = fact.extension !== null && KNOWN_EXTENSIONS.has(fact.extension);
  return known && fact.volatility !== 'v' && !isMachinery(fact);
}

/** What the names of a statement can mean at the source. */
export type Meaning = 'allowed' | 'refused' | 'unknown';

const group = <T>(rows: readonly T[], key: (row: T) => string): Map<string, T[]> => {
  const groups = new Map<string, T[]>();
  for (const row of rows) {
    const found = groups.get(key(row));
    if (found) found.push(row);
    else groups.set(key(row), [row]);
  }
  return groups;
};

/**
 * Decides what may be called, for one source. A name can stand for several functions, and which one it is depends on types that only the
 * source works out; so a name passes when every function that it could come to be is allowed.
 */
export class Callables {
  readonly #functions: Map<string, FunctionFact[]>;
  readonly #operators: Map<string, OperatorFact[]>;
  readonly #types: Map<string, TypeFact>;
  readonly #written: Map<string, TypeFact>;
  readonly #typeNames: Set<string>;
  /** Schemas of known extensions, in which names are looked up when a statement needs them. */
  readonly extensionSchemas: readonly string[];

  constructor(facts: CallableFacts) {
    this.#functions = group(facts.functions, (fact) => `${fact.schema}.${fact.name}`);
    this.#operators = group(facts.operators, (fact) => `${fact.schema}.${fact.name}`);
    this.#types = new Map(facts.types.map((type) => [`${type.schema}.${type.name}`, type]));
    this.#written = new Map(facts.types.map((type) => [type.written, type]));
    this.#typeNames = new Set(facts.typeNames.map((type) => `${type.schema}.${type.name}`));
    const known = [...facts.functions, ...facts.types].filter(
      (fact) => fact.extension !== null && KNOWN_EXTENSIONS.has(fact.extension) && fact.schema !== SYSTEM,
    );
    this.extensionSchemas = [...new Set(known.map((fact) => fact.schema))].sort();
  }

  /** The schemas in which a name is looked up: PostgreSQL's own, and those of known extensions when the statement needs them. */
  path(extensions: boolean): readonly string[] {
    return extensions ? [SYSTEM, ...this.extensionSchemas] : [SYSTEM];
  }

  /** Where a function of this name stands: PostgreSQL's own schema before those of known extensions; undefined when in none. */
  schemaOf(name: string): string | undefined {
    return this.path(true).find((schema) => this.#functions.has(`${schema}.${name}`));
  }

  /** @param count number of arguments; null when it cannot be told, so that all of the name count */
  function(path: readonly string[], name: string, count: number | null): Meaning {
    const candidates = path
      .flatMap((schema) => this.#functions.get(`${schema}.${name}`) ?? [])
      .filter(
        (fact) =>
          count === null || (count >= fact.required && count <= fact.most) || (fact.variadic && count >= fact.most - 1),
      );
    if (candidates.length === 0) return 'unknown';
    return candidates.every(mayRun) ? 'allowed' : 'refused';
  }

  operator(path: readonly string[], name: string): Meaning {
    const candidates = path.flatMap((schema) => this.#operators.get(`${schema}.${name}`) ?? []);
    if (candidates.length === 0) return 'unknown';
    return candidates.every((operator) => mayRun(operator.function)) ? 'allowed' : 'refused';
  }

  /** A type of a known extension, by the name a statement uses. */
  isExtensionType(schema: string | undefined, name: string): boolean {
    const schemas = schema === undefined ? this.extensionSchemas : [schema];
    return schemas.some((entry) => {
      const extension = this.#types.get(`${entry}.${name}`)?.extension;
      return typeof extension === 'string' && KNOWN_EXTENSIONS.has(extension);
    });
  }

  /** Whether a name is a type that is neither among the permitted ones nor a known extension's. */
  isOtherType(path: readonly string[], name: string, permitted: ReadonlySet<string>): boolean {
    return path.some(
      (schema) =>
        this.#typeNames.has(`${schema}.${name}`) &&
        !(schema === SYSTEM ? permitted.has(name) : this.isExtensionType(schema, name)),
    );
  }

  /** What is known of the type that a column has, as the catalog writes it: undefined for PostgreSQL's own and plain ones. */
  columnType(written: string): TypeFact | undefined {
    return this.#written.get(written.replace(/(\[\])+$/, '').replace(/\(.*\)/, ''));
  }

  /** A type of PostgreSQL's own from which somebody wrote a conversion: no statement can be trusted then. */
  convertedOwn(): TypeFact | undefined {
    return [...this.#types.values()].find((type) => type.schema === SYSTEM && type.convertedBy !== null);
  }
}
