import type { Level } from '../things/index.ts';
import type { TextEvidence } from './freeText.ts';

export { LEVELS, type Level, type LevelName } from '../things/index.ts';

/** The themes under which data classes are grouped. */
export const THEMES = [
  'contact',
  'identity',
  'demographic',
  'finance',
  'health',
  'credentials and secrets',
  'network and device',
  'location',
  'vehicle and vessel',
  'free text',
  'own',
] as const;
export type Theme = (typeof THEMES)[number];

/** What a column's values are. */
export interface DataClass {
  readonly key: string;
  readonly label: string;
  readonly theme: Theme;
  /** Sensitivity level that follows from the class, as an index into {@link LEVELS} plus one (1 to 4). */
  readonly level: Level;
  readonly meaning: string;
}

/** The column's type as far as detectors care. */
export type ValueType = 'text' | 'integer' | 'decimal' | 'date' | 'other';

/** What a detector may know beside the value. */
export interface Setting {
  /** The day on which the values were read: what lies in its future is no date of birth. */
  readonly today: Date;
  /** Countries whose national phone formats are accepted without a leading plus (ISO 3166-1 alpha-2). */
  readonly countries: readonly string[];
}

/** A rule that recognises one data class by its values, helped by the column's name. */
export interface Detector {
  readonly id: string;
  readonly version: string;
  readonly classKey: string;
  /** Label and level of a class that is the organisation's own; the others are known. */
  readonly label?: string;
  readonly level?: Level;
  /** The country whose form it knows (ISO 3166-1 alpha-2). */
  readonly country?: string;
  /** How much it proves when every one of many values passes, without a helpful name: a probability, 0 to 1. */
  readonly strength: number;
  /** The test verifies check digits: other numbers pass it by chance alone. */
  readonly checkDigits?: boolean;
  /** Types of column it looks at. */
  readonly types: readonly ValueType[];
  /** Share of values that must pass; a lower one holds when the name agrees. */
  readonly minShare: number;
  readonly minShareNamed: number;
  /** Words of a column's name that speak for the class (each entry: words that must stand together), and those that speak against it; one that begins with `=` must be the whole name. */
  readonly namesFor: readonly string[];
  readonly namesAgainst: readonly string[];
  /** Of a class that has few values at all: so many different ones are enough. */
  readonly fewValues?: number;
  /** Different values that must match at least. */
  readonly minDistinct?: number;
  /** Whether a column's name speaks for the class, in place of words. */
  readonly readName?: (name: string) => boolean;
  /** True when values alone can never make it certain (a date of birth is a date). */
  readonly needsName?: boolean;
  /** Claims nothing by itself: where columns of so many of these classes stand in the same table, claims of its class and of these raise each other. */
  readonly beside?: { readonly classKeys: readonly string[]; readonly least: number };
  /** What speaks against the class when at least a tenth of all values show it: with its reason. */
  readonly contrary?: { readonly reason: string; readonly test: (value: string) => boolean };
  /** What the values together say, beyond each one alone: for the class as a part of the confidence in log-odds, or nothing. */
  readonly together?: (values: readonly string[], setting: Setting) => ConfidenceTerm | undefined;
  /** What the texts are like, for those that look into texts. */
  readonly texts?: (values: Iterable<string>) => TextEvidence | undefined;
  /** Tells the value apart; for free text, what was found inside. Values come trimmed and not empty. */
  readonly test: (value: string, setting: Setting) => boolean | string;
  /** Example values that must pass and must not: they are run as tests and shown in the interface. */
  readonly accepts: readonly string[];
  readonly rejects: readonly string[];
}

/** A column with a sample of its values; null for a missing one. */
export interface ColumnSample {
  readonly name: string;
  readonly type: ValueType;
  readonly values: readonly (string | null)[];
  /** Values that the column's type or a check of its table permits, where it names them: what stands in no row counts once. */
  readonly permitted?: readonly string[];
}

/** What the column's name contributed. */
export type NameVerdict = 'agrees' | 'neutral' | 'disagrees';

/** One part of a confidence, in log-odds, with its reason. */
export interface ConfidenceTerm {
  readonly reason: string;
  readonly logOdds: number;
}

/** A detector's claim about a column, with its evidence. */
export interface Finding {
  readonly classKey: string;
  readonly label: string;
  /** Of a class that is the organisation's own. */
  readonly level?: Level;
  readonly detector: string;
  readonly version: string;
  /** Matching rows among those with a value, 0 to 1. */
  readonly share: number;
  readonly matched: number;
  readonly sampled: number;
  /** Different values that match. */
  readonly distinct: number;
  /** 0 to 1. */
  readonly confidence: number;
  readonly state: 'certain' | 'to-settle';
  readonly name: { readonly verdict: NameVerdict; readonly words: readonly string[] };
  readonly terms: readonly ConfidenceTerm[];
  /** At most five, masked. */
  readonly examples: readonly string[];
  /** The detector verified check digits. */
  readonly checked?: true;
  /** For free text: how many rows hold which kind of personal data; for JSON: how many values match at which path. */
  readonly inside?: Readonly<Record<string, number>>;
  /** For free text: how the texts were written, and where in some of them what stands. No word of them is kept. */
  readonly texts?: TextEvidence;
}
