import { RE2JS } from 're2js';
import { fold } from '../text/index.ts';
import type { Detector, Level, ValueType } from './types.ts';

/** How a value is told: by a pattern, a list, a range; or not at all, where the column's name alone decides. */
export type ValueRule =
  | { readonly kind: 'pattern'; readonly pattern: string; readonly caseless: boolean }
  | { readonly kind: 'list'; readonly values: readonly string[]; readonly match: 'exact' | 'folded' | 'close' }
  | { readonly kind: 'range'; readonly of: 'number' | 'date'; readonly from: string; readonly to: string }
  /**
   * By what stands beside it: where columns of so many of these classes stand in the same table, claims of the detector's class and of these raise each other; with a
   * pattern for names, a column whose name fits is claimed too.
   */
  | { readonly kind: 'combination'; readonly classKeys: readonly string[]; readonly least: number };

export const CHECKSUMS = ['none', 'luhn', 'mod97', 'mod11'] as const;
export type Checksum = (typeof CHECKSUMS)[number];

/** A detector as an organisation writes it: plain data, kept in versions, sent to agents, exported and imported. */
export interface DetectorSpec {
  readonly value: ValueRule | null;
  /** Over the digits of a value that the rule takes. */
  readonly checksum: Checksum;
  /** A pattern that the column's name must contain for it to speak for the class; empty: names say nothing. */
  readonly namePattern: string;
  /** Only columns whose name fits can be certain. */
  readonly nameNeeded: boolean;
  /** Share of the values that must match, 0 to 1. */
  readonly minShare: number;
  /** Different values that must match. */
  readonly minDistinct: number;
  /** Values that it must take and must not: run as tests before a version is saved. */
  readonly accepts: readonly string[];
  readonly rejects: readonly string[];
}

/** A detector of the organisation, as scans are given it. */
export interface OwnDetector {
  readonly id: string;
  readonly version: number;
  readonly classKey: string;
  readonly label: string;
  readonly level: Level;
  readonly spec: DetectorSpec;
}

/** What is wrong with a specification: which field, and why. */
export class SpecProblem extends Error {
  readonly field: string;
  constructor(field: string, message: string) {
    super(message);
    this.field = field;
  }
}

const LONGEST_PATTERN = 2000;
export const MOST_ENTRIES = 1_000_000;

/**
 * Compiles a pattern for the linear-time engine (the syntax of RE2: no look-around, no back-references).
 * @throws SpecProblem saying where it is wrong
 */
export function compilePattern(pattern: string, caseless: boolean, field = 'pattern'): RE2JS {
  if (pattern.length > LONGEST_PATTERN)
    throw new SpecProblem(field, `The pattern is longer than ${LONGEST_PATTERN} characters.`);
  try {
    return RE2JS.compile(pattern, caseless ? RE2JS.CASE_INSENSITIVE : 0);
  } catch (error) {
    const said = (error as Error).message.replace(/^error parsing regexp: /, '');
    const hint = /\(\?[=!<]|\\[1-9]/.test(pattern)
      ? ' Look-ahead, look-behind and references back are not there, so that no pattern can take for ever.'
      : '';
    throw new SpecProblem(field, `The pattern cannot be read: ${said}.${hint}`);
  }
}

const digitsOf = (value: string) => [...value.replace(/\D/g, '')].map(Number);
const CHECKS: Readonly<Record<Exclude<Checksum, 'none'>, (value: string) => boolean>> = {
  // ISO/IEC 7812-1, annex B.
  luhn: (value) => {
    const digits = digitsOf(value).reverse();
    const sum = digits.reduce(
      (total, digit, index) => total + (index % 2 === 1 ? (digit * 2 > 9 ? digit * 2 - 9 : digit * 2) : digit),
      0,
    );
    return digits.length > 1 && sum % 10 === 0;
  },
  // ISO/IEC 7064, MOD 97-10: letters count from 10, the whole leaves 1.
  mod97: (value) => {
    let rest = 0;
    for (const character of value.replace(/[^A-Za-z0-9]/g, ''))
      rest = Number(`${rest}${Number.parseInt(character, 36)}`) % 97;
    return rest === 1;
  },
  // Weights 2 to 7 from the right; the last digit makes the sum divide by 11.
  mod11: (value) => {
    const digits = digitsOf(value);
    const sum = digits
      .slice(0, -1)
      .reverse()
      .reduce((total, digit, index) => total + digit * (2 + (index % 6)), 0);
    const check = (11 - (sum % 11)) % 11;
    return digits.length > 1 && check === digits.at(-1);
  },
};

/** The same word but for one letter: left out, added, another one, or two that changed places. */
function isClose(value: string, words: ReadonlySet<string>): boolean {
  if (words.has(value)) return true;
  if (value.length < 4) return false;
  const letters = 'abcdefghijklmnopqrstuvwxyz0123456789 -';
  for (let at = 0; at <= value.length; at += 1) {
    const [before, after] = [value.slice(0, at), value.slice(at)];
    if (after && words.has(before + after.slice(1))) return true;
    if (after.length > 1 && words.has(before + after[1] + after[0] + after.slice(2))) return true;
    for (const letter of letters)
      if (words.has(before + letter + after) || (after && words.has(before + letter + after.slice(1)))) return true;
  }
  return false;
}

const toDay = (text: string) => (/^\d{4}-\d{2}-\d{2}/.test(text) ? Date.parse(text.slice(0, 10)) : Number.NaN);

function compileRule(rule: ValueRule): (value: string) => boolean {
  switch (rule.kind) {
    case 'combination': {
      if (rule.classKeys.length === 0)
        throw new SpecProblem('value.classKeys', 'The combination names no class that stands beside it.');
      if (rule.least < 1 || rule.least > rule.classKeys.length)
        throw new SpecProblem(
          'value.least',
          `Of ${rule.classKeys.length} classes ${rule.least} cannot stand beside it.`,
        );
      // Nothing is told from the values: what stands beside them decides.
      return () => true;
    }
    case 'pattern': {
      if (rule.pattern.trim() === '')
        throw new SpecProblem('value.pattern', 'The pattern is empty: it would take everything.');
      const compiled = compilePattern(rule.pattern, rule.caseless, 'value.pattern');
      return (value) => compiled.matches(value);
    }
    case 'list': {
      if (rule.values.length === 0) throw new SpecProblem('value.values', 'The list is empty.');
      if (rule.values.length > MOST_ENTRIES)
        throw new SpecProblem('value.values', `The list has more than ${MOST_ENTRIES.toLocaleString('en')} entries.`);
      const read = rule.match === 'exact' ? (value: string) => value : (value: string) => fold(value.trim());
      const words = new Set(rule.values.map(read));
      return rule.match === 'close' ? (value) => isClose(read(value), words) : (value) => words.has(read(value));
    }
    case 'range': {
      const read =
        rule.of === 'number'
          ? (text: string) => (/^-?\d+(\.\d+)?$/.test(text.trim()) ? Number(text) : Number.NaN)
          : toDay;
      const [from, to] = [
        rule.from === '' ? Number.NEGATIVE_INFINITY : read(rule.from),
        rule.to === '' ? Number.POSITIVE_INFINITY : read(rule.to),
      ];
      if (Number.isNaN(from)) throw new SpecProblem('value.from', `${rule.from} is no ${rule.of}.`);
      if (Number.isNaN(to)) throw new SpecProblem('value.to', `${rule.to} is no ${rule.of}.`);
      if (from > to) throw new SpecProblem('value.to', 'The range ends before it begins.');
      return (value) => {
        const number = read(value);
        return number >= from && number <= to;
      };
    }
  }
}

/**
 * The test of values that a specification means; values come trimmed.
 * @throws SpecProblem naming the field that is wrong
 */
export function compileTest({
  value: rule,
  checksum,
  namePattern,
}: Pick<DetectorSpec, 'value' | 'checksum' | 'namePattern'>): (value: string) => boolean {
  if (!rule) {
    if (namePattern.trim() === '')
      throw new SpecProblem('namePattern', 'Without a rule for values the detector needs a pattern for names.');
    return () => true;
  }
  const taken = compileRule(rule);
  if (checksum === 'none') return taken;
  const check = CHECKS[checksum];
  return (value) => taken(value) && check(value);
}

/** Whether a column's name fits; undefined when names say nothing. @throws SpecProblem */
export function compileName(namePattern: string): ((name: string) => boolean) | undefined {
  if (namePattern.trim() === '') return undefined;
  const compiled = compilePattern(namePattern, true, 'namePattern');
  return (name) => compiled.matcher(name).find();
}

/** How much a rule proves by itself: a list or a strict pattern more than a loose one. */
function strengthOf({ value, checksum }: DetectorSpec): number {
  if (!value || value.kind === 'combination') return 0.1; // a name alone is never certain
  if (checksum !== 'none') return 0.95;
  return value.kind === 'range' ? 0.4 : 0.9;
}

const TYPES: readonly ValueType[] = ['text', 'integer', 'decimal', 'date', 'other'];

/**
 * A detector that runs as the built-in ones do.
 * @throws SpecProblem naming the field that is wrong
 */
export function compileSpec({ id, version, classKey, label, level, spec }: OwnDetector): Detector {
  const name = compileName(spec.namePattern);
  return {
    id,
    version: String(version),
    classKey,
    label,
    level,
    strength: strengthOf(spec),
    checkDigits: spec.checksum !== 'none',
    types: TYPES,
    minShare: spec.minShare,
    minShareNamed: spec.minShare,
    minDistinct: spec.minDistinct,
    fewValues: spec.value?.kind === 'list' ? Math.min(8, Math.max(1, spec.minDistinct)) : undefined,
    needsName: spec.nameNeeded || !spec.value || spec.value.kind === 'combination',
    ...(spec.value?.kind === 'combination'
      ? { beside: { classKeys: spec.value.classKeys, least: spec.value.least } }
      : {}),
    namesFor: [],
    namesAgainst: [],
    ...(name ? { readName: name } : {}),
    test: compileTest(spec),
    accepts: spec.accepts,
    rejects: spec.rejects,
  };
}

/** Values of a specification's own tests that do not come out as they should. */
export function failingExamples(spec: DetectorSpec): { taken: string[]; notTaken: string[] } {
  const test = compileTest(spec);
  return {
    taken: spec.rejects.filter((value) => test(value.trim())),
    notTaken: spec.accepts.filter((value) => !test(value.trim())),
  };
}
