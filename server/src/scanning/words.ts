import { searchWords } from '@idrel/core/catalog';

/**
 * The words by which an asset is found, as PostgreSQL reads a `tsvector`: those of its names weigh A, those of texts about it C.
 * Words hold letters and digits only, so nothing needs escaping.
 */
export function wordsVector(names: readonly string[], texts: readonly (string | null | undefined)[]): string {
  const words = searchWords(names, texts);
  return [...words.names.map((word) => `'${word}':1A`), ...words.texts.map((word) => `'${word}':1C`)].join(' ');
}
