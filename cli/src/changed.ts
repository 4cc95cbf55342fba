import { execFile } from 'node:child_process';
import { promisify } from 'node:util';
import type { ScriptFile } from '@idrel/core/lineage';
import { CliProblem } from './problem.ts';

const run = promisify(execFile);
/** So much of a repository's scripts is read, in bytes; and so many scripts. */
const MOST_BYTES = 64 << 20;
const MOST_FILES = 5000;
const isScript = (path: string): boolean => /\.(sql|ddl|pgsql|psql)$/i.test(path);

/** The scripts of a repository before and after a change, and which of them it touches. */
export interface ChangedScripts {
  readonly before: readonly ScriptFile[];
  readonly after: readonly ScriptFile[];
  readonly touched: readonly string[];
}

/** A range of commits of a git repository, and a way to ask it. */
async function rangeOf(repository: string, range: string) {
  const parts = /^([^.\s-][^\s]*?)(\.{2,3})([^.\s-][^\s]*)?$/.exec(range);
  if (!parts)
    throw new CliProblem(
      `--changed ${range}: it is no range of commits.`,
      'Name two, as in --changed main...HEAD or --changed HEAD~1..HEAD.',
    );
  const git = async (...args: string[]): Promise<string> => {
    try {
      return (await run('git', ['-C', repository, ...args], { maxBuffer: MOST_BYTES })).stdout;
    } catch (error) {
      const { code, stderr } = error as { code?: string | number; stderr?: string };
      if (code === 'ENOENT') throw new CliProblem('git is not there.', 'Install git on this machine.');
      throw new CliProblem(
        `git ${args[0]} ${args.at(-1)}: ${(stderr ?? String(error)).trim().split('\n')[0]}`,
        `Check --repository and --changed; in a CI job the history must be there (a depth of 0).`,
      );
    }
  };
  const commit = async (name: string) =>
    (await git('rev-parse', '--verify', '--end-of-options', `${name}^{commit}`)).trim();
  const to = await commit(parts[3] ?? 'HEAD');
  const named = await commit(parts[1] ?? '');
  const from = parts[2] === '...' ? (await git('merge-base', named, to)).trim() : named;
  return { git, from, to };
}

/** The files that a range of commits touches and leaves there, as they are reached from the folder. */
export async function touchedBy(folder: string, range: string): Promise<string[]> {
  const { git, from, to } = await rangeOf(folder, range);
  const names = await git('diff', '--name-only', '--relative', '--no-renames', '--diff-filter=d', '-z', from, to);
  return names.split('\0').filter(Boolean);
}

/** Reads scripts out of a git repository. @param range `A..B`, or `A...B` for what B changes since it left A */
export async function changedScripts(repository: string, range: string): Promise<ChangedScripts> {
  const { git, from, to } = await rangeOf(repository, range);
  const names = async (...args: string[]) => (await git(...args)).split('\0').filter(isScript);
  const touched = await names('diff', '--name-only', '--no-renames', '-z', from, to);
  if (touched.length === 0) return { before: [], after: [], touched };
  const scriptsAt = async (at: string): Promise<ScriptFile[]> => {
    const paths = await names('ls-tree', '-r', '--name-only', '-z', at);
    if (paths.length > MOST_FILES)
      throw new CliProblem(
        `The repository holds ${paths.length} scripts; at most ${MOST_FILES} are read.`,
        'Run it in a repository of its own for the scripts of one database.',
      );
    const files: ScriptFile[] = [];
    for (const path of paths) files.push({ path, text: await git('show', '--end-of-options', `${at}:${path}`) });
    return files;
  };
  return { before: await scriptsAt(from), after: await scriptsAt(to), touched };
}
