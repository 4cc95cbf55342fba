import { readFile } from 'node:fs/promises';
import { extname } from 'node:path';
import type { Line, LineAnswer, LinesEnd } from '@idrel/client';
import {
  DOCS_SCHEMA,
  type DocEntry,
  type DocFlaw,
  type DocsFile,
  isDocs,
  readComments,
  readDocs,
  saidOnce,
} from '@idrel/core/exchange/docs';
import { loadParser } from '@idrel/core/sql';
import { onOneLine, shortened } from '@idrel/core/text';
import { asking } from './asker.ts';
import { filesOf } from './files.ts';
import { CliProblem } from './problem.ts';

interface Options {
  server?: string;
  user?: string;
  source?: string;
  comments?: boolean;
  schema?: string;
  changed?: string;
  preview?: boolean;
  json?: boolean;
  form?: boolean;
}
/** A file, or a part of one, with where it was found. */
interface Found extends DocEntry {
  readonly file: string;
}
interface Flaw extends DocFlaw {
  readonly file: string;
}
type Answer = Omit<LineAnswer, 'line'> & { readonly file: string; readonly at: string; readonly of: string };

/** So large is what people write by hand, in bytes. */
const MOST_BYTES = 4 << 20;
const YAML = ['.yaml', '.yml'];

/** What the files say, and what is wrong with them. */
async function readAll(
  paths: readonly string[],
  options: Options,
): Promise<{ found: Found[]; flaws: Flaw[]; files: number }> {
  const endings = options.comments ? [...YAML, '.sql'] : YAML;
  const files = await filesOf(paths, endings, options.changed);
  if (options.comments && options.source === undefined)
    throw new CliProblem('Comments in SQL do not say of which source they are.', 'Name it with --source.');
  if (options.comments) await loadParser();
  const all: DocsFile[] = [];
  const flaws: Flaw[] = [];
  for (const file of files) {
    const bytes = await readFile(file).catch((error: Error) => {
      throw new CliProblem(`${file} cannot be read: ${error.message}`, 'Check the path.');
    });
    if (bytes.length > MOST_BYTES) {
      flaws.push({ file, at: 'line 1', what: 'The file is larger than 4 MB.', mend: 'Split it.' });
      continue;
    }
    const text = bytes.toString('utf8');
    const isSql = extname(file).toLowerCase() === '.sql';
    if (!isSql && !isDocs(text)) continue;
    const said = isSql
      ? readComments(text, { source: options.source ?? '', schema: options.schema ?? null })
      : readDocs(text);
    all.push({ file, entries: said.entries, comments: isSql });
    flaws.push(...said.flaws.map((flaw) => ({ file, ...flaw })));
  }
  const { entries, flaws: twice } = saidOnce(all);
  return { found: entries, flaws: [...flaws, ...twice], files: all.length };
}

const shortly = (text: string) => (text.trim() === '' ? 'nothing' : `“${shortened(onOneLine(text), 60)}”`);

/** What came of the files, line by line. */
export function docsText(answers: readonly Answer[], flaws: readonly Flaw[], end: LinesEnd, preview: boolean): string {
  const lines = flaws.map(({ file, at, what, mend }) => `! ${file}, ${at}: ${what}\n    ${mend}`);
  for (const { outcome, file, at, of, changes = [], kept = [], why, mend } of answers) {
    if (outcome === 'refused') lines.push(`! ${file}, ${at}: ${of}: ${why}${mend ? `\n    ${mend}` : ''}`);
    if (changes.length > 0)
      lines.push(
        `~ ${of}`,
        ...changes.map(({ field, before, after }) => `    ${field}: ${shortly(before)} → ${shortly(after)}`),
      );
    if (kept.length > 0)
      lines.push(
        `= ${of}`,
        ...kept.map(
          ({ field, by, at: day }) =>
            `    ${field}: stays as ${by} decided on ${day.slice(0, 10)} (“wins” in the file says who wins)`,
        ),
      );
  }
  const refused = end.refused + flaws.length;
  lines.push(`${preview ? 'Compared' : 'Written'}: ${end.changed} changed, ${end.same} the same, ${refused} refused.`);
  return lines.join('\n');
}

/** `idrel push docs`. Exit status 4: something of the files cannot be taken, and is named. */
export async function pushDocs(paths: readonly string[], options: Options): Promise<void> {
  if (options.form) {
    process.stdout.write(`${JSON.stringify(DOCS_SCHEMA, null, 2)}\n`);
    return;
  }
  const { found, flaws, files } = await readAll(paths, options);
  const lines = found.map(({ of, said, keep }): Line => ({ said: { of, ...said, keep } as NonNullable<Line['said']> }));
  const answers: Answer[] = [];
  let end: LinesEnd = { end: true, lines: 0, made: 0, changed: 0, same: 0, refused: 0 };
  if (lines.length > 0)
    end = await asking(options.server, options.user, async (asker) => {
      const sent = asker.client().send(lines, { preview: options.preview ?? false });
      for (;;) {
        const { value, done } = await sent.next();
        if (done) return value;
        const { line, ...answer } = value;
        const from = found[line - 1] as Found;
        answers.push({ ...answer, file: from.file, at: from.at, of: from.of });
      }
    });
  if (end.problem) throw new CliProblem(end.problem, 'What is told before it stands; push again.');
  if (options.json) process.stdout.write(`${JSON.stringify({ files, answers, flaws, ...end }, null, 1)}\n`);
  else
    process.stdout.write(
      `${files === 0 ? 'No file of documentation was found.\n' : ''}${docsText(answers, flaws, end, options.preview ?? false)}\n`,
    );
  if (end.refused + flaws.length > 0) process.exitCode = 4;
}
