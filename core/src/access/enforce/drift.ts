/** One thing that Idrel made at a database, as it stands there. */
export interface Made {
  /** By which it is known again. */
  readonly key: string;
  /** Role or login who reads by it; null where nobody does. */
  readonly by: string | null;
  readonly words: string;
  /** All that matters of it: equal, and nothing was changed. */
  readonly state: string;
}

/** A thing that is otherwise than it was left. */
export interface Drifted {
  readonly what: 'gone' | 'changed' | 'added';
  readonly key: string;
  readonly by: string | null;
  readonly words: string;
}

/** What became of what was made. @param left as it was left, @param found as it is now */
export function drifted(left: readonly Made[], found: readonly Made[]): Drifted[] {
  const now = new Map(found.map((one) => [one.key, one]));
  const then = new Set(left.map(({ key }) => key));
  return [
    ...left.flatMap(({ key, by, words, state }): Drifted[] => {
      const is = now.get(key);
      if (!is) return [{ what: 'gone', key, by, words }];
      return is.state === state ? [] : [{ what: 'changed', key, by, words }];
    }),
    ...found.flatMap(({ key, by, words }): Drifted[] => (then.has(key) ? [] : [{ what: 'added', key, by, words }])),
  ];
}
