/** An asset that was looked at. */
export interface SeenAsset {
  readonly id: string;
  readonly kind: string;
  readonly path: string;
}
/** What a person searched for and looked at in this browser, the latest first. */
export interface Lately {
  readonly searches: readonly string[];
  readonly assets: readonly SeenAsset[];
}
const NONE: Lately = { searches: [], assets: [] };
/** So much is remembered of each. */
const MOST = 12;
const placeOf = (person: string) => `idrel-lately:${person}`;

/** What is remembered of a person here; nothing where the browser keeps nothing, or what it keeps cannot be read. */
export function latelyOf(person: string): Lately {
  try {
    const { searches, assets } = JSON.parse(localStorage.getItem(placeOf(person)) ?? 'null') as Lately;
    return Array.isArray(searches) && Array.isArray(assets) ? { searches, assets } : NONE;
  } catch {
    return NONE;
  }
}

function remember(person: string, lately: Lately): void {
  try {
    localStorage.setItem(placeOf(person), JSON.stringify(lately));
  } catch {
    // A browser without room remembers nothing, and works all the same.
  }
}

/** A search that rested. One that goes on from the last, letter by letter, takes its place. */
export function searched(person: string, filter: string): void {
  const { searches, assets } = latelyOf(person);
  const text = filter.trim();
  if (!text || searches[0] === text) return;
  const rest = searches.filter((other, at) => other !== text && !(at === 0 && text.startsWith(other)));
  remember(person, { assets, searches: [text, ...rest].slice(0, MOST) });
}

export function looked(person: string, { id, kind, path }: SeenAsset): void {
  const { searches, assets } = latelyOf(person);
  if (assets[0]?.id === id && assets[0].path === path) return;
  remember(person, {
    searches,
    assets: [{ id, kind, path }, ...assets.filter((other) => other.id !== id)].slice(0, MOST),
  });
}

/** Whoever comes next to this browser finds nothing of it. */
export const forgetLately = (person: string): void => localStorage.removeItem(placeOf(person));
