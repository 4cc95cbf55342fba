import { type Dialect, SchemaCatalog } from './schema.ts';
import { readScript } from './statements.ts';
import type { Unresolved } from './types.ts';

/** A script by its path. */
export interface ScriptFile {
  readonly path: string;
  readonly text: string;
}

/** A column that scripts make or fill. */
export interface MadeColumn {
  /** As it was written; null where it follows from a query. */
  readonly type: string | null;
  /** What its values come from, each `schema.relation.column` with what happens to it. */
  readonly from: ReadonlyMap<string, string>;
}
export interface MadeRelation {
  readonly schema: string;
  readonly name: string;
  /** Columns in their order. */
  readonly columns: ReadonlyMap<string, MadeColumn>;
}

/** What a set of scripts makes: tables and views with their columns, and where the values of each come from. */
export interface MadeByScripts {
  readonly relations: ReadonlyMap<string, MadeRelation>;
  readonly unresolved: readonly (Unresolved & { readonly path: string })[];
}

const keyOf = (schema: string, name: string) => `${schema}.${name}`;

/**
 * What scripts make when they are run one after the other, in the order of their paths: definitions, what alters and drops them, and what fills them.
 * {@link loadParser} must have finished. Takes time in the length of the scripts.
 */
export function madeByScripts(files: readonly ScriptFile[], dialect: Dialect = 'postgresql'): MadeByScripts {
  const catalog = dialect === 'postgresql' ? new SchemaCatalog() : new SchemaCatalog(['main'], dialect);
  const from = new Map<string, Map<string, Map<string, string>>>();
  const unresolved: (Unresolved & { path: string })[] = [];
  for (const { path, text } of files.toSorted((a, b) => (a.path < b.path ? -1 : 1))) {
    const read = readScript(text, catalog);
    unresolved.push(...read.unresolved.map((one) => ({ ...one, path })));
    for (const { kind, target, edges } of read.statements) {
      if (kind === 'select' || kind === 'function' || kind === 'child') continue;
      const key = keyOf(target.schema, target.relation);
      // A view or a table that is made anew is made of what stands there now.
      const isMade = kind === 'view' || kind === 'materialised view' || kind === 'table';
      const columns = (isMade ? undefined : from.get(key)) ?? new Map<string, Map<string, string>>();
      for (const { from: base, to, kind: how } of edges) {
        const sources = columns.get(to) ?? new Map<string, string>();
        sources.set(`${base.schema}.${base.relation}.${base.column}`, how);
        columns.set(to, sources);
      }
      from.set(key, columns);
    }
  }
  const relations = new Map<string, MadeRelation>();
  for (const { schema, name, columns, types = {} } of catalog.relations())
    relations.set(keyOf(schema, name), {
      schema,
      name,
      columns: new Map(
        columns.map((column) => [
          column,
          { type: types[column] ?? null, from: from.get(keyOf(schema, name))?.get(column) ?? new Map() },
        ]),
      ),
    });
  return { relations, unresolved };
}

export const CHANGES = ['dropped', 'renamed', 'retyped', 'made otherwise', 'added'] as const;
/** One thing that is different between two states of scripts. */
export interface ScriptChange {
  readonly what: (typeof CHANGES)[number];
  readonly schema: string;
  readonly relation: string;
  /** Null: the whole relation. */
  readonly column: string | null;
  /** In words: a type, the name it has now, what its values come from. */
  readonly before: string | null;
  readonly after: string | null;
}

const sourcesText = ({ from }: MadeColumn): string =>
  [...from]
    .map(([column, how]) => (how === 'copied' ? column : `${column} (${how})`))
    .sort()
    .join(', ');

/**
 * What is different between what scripts made before and after: gravest first, then by name. A column that is gone where another of the same type, made
 * of the same, stands in its place was renamed.
 */
export function changesBetween(before: MadeByScripts, after: MadeByScripts): ScriptChange[] {
  const changes: ScriptChange[] = [];
  for (const [key, was] of before.relations) {
    const now = after.relations.get(key);
    const { schema, name: relation } = was;
    if (now) changes.push(...changesOf(was, now));
    else changes.push({ what: 'dropped', schema, relation, column: null, before: null, after: null });
  }
  for (const [key, { schema, name: relation }] of after.relations)
    if (!before.relations.has(key))
      changes.push({ what: 'added', schema, relation, column: null, before: null, after: null });
  const rank = (change: ScriptChange) => CHANGES.indexOf(change.what);
  const name = ({ schema, relation, column }: ScriptChange) => `${schema}.${relation}.${column ?? ''}`;
  return changes.sort((a, b) => rank(a) - rank(b) || (name(a) < name(b) ? -1 : 1));
}

function changesOf(was: MadeRelation, now: MadeRelation): ScriptChange[] {
  const { schema, name: relation } = was;
  const say = (
    what: ScriptChange['what'],
    column: string,
    before: string | null = null,
    after: string | null = null,
  ): ScriptChange => ({ what, schema, relation, column, before, after });
  const changes: ScriptChange[] = [];
  const places = [...now.columns.keys()];
  const taken = new Set<string>();
  for (const [place, [column, made]] of [...was.columns].entries()) {
    const same = now.columns.get(column);
    if (same) {
      if (made.type !== same.type && made.type !== null && same.type !== null)
        changes.push(say('retyped', column, made.type, same.type));
      if (sourcesText(made) !== sourcesText(same))
        changes.push(say('made otherwise', column, sourcesText(made) || null, sourcesText(same) || null));
      continue;
    }
    const other = places[place];
    const there = other === undefined || was.columns.has(other) ? undefined : now.columns.get(other);
    const isRenamed = there && there.type === made.type && sourcesText(there) === sourcesText(made);
    if (isRenamed && other !== undefined) {
      taken.add(other);
      changes.push(say('renamed', column, column, other));
    } else changes.push(say('dropped', column));
  }
  for (const column of places) if (!was.columns.has(column) && !taken.has(column)) changes.push(say('added', column));
  return changes;
}
