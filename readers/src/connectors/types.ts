import { hash } from 'node:crypto';
import type { FileKind, OutlineItem } from '@idrel/contract/scanning';
import type { SourceAnswer, TestStep } from '@idrel/contract/sources';
import type { AskedHow, FlowOrigin, KnownRelation, ValueEdge } from '@idrel/core/lineage';
import type { ValueType } from '@idrel/core/recognition';
import type { ColumnProfile, Measure } from '@idrel/core/scanning';
import { keepable, keepableName } from '@idrel/core/text';
import type { AssetKind } from '@idrel/core/things';

/** Joins the names of a key. */
export const KEY_SEPARATOR = '\u001f';
/** Longer keys have their names cut: an index has no room for more. */
const KEY_BYTES = 2000;
const CUT_TO = 48;

/** The key of what has these names, of which the first may be the key of what it lies in. Names that cannot be kept as they are stand as {@link keepableName} says. */
export function keyOf(...all: readonly string[]): string {
  const [first = '', ...names] = all;
  const clean = names.map(keepableName);
  const key = [keepable(first), ...clean].join(KEY_SEPARATOR);
  if (key.length * 3 <= KEY_BYTES || Buffer.byteLength(key) <= KEY_BYTES || first.includes(KEY_SEPARATOR)) return key;
  return [
    keepable(first),
    ...clean.map((name) =>
      name.length > CUT_TO ? `${keepable(name.slice(0, CUT_TO - 9))}…${hash('sha256', name, 'hex').slice(0, 8)}` : name,
    ),
  ].join(KEY_SEPARATOR);
}

export interface Secret {
  readonly username: string;
  readonly password: string;
}
export interface ConnectorInput {
  readonly address: SourceAnswer['address'];
  readonly secret: Secret | null;
  readonly name: string;
  /** Memory for reading files. */
  readonly memoryMb?: number;
  /** Kinds of files that are read; all when left out. */
  readonly fileKinds?: readonly FileKind[];
  /** Files that are not to be looked into: what was looked into when a process that read fell. */
  readonly skip?: readonly string[];
  /** Of scripts: the tables of the database at which they run, as far as they are in the catalog. */
  readonly relations?: readonly KnownRelation[];
  /** Is told what is looked into next. */
  readonly reading?: (label: string) => void;
}

/** An object of a source as a scan finds it. */
export interface FoundAsset {
  readonly key: string;
  readonly parentKey: string | null;
  readonly kind: AssetKind;
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
  /** Its names at the source below the top, as they are there; those of the key when they are not given. */
  readonly names?: readonly string[];
  readonly label: string;
  readonly columns: readonly {
    readonly key: string;
    readonly name: string;
    readonly type: ValueType;
    /** Values that its type or a check permits, where it names them. */
    readonly permitted?: readonly string[];
  }[];
  readonly estimatedRows: number;
}

/** The names by which a source knows what is sampled, below its top. */
export const namesThere = (table: Sampleable): readonly string[] =>
  table.names ?? table.key.split(KEY_SEPARATOR).slice(1);

/** Values read of one table: for each of its columns, in order. */
export interface SampledTable {
  readonly values: readonly (readonly (string | null)[])[];
}

/** Statements that are kept of a source, and how long the text of one may be. */
export const QUERIES_MOST = 5000;
export const QUERY_LONGEST = 20_000;
/** So many names that a statement gives are kept. */
export const GIVES_MOST = 200;

/** A statement that was asked at a source, as often as the source has counted. */
export interface FoundQuery {
  /** By which it is known again: the same for statements that differ in values, comments and spacing alone. */
  readonly print: string;
  /** Without the values in it; empty where it is too long to be kept. */
  readonly text: string;
  /** How often, by role of the source. */
  readonly calls: readonly (readonly [role: string, calls: number])[];
  /** Keys of the tables and columns that it reads or writes, with what it does with each. */
  readonly reads: readonly (readonly [key: string, how: readonly AskedHow[]])[];
  /** Names that it gives to what it shows and to its own queries; the first of them. */
  readonly gives: readonly string[];
  /** Whether all relations that it names are among these. */
  readonly whole: boolean;
}

/** A role of a source, and what it can take from others. */
export interface FoundRole {
  readonly name: string;
  /** Whether somebody can come in as it. */
  readonly login: boolean;
  /** It reads everything, whatever is granted. */
  readonly superuser: boolean;
  /** Row policies of tables do not hold for it. */
  readonly bypassesRows: boolean;
  /** It is the one with which the source is scanned. */
  readonly scans: boolean;
  /** Roles whose rights it has, or can take. */
  readonly memberOf: readonly string[];
}
/** A right to read that stands at a source, on any number of things: to come into a database, into a schema, to read a relation or a column. */
export interface FoundGrant {
  /** The role that has it; empty: everybody who can come in. */
  readonly holder: string;
  readonly how: 'grant' | 'owner';
  /** Whether the holder may give it on. */
  readonly passesOn: boolean;
  /** The role that gave it; empty for an owner. */
  readonly by: string;
  readonly keys: readonly string[];
}
/** Who may read what at a source, by its own rights. */
export interface FoundRights {
  readonly roles: readonly FoundRole[];
  readonly grants: readonly FoundGrant[];
  /** What tables open that somebody makes later; in one schema (its key), or in all. */
  readonly later: readonly { readonly maker: string; readonly key: string | null; readonly holder: string }[];
  /** Tables whose own row policies limit what is read; `forced`: their owners too. */
  readonly ownRows: readonly { readonly key: string; readonly forced: boolean }[];
}

/** What could not be settled of a flow. */
export interface FlowProblem {
  readonly reason: string;
  /** Where in the flow's statement, and what stands there; null: it is about the whole. */
  readonly line: number | null;
  readonly statement: string | null;
  /** The statement could not be read: what it does is not known at all. */
  readonly lost: boolean;
}

/** A remark about a whole definition. */
export const toldOf = (reason: string): FlowProblem => ({ reason, line: null, statement: null, lost: false });

/** The expressions of an edge as one text, a line for each. */
export const inLines = ({ expressions = [] }: Pick<ValueEdge, 'expressions'>): { readonly expression?: string } =>
  expressions.length === 0
    ? {}
    : { expression: keepable(expressions.map((one) => one.replace(/\s+/g, ' ')).join('\n')) };

export interface FoundFlow {
  /** By which it is known again: that of the asset which it makes, or is, unless that is said apart. */
  readonly key: string;
  /** Key of the asset at which it stands, where that is another than its own. */
  readonly asset?: string;
  readonly kind: string;
  readonly origin: FlowOrigin;
  readonly statement: string;
  readonly problems: readonly FlowProblem[];
  /** Statements that it runs; one when left out. */
  readonly statements?: number;
  /** Columns (by key) that give values to columns of what the flow makes. */
  readonly edges: readonly {
    readonly from: string;
    readonly to: string;
    readonly kind: string;
    /** On which line of its statement it stands. */
    readonly line?: number;
    /** What happens to the value, in SQL: a line for each expression that it goes through. */
    readonly expression?: string;
  }[];
  /** Columns (by key) that decide about rows: of what the flow makes, or of the table that is named by its key. */
  readonly influences: readonly { readonly from: string; readonly kind: string; readonly to?: string }[];
  readonly remote?: readonly RemoteEdge[];
  readonly remoteInfluences?: readonly RemoteInfluence[];
  /** Runs of it that are known, in any order; those that are told no more stay. */
  readonly runs?: readonly FoundRun[];
}

/** One run of a flow. */
export interface FoundRun {
  /** By which it is known again. */
  readonly id: string;
  readonly state: 'running' | 'done' | 'failed' | 'cancelled';
  /** ISO 8601; null where only its end, or only its beginning, was told. */
  readonly began: string | null;
  readonly ended: string | null;
  /** Rows written, where that was told. */
  readonly rows: number | null;
  /** Why it failed. */
  readonly message: string | null;
  /** What was looked at of the data while it ran. */
  readonly checks: readonly { readonly of: string; readonly what: string; readonly passed: boolean }[];
}
/** A column of another source: where that is (see {@link placeOf}), the names below its top, the column. */
export interface RemoteColumn {
  readonly place: string;
  readonly names: readonly string[];
  readonly column: string;
}
/** A table of another source. */
export type RemoteTable = Pick<RemoteColumn, 'place' | 'names'>;
/** An edge of which an end lies in another source, between columns or whole tables; an end in this one is a key. */
export interface RemoteEdge {
  readonly from: RemoteColumn | RemoteTable | string;
  readonly to: RemoteColumn | RemoteTable | string;
  readonly kind: string;
  /** On which line of the flow's statement it stands. */
  readonly line?: number;
  /** What happens to the value, as on an edge within a source. */
  readonly expression?: string;
}
/** A column that decides about the rows of a table, of which one lies in another source. */
export interface RemoteInfluence {
  readonly from: RemoteColumn | RemoteTable | string;
  readonly to: RemoteTable | string;
  readonly kind: string;
}

/** Where a database server's database is, as sources are told apart; the same as `place_of` says in the catalog's database. */
export const placeOf = (kind: 'postgresql' | 'mariadb', host: string, port: number, database: string): string =>
  `${kind}://${['localhost', '::1'].includes(host.toLowerCase()) ? '127.0.0.1' : host.toLowerCase()}:${port}/${database}`;

/** What a source says of an object without its being read: an equal mark, and nothing has changed. */
export interface Mark {
  /** Of all that a scan reads of its structure and figures. */
  readonly structure: string;
  /** Of its values; empty where the source tells nothing of them. */
  readonly data: string;
}
/** What earlier runs have read, for a run that reads only what has changed. */
export interface Known {
  /** By key, of what is in the catalog and not gone. */
  readonly marks: ReadonlyMap<string, Mark>;
  /** Whether values count: a run that samples must look again where only they have changed. */
  readonly data: boolean;
}

export interface Structure {
  readonly assets: readonly FoundAsset[];
  readonly sampleable: readonly Sampleable[];
  /** Marks of what was read, when they were asked for and the source has them. */
  readonly marks?: ReadonlyMap<string, Mark>;
  /** Keys of what is there and was not read again: its marks are those that were known. It is not among the assets. */
  readonly unchanged?: ReadonlySet<string>;
}

/** Whether something need not be read again. A source that says nothing of values must be asked for them. */
export function isUnchanged(known: Known | undefined, key: string, mark: Mark): boolean {
  const before = known?.marks.get(key);
  return (
    before !== undefined &&
    before.structure === mark.structure &&
    (!known?.data || (mark.data !== '' && before.data === mark.data))
  );
}

/** A short text that is different whenever any of these facts is. */
export const digest = (facts: unknown): string => hash('sha256', JSON.stringify(facts), 'hex').slice(0, 32);

export const OUTLINE_MOST = 20_000;

/** Random rows, or the first that the source gives. */
export type SampleMethod = 'random' | 'first';

/** The longest text that is read of a value: what is longer is cut there. */
export const VALUE_LONGEST = 2000;

/** The most bytes that are taken of an image of a report. */
export const IMAGE_MOST = 4 << 20;

/** A few rows that are wanted of one table or file. */
export interface RowsWanted {
  /** Its names at the source, below the top. */
  readonly names: readonly string[];
  readonly columns: readonly string[];
  /** Rows that count: those in which each of these columns, which are among the columns wanted, has one of the values. */
  readonly only: readonly { readonly column: string; readonly values: readonly string[] }[];
  readonly most: number;
  /** Values are wanted uncut, and of a whole all parts. */
  readonly whole?: boolean;
}

/** So many letters of rows are read whole at most. */
export const WHOLE_LETTERS_MOST = 64 << 20;
export const lettersIn = (row: readonly (string | null)[]): number =>
  row.reduce((all, value) => all + (value?.length ?? 0), 0);

/** Rows in the order in which the source gives them. */
export interface RowsRead {
  /** For each row its values, in the order of the columns; a column that a part of the whole does not have is null there. */
  readonly rows: readonly (readonly (string | null)[])[];
  /** Of a whole that has many parts, how many of them were looked into where that is not all. */
  readonly lookedInto?: { readonly parts: number; readonly of: number };
  /** They were wanted whole, and are too many letters: none is given. */
  readonly tooMuch?: true;
}

/** An open connection to a source. Everything reads; nothing writes. */
export interface Reading {
  /** What is there now, by name alone: what a scope is chosen from. Paths are below the top. At most {@link OUTLINE_MOST}. */
  outline(): Promise<OutlineItem[]>;
  /** @param known leave out what has not changed since, where the source can tell, and say the marks for the next time */
  structure(progress: (objects: number, columns: number) => void, known?: Known): Promise<Structure>;
  /** @throws when this one table cannot be read; the others go on */
  sample(table: Sampleable, rows: number, method?: SampleMethod): Promise<SampledTable>;
  /**
   * What the values of a table's columns are like, worked out where they are; from at most `rows` random rows. Sources that cannot do that have their
   * rows read instead.
   */
  profile?(table: Sampleable, measures: readonly Measure[], rows: number): Promise<ColumnProfile[]>;
  /**
   * The first rows of one table, found by its names alone: nothing else of the source is read for them. Only of sources that hold rows.
   * @throws when it is not there or cannot be read
   */
  rows?(wanted: RowsWanted): Promise<RowsRead>;
  /**
   * What a report or a dashboard looked like when it was last drawn, as the source keeps it: bytes of an image, of which nothing is known yet.
   * @param at where the source said that it is: `image` of what it tells of the asset
   * @throws SourceProblem when it is not there
   */
  image?(at: readonly string[]): Promise<Uint8Array>;
  flows(): Promise<FoundFlow[]>;
  /** What was asked, where the source counts that; at most {@link QUERIES_MOST}, the most frequent first. */
  queries?(): Promise<FoundQuery[]>;
  /** Who may read what by the source's own rights, where it has such. */
  rights?(): Promise<FoundRights>;
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
