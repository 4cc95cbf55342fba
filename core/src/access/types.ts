import type { Mask } from './maskKinds.ts';

/** Rows a reader may see: those in which the column has one of the values, or one of those that an attribute of the reader has, or one that a table of rights gives the reader; or each, but only together with others. */
export interface RowLimit {
  readonly column: string;
  readonly values: readonly string[];
  /** A key of the reader's attributes, whose values are meant instead. */
  readonly attribute: string | null;
  readonly through: Through | null;
  /** Said alone: rows are told only in aggregates, each over at least so many different values of the column, which tells one person (or whoever it is about) from another. */
  readonly least?: number | undefined;
}

/** A table of the same source that says which reader may see which value. */
export interface Through {
  readonly tableId: string;
  /** Its column with the permitted values. */
  readonly column: string;
  /** Its column that names the reader. */
  readonly reader: string;
  /** By what it names them: their e-mail address, or a key of their attributes. */
  readonly by: string;
  /** Where the table lies now; null when it is not there any more. */
  readonly at: { readonly sourceId: string; readonly schema: string; readonly name: string } | null;
}

/** By this a table of rights names people, where it is not by an attribute. */
export const BY_EMAIL = 'email';

/** A row limit for one reader: the column has one of the values; with a table of rights, that names the reader by one of them. */
export interface DecidedLimit {
  readonly column: string;
  readonly values: readonly string[];
  readonly through: {
    readonly schema: string;
    readonly name: string;
    readonly column: string;
    readonly reader: string;
  } | null;
  /** Where rows are told only together: so many different values of the column at least. */
  readonly least?: number;
}

/** Days and hours at which a policy holds. */
export interface Hours {
  /** Of the week, 1 for Monday. */
  readonly days: readonly number[];
  /** `HH:MM`; where `to` is not after `from`, it lies on the next day. */
  readonly from: string;
  readonly to: string;
  /** A time zone, such as `Europe/Oslo`. */
  readonly zone: string;
}

/** How far an allow opens: for statements of one's own, or only so that a few rows are shown. */
export type Opens = 'read' | 'preview';
/** The same, and that it is only seen: that it is there, and what it means. That opens no values, and no decision about values knows of it. */
export type HowFar = Opens | 'see';

/** A policy as it is decided by; people are named by their ids. */
export interface Policy {
  readonly id: string;
  readonly name: string;
  readonly effect: 'allow' | 'protect' | 'deny';
  /** Groups and people it is for; `everyone` adds all others; where it allows, not those of partner organisations. */
  readonly everyone: boolean;
  readonly groups: readonly string[];
  readonly people: readonly string[];
  /** Groups it is not for, though they would be meant. */
  readonly exceptGroups: readonly string[];
  /** Assets it holds for, with everything below them; empty together with `classes`: none. */
  readonly assets: readonly string[];
  /** Data classes it holds for, wherever they stand (protect and deny). */
  readonly classes: readonly string[];
  /** What its filter finds: it holds for these with everything below them; null when it has no filter. Assets, classes and a filter narrow each other. */
  readonly matched: ReadonlySet<string> | null;
  /** For protect and deny: it holds also for what carries the values on, along lineage. */
  readonly carried: boolean;
  /** Only these columns; null for all, also those added later. */
  readonly columns: readonly string[] | null;
  /** All but the columns named, also those added later. */
  readonly columnsBut: boolean;
  readonly mask: Mask | null;
  readonly rows: RowLimit | null;
  /** The moment at which it ends, ISO 8601; null for never. */
  readonly until: string | null;
  readonly hours: Hours | null;
  /** For allow: it holds only for who states one of these purposes; empty for any, stated or not. */
  readonly purposes: readonly string[];
  /** The share that it is part of: it holds for what is read by that alone. */
  readonly share: string | null;
  /** Of an allow: how far it opens. */
  readonly opens: Opens;
  /** Of an allow: whether whoever it is for may give on what it opens to them. */
  readonly passesOn: boolean;
  /** Who gave it on, as they are now: it opens no more than they may pass on themselves. Null where it stands on its own. */
  readonly giver: Person | null;
}

export interface Person {
  readonly id: string;
  readonly groups: readonly string[];
  readonly email: string;
  /** What is known of them that policies can ask for, such as their port. */
  readonly attributes: Readonly<Record<string, readonly string[]>>;
  /** What they say that they read for; null when they say nothing. */
  readonly purpose: string | null;
  /** Of a partner organisation: what is allowed to everyone is not allowed to them; what protects or denies holds for them as for all. */
  readonly outside: boolean;
  /** The share by which they read; null where they read as themselves. */
  readonly share: string | null;
  /** Whether only a few rows are to be shown to them: then what they may be shown counts beside what they may read. */
  readonly preview?: boolean;
}

/** A table or view with what decisions need. */
export interface ReadableTable {
  readonly id: string;
  readonly sourceId: string;
  readonly schema: string;
  readonly name: string;
  /** Its own id and those of everything above it. */
  readonly ancestors: readonly string[];
  readonly columns: readonly ReadableColumn[];
}

export interface ReadableColumn {
  readonly id: string;
  readonly name: string;
  readonly type: string;
  /** Classes it carries now. */
  readonly classes: readonly string[];
  /** Classes that it carried while a policy rested on them, and that nobody with the right has let go since: they protect, and allow nothing. */
  readonly held: readonly string[];
  /** Its level, where it has one. */
  readonly level?: number | null;
  /** So few different values that counting tells them. */
  readonly fewValues: boolean;
  /** Columns whose values it carries on, near and far; empty when no policy asks. */
  readonly origins: readonly Origin[];
}

/** A column upstream, with what decides whether a policy holds for it. */
export interface Origin {
  readonly id: string;
  readonly name: string;
  readonly ancestors: readonly string[];
  /** Carried now, or held. */
  readonly classes: readonly string[];
}

export type ColumnAccess = 'plain' | 'masked' | 'refused';

/** Why a column is as it is: policies in the order deny, protect, allow; empty when no policy allows it. */
export interface Reason {
  readonly policyId: string;
  readonly policy: string;
  readonly effect: Policy['effect'];
}

export interface ColumnDecision {
  readonly id: string;
  readonly name: string;
  readonly type: string;
  readonly access: ColumnAccess;
  readonly mask: Mask | null;
  /** Why the mask is another one than the policy says. */
  readonly instead: string | null;
  readonly reasons: readonly Reason[];
  /** Whether it is open to be shown a few rows of, and not for statements. */
  readonly preview?: boolean;
  /** The policy by which alone it is open, where somebody gave that on. */
  readonly given?: string;
}

/** How a column is read, as it is told. */
export type ToldAccess = ColumnAccess | 'preview';
export const toldAccess = ({ access, preview }: Pick<ColumnDecision, 'access' | 'preview'>): ToldAccess =>
  preview ? 'preview' : access;

/** A person as what is shown to them is decided: by what they may read, and what they may be shown a few rows of. */
export const asShown = <P extends Person>(person: P): P => ({ ...person, preview: true });

/** What one person may read of one table. */
export interface TableDecision {
  readonly tableId: string;
  readonly schema: string;
  readonly name: string;
  readonly access: 'yes' | 'partly' | 'no';
  readonly columns: readonly ColumnDecision[];
  /** Names of further columns of it, of which nothing is told, and by which rows can be limited all the same. */
  readonly untold?: readonly string[];
  /** Where its rows lie while a statement runs, if not where it is named. */
  readonly lies?: { readonly schema: string; readonly name: string };
  /** Purposes of which stating one would open more. */
  readonly purposes: readonly string[];
  readonly rowLimits: readonly (DecidedLimit & { readonly reason: Reason })[];
}
