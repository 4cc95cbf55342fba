/** What the server holds of a thing that is edited: its version, and the values that a form shows. */
export interface Held<T> {
  readonly version: number;
  readonly values: T;
}

/** A field that two people changed from the same beginning. */
export interface FieldClash<T> {
  readonly field: keyof T & string;
  /** From which both began. */
  readonly base: unknown;
  readonly mine: unknown;
  readonly theirs: unknown;
}

/** Whether two values of a form are the same: JSON without regard to the order of keys; missing is nothing. */
export function sameValue(a: unknown, b: unknown): boolean {
  if (a === b || (a ?? null) === (b ?? null)) return true;
  if (
    typeof a !== 'object' ||
    typeof b !== 'object' ||
    a === null ||
    b === null ||
    Array.isArray(a) !== Array.isArray(b)
  )
    return false;
  const keys = new Set([...Object.keys(a), ...Object.keys(b)]);
  return [...keys].every((key) => sameValue((a as Record<string, unknown>)[key], (b as Record<string, unknown>)[key]));
}

const fieldsOf = <T extends object>(...all: T[]) =>
  [...new Set(all.flatMap((values) => Object.keys(values)))] as (keyof T & string)[];

/** The fields of a form that differ from where it began. */
export const changedFields = <T extends object>(base: T, values: T): (keyof T & string)[] =>
  fieldsOf(base, values).filter((field) => !sameValue(base[field], values[field]));

/** What becomes of an edit when the thing was changed by somebody else meanwhile. */
export interface Rebased<T> {
  /** What the form shows: theirs where only they changed something, mine where I did. */
  readonly values: T;
  /** Fields that they changed, and I did not, or otherwise than they: then both changes are in mine. */
  readonly followed: readonly (keyof T & string)[];
  /** Fields that both changed, and not to the same. */
  readonly clashes: readonly FieldClash<T>[];
}

/** Puts two changes of one field together, where they do not touch; undefined where they do. */
export type Joiner = (base: unknown, mine: unknown, theirs: unknown) => unknown;

/**
 * Puts an edit upon what somebody else made of the same beginning, field by field.
 * @param base what the edit began from
 * @param mine what was typed
 * @param theirs what stands there now
 * @param joiners how fields are put together that hold more than one thing, such as long texts
 */
export function rebase<T extends object>(
  base: T,
  mine: T,
  theirs: T,
  joiners: { readonly [field in keyof T]?: Joiner } = {},
): Rebased<T> {
  const values = { ...mine };
  const followed: (keyof T & string)[] = [];
  const clashes: FieldClash<T>[] = [];
  for (const field of fieldsOf(base, mine, theirs)) {
    if (sameValue(base[field], theirs[field]) || sameValue(mine[field], theirs[field])) continue;
    if (sameValue(base[field], mine[field])) {
      values[field] = theirs[field];
      followed.push(field);
      continue;
    }
    const joined = joiners[field]?.(base[field], mine[field], theirs[field]);
    if (joined === undefined) clashes.push({ field, base: base[field], mine: mine[field], theirs: theirs[field] });
    else {
      values[field] = joined as T[typeof field];
      followed.push(field);
    }
  }
  return { values, followed, clashes };
}
