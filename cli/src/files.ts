import { readdir } from 'node:fs/promises';
import { extname, join, relative } from 'node:path';
import { touchedBy } from './changed.ts';
import { CliProblem } from './problem.ts';

/** So many files are looked into. */
const MOST = 20_000;

/** Files below a folder with one of some endings, in order of their names; what is hidden, and what others installed, is left out. */
async function filesBelow(path: string, endings: readonly string[]): Promise<string[]> {
  const entries = await readdir(path, { withFileTypes: true }).catch((error: { code?: string; message: string }) => {
    if (error.code === 'ENOTDIR') return null;
    throw new CliProblem(`${path} cannot be read: ${error.message}`, 'Check the path.');
  });
  if (entries === null) return [path];
  const found: string[] = [];
  for (const entry of entries.sort((a, b) => (a.name < b.name ? -1 : 1))) {
    if (entry.name.startsWith('.') || entry.name === 'node_modules') continue;
    const inside = join(path, entry.name);
    if (entry.isDirectory()) found.push(...(await filesBelow(inside, endings)));
    else if (entry.isFile() && endings.includes(extname(entry.name).toLowerCase())) found.push(inside);
    if (found.length > MOST)
      throw new CliProblem(`${path} holds more than ${MOST} files.`, 'Name the folders that are meant.');
  }
  return found;
}

/**
 * The files that are meant by paths of files and folders; this folder where none is named.
 * @param changed a range of commits: of the files only those that it touches
 */
export async function filesOf(
  paths: readonly string[],
  endings: readonly string[],
  changed: string | undefined,
): Promise<string[]> {
  const files: string[] = [];
  for (const path of paths.length > 0 ? paths : ['.']) files.push(...(await filesBelow(path, endings)));
  if (changed === undefined) return [...new Set(files)];
  const touched = new Set(await touchedBy('.', changed));
  return [...new Set(files)].filter((file) => touched.has(relative('.', file)));
}
