/** Lower case without marks (`Ærø` → `aero`, `Łódź` → `lodz`): for comparing words, never for showing them. */
export function fold(text: string): string {
  return text.toLowerCase().replaceAll('ø', 'o').replaceAll('ł', 'l').replaceAll('æ', 'ae').replaceAll('ß', 'ss').normalize('NFD').replace(/\p{M}/gu, '');
}

/** The words of a technical name: `passengerEMail_2` → passenger, e, mail, 2. */
export function nameWords(name: string): string[] {
  return fold(
    name
      .replace(/(\p{Ll}|\p{N})(\p{Lu})/gu, '$1 $2')
      .replace(/(\p{Lu}+)(\p{Lu}\p{Ll})/gu, '$1 $2')
      .replace(/(\p{L})(\p{N})/gu, '$1 $2'),
  )
    .split(/[^\p{L}\p{N}]+/u)
    .filter(Boolean);
}
