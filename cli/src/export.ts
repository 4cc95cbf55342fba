import { writeFile } from 'node:fs/promises';
import { asking } from './asker.ts';
import { CliProblem } from './problem.ts';

/** `idrel export`: what is made of a source, as a file that `idrel impact --catalog` asks where no server can be reached. */
export async function exportCatalog(options: {
  server?: string;
  user?: string;
  source: string;
  out: string;
}): Promise<void> {
  const text = await asking(options.server, options.user, (asker) => asker.exportOf(options.source));
  await writeFile(options.out, text).catch((error: Error) => {
    throw new CliProblem(`${options.out} cannot be written: ${error.message}`, 'Check --out.');
  });
  process.stderr.write(`${text.split('\n').length - 1} lines were written to ${options.out}.\n`);
}
