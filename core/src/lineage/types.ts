import type { Node } from '@pgsql/types';

/** What a flow does to a value on its way, weakest first: a path takes the strongest kind met on it. */
export const VALUE_KINDS = ['copied', 'transformed', 'aggregated', 'masked'] as const;
export type ValueKind = (typeof VALUE_KINDS)[number];

/** How a column decides which rows come out, without its value being passed on. `unused`: read in a subquery, of no effect. */
export const INFLUENCE_KINDS = ['join', 'filter', 'group', 'sort', 'window', 'unused'] as const;
export type InfluenceKind = (typeof INFLUENCE_KINDS)[number];

/** Who told of a flow: a definition in its source, a link to another one, the body of a function, procedure, trigger or rule, a script, a statement that was asked at the source, an event of a run, a report, a published catalog, a program, or a person. */
export const FLOW_ORIGINS = [
  'view',
  'link',
  'routine',
  'script',
  'asked',
  'run event',
  'report',
  'provenance',
  'pushed',
  'by hand',
] as const;
export type FlowOrigin = (typeof FLOW_ORIGINS)[number];

/** A column of a relation, by its names. */
export interface ColumnName {
  readonly schema: string;
  readonly relation: string;
  readonly column: string;
}

/** Identity of a column inside one analysis: its three names joined by a character that no name contains. */
export type ColumnId = string;
const SEPARATOR = '\u0000';

export const columnId = (schema: string, relation: string, column: string): ColumnId =>
  `${schema}${SEPARATOR}${relation}${SEPARATOR}${column}`;

/** The names behind an identity made by {@link columnId}. */
export function columnName(id: ColumnId): ColumnName {
  const [schema = '', relation = '', column = ''] = id.split(SEPARATOR);
  return { schema, relation, column };
}

/** Where a value comes from: each base column with the strongest thing that happened to it. */
export type Values = ReadonlyMap<ColumnId, ValueKind>;
/** Which base columns decided rows, and how (one column can join and filter). */
export type Influences = ReadonlyMap<ColumnId, ReadonlySet<InfluenceKind>>;

/** By which expressions a value became what it is, one after another: of a column that was trimmed in a subquery and shortened outside of it both. */
export type Steps = readonly Node[];

/** Provenance of one expression: its values, and the rows decided on the way (inside its subqueries and windows). */
export interface Provenance {
  readonly values: Values;
  readonly influences: Influences;
  /** Of values that did not come as they are, as far as it is known. */
  readonly steps?: ReadonlyMap<ColumnId, Steps>;
}

export interface ValueEdge {
  readonly from: ColumnName;
  /** Column of the statement's target. */
  readonly to: string;
  readonly kind: ValueKind;
  /** What happens to the value, in SQL: one expression after another; nothing where it comes as it is. */
  readonly expressions?: readonly string[];
  /** True when the column is reached only because a whole row was named (`row_to_json(t)`). */
  readonly wholeRow?: true;
}

export interface Influence {
  readonly from: ColumnName;
  readonly kind: InfluenceKind;
  readonly wholeRow?: true;
}

export interface Unresolved {
  /** The statement's text, shortened. */
  readonly statement: string;
  readonly line: number;
  readonly reason: string;
  /** The statement itself could not be read: what it does is not known at all. */
  readonly lost: boolean;
}

/** What one statement does: which columns feed each column of its target, and which decide its rows. */
export interface StatementLineage {
  readonly kind:
    | 'view'
    | 'materialised view'
    | 'table'
    | 'insert'
    | 'update'
    | 'delete'
    | 'merge'
    | 'generated'
    | 'child'
    | 'function'
    | 'select';
  readonly target: { readonly schema: string; readonly relation: string };
  readonly columns: readonly string[];
  readonly edges: readonly ValueEdge[];
  readonly influences: readonly Influence[];
  readonly statement: string;
  readonly line: number;
}
