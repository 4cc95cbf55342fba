/** A value as people say it; null and what is empty are nothing. */
export const inWords = (value: unknown): string =>
  value === null || value === undefined || value === '' || (Array.isArray(value) && value.length === 0)
    ? 'nothing'
    : Array.isArray(value)
      ? value.map((one) => (typeof one === 'object' ? JSON.stringify(one) : String(one))).join(', ')
      : typeof value === 'object'
        ? JSON.stringify(value)
        : String(value);

/** A field as people say it: `otherNames` is other names. */
export const spoken = (field: string): string => field.replace(/[A-Z]/g, (letter) => ` ${letter.toLowerCase()}`);

type Facts = Readonly<Record<string, unknown>> | null;

/** One field of what changed: from what to what; null where there was nothing to tell of it. */
export interface Changed {
  readonly field: string;
  readonly before: string | null;
  readonly after: string | null;
}

/** What changed of something, by field; of something new or removed only what it holds. */
export function changesOf({ before, after }: { readonly before: Facts; readonly after: Facts }): Changed[] {
  const fields = [...new Set([...Object.keys(before ?? {}), ...Object.keys(after ?? {})])];
  return fields
    .filter((field) => (before && after) || inWords((before ?? after)?.[field]) !== 'nothing')
    .map((field) => ({
      field,
      before: before && inWords(before[field]),
      after: after && inWords(after[field]),
    }));
}

/** So long what follows each other is told as one, in milliseconds. */
const APART = 3_600_000;

/**
 * Puts entries together that say the same of many things: what one did to many in a row is told once, with how many it was.
 * @param entries in the order in which they are told
 * @returns of each gathering the first entry, and how many more there are
 */
export function gathered<
  T extends {
    readonly at: string;
    readonly person: string | null;
    readonly action: string;
    readonly kind: string;
    readonly subjectId: string;
  },
>(entries: readonly T[], least = 3): { readonly first: T; readonly more: number }[] {
  const told: { first: T; all: T[] }[] = [];
  for (const entry of entries) {
    const last = told.at(-1);
    const same =
      last &&
      last.first.person === entry.person &&
      last.first.action === entry.action &&
      last.first.kind === entry.kind &&
      Math.abs(Date.parse(last.first.at) - Date.parse(entry.at)) <= APART;
    if (same) last.all.push(entry);
    else told.push({ first: entry, all: [entry] });
  }
  // Of one thing, and of few, each is told by itself: what changed matters there.
  return told.flatMap(({ first, all }) =>
    all.length < least || new Set(all.map(({ subjectId }) => subjectId)).size < least
      ? all.map((one) => ({ first: one, more: 0 }))
      : [{ first, more: all.length - 1 }],
  );
}
