import { readFile } from 'node:fs/promises';
import { FilterError } from '@idrel/core/catalog';
import { ExportError, ExportedLineage, exportRule, readExport, type ScriptChange } from '@idrel/core/lineage';
import type { Affected } from './impactText.ts';
import { CliProblem } from './problem.ts';

/** What an export of the catalog knows to be made of what changes. @param file its path @returns when it was written, and of each change what it touches */
export async function impactOffline(
  file: string,
  source: string,
  changes: readonly ScriptChange[],
  rule: string | undefined,
): Promise<{ at: string; affected: Affected[] }> {
  const text = await readFile(file, 'utf8').catch((error: Error) => {
    throw new CliProblem(`${file} cannot be read: ${error.message}`, 'Check --catalog.');
  });
  try {
    const known = readExport(text);
    if (known.source !== source)
      throw new CliProblem(`${file} is of the source “${known.source}”.`, 'Check --source and --catalog.');
    const lineage = new ExportedLineage(known);
    const filter = rule ? exportRule(rule) : null;
    return {
      at: known.at,
      affected: changes.map((change): Affected => {
        const names = [change.schema, change.relation];
        const table = lineage.find(names);
        const asset = change.column === null ? table : lineage.find([...names, change.column]);
        // Of a column of which nothing is made the export tells nothing, but it tells its table.
        if (!asset) return { change, rows: table ? [] : null };
        return {
          change,
          rows: lineage
            .madeOf(asset, filter)
            .map(({ asset: { id, kind, path, source: at, standing }, within, ...how }) => ({
              id,
              kind,
              path,
              source: at,
              standing,
              within: within && { kind: within.kind, path: within.path, standing: within.standing },
              ...how,
            })),
        };
      }),
    };
  } catch (error) {
    if (error instanceof ExportError)
      throw new CliProblem(`${file}, line ${error.line}, ${error.message}.`, 'Write it anew with idrel export.');
    if (error instanceof FilterError) throw new CliProblem(`--rule: ${error.message}`, error.mend);
    throw error;
  }
}
