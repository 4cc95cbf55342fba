import type { AssetKind, Level } from '../../things/index.ts';

/** Somebody or something with an address and a name. */
export interface Called {
  readonly uri: string;
  readonly name: string;
}

export interface DescribedColumn extends Called {
  /** As its source writes it; null where it does not say. */
  readonly type: string | null;
  /** Whether it may be empty; null where its source does not say. */
  readonly nullable: boolean | null;
  readonly primaryKey: boolean;
  readonly unique: boolean;
  readonly description: string | null;
  readonly level: Level | null;
  readonly classes: readonly Called[];
  readonly terms: readonly Called[];
}

/** Columns that refer to columns of another table, or of the table itself, as the source declares it. */
export interface DescribedReference {
  readonly columns: readonly string[];
  readonly table: Called;
  /** Theirs, in the same order. */
  readonly theirs: readonly string[];
}

export const ROLES = ['owner', 'steward', 'custodian', 'expert'] as const;
export interface DescribedPerson extends Called {
  readonly role: (typeof ROLES)[number];
  readonly isGroup: boolean;
}

/** Once that a flow ran; moments as ISO 8601. */
export interface DescribedRun {
  readonly uri: string;
  readonly state: string;
  readonly began: string | null;
  readonly ended: string | null;
}

/** What is known of an asset and may be told to who asks, as open formats need it. Addresses are absolute, moments ISO 8601. */
export interface Described extends Called {
  readonly kind: AssetKind;
  readonly path: string;
  /** The page where people read it. */
  readonly page: string;
  readonly source: Called;
  readonly domain: Called;
  /** What it lies in; null at the top of its source. */
  readonly within: string | null;
  /** The kind of what it lies in. */
  readonly withinKind: AssetKind | null;
  /** In people's words; null where nobody has said it. */
  readonly description: string | null;
  /** What its source says of it. */
  readonly comment: string | null;
  readonly standing: string;
  readonly level: Level | null;
  readonly people: readonly DescribedPerson[];
  readonly terms: readonly Called[];
  readonly classes: readonly Called[];
  readonly tags: readonly { readonly name: string; readonly value: string }[];
  readonly notices: readonly { readonly kind: string; readonly text: string }[];
  readonly firstSeen: string;
  readonly changed: string;
  readonly gone: boolean;
  readonly bytes: number | null;
  /** Of files: how they are written, as in `csv`. */
  readonly format: string | null;
  readonly columns: readonly DescribedColumn[];
  readonly references: readonly DescribedReference[];
  /** What it is made from, in one step. */
  readonly from: readonly string[];
  /** The flows that write it. */
  readonly by: readonly string[];
  /** Of what runs: what it reads and writes, and its last runs. */
  readonly reads: readonly string[];
  readonly writes: readonly string[];
  readonly runs: readonly DescribedRun[];
}

/** What is said of an asset in one text: of people's words and the source's comment the first there is, else only what it is and where. */
export const saidOf = ({
  description,
  comment,
  kind,
  source,
}: Pick<Described, 'description' | 'comment' | 'kind' | 'source'>): string =>
  description ??
  comment ??
  `${/^[aeiou]/.test(kind) ? 'An' : 'A'} ${kind} in ${source.name}; nobody has described it yet.`;
