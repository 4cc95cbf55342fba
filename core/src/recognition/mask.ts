/**
 * An example that shows the shape of a value and no more of it: the first character, the separators, and of longer numbers the last two digits.
 * `ida.holm@example.org` → `i••.••••@•••••••.•••`
 */
export function maskExample(value: string): string {
  const shown = value.length > 60 ? `${value.slice(0, 59)}…` : value;
  const characters = [...shown];
  const digits = characters.filter((character) => /\d/.test(character)).length;
  let digitsLeft = digits;
  return characters
    .map((character, index) => {
      if (/\d/.test(character)) {
        digitsLeft -= 1;
        return digits >= 8 && digitsLeft < 2 ? character : '•';
      }
      if (!/\p{L}/u.test(character)) return character;
      return index === 0 && digits < 8 ? character : '•';
    })
    .join('');
}
