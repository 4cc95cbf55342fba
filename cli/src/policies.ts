import { readFile, writeFile } from 'node:fs/promises';
import { basename } from 'node:path';
import { type PolicyFilePlan, policyFileEndpoints } from '@idrel/contract/access';
import { type Asker, asking } from './asker.ts';
import { CliProblem } from './problem.ts';

interface Options {
  server?: string;
  user?: string;
  removeAbsent?: boolean;
  json?: boolean;
  seen?: string;
}

/** So many lines of who gains and loses what are printed. */
const ROWS = 100;
/** So many columns of a line are named. */
const NAMED = 4;

const read = async (file: string) => ({
  name: basename(file),
  content: (
    await readFile(file).catch((error: Error) => {
      throw new CliProblem(`${file} cannot be read: ${error.message}`, 'Check the path.');
    })
  ).toString('base64'),
});

const ask = async (asker: Asker, file: string, { removeAbsent, seen }: Options, preview: boolean) =>
  asker.ask(policyFileEndpoints.policiesIn, {
    query: { preview },
    body: { ...(await read(file)), removeAbsent: removeAbsent ?? false, ...(seen === undefined ? {} : { seen }) },
  });

/** Who gains or loses what: columns of one table that change alike stand together. */
function lines(rows: PolicyFilePlan['reach']['rows']): string[] {
  const together = new Map<string, string[]>();
  for (const { person, table, column, before, after } of rows) {
    const key = `    ${person}  ${table}  ${before} → ${after}`;
    together.set(key, [...(together.get(key) ?? []), column]);
  }
  return [...together].map(
    ([key, columns]) =>
      `${key}: ${columns.slice(0, NAMED).join(', ')}${columns.length > NAMED ? ` and ${columns.length - NAMED} more` : ''}`,
  );
}

/** What a file would change, or has changed, in lines: what comes with a plus, what goes with a minus, what is otherwise with a tilde. */
export function planText({
  fresh,
  changed,
  same,
  absent,
  removed,
  flaws,
  reach,
  written,
  seen,
}: PolicyFilePlan): string {
  const goes = removed > 0 ? absent : [];
  const of = (n: number, word: string, words = `${word}s`) => `${n} ${n === 1 ? word : words}`;
  const said = [
    ...flaws.map(({ at, what, mend }) => `! ${at}: ${what}\n    ${mend}`),
    ...fresh.map(({ name, effect }) => `+ ${name} (${effect})`),
    ...changed.flatMap(({ name, fields }) => [
      `~ ${name}`,
      ...fields.map(({ field, before, after }) => `    ${field}: ${before || 'nothing'} → ${after || 'nothing'}`),
    ]),
    ...goes.map((name) => `- ${name}`),
    `${written ? 'Written' : 'Planned'}: ${of(fresh.length, 'policy', 'policies')} new, ${changed.length} changed, ${removed} removed, ${same} the same.${
      removed === 0 && absent.length > 0
        ? ` ${of(absent.length, 'policy is', 'policies are')} not in the file and ${absent.length === 1 ? 'stays' : 'stay'} (--remove-absent removes).`
        : ''
    }`,
  ];
  if (fresh.length + changed.length + removed > 0) {
    const { people, tables, gains, losses, masked, sensitive, rows, limited, used, sight } = reach;
    said.push(
      people === 0 && limited.length === 0
        ? 'Nobody reads anything otherwise.'
        : `${of(people, 'person', 'people')}, ${of(tables, 'table')}: columns gained ${gains}, lost ${losses}, masked ${masked}; ${sensitive} of them sensitive.`,
      ...lines(rows).slice(0, ROWS),
      ...(lines(rows).length > ROWS ? [`    and ${lines(rows).length - ROWS} more (--json prints them)`] : []),
      ...sight.rows
        .slice(0, ROWS)
        .map(({ person, path, comes }) => `    ${person}  ${path}  ${comes ? 'is seen' : 'is seen no more'}`),
      ...(sight.rows.length > ROWS
        ? [`    and ${sight.rows.length - ROWS} more seen or not (--json prints them)`]
        : []),
      ...limited
        .slice(0, ROWS)
        .map(
          ({ person, table, after }) =>
            `    ${person}  ${table}  ${after.length > 0 ? after.join(' and ') : 'all rows'}`,
        ),
      ...used
        .slice(0, ROWS)
        .map(
          ({ person, table, column }) =>
            `  ! ${person} asked for ${table}${column === null ? '' : `.${column}`} in the last 30 days`,
        ),
    );
  }
  if (!written) said.push(`To apply just this: --seen ${seen}`);
  return said.join('\n');
}

/** `idrel policies plan` and `apply`. Exit status 4: something in the file cannot be taken. */
async function takeIn(file: string, options: Options, preview: boolean): Promise<void> {
  const plan = await asking(options.server, options.user, async (asker) => {
    if (preview) return ask(asker, file, options, true);
    // Nothing of a file is written that cannot be taken whole.
    const looked = await ask(asker, file, options, true);
    return looked.flaws.length > 0
      ? looked
      : ask(asker, file, { ...options, seen: options.seen ?? looked.seen }, false);
  });
  process.stdout.write(options.json ? `${JSON.stringify(plan, null, 1)}\n` : `${planText(plan)}\n`);
  if (plan.flaws.length > 0) {
    if (!preview) process.stderr.write('Nothing was written.\n');
    process.exitCode = 4;
  }
}
export const plan = (file: string, options: Options): Promise<void> => takeIn(file, options, true);
export const apply = (file: string, options: Options): Promise<void> => takeIn(file, options, false);

/** `idrel policies export`. */
export async function exportPolicies(options: Options & { format: string; out?: string }): Promise<void> {
  const { format } = options;
  if (format !== 'yaml' && format !== 'odrl')
    throw new CliProblem(`--format ${format}: it is none that is written.`, 'Use --format yaml or --format odrl.');
  const text = await asking(options.server, options.user, async (asker) => {
    const { content } = await asker.ask(policyFileEndpoints.policiesOut, { query: { format } });
    return Buffer.from(content, 'base64').toString('utf8');
  });
  if (options.out === undefined) process.stdout.write(text);
  else
    await writeFile(options.out, text).catch((error: Error) => {
      throw new CliProblem(`${options.out} cannot be written: ${error.message}`, 'Check --out.');
    });
}
