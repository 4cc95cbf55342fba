/** How a value is hidden. */
export const MASKS = {
  blank: 'left out, shown as empty',
  partial: 'its first character, the rest hidden',
  hash: 'replaced by a digest: equal values stay equal',
  year: 'of a date only the year',
} as const;
export type Mask = keyof typeof MASKS;

/** The order in which a stronger mask replaces a weaker one. */
export const MASK_STRENGTH: readonly Mask[] = ['year', 'partial', 'hash', 'blank'];

/** Rows a reader may see: those in which the column has one of the values. */
export interface RowLimit {
  readonly column: string;
  readonly values: readonly string[];
}

/** A policy as it is decided by; people are named by their ids. */
export interface Policy {
  readonly id: string;
  readonly name: string;
  readonly effect: 'allow' | 'protect' | 'deny';
  /** Groups and people it is for; `everyone` adds all others. */
  readonly everyone: boolean;
  readonly groups: readonly string[];
  readonly people: readonly string[];
  /** Groups it is not for, though they would be meant. */
  readonly exceptGroups: readonly string[];
  /** Assets it holds for, with everything below them; empty together with `classes`: none. */
  readonly assets: readonly string[];
  /** Data classes it holds for, wherever they stand (protect and deny). */
  readonly classes: readonly string[];
  /** For protect and deny: it holds also for what carries the values on, along lineage. */
  readonly carried: boolean;
  /** For allow on tables: only these columns; null for all, also those added later. */
  readonly columns: readonly string[] | null;
  readonly mask: Mask | null;
  readonly rows: RowLimit | null;
}

export interface Person {
  readonly id: string;
  readonly groups: readonly string[];
}

/** A table or view with what decisions need. */
export interface ReadableTable {
  readonly id: string;
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
}

/** What one person may read of one table. */
export interface TableDecision {
  readonly tableId: string;
  readonly schema: string;
  readonly name: string;
  readonly access: 'yes' | 'partly' | 'no';
  readonly columns: readonly ColumnDecision[];
  readonly rowLimits: readonly (RowLimit & { readonly reason: Reason })[];
}
