import type { DocField } from './schema.ts';
import type { DocEntry, DocFlaw } from './yaml.ts';

/** What one file says. */
export interface DocsFile {
  readonly file: string;
  readonly entries: readonly DocEntry[];
  /** Comments say something of an asset only where no file of documentation does. */
  readonly comments: boolean;
}
/** An entry, or a flaw, and the file in which it stands. */
type In<T> = T & { readonly file: string };

/**
 * What many files say, each fact of an asset once: what two files of documentation say of it otherwise is a flaw of the later one, so that nothing wins by the order of its
 * name; of a comment it is left out.
 */
export function saidOnce(files: readonly DocsFile[]): {
  readonly entries: In<DocEntry>[];
  readonly flaws: In<DocFlaw>[];
} {
  const entries: In<DocEntry>[] = [];
  const flaws: In<DocFlaw>[] = [];
  const first = new Map<string, { readonly where: string; readonly value: string; readonly comments: boolean }>();
  for (const { file, entries: own, comments } of [...files].sort((a, b) => Number(a.comments) - Number(b.comments)))
    for (const entry of own) {
      const said: Partial<Record<DocField, string | null | readonly string[]>> = {};
      for (const [field, value] of Object.entries(entry.said) as [DocField, string | null | readonly string[]][]) {
        const key = `${entry.of} ${field}`;
        const known = first.get(key);
        const text = JSON.stringify(value);
        if (!known) {
          first.set(key, { where: `${file}, ${entry.at}`, value: text, comments });
          said[field] = value;
        } else if (known.value !== text && known.comments === comments)
          flaws.push({
            file,
            at: entry.at,
            what: `The ${field} of ${entry.of} is another one in ${known.where}.`,
            mend: 'Say it in one place; that one is taken.',
          });
      }
      const fields = Object.keys(said) as DocField[];
      if (fields.length > 0)
        entries.push({ ...entry, file, said, keep: entry.keep.filter((field) => fields.includes(field)) });
    }
  return { entries, flaws };
}
