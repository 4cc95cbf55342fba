import type { DraftTrial } from '@idrel/contract/scanning';
import { compileSpec, DETECTORS, type Finding } from '@idrel/core/recognition';
import type { Reading, Structure } from '../connectors/index.ts';
import { recogniseColumn, recogniseColumns } from './readSource.ts';

/** What the draft makes of a column. */
export interface TriedColumn {
  readonly key: string;
  readonly classKey: string;
  readonly share: number;
  readonly distinct: number;
  readonly confidence: number;
  readonly state: Finding['state'];
  /** Masked. */
  readonly examples: readonly string[];
  /** For a combination: what the same values are without it; null when nothing is found. Otherwise undefined: the catalog knows it. */
  readonly without?: Finding['state'] | null;
}
export interface TriedTable {
  /** Columns that were looked at. */
  readonly looked: readonly string[];
  readonly found: readonly TriedColumn[];
  readonly problem: string | null;
}

const told = (key: string, { classKey, share, distinct, confidence, state, examples }: Finding): TriedColumn => ({
  key,
  classKey,
  share,
  distinct,
  confidence,
  state,
  examples,
});

/**
 * Tries a draft on live samples of everything in a source, table by table. A combination is looked at beside all other detectors, with and without it on the same
 * values; any other draft by itself.
 */
export async function* tryDraft(
  reading: Pick<Reading, 'sample'>,
  { sampleable }: Pick<Structure, 'sampleable'>,
  { draft, own, off, rows }: DraftTrial,
): AsyncGenerator<TriedTable> {
  const mine = compileSpec(draft);
  const others = [...DETECTORS, ...own.map(compileSpec)].filter((detector) => !off.includes(detector.id));
  const group = new Set([draft.classKey, ...(mine.beside?.classKeys ?? [])]);
  for (const table of sampleable) {
    try {
      const { values } = await reading.sample(table, rows, 'random');
      const columns = table.columns.map((column, index) => ({
        name: column.name,
        type: column.type,
        values: values[index] ?? [],
      }));
      const key = (at: number) => table.columns[at]?.key ?? '';
      const looked = table.columns.map((column) => column.key);
      if (!mine.beside) {
        yield {
          looked,
          found: columns.flatMap((column, at) =>
            recogniseColumn(column, [mine]).map((finding) => told(key(at), finding)),
          ),
          problem: null,
        };
        continue;
      }
      const [before, after] = [recogniseColumns(columns, others), recogniseColumns(columns, [...others, mine])];
      const found = after.flatMap((findings, at) =>
        findings.flatMap((finding) =>
          group.has(finding.classKey)
            ? [
                {
                  ...told(key(at), finding),
                  without: before[at]?.find((other) => other.classKey === finding.classKey)?.state ?? null,
                },
              ]
            : [],
        ),
      );
      yield { looked, found, problem: null };
    } catch (error) {
      yield { looked: [], found: [], problem: `${table.label}: ${(error as Error).message.split('\n')[0]}` };
    }
  }
}
