import { lstatSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import type { FileKind } from '@idrel/contract/scanning';

export interface WalkedFile {
  readonly path: string;
  readonly names: readonly string[];
  readonly bytes: number;
  /** Milliseconds since 1970. */
  readonly modified: number;
  readonly format: FileFormat | null;
  /** How its characters are written, where that is not UTF-8. */
  readonly encoding?: 'latin-1';
  /** What a store says of its content besides size and time. */
  readonly tag?: string;
}
export interface Walked {
  readonly folders: readonly (readonly string[])[];
  readonly files: readonly WalkedFile[];
  readonly skipped: readonly string[];
}
export type FileFormat = FileKind;

const FORMATS: Record<string, FileFormat> = {
  '.csv': 'csv',
  '.tsv': 'csv',
  '.ndjson': 'ndjson',
  '.jsonl': 'ndjson',
  '.json': 'json',
  '.parquet': 'parquet',
  '.avro': 'avro',
  '.arrow': 'arrow',
  '.arrows': 'arrow',
  '.feather': 'arrow',
  '.ipc': 'arrow',
  '.xlsx': 'xlsx',
  '.txt': 'text',
  '.log': 'text',
  '.md': 'text',
};

/** Compressed with gzip or zstd: read as it is. Parquet, Avro, Arrow and workbooks compress within. */
const WITHIN: readonly (FileFormat | null)[] = ['parquet', 'avro', 'arrow', 'xlsx'];

/** The format that a file's name promises, or null for one whose columns are not read. */
export function formatOf(name: string): FileFormat | null {
  const end = name.slice(name.lastIndexOf('.')).toLowerCase();
  if (end !== '.gz' && end !== '.zst') return FORMATS[end] ?? null;
  const inner = name.slice(0, -end.length);
  const format = FORMATS[inner.slice(inner.lastIndexOf('.')).toLowerCase()] ?? null;
  return WITHIN.includes(format) ? null : format;
}

/** Whether a plan that reads only some kinds of files reads one of this name; those of no kind that has columns are listed always. */
export function isRead(name: string, kinds: readonly FileKind[]): boolean {
  const format = formatOf(name);
  return format === null || kinds.includes(format);
}

/** Files looked at before others have their turn: asking the disk without waiting is many times faster, and holds everything else up meanwhile. */
const AT_ONCE = 1000;

/** Which part of a folder is walked: what lies below one folder in it, or one file alone. */
export interface WalkedPart {
  readonly below: readonly string[];
  /** The one name in it that is meant. */
  readonly name?: string;
}

/**
 * All files and folders below a folder, by name. Links are not followed: what lies outside stays outside. Hidden entries are passed over.
 * @param part only this of it; names are those below the root all the same
 */
export async function walk(root: string, part: WalkedPart = { below: [] }, limit = 1_000_000): Promise<Walked> {
  const folders: string[][] = [];
  const files: WalkedFile[] = [];
  const skipped: string[] = [];
  let looked = 0;
  const visit = async (names: string[]): Promise<void> => {
    const folder = join(root, ...names);
    // One look at the disk an entry: it says what it is, how large and how old.
    for (const name of namesIn(folder, names.length === part.below.length ? part.name : undefined)) {
      if (name.startsWith('.')) continue;
      const inside = [...names, name];
      const path = `${folder}/${name}`;
      const facts = lstatSync(path, { throwIfNoEntry: false });
      if (!facts) continue; // gone meanwhile
      if (facts.isSymbolicLink()) skipped.push(`${inside.join('/')} is a link and was not followed`);
      else if (facts.isDirectory()) {
        folders.push(inside);
        await visit(inside);
      } else if (facts.isFile()) {
        if (files.length >= limit) throw new Error(`The folder holds more than ${limit.toLocaleString('en')} files.`);
        files.push({ path, names: inside, bytes: facts.size, modified: facts.mtimeMs, format: formatOf(name) });
        looked += 1;
        if (looked % AT_ONCE === 0) await new Promise((resolve) => setImmediate(resolve));
      }
    }
  };
  if (isWithin(root, part.below)) await visit([...part.below]);
  return { folders, files, skipped };
}

const namesIn = (folder: string, only: string | undefined): string[] =>
  only === undefined ? readdirSync(folder).sort() : [only];

/** Whether these are folders, each in the one before, without a link or a name that leads elsewhere. */
function isWithin(root: string, names: readonly string[]): boolean {
  if (names.some((name) => name.startsWith('.') || name.includes('/'))) return false;
  return names.every((_, index) =>
    lstatSync(join(root, ...names.slice(0, index + 1)), { throwIfNoEntry: false })?.isDirectory(),
  );
}
