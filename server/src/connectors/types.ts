import type { OutlineItem } from '@idrel/contract/scanning';
import type { SourceAnswer, TestStep } from '@idrel/contract/sources';
import type { ValueType } from '@idrel/core/recognition';

/** Joins the names of a key; no name of a database object or file contains it. */
export const KEY_SEPARATOR = '\u001f';
export const keyOf = (...names: string[]): string => names.join(KEY_SEPARATOR);

export interface Secret {
  readonly username: string;
  readonly password: string;
}
export interface ConnectorInput {
  readonly address: SourceAnswer['address'];
  readonly secret: Secret | null;
  readonly name: string;
}

/** An object of a source as a scan finds it. */
export interface FoundAsset {
  readonly key: string;
  readonly parentKey: string | null;
  readonly kind: string;
  readonly name: string;
  readonly depth: number;
  readonly position: number;
  readonly comment: string | null;
  /** Facts whose change is a change: type, nullability, default, keys, definition. */
  readonly native: Readonly<Record<string, unknown>>;
  readonly stats: Readonly<Record<string, unknown>>;
}

/** Something of which values can be sampled: a table, a view, a file. */
export interface Sampleable {
  readonly key: string;
  readonly label: string;
  readonly columns: readonly { readonly key: string; readonly name: string; readonly type: ValueType }[];
  readonly estimatedRows: number;
}

/** Values read of one table: for each of its columns, in order. */
export interface SampledTable {
  readonly values: readonly (readonly (string | null)[])[];
}

export interface FoundFlow {
  readonly key: string;
  readonly kind: string;
  readonly statement: string;
  readonly problems: readonly string[];
  /** Columns (by key) that give values to columns of what the flow makes. */
  readonly edges: readonly { readonly from: string; readonly to: string; readonly kind: string }[];
  /** Columns (by key) that decide about rows. */
  readonly influences: readonly { readonly from: string; readonly kind: string }[];
}
/** A column that takes its values from a column of another source (a foreign table). */
export interface FoundLink {
  readonly toKey: string;
  readonly statement: string;
  readonly from: { readonly host: string; readonly port: number; readonly database: string; readonly names: readonly [string, string] };
  readonly columns: readonly (readonly [from: string, to: string])[];
}

export interface Structure {
  readonly assets: readonly FoundAsset[];
  readonly sampleable: readonly Sampleable[];
}

export const OUTLINE_MOST = 20_000;

/** An open connection to a source. Everything reads; nothing writes. */
export interface Reading {
  /** What is there now, by name alone: what a scope is chosen from. Paths are below the top. At most {@link OUTLINE_MOST}. */
  outline(): Promise<OutlineItem[]>;
  structure(progress: (objects: number, columns: number) => void): Promise<Structure>;
  /** @throws when this one table cannot be read; the others go on */
  sample(table: Sampleable, rows: number): Promise<SampledTable>;
  flows(): Promise<{ flows: FoundFlow[]; links: FoundLink[] }>;
  /** Stops whatever is running, at once. */
  abort(): void;
  close(): Promise<void>;
}

/** A kind of source. */
export interface Connector {
  /** Steps in order; after a failed one the rest is not reached. */
  test(input: ConnectorInput): Promise<TestStep[]>;
  /** @throws SourceProblem when the source cannot be reached */
  open(input: ConnectorInput): Promise<Reading>;
}

/** A problem of a source in words for people: what happened, and what mends it. */
export class SourceProblem extends Error {
  readonly mend: string;
  constructor(message: string, mend: string) {
    super(message);
    this.name = 'SourceProblem';
    this.mend = mend;
  }
}
