import type { Person, ReadableTable, Reason } from '../types.ts';

/** The holder of what everybody may who can come in. */
export const EVERYBODY = '';

/** A role of a source. */
export interface NativeRole {
  readonly name: string;
  /** Whether somebody can come in as it. */
  readonly login: boolean;
  readonly superuser: boolean;
  readonly bypassesRows: boolean;
  /** The one with which the source is scanned: what it reads is no way around the policies. */
  readonly scans: boolean;
  /** Roles whose rights it has, or can take. */
  readonly memberOf: readonly string[];
}

/** A right on one thing. */
export interface NativeGrant {
  /** The role that has it, or {@link EVERYBODY}. */
  readonly holder: string;
  readonly how: 'grant' | 'owner';
  readonly passesOn: boolean;
  /** The role that gave it; empty for an owner. */
  readonly by: string;
  /** When a scan first found it, ISO 8601. */
  readonly since: string;
}

/** A table with the rights at its source: to come into its database, into its schema, to read it or a column of it. */
export interface NativeTable extends ReadableTable {
  readonly databaseGrants: readonly NativeGrant[];
  readonly schemaGrants: readonly NativeGrant[];
  readonly grants: readonly NativeGrant[];
  /** By id of the column. */
  readonly columnGrants: ReadonlyMap<string, readonly NativeGrant[]>;
  /** Its own row policies limit what is read: `forced` also for its owner. */
  readonly ownRows: 'none' | 'on' | 'forced';
  /** By id of the column. */
  readonly levels: Readonly<Record<string, number>>;
}

/**
 * By what something can be read at the source: a right that was given, ownership, a role of the system that reads all, or being a superuser.
 * The order is that in which they are told: what is easiest to mend first.
 */
export const NATIVE_HOW = ['grant', 'reads all', 'owner', 'superuser'] as const;
export type NativeHow = (typeof NATIVE_HOW)[number];

/** One way in which a login reads a table. */
export interface NativeWay {
  readonly how: NativeHow;
  /** The role that holds the right, or {@link EVERYBODY}. */
  readonly holder: string;
  /** For `reads all`: the role of the system that reads all. */
  readonly through: string | null;
  /** From the login to the holder, both in it; the login alone where it is the holder, or everybody is. */
  readonly chain: readonly string[];
  /** Ids of the columns that it opens; null for all. */
  readonly columns: readonly string[] | null;
  readonly since: string | null;
}

/** Whoever comes in as a role, as far as that was said. */
export interface LoginPeople {
  readonly people: readonly Person[];
  /** Whether it was said that a program comes in as it, and nobody else. */
  readonly program: boolean;
}

/** What a policy keeps from somebody, and a right at the source gives them. */
export interface BypassedColumn {
  readonly tableId: string;
  readonly columnId: string;
  readonly column: string;
  /** How the policies would have it read. */
  readonly told: 'masked' | 'refused' | 'fewer rows';
  /** Policies that restrict it; empty where none allows it, and it is sensitive. */
  readonly reasons: readonly Reason[];
}

/** A right at the source that gives more than the policies do, with all that it opens. */
export interface Bypass {
  readonly how: NativeHow;
  readonly holder: string;
  readonly through: string | null;
  /** The schema in which it stands; null where it is a right over everything. */
  readonly schema: string | null;
  readonly since: string | null;
  /** Those who read by it, with their way to it. */
  readonly logins: readonly {
    readonly login: string;
    readonly chain: readonly string[];
    readonly people: readonly string[];
    readonly program: boolean;
  }[];
  readonly tables: readonly string[];
  readonly columns: readonly BypassedColumn[];
}
