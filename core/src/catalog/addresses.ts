/** The readable address of what is called so in a source: `/at/Warehouse/core/passenger`. @param names from the top */
export const placeOf = (source: string, names: readonly string[]): string =>
  ['/at', source, ...names].map((part, index) => (index === 0 ? part : segment(part))).join('/');

/** A part of an address. Dots alone are steps of a path to a browser, however they are written: a tilde stands before them. */
const segment = (name: string): string => encodeURIComponent(DOTS.test(name) ? `~${name}` : name);
const DOTS = /^~*\.{1,2}$/;
const nameOf = (part: string): string => {
  const name = decodeURIComponent(part);
  return name.startsWith('~') && DOTS.test(name) ? name.slice(1) : name;
};

/**
 * The same for people to write and read in a file, without `/at/`: only what would be taken for something else is put otherwise. `Warehouse/mart/Fares of 2026`
 */
export const placeInFile = (source: string, names: readonly string[]): string =>
  [source, ...names]
    .map((name) => (DOTS.test(name) ? `~${name}` : name).replace(/[%/]/g, (sign) => encodeURIComponent(sign)))
    .join('/');

/** What a readable address names; undefined where it is none. */
export function readPlace(address: string): { readonly source: string; readonly names: readonly string[] } | undefined {
  const parts = address.split('/');
  if (parts[0] !== '' || parts[1] !== 'at' || parts.length < 3) return undefined;
  try {
    const [source = '', ...names] = parts.slice(2).map(nameOf);
    return [source, ...names].includes('') ? undefined : { source, names };
  } catch {
    return undefined;
  }
}

/** Sources whose assets are named in SQL, and the quotation marks of their dialects. */
const QUOTES: Readonly<Record<string, string>> = { postgresql: '"', sqlite: '"', mariadb: '`' };
const PLAIN = /^[a-z_][a-z0-9_]*$/;

/**
 * What something is called in SQL, as it can be put into a statement: each name is quoted, but for those of small letters that no dialect takes for a word of its own.
 * @param sourceKind the kind of its source
 * @param names from the schema on
 * @returns null where its source is not asked in SQL
 */
export function sqlName(sourceKind: string, names: readonly string[]): string | null {
  const quote = QUOTES[sourceKind];
  if (!quote || names.length === 0) return null;
  return names
    .map((name) =>
      PLAIN.test(name) && !RESERVED.has(name) ? name : quote + name.replaceAll(quote, quote + quote) + quote,
    )
    .join('.');
}

/** Words that SQL:2023 or one of the dialects reserves, of those that are likely names. */
const RESERVED = new Set(
  'all analyse analyze and any array as asc between by case cast check collate column condition constraint create cross current_date current_time current_timestamp current_user cursor database default deferrable delete desc describe distinct do drop else end except exists explain false fetch for foreign from full grant group having if in index inner insert intersect interval into is join key keys leading left like limit localtime localtimestamp lock match natural not null offset on only or order outer over partition placing primary range rank references release rename returning right row rows schema select session_user set show some symmetric system table then to trailing trigger true union unique update usage use user using values variadic when where window with'.split(
    ' ',
  ),
);
