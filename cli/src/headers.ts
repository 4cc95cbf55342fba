import { readFile, writeFile } from 'node:fs/promises';
import { extname } from 'node:path';
import { addressEndpoints } from '@idrel/contract/catalog';
import { Refusal } from '@idrel/contract/http/client';
import { placeOf } from '@idrel/core/catalog';
import {
  COMMENT_SIGNS,
  HEADER_MOST,
  isDocs,
  madeIn,
  readDocs,
  withHeader,
  withoutHeader,
} from '@idrel/core/exchange/docs';
import { loadParser } from '@idrel/core/sql';
import { type Asker, asking } from './asker.ts';
import { filesOf } from './files.ts';
import { CliProblem } from './problem.ts';

interface Options {
  server?: string;
  user?: string;
  source?: string;
  schema?: string;
  changed?: string;
  remove?: boolean;
  check?: boolean;
  json?: boolean;
}

const signOf = (file: string): string => COMMENT_SIGNS[extname(file).toLowerCase()] ?? '--';

/** Addresses of what a file is about, whether they are there or not. */
function aboutOf(file: string, text: string, { source, schema }: Options): string[] {
  if (extname(file).toLowerCase() !== '.sql') {
    if (!isDocs(text)) return [];
    // Columns are reached by what holds them.
    return readDocs(text).entries.flatMap(({ of, column }) => (column ? [] : [of]));
  }
  return source === undefined ? [] : madeIn(text, schema ?? null).map((names) => placeOf(source, names));
}

/** The addresses of those that the catalog has, as links. */
async function known(asker: Asker, server: string, wanted: readonly string[]): Promise<string[]> {
  const links: string[] = [];
  for (const address of wanted)
    try {
      const { place } = await asker.ask(addressEndpoints.at, { query: { address } });
      links.push(`${server}${place}`);
    } catch (error) {
      if (!(error instanceof Refusal) || error.status !== 404) throw error;
    }
  return [...new Set(links)];
}

/** `idrel headers`. Exit status 4 with --check: a header is missing, or not as it would be written. */
export async function headers(paths: readonly string[], options: Options): Promise<void> {
  const files = await filesOf(paths, Object.keys(COMMENT_SIGNS), options.changed);
  await loadParser();
  const changed: string[] = [];
  const take = async (file: string, next: (text: string, sign: string) => string | Promise<string>) => {
    const text = await readFile(file, 'utf8');
    // What is not text as it stands would come back as something else.
    if (text.includes('\0') || text.includes('\ufffd')) return;
    const after = await next(text, signOf(file));
    if (after === text) return;
    changed.push(file);
    if (!options.check) await writeFile(file, after);
  };
  if (options.remove) for (const file of files) await take(file, withoutHeader);
  else {
    if (options.source === undefined && files.some((file) => extname(file).toLowerCase() === '.sql'))
      throw new CliProblem('SQL scripts do not say of which source they are.', 'Name it with --source.');
    await asking(options.server, options.user, async (asker, server) => {
      for (const file of files)
        await take(file, async (text, sign) => {
          const wanted = aboutOf(file, text, options);
          if (wanted.length === 0 || wanted.length > HEADER_MOST) return withoutHeader(text, sign);
          return withHeader(text, sign, await known(asker, server, wanted));
        });
    });
  }
  if (options.json) process.stdout.write(`${JSON.stringify({ files: files.length, changed }, null, 1)}\n`);
  else
    process.stdout.write(
      `${changed.map((file) => `~ ${file}\n`).join('')}${options.check ? 'To be changed' : 'Changed'}: ${changed.length} of ${files.length} ${files.length === 1 ? 'file' : 'files'}.\n`,
    );
  if (options.check && changed.length > 0) process.exitCode = 4;
}
