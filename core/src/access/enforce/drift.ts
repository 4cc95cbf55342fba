/** One thing that Idrel made at a database, as it stands there. */
export interface Made {
  /** By which it is known again. */
  readonly key: string;
  readonly words: string;
  /** All that matters of it: equal, and nothing was changed. */
  readonly state: string;
}

/** A thing that is otherwise than it was left. */
export interface Drifted {
  readonly what: 'gone' | 'changed' | 'added';
  readonly words: string;
}

/** What became of what was made. @param left as it was left, @param found as it is now */
export function drifted(left: readonly Made[], found: readonly Made[]): Drifted[] {
  const now = new Map(found.map((one) => [one.key, one]));
  const then = new Set(left.map(({ key }) => key));
  return [
    ...left.flatMap(({ key, words, state }): Drifted[] => {
      const is = now.get(key);
      if (!is) return [{ what: 'gone', words }];
      return is.state === state ? [] : [{ what: 'changed', words }];
    }),
    ...found.flatMap(({ key, words }): Drifted[] => (then.has(key) ? [] : [{ what: 'added', words }])),
  ];
}
