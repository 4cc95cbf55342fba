/** Half of a character (a surrogate without its other half), which no encoding knows. */
const HALVES = /[\uD800-\uDBFF](?![\uDC00-\uDFFF])|(?<![\uD800-\uDBFF])[\uDC00-\uDFFF]/g;
const ODD = /[\0\uD800-\uDFFF]/;

/**
 * A text as it can be kept: U+0000, which databases refuse, as its picture (␀), half a character as the mark for what cannot be read (U+FFFD). Everything
 * else stays as it is.
 */
export const keepable = (text: string): string =>
  ODD.test(text) ? text.replaceAll('\0', '\u2400').replace(HALVES, '\uFFFD') : text;

/** Longer names are cut, and end in a mark of what they were. */
export const NAME_MOST = 300;

/** A short mark of a text (FNV-1a, 32 bits): names that were cut stay different from each other. */
function markOf(text: string): string {
  let mark = 0x811c9dc5;
  for (let at = 0; at < text.length; at += 1) mark = Math.imul(mark ^ text.charCodeAt(at), 0x01000193);
  return (mark >>> 0).toString(16).padStart(8, '0');
}

/** A name of an object as it can be kept and told apart: U+001F, which parts names of keys, as its picture (␟) too, and no longer than {@link NAME_MOST}. */
export function keepableName(name: string): string {
  const clean = keepable(name).replaceAll('\u001f', '\u241f');
  return clean.length > NAME_MOST ? `${keepable(clean.slice(0, NAME_MOST - 9))}…${markOf(name)}` : clean;
}

/** The same for every text and name within a value of any form; the value itself where nothing is to be changed. */
export function keepableWithin<T>(value: T): T {
  if (typeof value === 'string') return keepable(value) as T;
  if (value === null || typeof value !== 'object') return value;
  if (Array.isArray(value)) {
    const kept = value.map(keepableWithin);
    return (kept.some((entry, index) => entry !== value[index]) ? kept : value) as T;
  }
  let changed = false;
  const entries = Object.entries(value).map(([key, inner]) => {
    const [name, kept] = [keepable(key), keepableWithin(inner as unknown)];
    changed ||= name !== key || kept !== inner;
    return [name, kept] as const;
  });
  return changed ? (Object.fromEntries(entries) as T) : value;
}
