import type { Held } from './merge.ts';

/** What a form keeps in the browser: where the edit began, and the fields that were changed. */
export interface KeptEdit<T> {
  readonly base: Held<T>;
  readonly changes: Partial<T>;
}

const PLACE = 'idrel-form:';
/** Kept by earlier versions, without the version that they began from and for whoever came next. */
const EARLIER = 'idrel-draft:';
const placeOf = (person: string, key: string) => `${PLACE}${person}:${key}`;

export function readKept<T>(person: string, key: string): KeptEdit<T> | undefined {
  try {
    const kept = JSON.parse(localStorage.getItem(placeOf(person, key)) ?? 'null') as KeptEdit<T> | null;
    return kept && typeof kept.base?.version === 'number' && kept.changes ? kept : undefined;
  } catch {
    return undefined;
  }
}

/** Keeps an edit, or forgets it when there is none. @returns false when the browser has no room for it */
export function keepEdit<T>(person: string, key: string, edit: KeptEdit<T> | undefined): boolean {
  try {
    if (edit) localStorage.setItem(placeOf(person, key), JSON.stringify(edit));
    else localStorage.removeItem(placeOf(person, key));
    return true;
  } catch {
    return false;
  }
}

/** Forgets what one person left unfinished in this browser: whoever signs in next finds nothing of it. */
export function forgetEdits(person: string): void {
  for (const key of Object.keys(localStorage))
    if (key.startsWith(`${PLACE}${person}:`) || key.startsWith(EARLIER)) localStorage.removeItem(key);
}
