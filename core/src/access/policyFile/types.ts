import type { Mask } from '../maskKinds.ts';
import type { Hours, HowFar, Policy } from '../types.ts';

/** A policy as a file has it: by names that can be read, and that mean the same on another server. What is not said is not there. */
export interface PolicyInFile {
  readonly name: string;
  readonly effect: Policy['effect'];
  /** Whether it is on; on where nothing is said. */
  readonly enabled?: boolean;
  readonly for: {
    readonly everyone?: boolean;
    readonly groups?: readonly string[];
    /** E-mail addresses. */
    readonly people?: readonly string[];
    readonly exceptGroups?: readonly string[];
  };
  readonly on: {
    /** Addresses, as `Warehouse/mart/traveller_contact`. */
    readonly assets?: readonly string[];
    /** Keys of data classes. */
    readonly classes?: readonly string[];
    readonly filter?: string;
    readonly columns?: readonly string[];
    readonly allBut?: readonly string[];
    /** Also what carries the values on. */
    readonly carried?: boolean;
  };
  readonly mask?: Mask;
  readonly rows?: {
    readonly column: string;
    readonly values?: readonly string[];
    readonly attribute?: string;
    readonly through?: {
      /** The address of a table of rights. */
      readonly table: string;
      readonly column: string;
      readonly reader: string;
      readonly by: string;
    };
    readonly least?: number;
  };
  /** ISO 8601. */
  readonly until?: string;
  readonly hours?: Hours;
  readonly purposes?: readonly string[];
  /** To read where nothing is said. */
  readonly opens?: HowFar;
  readonly passesOn?: boolean;
}

/** Something in a file that is not taken, with where it stands and what mends it. */
export interface FileFlaw {
  readonly at: string;
  readonly what: string;
  readonly mend: string;
}

/** An entry of a file as it was read, and where it stands. */
export interface FileEntry {
  readonly at: string;
  readonly policy: unknown;
}

/** The same policy however it was put down: lists in order, and nothing said that goes without saying. */
export function plainly(policy: PolicyInFile): PolicyInFile {
  const tidy = (value: unknown): unknown => {
    if (Array.isArray(value)) return value.map(tidy);
    if (value === null || typeof value !== 'object') return value;
    const entries = Object.entries(value).flatMap(([key, inner]): [string, unknown][] => {
      const told = Array.isArray(inner) && LISTS.has(key) ? [...inner].sort() : tidy(inner);
      if (key === 'enabled') return told === false ? [[key, told]] : [];
      if (key === 'opens' && told === 'read') return [];
      return told === undefined || told === false || (Array.isArray(told) && told.length === 0) ? [] : [[key, told]];
    });
    return Object.fromEntries(entries.sort(([one], [other]) => ORDER(one) - ORDER(other) || (one < other ? -1 : 1)));
  };
  return tidy(policy) as PolicyInFile;
}
const LISTS: ReadonlySet<string> = new Set([
  'groups',
  'people',
  'exceptGroups',
  'assets',
  'classes',
  'columns',
  'allBut',
  'values',
  'purposes',
  'days',
]);
/** In this order a file says things. */
const KEYS = [
  'name',
  'kind',
  'column',
  'effect',
  'enabled',
  'opens',
  'passesOn',
  'for',
  'everyone',
  'groups',
  'people',
  'exceptGroups',
  'on',
  'assets',
  'classes',
  'filter',
  'columns',
  'allBut',
  'carried',
  'mask',
  'rows',
  'until',
  'hours',
  'purposes',
];
const ORDER = (key: string): number => {
  const at = KEYS.indexOf(key);
  return at < 0 ? KEYS.length : at;
};
