import { mkdtemp, rm, stat } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { dirname, join, resolve } from 'node:path';
import { type Finding, recogniseTable } from '@idrel/core/recognition';
import {
  convertToLines,
  describeFile,
  formatOf,
  isConverted,
  isNested,
  openDuck,
  sampleFile,
} from '@idrel/readers/files';
import { CliProblem } from './problem.ts';

interface ColumnResult {
  readonly file: string;
  readonly column: string;
  readonly findings: readonly Finding[];
}

const firstLine = (error: unknown) => (error instanceof Error ? (error.message.split('\n')[0] ?? '') : String(error));

async function classifyFile(file: string, rows: number, countries: string[]): Promise<ColumnResult[]> {
  const path = resolve(file);
  const facts = await stat(path).catch(() => undefined);
  if (!facts?.isFile()) throw new CliProblem(`${file}: there is no such file.`, 'Check the path.');
  const format = formatOf(path);
  if (!format)
    throw new CliProblem(
      `${file}: its ending says none of .csv, .tsv, .ndjson, .jsonl, .json, .parquet, .avro, .arrow, .feather, .xlsx, .txt.`,
      'Rename it, or convert it.',
    );
  const given = { path, format, bytes: facts.size };
  const home = isConverted(given) ? await mkdtemp(join(tmpdir(), 'idrel-classify-')) : undefined;
  // Nobody else works on this machine's memory here: files of thousands of columns take more than a server grants.
  const duck = await openDuck(home ?? dirname(path), 2048);
  try {
    const readable = home ? ({ ...given, path: join(home, 'rows.ndjson'), format: 'ndjson' } as const) : given;
    if (home) await convertToLines(given, readable.path);
    const { columns } = await describeFile(duck, readable);
    const values = await sampleFile(
      duck,
      readable,
      columns.map((column) => column.name),
      rows,
      'random',
      new Set(columns.flatMap((column) => (isNested(column.type) ? [column.name] : []))),
    );
    const setting = { today: new Date(), countries };
    const found = recogniseTable(
      columns.map((column, index) => ({ name: column.name, type: column.valueType, values: values[index] ?? [] })),
      setting,
    );
    return columns.map((column, index) => ({ file, column: column.name, findings: found[index] ?? [] }));
  } catch (error) {
    throw new CliProblem(
      `${file}: it cannot be read. ${firstLine(error)}`,
      'Check that its content fits its ending, and that it is whole.',
    );
  } finally {
    duck.closeSync();
    if (home) await rm(home, { recursive: true, force: true });
  }
}

const toJson = ({ file, column, findings }: ColumnResult) => ({
  file,
  column,
  findings: findings.map((finding) => ({
    class: finding.classKey,
    label: finding.label,
    share: finding.share,
    distinct: finding.distinct,
    confidence: finding.confidence,
    state: finding.state,
    detector: finding.detector,
    version: finding.version,
    ...(finding.inside ? { inside: finding.inside } : {}),
    ...(finding.texts ? { texts: finding.texts } : {}),
  })),
});

function toText(results: readonly ColumnResult[]): string {
  const lines: string[] = [];
  let file = '';
  for (const result of results) {
    if (result.file !== file) lines.push('', result.file);
    file = result.file;
    if (result.findings.length === 0) lines.push(`  ${result.column.padEnd(28)} –`);
    for (const finding of result.findings) {
      lines.push(
        `  ${result.column.padEnd(28)} ${finding.label}, ${finding.state === 'certain' ? 'certain' : 'to settle'} (${(finding.confidence * 100).toFixed(1)} %)`,
      );
      lines.push(
        `  ${' '.repeat(28)} ${(finding.share * 100).toFixed(1)} % of ${finding.sampled} values match, ${finding.distinct} different; name ${finding.name.verdict}; ${finding.detector} version ${finding.version}`,
      );
      lines.push(`  ${' '.repeat(28)} ${finding.examples.slice(0, 3).join('   ')}`);
      for (const [kind, count] of Object.entries(finding.inside ?? {}))
        lines.push(`  ${' '.repeat(28)} ${kind}: ${count} rows`);
      for (const { places } of finding.texts?.examples ?? [])
        lines.push(
          `  ${' '.repeat(28)} ${places.map((place) => `${place.kind} at ${place.start} to ${place.end}`).join(', ')}`,
        );
    }
  }
  return lines.join('\n').trimStart();
}

/** `idrel classify FILE…`: one file that cannot be read does not hide the others; the exit code then is 2. */
export async function classify(
  files: string[],
  options: { json?: boolean; rows: string; country: string },
): Promise<void> {
  const rows = Number(options.rows);
  if (!Number.isInteger(rows) || rows < 1)
    throw new CliProblem(`--rows ${options.rows}: a whole number above 0 is expected.`, 'For example --rows 10000');
  const results: ColumnResult[] = [];
  for (const file of files) {
    try {
      results.push(...(await classifyFile(file, rows, options.country.toUpperCase().split(','))));
    } catch (error) {
      if (!(error instanceof CliProblem)) throw error;
      process.stderr.write(`${error.message}\n  ${error.mend}\n`);
      process.exitCode = 2;
    }
  }
  process.stdout.write(`${options.json ? JSON.stringify(results.map(toJson), null, 1) : toText(results)}\n`);
}
