/** So many letters may stand before the words (`tbl`, `stg`) and behind them (`id`, `nr`). */
const BEFORE = 4;
const BEHIND = 2;
/** Shorter abbreviations could be of anything. */
const SHORTEST = 3;
/** So many different words are told apart; longer names and words are not looked at. */
const MOST = 4;
const LONGEST = 40;

/**
 * Whether a text may be an abbreviation of a word: its first letters, or its first one and others of it in their order, the last consonant among them where they
 * are not its beginning (`eml` of `email`, `cust` of `customer`, `psngr` of `passenger`; not `cut` of `customer`).
 */
export function isShortFor(text: string, word: string): boolean {
  if (text.length < SHORTEST || text.length > word.length || text[0] !== word[0]) return false;
  if (word.startsWith(text)) return true;
  let at = 0;
  for (let place = 0; place < word.length && at < text.length; place += 1) if (word[place] === text[at]) at += 1;
  return at === text.length && text.at(-1) === lastConsonant(word) && !VOWELS.test(text.slice(1));
}
const VOWELS = /[aeiou]/;
const lastConsonant = (word: string): string | undefined => [...word].reverse().find((letter) => !VOWELS.test(letter));

/**
 * Whether a name is made of abbreviations of all these words, each once and in any order, without a seam: `tblpaxeml` of passenger (also called pax) and email.
 * @param words of each what it is called: itself first, then its other names, which stand as they are
 */
export function isRunTogether(name: string, words: readonly (readonly string[])[]): boolean {
  if (words.length < 2 || words.length > MOST || [name, ...words.flat()].some((text) => text.length > LONGEST))
    return false;
  const whole = 2 ** words.length - 1;
  /** Places from which it was tried to go on, with what is used by then: in vain. */
  const tried = new Set<number>();
  const from = (at: number, used: number): boolean => {
    if (used === whole) return name.length - at <= BEHIND;
    const here = at * 2 ** MOST + used;
    if (tried.has(here)) return false;
    tried.add(here);
    for (let nth = 0; nth < words.length; nth += 1) {
      if (used & (1 << nth)) continue;
      const [own = '', ...others] = words[nth] as readonly string[];
      for (const other of others)
        if (name.startsWith(other, at) && from(at + other.length, used | (1 << nth))) return true;
      if (name[at] !== own[0]) continue;
      for (let length = SHORTEST; length <= own.length && at + length <= name.length; length += 1)
        if (isShortFor(name.slice(at, at + length), own) && from(at + length, used | (1 << nth))) return true;
    }
    return false;
  };
  for (let at = 0; at <= BEFORE && at < name.length; at += 1) if (from(at, 0)) return true;
  return false;
}
