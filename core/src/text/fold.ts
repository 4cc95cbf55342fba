/** Letters that have no marks. */
const PLAIN = /^[\x20-\x7e]*$/;

/** Lower case without marks (`Ærø` → `aero`, `Łódź` → `lodz`): for comparing words, never for showing them. */
export function fold(text: string): string {
  if (PLAIN.test(text)) return text.toLowerCase();
  return text
    .toLowerCase()
    .replaceAll('ø', 'o')
    .replaceAll('ł', 'l')
    .replaceAll('æ', 'ae')
    .replaceAll('ß', 'ss')
    .normalize('NFD')
    .replace(/\p{M}/gu, '');
}
