import { RE2JS } from 're2js';

/** A pattern that could tell the values marked “is”, with what it does to both. */
export interface Proposal {
  readonly pattern: string;
  /** What it asks for, in words. */
  readonly words: string;
  readonly matched: number;
  readonly missed: number;
  /** Values marked “is not” that it takes as well. */
  readonly wrong: number;
}

type Run = { readonly kind: 'upper' | 'lower' | 'digit' | 'letter' | 'other'; readonly text: string };

const KIND_PATTERN = { upper: '[A-Z]', lower: '[a-z]', digit: '\\d', letter: '\\p{L}' } as const;
const KIND_WORDS = { upper: 'capital letter', lower: 'small letter', digit: 'digit', letter: 'letter' } as const;

/** A value as runs of the same kind of character; each separator by itself. */
function runsOf(value: string): Run[] {
  const runs: Run[] = [];
  for (const [text] of value.matchAll(/[A-Z]+|[a-z]+|\d+|\p{L}+|./gsu)) {
    const kind = /^[A-Z]/.test(text)
      ? 'upper'
      : /^[a-z]/.test(text)
        ? 'lower'
        : /^\d/.test(text)
          ? 'digit'
          : /^\p{L}/u.test(text)
            ? 'letter'
            : 'other';
    runs.push({ kind, text });
  }
  return runs;
}

const quoted = (text: string) => text.replace(/[\\^$.*+?()[\]{}|]/g, '\\$&');
const times = (least: number, most: number) =>
  least === most ? (least === 1 ? '' : `{${least}}`) : `{${least},${most}}`;
const timesWords = (least: number, most: number, what: string) =>
  least === most ? `${least} ${what}${least === 1 ? '' : 's'}` : `${least} to ${most} ${what}s`;

interface Shape {
  readonly key: string;
  readonly values: Run[][];
}

/** Values whose runs are of the same kinds in the same order, separators being the same characters. */
function shapesOf(values: readonly string[]): Shape[] {
  const shapes = new Map<string, Run[][]>();
  for (const value of values) {
    const runs = runsOf(value);
    const key = runs.map((run) => (run.kind === 'other' ? `=${run.text}` : run.kind)).join(' ');
    shapes.set(key, [...(shapes.get(key) ?? []), runs]);
  }
  return [...shapes].map(([key, list]) => ({ key, values: list })).sort((a, b) => b.values.length - a.values.length);
}

/** The pattern of one shape: runs that never change as they are when `constant`, others by kind with how long they are. */
function patternOf({ values }: Shape, constant: boolean, lengths: 'exact' | 'any'): { pattern: string; words: string } {
  const first = values[0] ?? [];
  const parts = first.map((run, index) => {
    const texts = new Set(values.map((runs) => runs[index]?.text ?? ''));
    if (run.kind === 'other') return { pattern: quoted(run.text), words: `“${run.text}”` };
    if (constant && texts.size === 1 && values.length > 2) return { pattern: quoted(run.text), words: `“${run.text}”` };
    // A few words that come again and again are named; digits never are.
    if (constant && run.kind !== 'digit' && texts.size <= 4 && values.length >= texts.size * 4) {
      const list = [...texts].sort();
      return { pattern: `(?:${list.map(quoted).join('|')})`, words: list.map((text) => `“${text}”`).join(' or ') };
    }
    const sizes = [...texts].map((text) => [...text].length);
    const [least, most] = [Math.min(...sizes), Math.max(...sizes)];
    if (lengths === 'any') return { pattern: `${KIND_PATTERN[run.kind]}+`, words: `${KIND_WORDS[run.kind]}s` };
    return {
      pattern: `${KIND_PATTERN[run.kind]}${times(least, most)}`,
      words: timesWords(least, most, KIND_WORDS[run.kind]),
    };
  });
  return { pattern: parts.map((part) => part.pattern).join(''), words: parts.map((part) => part.words).join(', ') };
}

/** Characters of any kind that appear, in any order: what takes all values and nothing with other characters. */
function loosest(values: readonly string[]): { pattern: string; words: string } {
  const runs = values.flatMap(runsOf);
  const kinds = new Set(runs.map((run) => run.kind));
  const others = [...new Set(runs.filter((run) => run.kind === 'other').map((run) => run.text))];
  const sizes = values.map((value) => [...value].length);
  const set = [
    kinds.has('upper') ? 'A-Z' : '',
    kinds.has('lower') ? 'a-z' : '',
    kinds.has('digit') ? '\\d' : '',
    kinds.has('letter') ? '\\p{L}' : '',
    ...others.map((text) => `\\${text}`.replace(/^\\(\s|[^\x21-\x7e])$/, '$1')),
  ].join('');
  const said = [
    ...(['upper', 'lower', 'digit', 'letter'] as const)
      .filter((kind) => kinds.has(kind))
      .map((kind) => `${KIND_WORDS[kind]}s`),
    ...others.map((text) => `“${text}”`),
  ];
  return {
    pattern: `[${set}]${times(Math.min(...sizes), Math.max(...sizes))}`,
    words: `${timesWords(Math.min(...sizes), Math.max(...sizes), 'character')} of: ${said.join(', ')}`,
  };
}

const MOST_SHAPES = 6;

/**
 * Proposes patterns for values marked “is”, from strict to general, ranked by what they take of these and of those marked “is not”.
 *
 * @param is values of the class, trimmed, at most some thousands
 * @param isNot values that are none of it
 * @returns at most eight, the best first; each takes at least a part of `is`
 */
export function proposePatterns(is: readonly string[], isNot: readonly string[]): Proposal[] {
  const values = [...new Set(is.filter((value) => value !== ''))];
  const others = [...new Set(isNot.filter((value) => value !== ''))];
  if (values.length === 0) return [];
  const shapes = shapesOf(values);
  const main = shapes.slice(0, MOST_SHAPES);
  const drafts: { pattern: string; words: string }[] = [];
  for (const [constant, lengths] of [
    [true, 'exact'],
    [false, 'exact'],
    [false, 'any'],
  ] as const) {
    const made = main.map((shape) => patternOf(shape, constant, lengths));
    // All common shapes together, and the most common one alone.
    drafts.push({
      pattern: [...new Set(made.map((part) => part.pattern))].join('|'),
      words: [...new Set(made.map((part) => part.words))].join('; or '),
    });
    if (made.length > 1 && made[0]) drafts.push(made[0]);
  }
  drafts.push(loosest(values));
  const seen = new Set<string>();
  const proposals = drafts.flatMap(({ pattern, words }): Proposal[] => {
    if (seen.has(pattern)) return [];
    seen.add(pattern);
    const compiled = RE2JS.compile(pattern);
    const matched = values.filter((value) => compiled.matches(value)).length;
    if (matched === 0) return [];
    return [
      {
        pattern,
        words,
        matched,
        missed: values.length - matched,
        wrong: others.filter((value) => compiled.matches(value)).length,
      },
    ];
  });
  // F1 over what was marked; of two that do as well, the stricter one, which comes first.
  const score = ({ matched, missed, wrong }: Proposal) => (2 * matched) / (2 * matched + missed + wrong);
  return proposals
    .map((proposal, order) => ({ proposal, order }))
    .sort((a, b) => score(b.proposal) - score(a.proposal) || a.order - b.order)
    .map(({ proposal }) => proposal)
    .slice(0, 8);
}
