import type { Callables } from './callables.ts';
import { PERMITTED_TYPES } from './permitted.ts';
import { RefusedStatement } from './refused.ts';

/** Operators that a statement uses without writing them: IN, BETWEEN, LIKE, USING, CASE … WHEN, DISTINCT, NULLIF. */
const UNWRITTEN = ['=', '<>', '<', '<=', '>', '>=', '~~', '!~~', '~~*', '!~~*', '~', '!~'];
const SYSTEM = 'pg_catalog';

/** Thrown when names must be looked up in the schemas of known extensions too; the statement is then looked at again with those. */
export class NeedsExtensions extends Error {}

/**
 * What the names of one statement may come to mean. PostgreSQL reads `(x).f` and `p.f` as `f(x)` where there is no column f, and chooses among
 * functions and operators of one name by types: so each name is held to all that it could become.
 */
export class Meanings {
  readonly #callables: Callables;
  readonly #extensions: boolean;
  readonly path: readonly string[];
  readonly #columnsOf = new Map<string, ReadonlySet<string> | null>();
  readonly #tails: { readonly before: string | null; readonly name: string }[] = [];

  constructor(callables: Callables, extensions: boolean) {
    this.#callables = callables;
    this.#extensions = extensions;
    this.path = callables.path(extensions);
    const own = callables.convertedOwn();
    if (own)
      throw new RefusedStatement(
        'source',
        `The source turns values of the type ${own.name} into others by a function of its own (${own.convertedBy}), which the gateway cannot judge.`,
      );
    for (const operator of UNWRITTEN)
      if (callables.operator(this.path, operator) === 'refused') throw this.#operatorRefused(operator);
  }

  #operatorRefused(name: string): RefusedStatement {
    return new RefusedStatement(
      'function',
      `The operator ${name} calls something at the source that may not be called through the gateway.`,
    );
  }

  #needsExtensions(): void {
    if (!this.#extensions && this.#callables.extensionSchemas.length > 0) throw new NeedsExtensions();
  }

  #isKnownSchema(schema: string): boolean {
    return schema === SYSTEM || this.#callables.extensionSchemas.includes(schema);
  }

  /**
   * @param count number of arguments, null when it cannot be told
   * @returns the schema that must be written before the name, if any
   */
  called(names: readonly string[], count: number | null): string | undefined {
    const name = names.at(-1) ?? '';
    const type =
      names.length === 1 &&
      count === 1 &&
      PERMITTED_TYPES.has(name) &&
      this.#callables.function(this.path, name, 1) === 'unknown';
    if (type) return undefined; // PostgreSQL reads it as a conversion
    const refused = new RefusedStatement(
      'function',
      `The function ${names.join('.')} may not be called through the gateway.`,
    );
    if (names.length > 2 || (names.length === 2 && !this.#isKnownSchema(names[0] ?? ''))) throw refused;
    const plain = names.length === 1;
    const home =
      plain && this.#callables.function(this.path, name, null) === 'unknown'
        ? this.#callables.schemaOf(name)
        : undefined;
    const path = plain ? (home ? [home] : this.path) : [names[0] ?? ''];
    const meaning = this.#callables.function(path, name, count);
    // A number of arguments that no function of the name takes is for the source to refuse, in its words.
    if (meaning !== 'allowed' && (meaning === 'refused' || this.#callables.function(path, name, null) !== 'allowed'))
      throw refused;
    return home;
  }

  operator(names: readonly string[]): void {
    const name = names.at(-1) ?? '';
    if (names.length > 2 || (names.length === 2 && !this.#isKnownSchema(names[0] ?? '')))
      throw new RefusedStatement('function', 'Operators of other schemas may not be used through the gateway.');
    const meaning = this.#callables.operator(names.length === 2 ? [names[0] ?? ''] : this.path, name);
    if (meaning === 'unknown') this.#needsExtensions();
    if (meaning !== 'allowed') throw this.#operatorRefused(name);
  }

  type(names: readonly string[]): void {
    const name = names.at(-1) ?? '';
    const system = names.length === 1 || (names.length === 2 && names[0] === SYSTEM);
    if (system && PERMITTED_TYPES.has(name)) return;
    if (names.length <= 2 && this.#callables.isExtensionType(names.length === 2 ? names[0] : undefined, name)) {
      this.#needsExtensions();
      return;
    }
    throw new RefusedStatement('type', `Values may not be turned into ${names.join('.')} through the gateway.`);
  }

  /** Whether a column of this type may be handed to the statement. */
  isSafeColumn(type: string): boolean {
    const fact = this.#callables.columnType(type);
    if (!fact) return true;
    if (fact.convertedBy !== null) return false;
    if (fact.extension !== null && this.#callables.isExtensionType(fact.schema, fact.name)) this.#needsExtensions();
    return true;
  }

  /** Notes what a name before a dot can stand for; null when its columns are not known. Two of one name stand for what both have. */
  range(name: string, columns: readonly string[] | null): void {
    const known = this.#columnsOf.get(name);
    const both =
      columns === null || known === null
        ? null
        : new Set(known ? columns.filter((column) => known.has(column)) : columns);
    this.#columnsOf.set(name, both);
  }

  /** Notes a name behind a dot, to be judged when all ranges are known. */
  tail(before: string | null, name: string): void {
    this.#tails.push({ before, name });
  }

  /** @throws RefusedStatement when a name behind a dot could be read as a function or type that may not be used */
  judgeTails(): void {
    for (const { before, name } of this.#tails) {
      const harmless =
        this.#callables.function(this.path, name, 1) !== 'refused' &&
        !this.#callables.isOtherType(this.path, name, PERMITTED_TYPES);
      if (harmless || (before !== null && this.#columnsOf.get(before)?.has(name))) continue;
      throw new RefusedStatement(
        'construct',
        `“${name}” behind a dot can be read as a function or a type of that name, and as such may not be used through the gateway. Give the column another name in a subquery.`,
      );
    }
  }
}
