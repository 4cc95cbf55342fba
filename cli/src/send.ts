import { createReadStream } from 'node:fs';
import { createInterface } from 'node:readline';
import type { Line } from '@idrel/client';
import { asking } from './asker.ts';
import { CliProblem } from './problem.ts';

interface Options {
  server?: string;
  user?: string;
  preview?: boolean;
  json?: boolean;
}

/** Lines of a file, or of standard input, as they are read. @throws {CliProblem} where one is no JSON: nothing behind it is sent */
async function* linesOf(file: string): AsyncGenerator<Line> {
  const input = file === '-' ? process.stdin : createReadStream(file);
  let nth = 0;
  try {
    for await (const text of createInterface({ input, crlfDelay: Number.POSITIVE_INFINITY })) {
      nth += 1;
      if (text.trim() === '') continue;
      yield JSON.parse(text) as Line; // the server says what does not fit
    }
  } catch (error) {
    if (error instanceof SyntaxError)
      throw new CliProblem(
        `${file}, line ${nth}: it is no JSON: ${error.message}`,
        'Mend that line and send all of it again: what was taken already is the same then.',
      );
    throw new CliProblem(`${file} cannot be read: ${(error as Error).message}`, 'Check the path.');
  }
}

/** `idrel send`. Exit status 4: a line was refused. */
export async function send(file: string, options: Options): Promise<void> {
  const end = await asking(options.server, options.user, async (asker) => {
    const sent = asker.client().send(linesOf(file), { preview: options.preview ?? false });
    for (;;) {
      const { value, done } = await sent.next();
      if (done) return value;
      if (options.json) process.stdout.write(`${JSON.stringify(value)}\n`);
      else if (value.outcome === 'refused')
        process.stdout.write(`! line ${value.line}: ${value.why}${value.mend ? `\n    ${value.mend}` : ''}\n`);
    }
  });
  process.stdout.write(
    options.json
      ? `${JSON.stringify(end)}\n`
      : `${options.preview ? 'Would be' : 'Are'}: ${end.made} made, ${end.changed} changed, ${end.same} the same, ${end.refused} refused.\n`,
  );
  if (end.problem) throw new CliProblem(end.problem, 'Send the rest again.');
  if (end.refused > 0) process.exitCode = 4;
}
